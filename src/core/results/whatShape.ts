import type { Packing } from '../model/packing';
import type { Resin } from '../model/resin';
import { hasFibres } from '../material/fibres/defaults';
import { warpageOf } from '../model/warpage';
import type { Inputs } from '../model/study';
import type { FillSettings } from '../setup/settings';
import { format } from '../units/reader';
import { formatNumber } from '../units/units';
import { withCycle, type Answer, type Suggestion } from './answer';
import { LARGE_FROM } from '../solvers/warp/beyondLinear';
import { FAR } from '../solvers/warp/buckling';
import type { CoolFacts } from './coolFacts';
import { celsius } from './doesItPackOut';
import type { PackSummary } from './packFacts';
import { judge, VERDICT_RULES as RULES, worst, type Verdict } from './rules';
import { MEASURE_NAMES, type Measured } from './measures';
import { CAUSE_NAMES, type ShapeFacts } from './shape';

/** How it was packed. */
type HeldAs = Pick<PackSummary, 'lastGateFrozenAt_s' | 'switchoverTime_s' | 'packingEnd_s' | 'packingPressure_Pa'>;

const percent = (x: number) => `${(100 * x).toFixed(2)} %`;

/** What cooled it, and what the answer on cooling tries. */
interface Cooled {
  facts: CoolFacts;
  tries: readonly Suggestion[];
}

/** The circuits of a run with what its answers try with them; null without circuits. */
export const cooledBy = (facts: CoolFacts | undefined, answers: readonly Answer[]): Cooled | null =>
  facts ? { facts, tries: answers.find((a) => a.id === 'how-long-to-cool')?.try ?? [] } : null;

/** The shape check: deviation after best fit against the tolerance, why, and what to change. */
export function whatShape(
  facts: ShapeFacts,
  inputs: Inputs,
  settings: FillSettings,
  pack: HeldAs,
  cooled: Cooled | null,
): Answer {
  const { tolerance, measures } = warpageOf(inputs);
  const judged = (facts.measures ?? []).filter((m) => m.tolerance !== null);
  // Where dimensions have tolerances of their own and the whole has none, they alone count.
  const wholeCounts = tolerance !== null || !measures.some((m) => m.tolerance !== null);
  const share = Math.max(
    wholeCounts ? facts.largest_m / facts.tolerance_m : 0,
    ...judged.map((m) => m.error / (m.tolerance as number)),
  );
  const verdict = worst([
    judge(RULES.deviation, share),
    judge(RULES.frozenStress, stressShare(facts, settings)),
    judge(RULES.buckling, facts.buckling ?? Infinity),
    facts.smallLargest_m === null ? 'watch' : 'good',
  ]);
  return {
    id: 'what-shape',
    question: 'What shape comes out?',
    verdict,
    headline: headlineOf(facts, share, verdict),
    key: {
      label: 'Largest deviation after best fit',
      value: format(facts.largest_m, 'mm', 3),
      note: `tolerance ${format(facts.tolerance_m, 'mm', 3)}; tool ${facts.toolScaled ? `${percent(facts.meanShrinkage)} larger` : 'as drawn'}`,
    },
    where: { label: 'Largest deviation', position: facts.place_m, field: 'deviation' },
    why: reasons(facts, settings, inputs),
    try: share > RULES.deviation.watch ? suggestions(facts, inputs, settings, pack, cooled) : [],
  };
}

/** The answer where the shape could not be calculated. */
export const noShape = ({ message, likely }: { message: string; likely: string }): Answer => ({
  id: 'what-shape',
  question: 'What shape comes out?',
  verdict: 'problem',
  headline: message,
  key: { label: 'Shape', value: 'not calculated', note: likely },
  where: null,
  why: [],
  try: [],
});

/** Stress at the surface over what the plastic bears: a share of its stiffness stands for the strength. */
const stressShare = (facts: ShapeFacts, { resin }: FillSettings) => facts.skinStress_Pa / resin.elastic.E1;

const dominant = (facts: ShapeFacts) => facts.causes.reduce((a, b) => (b.share > a.share ? b : a));

const causeName = (facts: ShapeFacts): string => CAUSE_NAMES[dominant(facts).cause];

function headlineOf(facts: ShapeFacts, share: number, verdict: Verdict): string {
  if (share > 1)
    return `${causeName(facts)} ${/s$| and /.test(causeName(facts)) ? 'take' : 'takes'} the part out of its tolerance.`;
  if (judge(RULES.deviation, share) !== 'good') return 'The shape is within its tolerance, but barely.';
  if (judge(RULES.buckling, facts.buckling ?? Infinity) !== 'good') return 'It is near buckling by its own shrinkage.';
  return verdict === 'good' ? 'The shape stays within its tolerance.' : 'The shape is good, the stress in it is high.';
}

function reasons(facts: ShapeFacts, settings: FillSettings, inputs: Inputs): string[] {
  const [x, y, z] = facts.largestAlong_m.map((u) => format(Math.abs(u), 'mm', 2));
  const list = [
    `Along x, y and z the shape is off by up to ${x}, ${y} and ${z}; ${format(facts.rms_m, 'mm', 2)} in the mean. Half a per cent of the surface is off by more than what is called the largest.`,
    `Causes: ${[...facts.causes]
      .sort((a, b) => b.share - a.share)
      .map((c) => `${CAUSE_NAMES[c.cause].toLowerCase()} ${formatNumber(100 * c.share, 2)} %`)
      .join(', ')}.`,
    `Walls shrink by ${percent(facts.meanShrinkage)} along themselves on average.`,
    `Stress frozen in reaches ${format(facts.skinStress_Pa, 'MPa', 2)} at the surface (one per cent of it bears more), ${format(facts.coreStress_Pa, 'MPa', 2)} in the middle of walls.`,
  ];
  list.push(...beyondReasons(facts));
  for (const m of facts.measures ?? []) list.push(measureReason(m));
  for (const { insert, stress_Pa } of facts.insertStress)
    list.push(`“${nameOf(inputs, insert)}” is stressed by up to ${format(stress_Pa, 'MPa', 2)}.`);
  const corrected = correctionOf(settings.resin);
  if (corrected) list.push(corrected);
  const held = warpageOf(inputs).supports.reduce(
    (n, s) => n + Number(s.holds.x) + Number(s.holds.y) + Number(s.holds.z),
    0,
  );
  if (held > 6)
    list.push(
      `Supports hold ${held} motions, six are needed to keep the part in place: the others bend it while it cools.`,
    );
  if (facts.onFibres)
    list.push(
      `Fibres hold it back: it shrinks by ${percent(facts.onFibres.along)} along them and ${percent(facts.onFibres.square)} square to them on average.`,
    );
  else if (hasFibres(settings.resin))
    list.push(
      'Its fibres are not followed: the Resin station can switch that on. It counts as alike in all directions.',
    );
  return list;
}

const nameOf = ({ bodies }: Inputs, id: string): string => bodies.find((b) => b.id === id)?.name ?? id;

/** Whether what was measured of the resin's shrinkage is in the result; null where nothing was. */
function correctionOf({ shrinkageFactor: factor, measuredShrinkage: measured }: Resin): string | null {
  if (factor !== undefined && factor !== 1)
    return `The resin's shrinkage is corrected: ${formatNumber(factor, 3)} times what its pvT data give${measured?.length ? `, by ${measured.length} measured plates` : ''}.`;
  return measured?.length
    ? `${measured.length} measured plates lie with the resin, and its shrinkage is not corrected by them.`
    : null;
}

/** Where small deflections would mislead. */
function beyondReasons({ bend = 0, buckling, smallLargest_m: small, largest_m: large }: ShapeFacts): string[] {
  const list: string[] = [];
  if (bend > LARGE_FROM && small === undefined)
    list.push(
      `It bends by ${formatNumber(bend, 2)} times its wall, and small deflections may mislead: large ones are followed where the Cycle station says so.`,
    );
  if (buckling !== undefined)
    list.push(
      buckling === null
        ? `Its own shrinkage is far from buckling it: ${FAR} times as much would not.`
        : buckling > 1
          ? `${formatNumber(buckling, 3)} times the shrinkage it has would buckle it.`
          : `It buckles by its own shrinkage: ${formatNumber(100 * buckling, 3)} % of it would do. Small deflections alone mislead here.`,
    );
  if (small === null)
    list.push('With large deflections it does not come to rest: the shape is that of small ones, and misleads.');
  else if (small !== undefined)
    list.push(
      `It bends far beside its wall: small deflections alone would say ${format(small, 'mm', 3)} where it is ${format(large, 'mm', 3)}.`,
    );
  return list;
}

/** A measure in words: what it was, what it is, and what it may be off by. */
function measureReason({ id, kind, before, after, tolerance, error }: Measured): string {
  const value = (x: number) => (kind === 'angle' ? `${formatNumber((180 * x) / Math.PI, 4)}°` : format(x, 'mm', 4));
  const limit = tolerance === null ? '' : `, ${error > tolerance ? 'beyond' : 'within'} its ${value(tolerance)}`;
  if (kind === 'face') return `${id}: the face is off by up to ${value(after)}${limit}.`;
  return `${id}: ${MEASURE_NAMES[kind].toLowerCase()} ${value(before)} as drawn, ${value(after)} as moulded${limit}.`;
}

/** Changes of the circuits that take a hot spot away; the other ones cool the whole mould, both sides of it alike. */
const EVENS_OUT = ['colder-half', 'add-baffle', 'other-way'];

function suggestions(
  facts: ShapeFacts,
  inputs: Inputs,
  settings: FillSettings,
  pack: HeldAs,
  cooled: Cooled | null,
): Suggestion[] {
  const list: Suggestion[] = [];
  const warpage = warpageOf(inputs);
  if (!facts.toolScaled)
    list.push({
      id: 'scale-tool',
      label: `Cut the tool ${percent(facts.meanShrinkage)} larger`,
      why: 'The even part of the shrinkage is a matter of size, not of shape.',
      inputs: { ...inputs, warpage: { ...warpage, toolScaled: true } },
    });
  const { cause, rms_m: bent } = dominant(facts);
  const { mouldTemperature, lowerMouldTemperature } = settings;
  if (cause === 'cooling' && !inputs.cooling && Math.abs(mouldTemperature - lowerMouldTemperature) > 0.5)
    list.push({
      id: 'even-halves',
      label: `Both halves at ${celsius((mouldTemperature + lowerMouldTemperature) / 2)}`,
      why: `The warmer side freezes later and shrinks more. That makes ${format(bent, 'mm', 2)} of the shape in the mean, and goes.`,
      inputs: withCycle(inputs, {
        mouldTemperature: (mouldTemperature + lowerMouldTemperature) / 2,
        lowerMouldTemperature: null,
      }),
    });
  if (cause === 'cooling' && cooled)
    for (const one of cooled.tries)
      if (EVENS_OUT.includes(one.id))
        list.push({
          ...one,
          why: `${one.why} As they are, up to ${format(cooled.facts.difference_K.high, 'K', 2)} apart, they make ${format(bent, 'mm', 2)} of the shape in the mean, and less in step with that.`,
        });
  // With circuits the mould is as cold as they make it.
  if ((cause === 'cooling' || cause === 'corner') && !inputs.cooling)
    list.push({
      id: 'cooler-mould',
      label: `Mould 10 K cooler, ${celsius(mouldTemperature - 10)}`,
      why: 'Less is left to shrink once the part is out.',
      inputs: withCycle(inputs, {
        mouldTemperature: mouldTemperature - 10,
        ...(inputs.cycle.lowerMouldTemperature === null
          ? {}
          : { lowerMouldTemperature: inputs.cycle.lowerMouldTemperature - 10 }),
      }),
    });
  if ((cause === 'shrinkage' || cause === 'corner') && !settings.core && inputs.cycle.packing.by === 'constant')
    list.push(...packingTries(inputs, inputs.cycle.packing, settings, pack));
  return list;
}

/** Packing until the gate has frozen where it ends before; else a pressure that falls. */
function packingTries(
  inputs: Inputs,
  { pressure, time }: Extract<Packing, { by: 'constant' }>,
  settings: FillSettings,
  pack: HeldAs,
): Suggestion[] {
  const { lastGateFrozenAt_s: frozen, packingEnd_s: end, switchoverTime_s: start, packingPressure_Pa: held } = pack;
  if (time !== null && (frozen === null || frozen > end + 0.1))
    return [
      {
        id: 'pack-longer-for-shape',
        label: 'Pack until the gate has frozen',
        why: 'Nothing flows back, and places far from the gate shrink as little as those near it.',
        inputs: withCycle(inputs, { packing: { by: 'constant', pressure, time: null } }),
      },
    ];
  // The default of amorphous plastics falls early as it is: falling sooner, or from more, draws such a part further out.
  if (pressure === null && settings.resin.structure === 'amorphous') return [];
  return [fallingPacking(inputs, settings, Math.round(held / 1e5) * 1e5, end - start)];
}

/** Over the time in which the usual wall freezes: by then the pressure has fallen, to this share of itself. */
const FALLEN_AFTER = 1.7;
const FALLEN = 0.5;

/** The same packing until the usual wall has frozen and half of it from soon after: Pa, s after switchover. */
function fallingPacking(inputs: Inputs, { freezeTime }: FillSettings, pressure: number, packing: number): Suggestion {
  const fallen = Math.round(FALLEN * pressure);
  const points = [
    { at: 0, value: pressure },
    { at: Math.min(freezeTime, 0.4 * packing), value: pressure },
    { at: Math.min(FALLEN_AFTER * freezeTime, 0.7 * packing), value: fallen },
    { at: packing, value: fallen },
  ].map(({ at, value }) => ({ at: Number(at.toPrecision(2)), value }));
  return {
    id: 'falling-profile',
    label: 'Falling packing pressure',
    why: 'What freezes late, near the gate, is then packed less than it is now, and pulls less on the rest.',
    inputs: withCycle(inputs, { packing: { by: 'profile', as: 'pressure', points } }),
  };
}
