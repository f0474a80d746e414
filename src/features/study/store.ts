import { toast } from 'sonner';
import { create } from 'zustand';
import { rebased, same } from '@/core/model/mergeInputs';
import { inputKey } from '@/core/model/inputKey';
import type { Inputs } from '@/core/model/study';
import { cavities } from '@/core/model/study';
import { withoutLostNames } from '@/core/model/names';
import { nShots, wholeOf } from '@/core/model/shots';
import type { PartFacts, Problem } from '@/core/pipeline/checkRun';
import { checkAllShots, factsOf } from '@/core/pipeline/partFacts';
import type { Bounds } from '@/core/geometry/mesh';
import { SOLVER_VERSION } from '@/core/setup/version';
import {
  hasResults,
  isUnderWay,
  type GeometryView,
  type ProjectView,
  type RunView,
  type VariantView,
} from '@/runtime/wire';
import { useReader, type Reader } from './reader';
import { api, ApiError } from './api';
import { announce } from './channel';
import { keepSteps, recallSteps, type KeptStep } from './keptSteps';
import { useBench } from './bench';
import { Saves, type VariantChange } from './saves';
import { inputsAs, runAs } from './shots';
import { mainView } from './view';

/** One undoable step. Both ways talk to the server through the store. */
interface Step {
  label: string;
  undo: () => Promise<void>;
  redo: () => Promise<void>;
  /** Of a change of inputs: as it outlasts a reload. */
  kept?: KeptStep;
}

export interface StudyState {
  projectId: string;
  projectName: string;
  variants: VariantView[];
  runs: RunView[];
  /** An earlier result that is looked at in place of the newest of its variant. */
  opened: RunView | null;
  /** Stored surfaces the bodies name, by hash. */
  geometries: GeometryView[];
  variantId: string;
  /** Shot whose inputs and results are shown, from 1. */
  shot: number;
  undone: Step[];
  done: Step[];

  /** `wanted`: variant to begin with; otherwise the one that was looked at last. */
  load(view: ProjectView, wanted?: string | null): void;
  /** Takes in what another page has changed of the same project. */
  refresh(view: ProjectView): void;
  /** Changes the present variant's inputs as one undoable step; saved at once. */
  change(label: string, inputs: Inputs): void;
  undo(): void;
  redo(): void;
  selectVariant(id: string): void;
  showShot(shot: number): void;
  branch(name: string, inputs?: Inputs): Promise<VariantView | null>;
  rename(id: string, name: string): void;
  /** Marks a variant, or shows it under another one: `label` names the step. */
  mark(id: string, label: string, change: Omit<VariantChange, 'inputs' | 'name'>): void;
  /** Looks at an earlier result of the present variant in place of its newest; null: at that again. */
  openRun(run: RunView | null): void;
  /** Brings back a variant that was deleted, from the version that is known of it. */
  bringBack(id: string, version: number): Promise<void>;
  remove(id: string): void;
  addGeometries(list: readonly GeometryView[]): void;
  putRun(run: RunView): void;
  startRun(): Promise<void>;
}

const inOrder = (variants: VariantView[]): VariantView[] =>
  variants.sort((a, b) => a.createdAt.localeCompare(b.createdAt));

/** Shows a refusal the same way everywhere. */
export function tell(error: unknown): void {
  if (error instanceof ApiError) toast.error(error.message, { description: error.remedy });
  else toast.error((error as Error).message);
}

const lastVariantKey = (projectId: string) => `bellows.variant.${projectId}`;

export const useStudy = create<StudyState>((set, get) => {
  const put = (id: string, change: Partial<VariantView>) =>
    set((s) => ({ variants: s.variants.map((v) => (v.id === id ? { ...v, ...change } : v)) }));
  const saves = new Saves<Step>({
    variant: (id) => get().variants.find((v) => v.id === id),
    put,
    takeBack: (steps) =>
      set((s) => ({
        done: s.done.filter((step) => !steps.includes(step)),
        undone: [...s.undone, ...steps.toReversed()],
      })),
    tell,
    saved: () => announce(get().projectId),
  });
  const record = (step: Step) => set((s) => ({ done: [...s.done.slice(-99), step], undone: [] }));
  const move = (from: 'done' | 'undone', to: 'done' | 'undone', way: 'undo' | 'redo') => {
    const step = get()[from].at(-1);
    if (!step) return;
    set((s) => ({ [from]: s[from].slice(0, -1), [to]: [...s[to], step] }) as Partial<StudyState>);
    step[way]().catch(tell);
  };
  /** Of variants that were deleted: nothing else knows them any more. */
  const versions = new Map<string, number>();
  /** Deletes a variant or brings it back, from the version that is known. */
  const setDeleted = async (id: string, version: number, deleted: boolean): Promise<VariantView> => {
    try {
      const changed = await api.changeVariant(id, { version, deleted });
      versions.set(id, changed.version);
      announce(get().projectId);
      return changed;
    } catch (error) {
      if (error instanceof ApiError && error.now) put(id, error.now);
      throw error;
    }
  };
  const hide = async (id: string) => {
    await saves.idle;
    await setDeleted(id, get().variants.find((v) => v.id === id)?.version ?? 0, true);
    set((s) => {
      const variants = s.variants.filter((v) => v.id !== id);
      const removed = s.variants.find((v) => v.id === id);
      const next = variants.find((v) => v.id === removed?.parentId) ?? variants[0];
      return { variants, variantId: s.variantId === id ? next.id : s.variantId };
    });
  };
  const show = async (variant: VariantView) => {
    const back = await setDeleted(variant.id, versions.get(variant.id) ?? variant.version, false);
    set((s) => ({
      variants: inOrder([...s.variants, { ...variant, ...back }]),
      variantId: variant.id,
    }));
  };

  const stepOf = (kept: KeptStep): Step => {
    const { label, variantId, from, to } = kept;
    // What another page has changed meanwhile stays, unless the step is about it.
    const apply = async (was: Inputs, wanted: Inputs, by?: Step) => {
      get().selectVariant(variantId);
      await saves.save(variantId, { inputs: rebased(was, wanted, presentVariant(get()).inputs) }, by);
    };
    const step: Step = { label, kept, undo: () => apply(to, from), redo: () => apply(from, to, step) };
    return step;
  };

  /** Changes what a variant is called and marked with, as one step that is taken back whole. */
  const relabel = (id: string, label: string, change: Omit<VariantChange, 'inputs'>) => {
    const variant = get().variants.find((v) => v.id === id);
    if (!variant) return;
    const before = Object.fromEntries(Object.keys(change).map((key) => [key, variant[key as keyof VariantView]]));
    const step: Step = { label, undo: () => saves.save(id, before), redo: () => saves.save(id, change, step) };
    record(step);
    void saves.save(id, change, step);
  };

  return {
    projectId: '',
    projectName: '',
    variants: [],
    runs: [],
    opened: null,
    geometries: [],
    variantId: '',
    shot: 1,
    undone: [],
    done: [],

    load(view, wanted) {
      const remembered = localStorage.getItem(lastVariantKey(view.project.id));
      const there = (id?: string | null) => view.variants.find((v) => v.id === id)?.id;
      const variantId = there(wanted) ?? there(remembered) ?? view.variants[0].id;
      if (wanted) localStorage.setItem(lastVariantKey(view.project.id), variantId);
      const kept = recallSteps(view.project.id, view.variants);
      set({
        projectId: view.project.id,
        projectName: view.project.name,
        variants: view.variants,
        runs: view.runs,
        opened: null,
        geometries: view.geometries,
        variantId,
        shot: 1,
        done: kept.done.map(stepOf),
        undone: kept.undone.map(stepOf),
      });
      const answered = view.runs.some((r) => r.variantId === variantId && hasResults(r.status));
      useBench.getState().set({ station: answered ? 'answers' : 'part', selectedBodies: [], draft: null, marks: [] });
      mainView.getState().set({ bodyView: {}, map: null });
    },

    refresh(view) {
      if (view.project.id !== get().projectId) return;
      set((s) => {
        // What is on its way to the server is newer than what comes from there.
        const variants = view.variants.map((v) => {
          const known = s.variants.find((own) => own.id === v.id);
          return known && (saves.isOut(v.id) || known.version >= v.version) ? known : v;
        });
        const geometries = new Map([...s.geometries, ...view.geometries].map((g) => [g.hash, g]));
        return {
          variants,
          runs: view.runs.map((r) => s.runs.find((own) => own.id === r.id && own.status === r.status) ?? r),
          geometries: [...geometries.values()],
          variantId: variants.some((v) => v.id === s.variantId) ? s.variantId : variants[0].id,
        };
      });
    },

    change(label, changed) {
      const variant = presentVariant(get());
      const before = variant.inputs;
      const inputs = withoutLostNames(wholeOf(changed));
      if (same(before, inputs)) return;
      const step = stepOf({ label, variantId: variant.id, from: before, to: inputs });
      record(step);
      void saves.save(variant.id, { inputs }, step);
    },

    undo: () => move('done', 'undone', 'undo'),
    redo: () => move('undone', 'done', 'redo'),

    showShot(shot) {
      // Places and probes that were looked at belong to another body.
      mainView.getState().set({ place: null, brush: null });
      useBench.getState().set({ selectedGate: null, aim: null });
      set({ shot });
    },

    selectVariant(id) {
      localStorage.setItem(lastVariantKey(get().projectId), id);
      set({ variantId: id });
    },

    async branch(name, changed) {
      // What is tried is that of an earlier run: names that were given since stay.
      const { names } = presentVariant(get()).inputs;
      const whole = changed && wholeOf(changed);
      const inputs = whole && withoutLostNames(names ? { ...whole, names: { ...whole.names, ...names } } : whole);
      try {
        await saves.idle;
        const variant = await api.branch(get().variantId, name, inputs);
        set((s) => ({ variants: [...s.variants.filter((v) => v.id !== variant.id), variant] }));
        announce(get().projectId);
        get().selectVariant(variant.id);
        record({ label: `Branch “${name}”`, undo: () => hide(variant.id), redo: () => show(variant) });
        return variant;
      } catch (error) {
        tell(error);
        return null;
      }
    },

    rename(id, typed) {
      const name = typed.trim();
      const before = get().variants.find((v) => v.id === id)?.name;
      if (name && before !== undefined && before !== name) relabel(id, 'Rename variant', { name });
    },

    mark: (id, label, change) => relabel(id, label, change),

    openRun(run) {
      mainView.getState().set({ time: Infinity, playing: false, brush: null, place: null });
      set({ opened: run });
    },

    async bringBack(id, version) {
      try {
        const back = await setDeleted(id, version, false);
        set((s) => ({ variants: inOrder([...s.variants.filter((v) => v.id !== id), back]) }));
        record({ label: `Bring back “${back.name}”`, undo: () => hide(id), redo: () => show(back) });
      } catch (error) {
        tell(error);
      }
    },

    remove(id) {
      const variant = get().variants.find((v) => v.id === id);
      if (!variant) return;
      hide(id)
        .then(() => {
          record({ label: `Delete “${variant.name}”`, undo: () => show(variant), redo: () => hide(id) });
          toast(`Variant “${variant.name}” deleted`, { action: { label: 'Undo', onClick: () => get().undo() } });
        })
        .catch(tell);
    },

    addGeometries(list) {
      const fresh = new Set(list.map((g) => g.hash));
      set((s) => ({ geometries: [...s.geometries.filter((g) => !fresh.has(g.hash)), ...list] }));
    },

    putRun(run) {
      set((s) => ({
        runs: s.runs.some((r) => r.id === run.id) ? s.runs.map((r) => (r.id === run.id ? run : r)) : [run, ...s.runs],
      }));
    },

    async startRun() {
      try {
        await saves.idle;
        const run = await api.run(get().variantId);
        get().putRun(run);
        announce(get().projectId);
        // A new shot is looked at whole: an old play head or brush would hide most of it.
        get().openRun(null);
        // The Part station shows the part as it is: the filling is watched from the answers.
        const bench = useBench.getState();
        if (bench.station === 'part') bench.set({ station: 'answers' });
      } catch (error) {
        tell(error);
      }
    },
  };
});

useStudy.subscribe((state, before) => {
  if (state.projectId && (state.done !== before.done || state.undone !== before.undone))
    keepSteps(
      state.projectId,
      state.done.map((step) => step.kept ?? null),
      state.undone.map((step) => step.kept ?? null),
    );
});

export const presentVariant = (s: StudyState): VariantView => {
  const variant = s.variants.find((v) => v.id === s.variantId);
  if (!variant) throw new Error('no variant is selected');
  return variant;
};

/** Number of the shot that is shown: as many as there are. */
export const shownShot = (s: StudyState): number => Math.min(s.shot, nShots(presentVariant(s).inputs));

/** Inputs of the present variant, looked at as the shot that is shown. */
export const presentInputs = (s: StudyState): Inputs => inputsAs(presentVariant(s).inputs, shownShot(s));

/** Changes the present variant's inputs by a patch, as one undoable step. */
export function changeInputs(label: string, patch: (inputs: Inputs) => Partial<Inputs>): void {
  const study = useStudy.getState();
  const inputs = presentInputs(study);
  study.change(label, { ...inputs, ...patch(inputs) });
}

/** The cavities of the present variant together. */
export interface PresentPart {
  name: string;
  size: PartFacts;
  bounds: Bounds;
}

// Selectors must return the same object for the same state: kept by inputs and geometries.
const kept = new WeakMap<Inputs, { geometries: GeometryView[]; part: PresentPart | null }>();

export const presentPart = (s: StudyState): PresentPart | null => {
  const inputs = presentInputs(s);
  const known = kept.get(inputs);
  if (known && known.geometries === s.geometries) return known.part;
  const part = partOf(inputs, s.geometries);
  kept.set(inputs, { geometries: s.geometries, part });
  return part;
};

function partOf(inputs: Inputs, geometries: GeometryView[]): PresentPart | null {
  const size = factsOf(inputs, geometries);
  const bodies = cavities(inputs);
  const boxes = geometries.filter((g) => bodies.some((b) => b.mesh === g.hash)).map((g) => g.report.bounds);
  if (!size || !boxes.length) return null;
  const over = (pick: (a: number, b: number) => number, end: 'min' | 'max') =>
    boxes.map((b) => b[end]).reduce((a, b) => a.map((x, d) => pick(x, b[d])) as Bounds['min']);
  return { name: bodies[0].name, size, bounds: { min: over(Math.min, 'min'), max: over(Math.max, 'max') } };
}

/** Newest run of the present variant that is under way. */
export const runUnderWay = (s: StudyState): RunView | null =>
  s.runs.find((r) => r.variantId === s.variantId && isUnderWay(r.status)) ?? null;

/** The same of those that somebody has asked for. */
export const askedUnderWay = (s: StudyState): RunView | null =>
  s.runs.find((r) => r.variantId === s.variantId && isUnderWay(r.status) && !r.aside) ?? null;

/** The result of the present variant that is looked at, the newest unless an earlier one was opened, looked at as the shot that is shown; null where it did not come to that. */
export function latestResult(s: StudyState): RunView | null {
  const run = wholeResult(s);
  return run && runAs(run, shownShot(s));
}

/** The same with all its shots. */
export const wholeResult = (s: StudyState): RunView | null =>
  s.opened?.variantId === s.variantId ? s.opened : newestResult(s, s.variantId);

/** Newest run of a variant with results. */
export const newestResult = (s: Pick<StudyState, 'runs'>, variantId: string): RunView | null =>
  s.runs.find((r) => r.variantId === variantId && hasResults(r.status)) ?? null;

/** Newest run of the present variant, whatever became of it. */
export const latestRun = (s: StudyState): RunView | null => s.runs.find((r) => r.variantId === s.variantId) ?? null;

const keys = new WeakMap<Inputs, string>();
/** Key of inputs, worked out once: it is asked for with every change of the page. */
function keyOf(inputs: Inputs): string {
  let key = keys.get(inputs);
  if (key === undefined) keys.set(inputs, (key = inputKey(inputs)));
  return key;
}

/**
 * Why a result is not the one that is asked for: its inputs have changed since, it goes less far or farther, or a solver
 * before the present one has made it.
 */
export type OutOfDate = 'inputs' | 'shorter' | 'farther' | 'solver' | null;
export function outOfDate({ inputs, summary }: RunView, variant: VariantView): OutOfDate {
  // By the inputs themselves: a key that an earlier version has stored may be written otherwise.
  if (keyOf(inputs) !== keyOf(variant.inputs))
    return inAnyCase(inputs, variant.inputs) ? goes(inputs, variant.inputs) : 'inputs';
  return summary && summary.solver !== SOLVER_VERSION ? 'solver' : null;
}

// Asked for with every change of the page.
const wholes = new WeakMap<Inputs, Inputs>();
function wholeWay(inputs: Inputs): Inputs {
  let whole = wholes.get(inputs);
  if (!whole) {
    const { upTo: _, ...rest } = inputs;
    wholes.set(inputs, (whole = rest));
  }
  return whole;
}

/** How far runs go, one after the other. */
const EXTENTS: readonly Inputs['upTo'][] = ['fill', 'pack', undefined];
const goes = (ran: Inputs, asked: Inputs): 'shorter' | 'farther' =>
  EXTENTS.indexOf(ran.upTo) < EXTENTS.indexOf(asked.upTo) ? 'shorter' : 'farther';

/** Whether studies differ in nothing but how far a run of them goes. */
const inAnyCase = (ran: Inputs, asked: Inputs): boolean => keyOf(wholeWay(ran)) === keyOf(wholeWay(asked));

export const isOutOfDate = (run: RunView, variant: VariantView): boolean => outOfDate(run, variant) !== null;

const checked = new WeakMap<Inputs, { geometries: GeometryView[]; reader: Reader; problems: Problem[] }>();

/** What keeps the present variant from being run, shot by shot: worked out once, it is asked for with every change of the page. */
export function problemsOf(s: StudyState): Problem[] {
  const { inputs } = presentVariant(s);
  const known = checked.get(inputs);
  const reader = useReader.getState();
  if (known?.geometries === s.geometries && known.reader === reader) return known.problems;
  const problems = checkAllShots(inputs, s.geometries);
  checked.set(inputs, { geometries: s.geometries, reader, problems });
  return problems;
}

/** "Second", "Second 2", ...: a name no other variant has. */
export function freshName(variants: readonly VariantView[], base: string): string {
  for (let n = 1; ; n++) {
    const name = n === 1 ? base : `${base} ${n}`;
    if (!variants.some((v) => v.name === name)) return name;
  }
}
