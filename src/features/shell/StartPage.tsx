'use client';

import { formatRelative } from '../ui/relativeTime';
import { ArrowRight, ChevronRight, Copy, Download, LogOut, Pencil, Plus, Signpost, Star, Trash2 } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { DropdownMenu } from 'radix-ui';
import { useState } from 'react';
import { toast } from 'sonner';
import { treeRows } from '@/core/model/variantTree';
import { LONGEST_NAME } from '@/core/model/variantMarks';
import type { ProjectEntry, Usage } from '@/runtime/wire';
import { api } from '../study/api';
import { tell } from '../study/store';
import { TrialProgress } from '../study/useTrials';
import { formatBytes } from '../ui/bytes';
import { Button } from '../ui/controls';
import { BellowsMark } from './BellowsMark';
import { dataWarning } from '../study/dataWarning';
import { MENU, MENU_ITEM } from './menuStyle';
import { guideInNextProject } from '../help/guide';
import { Branches } from '../variants/Branches';
import { Verdicts } from '../variants/Verdicts';
import { DropHere, sendAlong, useDroppedFiles } from '../part/droppedFiles';
import { PageSettings } from './PageSettings';
import { PartPicture } from './PartPicture';
import { RenameField } from './RenameField';

export function StartPage({
  projects,
  room,
  canSignOut,
}: {
  projects: ProjectEntry[];
  room: Pick<Usage, 'total' | 'limit' | 'available'>;
  canSignOut: boolean;
}) {
  const router = useRouter();
  const [name, setName] = useState('');
  const [busy, setBusy] = useState(false);
  const dropping = useDroppedFiles((files) => {
    if (busy) return;
    const study = files.find((f) => /\.zip$/i.test(f.name));
    if (study) void bringIn(study);
    else void create(files[0].name.replace(/\.[^.]+$/, ''), files);
  });
  const [arriving, setArriving] = useState<{ name: string; fraction: number; message: string; stop(): void } | null>(
    null,
  );
  const bringIn = async (study: File) => {
    const abort = new AbortController();
    const at = (fraction: number, message: string) =>
      setArriving({ name: study.name, fraction, message, stop: () => abort.abort() });
    setBusy(true);
    at(0, 'Sending');
    try {
      const project = await api.uploadStudy(study, at, abort.signal);
      router.push(`/project/${project.id}`);
    } catch (error) {
      if (!abort.signal.aborted) tell(error);
      setArriving(null);
      setBusy(false);
    }
  };
  const create = async (called: string, files: File[] | null = null) => {
    setBusy(true);
    try {
      const project = await api.createProject(called.trim().slice(0, LONGEST_NAME) || 'New project');
      if (files) sendAlong(files);
      router.push(`/project/${project.id}`);
    } catch (error) {
      tell(error);
      setBusy(false);
    }
  };
  return (
    <>
      {dropping && <DropHere>Drop the file: it becomes a project of its own</DropHere>}
      <main className="mx-auto grid min-h-screen max-w-6xl grid-cols-[1fr_1.6fr] items-center gap-14 px-10 py-8">
        <section>
          <BellowsMark size={52} />
          <h1 className="mt-5 text-[34px] leading-tight font-semibold tracking-tight">Bellows</h1>
          <p className="text-soft mt-3 text-[15px] leading-relaxed">
            See how the melt fills your part before the tool is built. Bring in a closed shape, place a gate, press Run:
            the answer says whether it fills, at what pressure, and what to change.
          </p>
          {projects.length > 0 && (
            <Button
              className="mt-5"
              onClick={() => {
                guideInNextProject();
                router.push(`/project/${projects[0].id}`);
              }}
            >
              <Signpost size={13} /> Guide through a first job
            </Button>
          )}
        </section>
        <section className="bg-sheet rounded-lg border p-6">
          <h2 className="font-semibold">Projects</h2>
          <ul className="mt-3 divide-y border-y">
            {projects.map((p) => (
              <ProjectRow key={p.id} project={p} onChanged={() => router.refresh()} />
            ))}
            {projects.length === 0 && <li className="text-soft py-3">No project yet. Name the first one below.</li>}
          </ul>
          <form
            className="mt-5 flex gap-2"
            onSubmit={(e) => {
              e.preventDefault();
              void create(name);
            }}
          >
            <input
              aria-label="Name of the new project"
              placeholder="Name of a new project"
              maxLength={LONGEST_NAME}
              value={name}
              onChange={(e) => setName(e.target.value)}
              className="bg-paper placeholder:text-soft h-8 flex-1 rounded border px-2.5"
            />
            <Button look="primary" type="submit" className="h-8" disabled={busy}>
              <Plus size={14} /> Create
            </Button>
          </form>
          <p className="text-soft mt-2 text-[12px]">
            Or drop a STEP, 3MF, STL or OBJ file anywhere on this page, or a project or study that was exported: it
            becomes a project of its own.
          </p>
          {arriving && (
            <div className="mt-3">
              <p className="mb-1 truncate font-medium">{arriving.name}</p>
              <TrialProgress fraction={arriving.fraction} message={arriving.message} onStop={arriving.stop} />
            </div>
          )}
          <div className="text-soft mt-4 flex items-center gap-4 text-[13px]">
            <Link href="/data" className="hover:text-ink underline decoration-dotted underline-offset-4">
              Data: {formatBytes(room.total)} of {formatBytes(room.limit)}
            </Link>
            <PageSettings />
            {canSignOut && <SignOut />}
          </div>
          {dataWarning(room) && (
            <p role="alert" className="text-problem mt-2 text-[13px]">
              {dataWarning(room)}
            </p>
          )}
        </section>
      </main>
    </>
  );
}

function SignOut() {
  const leave = () => api.signOut().then(() => window.location.assign('/login'), tell);
  return (
    <button type="button" onClick={() => void leave()} className="hover:text-ink ml-auto flex items-center gap-1.5">
      <LogOut size={13} /> Sign out
    </button>
  );
}

function ProjectRow({ project, onChanged }: { project: ProjectEntry; onChanged: () => void }) {
  const [renaming, setRenaming] = useState(false);
  const [open, setOpen] = useState(false);
  const { id, name, variants } = project;
  const told = variants.filter((v) => v.answers);
  // The one that is starred speaks for the project, else the newest.
  const shown = told.find((v) => v.starred) ?? told.at(-1);
  const change = (what: { name?: string; deleted?: boolean }) => api.changeProject(id, what).then(onChanged, tell);
  const remove = async () => {
    await change({ deleted: true });
    toast(`“${name}” is deleted.`, { action: { label: 'Undo', onClick: () => void change({ deleted: false }) } });
  };
  const copy = async () => {
    try {
      await api.createProject(`Copy of ${name}`.slice(0, LONGEST_NAME), id);
      toast(`“${name}” is copied with its variants. Results stay with the original: press Run in the copy.`);
      onChanged();
    } catch (error) {
      tell(error);
    }
  };
  if (renaming)
    return (
      <li className="py-3">
        <RenameField
          label="Name of the project"
          name={name}
          longest={LONGEST_NAME}
          className="bg-paper h-8 w-full rounded border px-2"
          onName={(typed) => {
            const wanted = typed.trim();
            if (wanted && wanted !== name) void change({ name: wanted });
          }}
          onDone={() => setRenaming(false)}
        />
      </li>
    );
  return (
    <li>
      <div className="flex items-center">
        <button
          type="button"
          aria-expanded={open}
          aria-label={`Variants of ${name}`}
          title={open ? 'Hide its variants' : 'Show its variants'}
          className="text-soft hover:text-ink hover:bg-well -ml-2 rounded px-1 py-3"
          onClick={() => setOpen(!open)}
        >
          <ChevronRight size={15} className={open ? 'rotate-90' : ''} />
        </button>
        <Link
          href={`/project/${id}`}
          className="hover:bg-well group flex min-w-0 flex-1 items-center gap-3 rounded px-2 py-1.5"
        >
          <PartPicture part={project.part} />
          <span className="min-w-0 flex-1">
            <span className="block truncate font-medium">{name}</span>
            <span className="text-soft block truncate" suppressHydrationWarning>
              {variants.length} {variants.length === 1 ? 'variant' : 'variants'}, changed{' '}
              {formatRelative(project.changedAt)}
            </span>
          </span>
          {shown && <Verdicts answers={shown.answers} />}
          <ArrowRight size={15} className="text-soft group-hover:text-copper shrink-0" />
        </Link>
        <DropdownMenu.Root>
          <DropdownMenu.Trigger
            aria-label={`Actions of ${name}`}
            className="text-soft hover:text-ink hover:bg-well -mr-2 rounded px-2 py-3"
          >
            ⋯
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content sideOffset={2} align="end" className={MENU}>
              <DropdownMenu.Item className={MENU_ITEM} onSelect={() => setTimeout(() => setRenaming(true), 0)}>
                <Pencil size={13} /> Rename
              </DropdownMenu.Item>
              <DropdownMenu.Item className={MENU_ITEM} onSelect={() => void copy()}>
                <Copy size={13} /> Duplicate
              </DropdownMenu.Item>
              <DropdownMenu.Item className={MENU_ITEM} asChild>
                <a href={`/api/projects/${id}/export`} download>
                  <Download size={13} /> Export project (.zip)
                </a>
              </DropdownMenu.Item>
              <DropdownMenu.Item className={MENU_ITEM} onSelect={() => void remove()}>
                <Trash2 size={13} /> Delete
              </DropdownMenu.Item>
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      </div>
      {open && <VariantTree project={project} />}
    </li>
  );
}

/** Variants of a project as the tree they were branched in, each a way into it. */
function VariantTree({ project: { id, variants } }: { project: ProjectEntry }) {
  return (
    <ul className="pb-3 pl-6" data-testid="project-variants">
      {treeRows(variants).map((row) => (
        <li key={row.variant.id} className="flex">
          <Branches row={row} />
          <Link
            href={`/project/${id}?variant=${row.variant.id}`}
            title={row.variant.note || undefined}
            className="hover:bg-well flex min-w-0 flex-1 items-center gap-2 rounded px-2 py-1.5"
          >
            {row.variant.starred && <Star size={12} className="text-copper shrink-0" fill="currentColor" />}
            <span className="min-w-0 flex-1 truncate">{row.variant.name}</span>
            {row.variant.answers ? (
              <Verdicts answers={row.variant.answers} />
            ) : (
              <span className="text-soft text-[12px]">not run yet</span>
            )}
          </Link>
        </li>
      ))}
    </ul>
  );
}
