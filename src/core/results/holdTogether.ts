import { z } from 'zod';
import { vec3Schema } from '../geometry/schemas';
import type { Vec3 } from '../geometry/mesh';
import { real } from '../numerics/real';
import { CONTACTS } from '../model/insert';
import type { Inputs } from '../model/study';
import type { BehindMemory } from '../solvers/melt/behind';
import { bodyBehind, type Behinds } from '../setup/behind';
import type { FillSettings } from '../setup/settings';
import { format } from '../units/reader';
import { formatNumber } from '../units/units';
import type { Answer, Suggestion } from './answer';
import { celsius } from './doesItPackOut';
import { judge, VERDICT_RULES as RULES, worst, type Verdict } from './rules';
import { upper } from './shape';

/** What the melt does to an insert. SI. */
export const insertLoadSchema = z.object({
  id: z.string(),
  name: z.string(),
  material: z.string(),
  contact: z.enum(CONTACTS),
  /** When it pushes hardest to one side: force and moment about the middle of the insert. */
  time_s: real,
  force_N: vec3Schema,
  moment_Nm: vec3Schema,
  /** Of its face that the melt touches. */
  area_m2: real,
  /** By picked faces, by what reaches out of the melt, or not at all. */
  held: z.enum(['faces', 'outside', 'nothing']),
  /** How far it bends, where, and by how much the wall beside it grows thinner; null where nothing holds it. */
  moved_m: real.nullable(),
  place_m: vec3Schema.nullable(),
  thinner_m: real.nullable(),
  wall_m: real,
  course: z.array(z.object({ time_s: real, force_N: real })),
});
export type InsertLoad = z.infer<typeof insertLoadSchema>;

/** The face between a shot and what lies behind it. */
export const faceFactsSchema = z.object({
  /** Name of the insert, or "shot 1". */
  body: z.string(),
  kind: z.enum(['insert', 'plastic']),
  /** Whether both plastics are of one family. */
  alike: z.boolean(),
  area_m2: real,
  /** Temperature that the face reached: mean, and where a twentieth is hotter. */
  peak_K: z.object({ mean: real, high: real }),
  /** Above which it is soft; null for what does not soften. */
  softens_K: real.nullable(),
  /** Share of the face that was softened, how deep and how long at most (a twentieth is beyond). */
  softShare: real,
  softDepth_m: real,
  softFor_s: real,
  /** Share of the face that healed by half, and mean healed share. */
  healedShare: real,
  healed: real,
  /** How far the softened skin was dragged over its depth, a twentieth is beyond. */
  dragged: real,
  draggedPlace_m: vec3Schema.nullable(),
  /** Heat taken up through the face, and passed on to what lies behind, J. */
  taken_J: real,
  passedOn_J: real,
});
export type FaceFacts = z.infer<typeof faceFactsSchema>;

export const holdFactsSchema = z.object({
  faces: z.array(faceFactsSchema),
  loads: z.array(insertLoadSchema),
  /** Pull and shear at bonds in the room that a twentieth of their face is beyond, Pa; null where no shape was calculated. */
  bondPull_Pa: real.nullable(),
  bondShear_Pa: real.nullable(),
  /** Of the softer side, Pa. */
  young_Pa: real,
});
export type HoldFacts = z.infer<typeof holdFactsSchema>;

/** Share of the strength that has healed, from time over the time of healing summed; see `healingOf`. */
export const healedShare = (healing: number): number => Math.min(1, healing ** 0.25);

/** What a twentieth is beyond counts as the most. */
const MOST = 0.05;
const HALF_HEALED = 0.5;

interface Faced {
  behind: Behinds;
  memory: BehindMemory;
  /** Area of the wall of each side of a node, m2, and where it is. */
  areaOf: (side: number) => number;
  placeOf: (side: number) => Vec3;
  family: string;
}

/** The faces of a shot with all that lies behind its walls, body by body. */
export function faceFacts({ behind, memory, areaOf, placeOf, family }: Faced): FaceFacts[] {
  const sides = new Map<number, { stack: number; side: number; area: number }[]>();
  behind.walls.of.forEach((stack, side) => {
    if (stack < 0) return;
    const { body } = behind.walls.list[stack].passages[0];
    (sides.get(body) ?? sides.set(body, []).get(body)!).push({ stack, side, area: areaOf(side) });
  });
  return [...sides].map(([body, own]): FaceFacts => {
    const { insert, before } = bodyBehind(behind, body);
    const total = own.reduce((s, f) => s + f.area, 0);
    const mean = (of: (stack: number) => number) => own.reduce((s, f) => s + f.area * of(f.stack), 0) / total;
    const softShare = mean((s) => (memory.softDepth[s] > 0 ? 1 : 0));
    // Of a face of which less than that was softened, a twentieth of what was.
    const most = (of: (stack: number) => number, within = 1) =>
      upper(
        own.map((f) => of(f.stack)),
        own.map((f) => f.area),
        MOST * within,
      );
    const { spec } = behind;
    const softens = spec.materials[spec.layer.material[spec.start[own[0].stack]]].softens ?? null;
    const dragged = (s: number) => (memory.softDepth[s] > 0 ? memory.dragged[s] / memory.softDepth[s] : 0);
    const worstDrag = most(dragged);
    return {
      body: insert?.name ?? `shot ${before!.number}`,
      kind: insert ? 'insert' : 'plastic',
      alike: before?.family === family,
      area_m2: total,
      peak_K: { mean: mean((s) => memory.peak[s]), high: most((s) => memory.peak[s]).value },
      softens_K: softens,
      softShare,
      softDepth_m: most((s) => memory.softDepth[s], softShare).value,
      softFor_s: most((s) => memory.softFor[s], softShare).value,
      healedShare: mean((s) => (healedShare(memory.healing[s]) >= HALF_HEALED ? 1 : 0)),
      healed: mean((s) => healedShare(memory.healing[s])),
      dragged: worstDrag.value,
      draggedPlace_m: worstDrag.value > 0 ? placeOf(own[worstDrag.at].side) : null,
      taken_J: own.reduce((s, f) => s + f.area * memory.taken[f.stack], 0),
      passedOn_J: own.reduce((s, f) => s + f.area * memory.passedOn[f.stack], 0),
    };
  });
}

/** Whether shots and inserts hold together, and stay where they were put. */
export function doTheyHold(facts: HoldFacts, inputs: Inputs, settings: FillSettings): Answer {
  const verdict = verdictOf(facts);
  const plastics = facts.faces.filter((f) => f.kind === 'plastic');
  const [main] = [...plastics, ...facts.faces].sort((a, b) =>
    a.kind === b.kind ? b.area_m2 - a.area_m2 : a.kind === 'plastic' ? -1 : 1,
  );
  const load = hardest(facts);
  return {
    id: 'do-they-hold',
    question: 'Do they hold together?',
    verdict,
    headline: headlineOf(facts, verdict),
    key: main
      ? {
          label: main.kind === 'plastic' ? `Face of ${main.body} reached` : `Face of “${main.body}” reached`,
          value: celsius(main.peak_K.mean),
          note:
            main.softens_K === null
              ? `hottest twentieth ${celsius(main.peak_K.high)}`
              : `softens at ${celsius(main.softens_K)}; hottest twentieth ${celsius(main.peak_K.high)}`,
        }
      : { label: 'Faces that touch', value: 'none', note: 'nothing lies against the melt' },
    where:
      load?.place_m && (load.thinner_m ?? 0) > 0
        ? { label: `Where “${load.name}” moves most`, position: load.place_m, field: 'wallChange' }
        : main?.draggedPlace_m
          ? { label: 'Where the skin is dragged most', position: main.draggedPlace_m, field: 'softDepth' }
          : null,
    why: [...facts.faces.flatMap(faceReasons), ...facts.loads.map(loadReason), ...bondReasons(facts)],
    try: triesFor(facts, inputs, settings),
  };
}

const hardest = ({ loads }: HoldFacts) =>
  [...loads].sort((a, b) => (b.thinner_m ?? 0) / b.wall_m - (a.thinner_m ?? 0) / a.wall_m)[0];

const bondShare = (f: HoldFacts) => Math.hypot(f.bondPull_Pa ?? 0, f.bondShear_Pa ?? 0) / f.young_Pa;

function verdictOf(facts: HoldFacts): Verdict {
  return worst([
    ...facts.faces.flatMap((f): Verdict[] => [
      ...(f.alike ? [judge(RULES.healedBond, f.healedShare)] : []),
      judge(RULES.dragged, f.dragged),
    ]),
    ...facts.loads.map((l): Verdict =>
      l.held === 'nothing' ? 'watch' : judge(RULES.insertMoved, (l.thinner_m ?? 0) / l.wall_m),
    ),
    facts.bondPull_Pa === null ? 'good' : judge(RULES.bondStress, bondShare(facts)),
  ]);
}

function headlineOf(facts: HoldFacts, verdict: Verdict): string {
  const load = hardest(facts);
  if (load && judge(RULES.insertMoved, (load.thinner_m ?? 0) / load.wall_m) !== 'good')
    return `The melt pushes “${load.name}” out of its place.`;
  if (facts.faces.some((f) => judge(RULES.dragged, f.dragged) !== 'good'))
    return 'The second shot drags the softened skin of the first along.';
  const weak = facts.faces.find((f) => f.alike && judge(RULES.healedBond, f.healedShare) !== 'good');
  if (weak) return `The face of ${weak.body} stays too cold to weld.`;
  if (facts.loads.some((l) => l.held === 'nothing')) return 'An insert floats in the melt: nothing holds it.';
  if (verdict !== 'good') return 'The bond has to bear much.';
  return 'What was put together stays together.';
}

function faceReasons(f: FaceFacts): string[] {
  const face = f.kind === 'plastic' ? `The face of ${f.body}` : `The face of “${f.body}”`;
  const heat = `It took up ${format(f.taken_J, 'kJ', 2)} and passed on ${format(f.passedOn_J, 'kJ', 2)}.`;
  if (f.kind === 'insert' || f.softens_K === null)
    return [`${face}, ${format(f.area_m2, 'cm²', 3)}, reached ${celsius(f.peak_K.mean)} on average. ${heat}`];
  const soft =
    f.softShare > 0
      ? `${Math.round(100 * f.softShare)} % of it softened, up to ${format(f.softDepth_m, 'mm', 2)} deep and for ${format(f.softFor_s, 's', 2)}.`
      : `It never reached ${celsius(f.softens_K)}, where it softens.`;
  const bond = f.alike
    ? `Chains had time to cross ${Math.round(100 * f.healedShare)} % of it by half or more (mean ${formatNumber(100 * f.healed, 2)} %).`
    : 'The two plastics are of different families: whether they bond at all their suppliers must say; without it, undercuts have to hold.';
  const drag =
    f.dragged > RULES.dragged.watch
      ? [`Melt drags the softened skin by ${formatNumber(f.dragged, 2)} times its depth where it flows hardest.`]
      : [];
  return [
    `${face}, ${format(f.area_m2, 'cm²', 3)}, reached ${celsius(f.peak_K.mean)} on average. ${soft} ${heat}`,
    bond,
    ...drag,
  ];
}

function loadReason(l: InsertLoad): string {
  const force = `The melt pushes “${l.name}” with up to ${format(Math.hypot(...l.force_N), 'N', 3)} in all, ${format(l.time_s, 's', 2)} after the start`;
  const sliding = l.contact === 'sliding' ? ' Plastic slides along it: for the shape it is left out.' : '';
  if (l.held === 'nothing') return `${force}; nothing holds it: it goes where it is pushed.${sliding}`;
  const by = l.held === 'faces' ? 'between the faces that hold it' : 'between where it reaches out of the melt';
  return (
    `${force}; it bends by ${format(l.moved_m ?? 0, 'mm', 2)} ${by}, ` +
    `and the wall of ${format(l.wall_m, 'mm', 2)} beside it grows ${format(l.thinner_m ?? 0, 'mm', 2)} thinner.${sliding}`
  );
}

function bondReasons(f: HoldFacts): string[] {
  if (f.bondPull_Pa === null || f.bondShear_Pa === null) return [];
  return [
    `In the room the bond bears up to ${format(f.bondPull_Pa, 'MPa', 2)} of pull and ${format(f.bondShear_Pa, 'MPa', 2)} of shear, ` +
      `${format(bondShare(f), '%', 2)} of the stiffness of the softer side.`,
  ];
}

function triesFor(facts: HoldFacts, inputs: Inputs, settings: FillSettings): Suggestion[] {
  const tries: Suggestion[] = [];
  const cold = facts.faces.some((f) => f.alike && judge(RULES.healedBond, f.healedShare) !== 'good');
  const { meltTemperature, resin } = settings;
  if (cold && meltTemperature + 5 < resin.melt.max)
    tries.push({
      id: 'hotter-melt-for-bond',
      label: `Melt at ${celsius(resin.melt.max)}`,
      why: 'The face of the first shot comes halfway between it and the melt: a hotter melt softens it deeper.',
      inputs: { ...inputs, cycle: { ...inputs.cycle, meltTemperature: resin.melt.max } },
    });
  const { shot } = inputs;
  const transfer = shot && inputs.later?.[shot.number - 2]?.transfer;
  if (cold && shot && transfer && transfer.time > 1)
    tries.push({
      id: 'shorter-transfer',
      label: `Transfer in ${format(transfer.time / 2, 's', 2)}`,
      why: 'The first shot comes warmer under the second.',
      inputs: {
        ...inputs,
        later: inputs.later?.map((l, k) =>
          k === shot.number - 2 ? { ...l, transfer: { ...transfer, time: transfer.time / 2 } } : l,
        ),
      },
    });
  const load = hardest(facts);
  if (load && judge(RULES.insertMoved, (load.thinner_m ?? 0) / load.wall_m) !== 'good') {
    const time = 2 * settings.injectionTime;
    tries.push({
      id: 'slower-over-insert',
      label: `Injection in ${format(time, 's', 2)}`,
      why: 'A slower melt reaches both sides of the insert with less difference of pressure.',
      inputs: { ...inputs, cycle: { ...inputs.cycle, injection: { by: 'time', time } } },
    });
  }
  return tries;
}
