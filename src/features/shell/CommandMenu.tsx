'use client';

import { Command } from 'cmdk';
import { cancelRun } from '../study/liveRun';
import { MAP_IDS } from '@/core/partmaps/mapKinds';
import { MAPS } from '@/core/partmaps/mapKinds';
import { startGuide } from '../help/guide';
import { showHelp } from '../ui/help';
import { mendBodies } from '../part/bodyActions';
import { computeMaps } from '../part/useMaps';
import { groupsOf } from '../answers/useFieldGroups';
import { chooseField } from '../study/chooseField';
import { fieldInfo } from '../study/fields';
import { awaitsFirstAnswer, firstAnswer } from '../study/firstAnswer';
import { manifestOf } from '../study/runData';
import { freshName, latestResult, presentInputs, useStudy, type StudyState } from '../study/store';
import { STATION_NAMES, STATIONS, useBench } from '../study/bench';
import { mainView, type ViewName } from '../study/view';
import { toggleTheme } from './TopBar';
import { startRunIfPossible } from './useKeyboard';
import { gatesOf } from '../study/names';

interface Action {
  label: string;
  keys?: string;
  run: () => void;
}

const VIEWS: ViewName[] = ['iso', 'front', 'back', 'left', 'right', 'top', 'bottom'];

function actions(): Action[] {
  const view = mainView.getState();
  const bench = useBench.getState();
  const study = useStudy.getState();
  return [
    { label: 'Run', keys: 'Ctrl Enter', run: startRunIfPossible },
    { label: 'Cancel the run', run: cancelRun },
    ...(awaitsFirstAnswer(study)
      ? [{ label: 'First answer, with all by default', run: () => void firstAnswer() }]
      : []),
    { label: 'Bring in a part', run: () => window.dispatchEvent(new Event('bellows:import')) },
    { label: 'Mend all bodies', run: () => void mendBodies(presentInputs(study).bodies) },
    { label: 'Show all bodies', run: () => view.set({ bodyView: {} }) },
    ...MAP_IDS.map((id) => ({
      label: `Part map: ${MAPS[id].label.toLowerCase()}`,
      run: () =>
        void computeMaps().then((made) => {
          if (!made) return;
          bench.goTo('part');
          view.set({ map: id, brush: null });
        }),
    })),
    { label: 'Place a probe', keys: 'P', run: () => bench.set({ station: 'answers', aim: { for: 'probe' } }) },
    {
      label: 'Measure a distance and the wall',
      keys: 'D',
      run: () => {
        if (bench.station === 'compare') bench.goTo('answers');
        bench.set({ aim: { for: 'distance', ends: [] } });
      },
    },
    { label: 'Place a gate', keys: 'G', run: () => bench.set({ station: 'feed', aim: { for: 'gate' } }) },
    { label: 'Branch a variant', keys: 'B', run: () => void study.branch(freshName(study.variants, 'Variant')) },
    { label: 'All variants as a tree', keys: 'V', run: () => window.dispatchEvent(new Event('bellows:variants')) },
    { label: 'Undo', keys: 'Ctrl Z', run: study.undo },
    { label: 'Redo', keys: 'Shift Ctrl Z', run: study.redo },
    ...STATIONS.map((station, i) => ({
      label: `Go to ${STATION_NAMES[station]}`,
      keys: String(i + 1),
      run: () => bench.goTo(station),
    })),
    ...study.variants.map((v) => ({ label: `Switch to variant “${v.name}”`, run: () => study.selectVariant(v.id) })),
    ...fields(study).map(({ id, label }) => ({
      label: `Show ${label[0].toLowerCase()}${label.slice(1)}`,
      run: () => {
        if (bench.station !== 'compare') bench.goTo('answers');
        chooseField(mainView, id, latestResult(study));
      },
    })),
    { label: 'Fit the part to the view', keys: 'F', run: () => view.look('fit') },
    {
      label: 'Section on or off',
      keys: 'S',
      run: () => view.set({ section: { ...view.section, on: !view.section.on } }),
    },
    ...VIEWS.map((v) => ({ label: `View: ${v}`, run: () => view.look(v) })),
    { label: 'Light or dark page', run: toggleTheme },
    { label: 'Guide through a first job', run: () => void startGuide() },
    { label: 'Help', keys: 'F1', run: () => showHelp() },
    { label: 'Keyboard shortcuts', keys: '?', run: () => window.dispatchEvent(new Event('bellows:help')) },
  ];
}

/** Fields of the result that is looked at. */
function fields(study: StudyState): { id: string; label: string }[] {
  const run = latestResult(study);
  const groups = groupsOf(run, run && manifestOf(run.id));
  const gates = gatesOf(run, study);
  return groups.flatMap((g) => g.ids).map((id) => ({ id, label: fieldInfo(id, gates).label }));
}

export function CommandMenu({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  return (
    <Command.Dialog
      open={open}
      onOpenChange={onOpenChange}
      label="Find an action"
      overlayClassName="fixed inset-0 z-40 bg-black/25"
      contentClassName="bg-sheet fixed top-24 left-1/2 z-50 w-[440px] -translate-x-1/2 overflow-hidden rounded-lg border shadow-xl"
    >
      <Command.Input
        placeholder="Find an action"
        className="placeholder:text-soft h-11 w-full border-b bg-transparent px-4 outline-none"
      />
      <Command.List className="max-h-80 overflow-y-auto p-1.5">
        <Command.Empty className="text-soft px-3 py-4">Nothing of that name.</Command.Empty>
        {open &&
          actions().map((action) => (
            <Command.Item
              key={action.label}
              value={action.label}
              onSelect={() => {
                onOpenChange(false);
                action.run();
              }}
              className="data-[selected=true]:bg-petrol-wash flex h-8 items-center justify-between rounded px-2.5"
            >
              {action.label}
              {action.keys && <kbd className="text-soft text-[11px]">{action.keys}</kbd>}
            </Command.Item>
          ))}
      </Command.List>
    </Command.Dialog>
  );
}
