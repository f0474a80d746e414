'use client';

import { QueryClientProvider } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Group, Panel, Separator, useDefaultLayout, usePanelRef } from 'react-resizable-panels';
import { PanelLeftClose, PanelLeftOpen, PanelRightClose, PanelRightOpen } from 'lucide-react';
import type { ProjectView } from '@/runtime/wire';
import { ReadingPanel } from '../answers/ReadingPanel';
import { ShotStrip } from '../answers/ShotStrip';
import { CompareSheet } from '../compare/CompareSheet';
import { Bench } from './Bench';
import { CommandMenu } from './CommandMenu';
import { startGuide, stopGuide, useGuide } from '../help/guide';
import { HelpPanel } from '../help/HelpPanel';
import { ImportDialog } from '../part/ImportDialog';
import { useLiveRuns } from '../study/liveRun';
import { useInStep } from '../study/otherPages';
import { queries } from '../study/queries';
import { useStudy } from '../study/store';
import { recallBench, useBench } from '../study/bench';
import { readerKey, useReader } from '../study/reader';
import { recallView } from '../study/view';
import { Rail } from './Rail';
import { ShortcutsDialog } from './ShortcutsDialog';
import { Beside } from './Beside';
import { Stage } from './Stage';
import { VariantDrawer } from '../variants/VariantDrawer';
import { TopBar } from './TopBar';
import { useKeyboard } from './useKeyboard';

const subscribeNothing = { getItem: () => null, setItem: () => {} };

/** The page of one project: rail, bench, part, reading, shot strip. `variant`: the one to begin with; null: the last one. */
export function Workbench({ view, variant }: { view: ProjectView; variant: string | null }) {
  const load = useStudy((s) => s.load);
  const ready = useStudy((s) => s.projectId === view.project.id);
  useEffect(() => {
    load(view, variant);
    // Asked for once: after a reload it is the one that was looked at last.
    if (variant) window.history.replaceState(null, '', window.location.pathname);
  }, [load, view, variant]);
  const reader = useReader(readerKey);
  if (!ready) return <div className="bg-paper h-screen" aria-busy="true" />;
  return (
    <QueryClientProvider client={queries}>
      {/* Texts and colours are made anew for another reader. */}
      <Page key={reader} />
    </QueryClientProvider>
  );
}

function Page() {
  // Only a result has fields to be seen side by side.
  const beside = useBench((s) => s.beside && s.station === 'answers');
  // Results side by side take all the room there is; what they are read by stands on the bench.
  const comparing = useBench((s) => s.station === 'compare');
  useLiveRuns();
  useInStep();
  useKeyboard();
  useEffect(() => {
    recallView();
    recallBench();
    if (useGuide.getState().on) void startGuide();
    return stopGuide;
  }, []);
  const [menu, setMenu] = useState(false);
  const [help, setHelp] = useState(false);
  const [tree, setTree] = useState(false);
  const bench = usePanelRef();
  const reading = usePanelRef();
  const layout = useDefaultLayout({
    id: 'bellows.panels',
    storage: typeof window === 'undefined' ? subscribeNothing : localStorage,
  });
  useEffect(() => {
    const dialogs = { 'bellows:menu': setMenu, 'bellows:help': setHelp, 'bellows:variants': setTree };
    const open = (e: Event) => dialogs[e.type as keyof typeof dialogs](true);
    for (const name of Object.keys(dialogs)) window.addEventListener(name, open);
    return () => {
      for (const name of Object.keys(dialogs)) window.removeEventListener(name, open);
    };
  }, []);
  return (
    <div className="grid h-screen grid-rows-[44px_1fr] overflow-hidden">
      <SkipLinks places={comparing ? PLACES.slice(0, 2) : PLACES} />
      <TopBar />
      <div className="grid min-h-0 grid-cols-[60px_1fr]">
        <Rail />
        <Group orientation="horizontal" defaultLayout={layout.defaultLayout} onLayoutChanged={layout.onLayoutChanged}>
          <Panel
            id="bench"
            panelRef={bench}
            defaultSize={300}
            // All three have room at 1280 wide with text at 150 %.
            minSize={240}
            maxSize={420}
            collapsible
            groupResizeBehavior="preserve-pixel-size"
          >
            <div id="bench-place" tabIndex={-1} className="h-full outline-none">
              <Bench />
            </div>
          </Panel>
          <Handle />
          <Panel id="stage" minSize={252}>
            <div className="grid h-full min-w-0 grid-rows-[1fr_auto]">
              <main
                id="part-place"
                tabIndex={-1}
                className={`relative grid min-h-0 outline-none ${beside ? 'grid-cols-2' : 'grid-cols-1'}`}
              >
                <div className="relative min-w-0">{comparing ? <CompareSheet /> : <Stage />}</div>
                {beside && <Beside />}
                <Fold side="left" panel={bench} />
                {!comparing && <Fold side="right" panel={reading} />}
              </main>
              <ShotStrip />
            </div>
          </Panel>
          {!comparing && (
            <>
              <Handle />
              <Panel
                id="reading"
                panelRef={reading}
                defaultSize={284}
                minSize={232}
                maxSize={400}
                collapsible
                groupResizeBehavior="preserve-pixel-size"
              >
                <div id="reading-place" tabIndex={-1} className="h-full outline-none">
                  <ReadingPanel />
                </div>
              </Panel>
            </>
          )}
        </Group>
      </div>
      <ImportDialog />
      <CommandMenu open={menu} onOpenChange={setMenu} />
      <ShortcutsDialog open={help} onOpenChange={setHelp} />
      <HelpPanel />
      <VariantDrawer open={tree} onOpenChange={setTree} />
    </div>
  );
}

const PLACES = [
  { id: 'bench-place', name: 'the inputs' },
  { id: 'part-place', name: 'the part' },
  { id: 'reading-place', name: 'the answers' },
];

/** Past the bars to where the work is: seen once they have the focus. */
function SkipLinks({ places }: { places: typeof PLACES }) {
  return (
    <nav aria-label="Skip" className="contents">
      {places.map(({ id, name }) => (
        <button
          key={id}
          type="button"
          className="bg-petrol text-sheet sr-only z-50 rounded px-3 py-1 focus:not-sr-only focus:fixed focus:top-2 focus:left-2"
          onClick={() => document.getElementById(id)?.focus()}
        >
          Skip to {name}
        </button>
      ))}
    </nav>
  );
}

const Handle = () => (
  <Separator className="bg-line hover:bg-petrol data-[separator=active]:bg-petrol w-px outline-none" />
);

function Fold({ side, panel }: { side: 'left' | 'right'; panel: ReturnType<typeof usePanelRef> }) {
  const [folded, setFolded] = useState(false);
  const toggle = () => {
    if (!panel.current) return;
    if (panel.current.isCollapsed()) panel.current.expand();
    else panel.current.collapse();
    setFolded(panel.current.isCollapsed());
  };
  const Icon = side === 'left' ? (folded ? PanelLeftOpen : PanelLeftClose) : folded ? PanelRightOpen : PanelRightClose;
  const name = side === 'left' ? 'bench' : 'reading panel';
  return (
    <button
      type="button"
      onClick={toggle}
      title={`${folded ? 'Open' : 'Fold'} the ${name}`}
      aria-label={`${folded ? 'Open' : 'Fold'} the ${name}`}
      className={`text-soft hover:text-ink absolute bottom-2 p-1 ${side === 'left' ? 'left-1.5' : 'right-1.5'}`}
    >
      <Icon size={15} />
    </button>
  );
}
