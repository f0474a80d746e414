'use client';

import { ChevronDown, ChevronRight, RotateCcw, Trash2 } from 'lucide-react';
import Link from 'next/link';
import { useState } from 'react';
import { toast } from 'sonner';
import { isUnderWay, type Usage } from '@/runtime/wire';
import { api } from '../study/api';
import { announce } from '../study/channel';
import { tell } from '../study/store';
import { formatBytes } from '../ui/bytes';
import { Button } from '../ui/controls';
import { formatRelative } from '../ui/relativeTime';
import { BellowsMark } from './BellowsMark';
import { dataWarning } from '../study/dataWarning';

type ProjectUse = Usage['projects'][number];
type RunUse = ProjectUse['runs'][number];

/** What takes up room, what can go, and what can be brought back. */
export function DataPage({ first }: { first: Usage }) {
  const [usage, setUsage] = useState(first);
  const [busy, setBusy] = useState(false);
  /** Does it, tells other pages, and shows what there is then. */
  const change = async (projectId: string | null, work: () => Promise<unknown>) => {
    setBusy(true);
    try {
      await work();
      setUsage(await api.usage());
      if (projectId) announce(projectId);
    } catch (error) {
      tell(error);
    } finally {
      setBusy(false);
    }
  };
  const living = usage.projects.filter((p) => !p.deletedAt).sort((a, b) => b.bytes - a.bytes);
  return (
    <main className="mx-auto max-w-4xl px-10 py-10">
      <div className="flex items-center gap-3">
        <Link href="/" aria-label="All projects" title="All projects">
          <BellowsMark />
        </Link>
        <h1 className="text-xl font-semibold">Data</h1>
        <span className="text-soft ml-auto truncate font-mono text-[12px]" title="Data folder">
          {usage.folder}
        </span>
      </div>
      <Room usage={usage} />
      <section aria-labelledby="by-project" className="bg-sheet mt-5 rounded-lg border p-5">
        <h2 id="by-project" className="font-semibold">
          By project
        </h2>
        {living.length === 0 && <p className="text-soft mt-2">There is no project.</p>}
        <ul className="mt-3 divide-y border-y">
          {living.map((p) => (
            <ProjectRow key={p.id} project={p} busy={busy} change={change} />
          ))}
        </ul>
      </section>
      <Deleted usage={usage} busy={busy} change={change} />
      <p className="text-soft mt-5 text-[13px]">
        <code className="font-mono">npx bellows backup FILE</code> keeps everything in one file while Bellows runs,{' '}
        <code className="font-mono">restore</code> brings it back, <code className="font-mono">doctor</code> looks for
        what is damaged.
      </p>
    </main>
  );
}

const PARTS: { part: keyof Usage['parts']; label: string; colour: string }[] = [
  { part: 'results', label: 'Results', colour: 'bg-petrol' },
  { part: 'surfaces', label: 'Surfaces', colour: 'bg-copper' },
  { part: 'again', label: 'Kept to save time', colour: 'bg-soft' },
  { part: 'uploads', label: 'Uploads that wait', colour: 'bg-watch' },
  { part: 'rest', label: 'Database and others', colour: 'bg-ink' },
];

function Room({ usage }: { usage: Usage }) {
  const { total, limit, available, parts } = usage;
  const warning = dataWarning(usage);
  const whole = Math.max(limit, total);
  return (
    <section aria-label="Room" className="bg-sheet mt-5 rounded-lg border p-5">
      <div className="flex items-baseline gap-2">
        <span className="num text-2xl font-semibold">{formatBytes(total)}</span>
        <span className="text-soft">
          of {formatBytes(limit)} set as the limit; {formatBytes(available)} free on the disk
        </span>
      </div>
      <div className="bg-well mt-3 flex h-3 overflow-hidden rounded" role="img" aria-label="Shares of the limit">
        {PARTS.map(({ part, colour }) => (
          <div key={part} className={colour} style={{ width: `${(100 * parts[part]) / whole}%` }} />
        ))}
      </div>
      <dl className="mt-3 flex flex-wrap gap-x-6 gap-y-1 text-[13px]">
        {PARTS.map(({ part, label, colour }) => (
          <div key={part} className="flex items-center gap-1.5">
            <span className={`size-2 rounded-full ${colour}`} />
            <dt className="text-soft">{label}</dt>
            <dd className="num">{formatBytes(parts[part])}</dd>
          </div>
        ))}
      </dl>
      {warning && (
        <p role="alert" className="text-problem mt-3 text-[13px]">
          {warning}
        </p>
      )}
    </section>
  );
}

type Change = (projectId: string | null, work: () => Promise<unknown>) => Promise<void>;

function ProjectRow({ project, busy, change }: { project: ProjectUse; busy: boolean; change: Change }) {
  const [open, setOpen] = useState(false);
  const own = project.runs.filter((r) => !r.deletedAt);
  const remove = () =>
    change(project.id, async () => {
      await api.changeProject(project.id, { deleted: true });
      toast(`“${project.name}” is deleted.`, {
        action: {
          label: 'Undo',
          onClick: () => void change(project.id, () => api.changeProject(project.id, { deleted: false })),
        },
      });
    });
  return (
    <li className="py-1.5">
      <div className="flex items-center gap-2">
        <button
          type="button"
          aria-expanded={open}
          aria-label={`Runs of ${project.name}`}
          disabled={!own.length}
          onClick={() => setOpen(!open)}
          className="text-soft disabled:opacity-30"
        >
          {open ? <ChevronDown size={15} /> : <ChevronRight size={15} />}
        </button>
        <Link href={`/project/${project.id}`} className="min-w-0 flex-1 truncate font-medium hover:underline">
          {project.name}
        </Link>
        <span className="text-soft num w-20 text-right text-[13px]">
          {own.length} {own.length === 1 ? 'run' : 'runs'}
        </span>
        <span className="num w-20 text-right">{formatBytes(project.bytes)}</span>
        <Button look="quiet" disabled={busy} aria-label={`Delete ${project.name}`} onClick={() => void remove()}>
          <Trash2 size={14} />
        </Button>
      </div>
      {open && (
        <ul className="mt-1 mb-2 ml-6">
          {own.map((run) => (
            <RunRow key={run.id} run={run} busy={busy} projectId={project.id} change={change} />
          ))}
        </ul>
      )}
    </li>
  );
}

function RunRow({ run, busy, projectId, change }: { run: RunUse; busy: boolean; projectId: string; change: Change }) {
  return (
    <li className="hover:bg-well flex items-center gap-2 rounded text-[13px]">
      <span className="min-w-0 flex-1 truncate pl-1">{run.variant}</span>
      <span className="text-soft w-24">{run.status}</span>
      <span className="text-soft w-36" suppressHydrationWarning>
        {formatRelative(run.createdAt)}
      </span>
      <span className="num w-20 text-right">{isUnderWay(run.status) ? '' : formatBytes(run.bytes)}</span>
      <Button
        look="quiet"
        disabled={busy}
        aria-label={`Delete the run of ${run.variant}, ${run.status}`}
        onClick={() => void change(projectId, () => api.changeRun(run.id, { deleted: true }))}
      >
        <Trash2 size={14} />
      </Button>
    </li>
  );
}

interface DeletedThing {
  key: string;
  projectId: string;
  what: string;
  name: string;
  deletedAt: string;
  bytes: number;
  back: () => Promise<unknown>;
}

/** Everything that can still be brought back, last deleted first; what went with its project comes back with it. */
function deletedIn(usage: Usage): DeletedThing[] {
  const things = usage.projects.flatMap((p): DeletedThing[] => {
    if (p.deletedAt) {
      const back = () => api.changeProject(p.id, { deleted: false });
      return [
        { key: p.id, projectId: p.id, what: 'Project', name: p.name, deletedAt: p.deletedAt, bytes: p.bytes, back },
      ];
    }
    const variants = p.variants.flatMap((v): DeletedThing[] => {
      if (!v.deletedAt) return [];
      const back = () => api.changeVariant(v.id, { version: v.version, deleted: false });
      const name = `${p.name}: ${v.name}`;
      return [{ key: v.id, projectId: p.id, what: 'Variant', name, deletedAt: v.deletedAt, bytes: 0, back }];
    });
    const runs = p.runs.flatMap((r): DeletedThing[] => {
      if (!r.deletedAt) return [];
      const back = () => api.changeRun(r.id, { deleted: false });
      const name = `${p.name}: ${r.variant}`;
      return [{ key: r.id, projectId: p.id, what: 'Run', name, deletedAt: r.deletedAt, bytes: r.bytes, back }];
    });
    return [...variants, ...runs];
  });
  return things.sort((a, b) => b.deletedAt.localeCompare(a.deletedAt));
}

function Deleted({ usage, busy, change }: { usage: Usage; busy: boolean; change: Change }) {
  const things = deletedIn(usage);
  const free = () =>
    change(null, async () => {
      const { bytes } = await api.freeDeleted();
      toast(`${formatBytes(bytes)} are free again.`);
    });
  return (
    <section aria-labelledby="deleted" className="bg-sheet mt-5 rounded-lg border p-5">
      <div className="flex items-center justify-between">
        <h2 id="deleted" className="font-semibold">
          Deleted
        </h2>
        <Button disabled={busy || !things.length} onClick={() => void free()}>
          Free the room now
        </Button>
      </div>
      <p className="text-soft mt-1 text-[13px]">
        What is deleted can be brought back for {usage.keptFor_h} hours; then its room is freed.
      </p>
      {things.length > 0 && (
        <ul className="mt-3 divide-y border-y">
          {things.map((t) => (
            <li key={t.key} className="flex items-center gap-3 py-1.5">
              <span className="text-soft w-16 text-[13px]">{t.what}</span>
              <span className="min-w-0 flex-1 truncate">{t.name}</span>
              <span className="text-soft text-[13px]" suppressHydrationWarning>
                {formatRelative(t.deletedAt)}
              </span>
              <span className="num w-20 text-right">{t.bytes ? formatBytes(t.bytes) : ''}</span>
              <Button
                disabled={busy}
                onClick={() => void change(t.projectId, t.back)}
                aria-label={`Bring back ${t.name}`}
              >
                <RotateCcw size={13} /> Bring back
              </Button>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
