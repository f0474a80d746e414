import { z } from 'zod';
import type { TriangleMesh, Vec3 } from '../geometry/mesh';
import { vec3Schema } from '../geometry/schemas';
import { dot, normalised, sub } from '../geometry/vec';
import { nominalWall } from '../grid/lattice';
import { meanLengths } from '../material/fibres/breakage';
import { STRAIN_AT_YIELD, strengthOf } from '../material/solid';
import { openingOf } from '../model/body';
import { defaultTab } from '../model/outlet';
import type { PressureGrid } from '../grid/pressureGrid';
import { DEFAULT_FIBRES, loadName, loadOf } from '../model/fibres';
import type { Inputs } from '../model/study';
import { real } from '../numerics/real';
import type { FillSettings } from '../setup/settings';
import type { LengthInput } from '../solvers/fibres/lengths';
import { PAIRS } from '../solvers/warp/solid';
import { youngAlong } from '../solvers/warp/stress';
import { format } from '../units/reader';
import { formatNumber } from '../units/units';
import { freshOutletId, withCycle, type Answer, type Suggestion } from './answer';
import type { WallFibres } from './fibreFields';
import { judge, VERDICT_RULES as RULES, worst } from './rules';
import type { ShapeFacts } from './shape';
import { tabPlaces, type TabPlace } from './tabPlaces';
import type { FibresFound } from './shotFound';
import { besideLine, type WeldLine } from './weldLines';

/** What a run says of the strength of a part with fibres; SI. */
export const strengthFactsSchema = z.object({
  /** What the plastic bears along the flow, and whether the resin's data say so or it is reckoned from its modulus. */
  strength_Pa: real,
  known: z.boolean(),
  load: z.string(),
  /** Young's modulus along the load, mean of the walls that it can run along; that of the data sheet. */
  modulus_Pa: real,
  sheetModulus_Pa: real,
  /** Means of the stiffest and the softest direction of the walls. */
  most_Pa: real,
  least_Pa: real,
  /** The weld line with the least left, and what fibres across it give of what they give the wall; null: there is none. */
  weld: z
    .object({
      id: z.string(),
      share: real,
      ofFibres: real,
      healed: real,
      /** How far melt has gone through it after the fronts met, m. */
      flowedThrough_m: real,
      place_m: vec3Schema,
      /** Where an overflow tab would draw melt through it: on the part's side, and outwards; null: nowhere. */
      tab: z.object({ position: vec3Schema, direction: vec3Schema, wall: real }).nullable(),
    })
    .nullable(),
  /** Where the shortest fibres are, with their means and that by weight at the nozzle, m; absent: they do not break. */
  shortest: z
    .object({ byWeight_m: real, byNumber_m: real, nozzle_m: real, granule_m: real, place_m: vec3Schema })
    .optional(),
});
export type StrengthFacts = z.infer<typeof strengthFactsSchema>;

/** A load runs along a wall that lies within this of it (cosine between it and the way across). */
const ALONG = 0.5;
/** Nodes so many spacings from a line say how the fibres lie across it. */
const BESIDE = 1.5;

export function strengthFacts(
  part: TriangleMesh,
  grid: PressureGrid,
  { across, lengths }: FibresFound,
  own: WallFibres,
  lines: readonly WeldLine[],
  inputs: Inputs,
  { resin, fibres }: FillSettings,
): StrengthFacts {
  const load = loadOf(inputs.fibres);
  const youngOf = moduliOf(own);
  const sums = { along: 0, alongVolume: 0, most: 0, least: 0, volume: 0 };
  for (let i = 0; i < grid.n; i++) {
    const v = grid.volume[i];
    sums.volume += v;
    sums.most += v * own.most[i];
    sums.least += v * own.least[i];
    const off = Math.abs(load[0] * across[3 * i] + load[1] * across[3 * i + 1] + load[2] * across[3 * i + 2]);
    if (off > ALONG) continue;
    sums.along += v * youngOf(i, load);
    sums.alongVolume += v;
  }
  const [weakest] = linesWithFibres(grid, own, lines);
  return {
    strength_Pa: strengthOf(resin),
    known: resin.strength !== undefined,
    load: loadName(inputs.fibres ?? DEFAULT_FIBRES),
    modulus_Pa: sums.alongVolume > 0 ? sums.along / sums.alongVolume : sums.least / sums.volume,
    sheetModulus_Pa: resin.elastic.E1,
    most_Pa: sums.most / sums.volume,
    least_Pa: sums.least / sums.volume,
    weld: weakest ? weldFacts(part, weakest, inputs) : null,
    ...(lengths && fibres?.lengths ? { shortest: shortestFibres(grid, lengths, fibres.lengths) } : {}),
  };
}

/** Young's modulus of the wall at a node along a direction. */
function moduliOf({ stiffness }: WallFibres): (i: number, direction: Vec3) => number {
  const own = new Float64Array(PAIRS);
  return (i, direction) => {
    own.set(stiffness.subarray(PAIRS * i, PAIRS * i + PAIRS));
    return youngAlong(own, direction);
  };
}

/** A weld line with what fibres across it give of what they give the wall, and what it bears of the wall, 0 .. 1. */
export interface LineWithFibres {
  line: WeldLine;
  ofFibres: number;
  share: number;
}

/** Weld lines of a part with fibres, the weakest first. */
export function linesWithFibres(grid: PressureGrid, own: WallFibres, lines: readonly WeldLine[]): LineWithFibres[] {
  const youngOf = moduliOf(own);
  return lines
    .map((line) => {
      const ofFibres = acrossLine(grid, line, own, youngOf);
      return { line, ofFibres, share: line.strength * ofFibres };
    })
    .sort((a, b) => a.share - b.share);
}

/** Places whose share of the volume is less say little. */
const CORNERS = 0.01;

/** Where fibres are shortest by weight, but for the worst hundredth of the part. */
function shortestFibres(
  { volume, centroid }: PressureGrid,
  { byNumber, byWeight }: NonNullable<FibresFound['lengths']>,
  { breakage, fresh }: LengthInput,
): NonNullable<StrengthFacts['shortest']> {
  const order = [...byWeight.keys()].sort((a, b) => byWeight[a] - byWeight[b]);
  const whole = volume.reduce((s, v) => s + v, 0);
  let sum = 0;
  const node = order.find((i) => (sum += volume[i]) > CORNERS * whole) ?? order[0];
  const { bins, binLength } = breakage;
  return {
    byWeight_m: byWeight[node],
    byNumber_m: byNumber[node],
    nozzle_m: meanLengths(fresh, binLength).byWeight,
    granule_m: bins * binLength,
    place_m: [centroid[3 * node], centroid[3 * node + 1], centroid[3 * node + 2]],
  };
}

function weldFacts(
  part: TriangleMesh,
  { line, ofFibres, share }: LineWithFibres,
  inputs: Inputs,
): NonNullable<StrengthFacts['weld']> {
  return {
    id: line.id,
    share,
    ofFibres,
    healed: line.strength,
    flowedThrough_m: line.flowedThrough ?? 0,
    place_m: line.points[Math.floor(line.points.length / 2)],
    tab: tabBeside(part, line, inputs),
  };
}

/** A tab sits so many wall thicknesses beside the line. */
const TAB_BESIDE = 5;

/** Place of the part's sides that is nearest to one beside an end of the line, and the way outwards. */
function tabBeside(part: TriangleMesh, { points }: WeldLine, inputs: Inputs): TabPlace | null {
  const wall = nominalWall(part);
  const places = tabPlaces(part, openingOf(inputs.tool), wall);
  let best: { place: TabPlace; off: number } | null = null;
  for (const [end, inner] of [
    [points[0], points[1]],
    [points[points.length - 1], points[points.length - 2]],
  ]) {
    if (!inner) continue;
    const along = normalised(sub(end, inner));
    for (const place of places) {
      const from = sub(place.position, end);
      const on = dot(from, along);
      const beside = Math.sqrt(Math.max(0, dot(from, from) - on * on));
      // Outwards past the end of the line, and beside it.
      const off = Math.abs(beside - TAB_BESIDE * wall) + Math.abs(on) + (dot(place.direction, along) > 0 ? 0 : 1);
      if (!best || off < best.off) best = { place, off };
    }
  }
  return best && best.place;
}

/** Modulus across a weld line over that along the fibres of the walls beside it. */
function acrossLine(
  grid: PressureGrid,
  { points }: WeldLine,
  own: WallFibres,
  youngOf: (i: number, direction: Vec3) => number,
): number {
  let [sum, weight] = [0, 0];
  besideLine(grid, points, BESIDE, (i, along) => {
    const [a, s] = [own.along, own.square].map((v): Vec3 => [v[3 * i], v[3 * i + 1], v[3 * i + 2]]);
    const [x, y] = [dot(a, along), dot(s, along)];
    if (!(Math.hypot(x, y) > ALONG)) return;
    // Square to the line in the plane of the wall.
    const across = normalised([0, 1, 2].map((d) => x * s[d] - y * a[d]) as Vec3);
    sum += (grid.volume[i] * youngOf(i, across)) / own.most[i];
    weight += grid.volume[i];
  });
  return weight > 0 ? Math.min(1, sum / weight) : 1;
}

const percent = (x: number) => `${Math.round(100 * x)} %`;

export function howStrong(
  facts: StrengthFacts,
  shape: ShapeFacts | undefined,
  inputs: Inputs,
  settings: FillSettings,
): Answer {
  const { weld, shortest, strength_Pa: strength } = facts;
  const stressed = shape ? shape.skinStress_Pa / strength : 0;
  const stiff = facts.modulus_Pa / facts.sheetModulus_Pa;
  const verdicts = {
    weld: weld ? judge(RULES.weldWithFibres, weld.share) : ('good' as const),
    stress: judge(RULES.stressOverStrength, stressed),
    stiff: judge(RULES.alongLoad, stiff),
    length: shortest ? judge(RULES.fibresLeft, shortest.byWeight_m / shortest.nozzle_m) : ('good' as const),
  };
  const verdict = worst(Object.values(verdicts));
  const key =
    weld && verdicts.weld !== 'good'
      ? { label: `Weld line ${weld.id}`, value: percent(weld.share), note: 'of the wall beside it along its fibres' }
      : {
          label: `Modulus along ${facts.load}`,
          value: format(facts.modulus_Pa, 'GPa', 2),
          note: `${percent(stiff)} of the ${format(facts.sheetModulus_Pa, 'GPa', 2)} of the data sheet`,
        };
  return {
    id: 'how-strong',
    question: 'How strong is it?',
    verdict,
    headline: headlineOf(verdicts, weld),
    key,
    where:
      weld && verdicts.weld !== 'good'
        ? { label: `Weld line ${weld.id}`, position: weld.place_m, field: 'fibreOn' }
        : shape?.stressPlace_m && verdicts.stress !== 'good'
          ? { label: 'Most stress', position: shape.stressPlace_m, field: 'vonMises' }
          : shortest && verdicts.length !== 'good'
            ? { label: 'Shortest fibres', position: shortest.place_m, field: 'fibreLength' }
            : null,
    why: reasons(facts, shape, stressed, settings),
    try: [
      ...tries(verdicts.weld !== 'good' ? weld : null, verdicts.stress !== 'good', inputs, settings),
      ...(verdicts.length === 'good' ? [] : triesForLength(inputs, settings)),
    ],
  };
}

function headlineOf(v: Record<'weld' | 'stress' | 'stiff' | 'length', string>, weld: StrengthFacts['weld']): string {
  if (v.weld === 'problem') return `Hardly a fibre holds weld line ${weld?.id} together.`;
  if (v.stress === 'problem') return 'Stress frozen in leaves little for a load.';
  if (v.stiff === 'problem') return 'Along the load the fibres do next to nothing.';
  if (v.length === 'problem') return 'Hardly a fibre stays long.';
  if (v.weld === 'watch') return 'A weld line is the weakest place.';
  if (v.stress === 'watch') return 'Stress frozen in takes a part of the strength.';
  if (v.stiff === 'watch') return 'Along the load it is softer than its data sheet.';
  if (v.length === 'watch') return 'Fibres break on their way.';
  return 'The fibres lie well for the load.';
}

function reasons(
  facts: StrengthFacts,
  shape: ShapeFacts | undefined,
  stressed: number,
  settings: FillSettings,
): string[] {
  const { weld } = facts;
  const list = [
    `Along ${facts.load} the walls have ${format(facts.modulus_Pa, 'GPa', 2)}; along their fibres ${format(facts.most_Pa, 'GPa', 2)}, square to them ${format(facts.least_Pa, 'GPa', 2)}. The data sheet says ${format(facts.sheetModulus_Pa, 'GPa', 2)}, of a bar that was filled from its end.`,
  ];
  if (weld)
    list.push(
      `${weld.id} knits to ${percent(weld.healed)} of the plastic, and fibres cross it for ${percent(weld.ofFibres)} of what they give the wall: ${percent(weld.share)} together. Melt goes ${format(weld.flowedThrough_m, 'mm', 2)} through it after the fronts have met; the notch in its skin stays.`,
    );
  else list.push('No weld line crosses it.');
  if (shape)
    list.push(
      `Stress frozen in reaches ${format(shape.skinStress_Pa, 'MPa', 2)} at the surface, ${percent(stressed)} of the ${format(facts.strength_Pa, 'MPa', 2)} that the plastic bears.`,
    );
  if (!facts.known)
    list.push(
      `The resin has no strength of its own: ${formatNumber(100 * STRAIN_AT_YIELD, 2)} % of its modulus is a rule of thumb. Type the one of its data sheet in at the Resin station.`,
    );
  const { fibres } = settings;
  if (facts.shortest) {
    const { byWeight_m: left, byNumber_m: counted, nozzle_m: nozzle, granule_m: granule } = facts.shortest;
    list.push(
      `Of ${format(granule, 'mm', 2)} in the granules the screw leaves ${format(nozzle, 'mm', 2)} by weight; where they are shortest in the part, ${format(left, 'mm', 2)} (${format(counted, 'mm', 2)} by number).`,
    );
  } else if (fibres)
    list.push(
      `Fibres count as ${formatNumber(fibres.model.aspect >= 1 ? fibres.model.aspect : 1 / fibres.model.aspect, 3)} times as long as thick all over the part.`,
    );
  return list;
}

/** Shear, and with it the stress that breaks fibres, falls with the speed and with wider gates. */
const SLOWER = 2;
const WIDER = 1.5;
const WIDEST = 0.05;

function triesForLength(inputs: Inputs, { injectionTime }: FillSettings): Suggestion[] {
  const time = Number((SLOWER * injectionTime).toPrecision(2));
  return [
    {
      id: 'slower-for-length',
      label: `Inject in ${format(time, 's', 2)}`,
      why: 'Half the speed shears the fibres less.',
      inputs: withCycle(inputs, { injection: { by: 'time', time } }),
    },
    {
      id: 'wider-gates',
      label: 'Gates half as wide again',
      why: 'Fibres break where melt is sheared most: in the gates.',
      inputs: {
        ...inputs,
        gates: inputs.gates.map((g) => ({ ...g, diameter: Math.min(WIDEST, Number((WIDER * g.diameter).toFixed(4))) })),
      },
    },
  ];
}

function tries(weak: StrengthFacts['weld'], stressed: boolean, inputs: Inputs, settings: FillSettings): Suggestion[] {
  const { resin, meltTemperature, mouldTemperature } = settings;
  const list: Suggestion[] = [];
  if (weak?.tab) {
    const { position, direction } = weak.tab;
    const taken = inputs.tabs ?? [];
    const id = freshOutletId('T', taken);
    list.push({
      id: 'tab-beside-line',
      label: `Overflow tab beside ${weak.id}`,
      why: 'What it takes up is drawn through the line, and lays fibres across it.',
      inputs: { ...inputs, tabs: [...taken, defaultTab(id, position, direction, weak.tab.wall)] },
    });
  }
  if (weak && inputs.gates.length > 1)
    list.push({
      id: 'one-gate',
      label: `Only gate ${inputs.gates[0].id}`,
      why: 'Fronts that do not meet leave no line that fibres do not cross.',
      inputs: { ...inputs, gates: inputs.gates.slice(0, 1) },
    });
  if (weak && meltTemperature < resin.melt.max - 1)
    list.push({
      id: 'hotter-melt',
      label: `Melt at ${format(resin.melt.max, '°C', 3)}`,
      why: 'Hotter fronts knit longer; the fibres stay as they lie.',
      inputs: withCycle(inputs, { meltTemperature: resin.melt.max }),
    });
  if (stressed && mouldTemperature < resin.mould.max - 1)
    list.push({
      id: 'hotter-mould',
      label: `Mould at ${format(resin.mould.max, '°C', 3)}`,
      why: 'Layers that freeze more slowly hold less stress.',
      inputs: withCycle(inputs, { mouldTemperature: resin.mould.max, lowerMouldTemperature: null }),
    });
  return list;
}
