'use client';

import {
  CircleQuestionMark,
  Download,
  GitBranch,
  ListTree,
  Pencil,
  Play,
  Redo2,
  Search,
  Square,
  SunMoon,
  Trash2,
  Undo2,
} from 'lucide-react';
import { useTold } from '../study/names';
import Link from 'next/link';
import { DropdownMenu } from 'radix-ui';
import { useState } from 'react';
import { showHelp, useHelp } from '../ui/help';
import { cancelRun, useLive } from '../study/liveRun';
import {
  freshName,
  outOfDate,
  latestResult,
  latestRun,
  presentVariant,
  problemsOf,
  askedUnderWay,
  runUnderWay,
  useStudy,
} from '../study/store';
import { useBench } from '../study/bench';
import { Button } from '../ui/controls';
import { STATE_TITLE, StateMark, useVariantStates } from '../variants/StateMark';
import { BellowsMark } from './BellowsMark';
import { MENU, MENU_ITEM } from './menuStyle';
import { PageSettings } from './PageSettings';
import { RenameField } from './RenameField';

export function TopBar() {
  const name = useStudy((s) => s.projectName);
  return (
    <header className="bg-sheet grid grid-cols-[minmax(0,1fr)_auto_auto] items-center gap-3 border-b px-3">
      <div className="flex min-w-0 items-center gap-2.5">
        <Link href="/" title="All projects" aria-label="All projects" className="shrink-0">
          <BellowsMark />
        </Link>
        <h1 className="max-w-44 shrink-0 truncate font-semibold">{name}</h1>
        <Variants />
      </div>
      <div className="flex items-center gap-1">
        <History />
        <Button
          onClick={() => window.dispatchEvent(new Event('bellows:menu'))}
          className="text-soft w-[176px] justify-between"
        >
          <span className="flex items-center gap-1.5">
            <Search size={12} /> Find an action
          </span>
          <kbd className="text-[11px]">Ctrl K</kbd>
        </Button>
        <ThemeButton />
        <PageSettings />
        <Button
          look="quiet"
          className="px-1.5"
          aria-label="Help"
          title="Help (F1)"
          onClick={() => (useHelp.getState().open ? useHelp.setState({ open: false }) : showHelp())}
        >
          <CircleQuestionMark size={15} />
        </Button>
      </div>
      <RunControl />
    </header>
  );
}

function Variants() {
  const variants = useStudy((s) => s.variants);
  const present = useStudy((s) => s.variantId);
  const states = useVariantStates();
  const { selectVariant, branch } = useStudy.getState();
  const [renaming, setRenaming] = useState<string | null>(null);
  return (
    <div className="flex min-w-0 items-center gap-1" role="group" aria-label="Variants">
      <div className="flex min-w-0 gap-1 overflow-x-auto py-1 [scrollbar-width:none]">
        {variants.map((v) =>
          renaming === v.id ? (
            <RenameField
              key={v.id}
              label="Name of the variant"
              name={v.name}
              longest={60}
              className="bg-sheet h-7 w-36 rounded-full border px-2.5"
              onName={(name) => useStudy.getState().rename(v.id, name)}
              onDone={() => setRenaming(null)}
            />
          ) : (
            <div
              key={v.id}
              className={`flex h-7 shrink-0 items-center rounded-full border ${v.id === present ? 'bg-petrol-wash border-petrol' : 'bg-sheet'}`}
            >
              <button
                type="button"
                aria-pressed={v.id === present}
                title={`${v.name}: ${STATE_TITLE[states[v.id]]}`}
                onClick={() => selectVariant(v.id)}
                onDoubleClick={() => setRenaming(v.id)}
                className="flex max-w-40 items-center gap-1.5 truncate pr-1.5 pl-2.5"
              >
                <StateMark state={states[v.id]} variantId={v.id} />
                <span className="truncate">{v.name}</span>
              </button>
              {v.id === present && <VariantMenu id={v.id} onRename={() => setRenaming(v.id)} />}
            </div>
          ),
        )}
      </div>
      <Button
        look="quiet"
        className="px-1.5"
        title="All variants as a tree (V)"
        aria-label="All variants as a tree"
        onClick={() => window.dispatchEvent(new Event('bellows:variants'))}
      >
        <ListTree size={14} />
      </Button>
      <Button
        look="quiet"
        className="px-1.5"
        title="Branch a new variant from this one (B)"
        aria-label="Branch a new variant"
        onClick={() => void branch(freshName(variants, 'Variant'))}
      >
        <GitBranch size={14} />
      </Button>
    </div>
  );
}

function VariantMenu({ id, onRename }: { id: string; onRename: () => void }) {
  const only = useStudy((s) => s.variants.length === 1);
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        aria-label="Variant actions"
        className="text-soft hover:text-ink h-full rounded-r-full pr-2.5 pl-1"
      >
        ⋯
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content sideOffset={4} align="start" className={MENU}>
          <DropdownMenu.Item className={MENU_ITEM} onSelect={() => setTimeout(onRename, 0)}>
            <Pencil size={13} /> Rename
          </DropdownMenu.Item>
          <DropdownMenu.Item className={MENU_ITEM} asChild>
            <a href={`/api/variants/${id}/export`} download>
              <Download size={13} /> Export study (.zip)
            </a>
          </DropdownMenu.Item>
          <DropdownMenu.Item className={MENU_ITEM} disabled={only} onSelect={() => useStudy.getState().remove(id)}>
            <Trash2 size={13} /> Delete
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function History() {
  const undo = useStudy((s) => s.done.at(-1)?.label);
  const redo = useStudy((s) => s.undone.at(-1)?.label);
  const actions = useStudy.getState();
  return (
    <>
      <Button
        look="quiet"
        className="px-1.5"
        disabled={!undo}
        onClick={actions.undo}
        aria-label="Undo"
        title={undo ? `Undo: ${undo} (Ctrl Z)` : 'Nothing to undo'}
      >
        <Undo2 size={15} />
      </Button>
      <Button
        look="quiet"
        className="px-1.5"
        disabled={!redo}
        onClick={actions.redo}
        aria-label="Redo"
        title={redo ? `Redo: ${redo} (Shift Ctrl Z)` : 'Nothing to redo'}
      >
        <Redo2 size={15} />
      </Button>
    </>
  );
}

export function toggleTheme(): void {
  const next = document.documentElement.dataset.theme === 'dark' ? 'light' : 'dark';
  document.documentElement.dataset.theme = next;
  localStorage.setItem('bellows.theme', next);
  window.dispatchEvent(new Event('bellows:theme'));
}

function ThemeButton() {
  return (
    <Button
      look="quiet"
      className="px-1.5"
      onClick={toggleTheme}
      aria-label="Light or dark page"
      title="Light or dark page"
    >
      <SunMoon size={15} />
    </Button>
  );
}

const RESULT_IS = {
  current: 'Result up to date',
  inputs: 'Result out of date',
  shorter: 'Result goes less far than asked for',
  farther: 'Result goes farther than asked for',
  solver: 'Result of an earlier solver: run again',
};

/** What becomes of a run of the present variant that nobody has asked for; null without one. */
function useAside(): string | null {
  const run = useStudy(runUnderWay);
  const share = useLive((s) => (run ? s.progress[run.id]?.share : undefined));
  if (!run?.aside) return null;
  return run.status === 'queued'
    ? 'First result: waits its turn'
    : `First result: ${Math.round(100 * (share ?? 0))} % worked out`;
}

function RunControl() {
  const run = useStudy(askedUnderWay);
  const problem = useStudy((s) => problemsOf(s)[0] ?? null);
  const state = useStudy((s) => {
    const result = latestResult(s);
    const last = latestRun(s);
    if (last && last.status === 'interrupted') return 'Interrupted: run again';
    if (!result) return '';
    return RESULT_IS[outOfDate(result, presentVariant(s)) ?? 'current'];
  });
  const nWaiting = useStudy((s) => s.runs.filter((r) => r.status === 'queued').length);
  const progress = useLive((s) => (run ? s.progress[run.id] : undefined));
  const aside = useAside();
  const tell = useTold();
  if (run) {
    const text =
      (progress && tell(progress.message)) ?? (run.status === 'queued' ? 'Waiting for the run before' : 'Starting');
    return (
      <div id="run-place" className="flex items-center gap-2.5" role="status">
        <div className="num w-[210px] text-right text-[12px] leading-tight">
          <div className="truncate" title={text}>
            {text}
          </div>
          <div className="bg-well mt-1 h-1 overflow-hidden rounded">
            <div className="bg-copper h-full" style={{ width: `${100 * (progress?.share ?? 0)}%` }} />
          </div>
        </div>
        <span className="num text-soft w-[62px] text-[12px]">
          {progress?.remaining_s != null
            ? `${Math.max(1, Math.round(progress.remaining_s))} s left`
            : nWaiting
              ? 'queued'
              : ''}
        </span>
        <Button onClick={cancelRun} className="w-24">
          <Square size={11} fill="currentColor" /> Cancel
        </Button>
      </div>
    );
  }
  const start = () => {
    if (problem) {
      useBench.getState().set({ station: problem.station });
      return;
    }
    void useStudy.getState().startRun();
  };
  return (
    <div id="run-place" className="flex items-center gap-2.5">
      <span className={`max-w-56 truncate text-[12px] ${problem ? 'text-problem' : 'text-soft'}`} role="status">
        {problem ? tell(problem.message) : (aside ?? state)}
      </span>
      <Button
        look="primary"
        onClick={start}
        className="w-24"
        title={problem ? tell(`${problem.message} ${problem.remedy}`) : 'Run (Ctrl Enter)'}
      >
        <Play size={12} fill="currentColor" /> Run
      </Button>
    </div>
  );
}
