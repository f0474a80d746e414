import { z } from 'zod';
import type { TriangleMesh, Vec3 } from '../geometry/mesh';
import { vec3Schema } from '../geometry/schemas';
import { cross, dot, normalised, sub, vertexAt } from '../geometry/vec';
import { SurfaceTree } from '../geometry/surfaceTree';
import { nominalWall } from '../grid/lattice';
import { STRAIN_AT_YIELD, strengthOf } from '../material/solid';
import { openingOf } from '../model/body';
import { defaultTab } from '../model/outlet';
import type { PressureGrid } from '../grid/pressureGrid';
import { loadOf, LOAD_AXES } from '../model/fibres';
import type { Inputs } from '../model/study';
import { real } from '../numerics/real';
import type { FillSettings } from '../setup/settings';
import { PAIRS } from '../solvers/warp/solid';
import { youngAlong } from '../solvers/warp/stress';
import { format, formatNumber } from '../units/units';
import { freshOutletId, withCycle, type Answer, type Suggestion } from './answer';
import type { WallFibres } from './fibreFields';
import { judge, VERDICT_RULES as RULES, worst } from './rules';
import type { ShapeFacts } from './shape';
import type { FibresFound } from './shotFound';
import { besideLine, type WeldLine } from './weldLines';

/** What a run says of the strength of a part with fibres; SI. */
export const strengthFactsSchema = z.object({
  /** What the plastic bears along the flow, and whether the resin's data say so or it is reckoned from its modulus. */
  strength_Pa: real,
  known: z.boolean(),
  load: z.enum(LOAD_AXES),
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
});
export type StrengthFacts = z.infer<typeof strengthFactsSchema>;

/** A load runs along a wall that lies within this of it (cosine between it and the way across). */
const ALONG = 0.5;
/** Nodes so many spacings from a line say how the fibres lie across it. */
const BESIDE = 1.5;

export function strengthFacts(
  part: TriangleMesh,
  grid: PressureGrid,
  { across }: FibresFound,
  own: WallFibres,
  lines: readonly WeldLine[],
  inputs: Inputs,
  { resin }: FillSettings,
): StrengthFacts {
  const load = loadOf(inputs.fibres);
  const stiffness = new Float64Array(PAIRS);
  const youngOf = (i: number, direction: Vec3) => {
    stiffness.set(own.stiffness.subarray(PAIRS * i, PAIRS * i + PAIRS));
    return youngAlong(stiffness, direction);
  };
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
  const [weakest] = lines
    .map((line) => ({ line, ofFibres: acrossLine(grid, line, own, youngOf) }))
    .sort((a, b) => a.line.strength * a.ofFibres - b.line.strength * b.ofFibres);
  return {
    strength_Pa: strengthOf(resin),
    known: resin.strength !== undefined,
    load: inputs.fibres?.load ?? 'x',
    modulus_Pa: sums.alongVolume > 0 ? sums.along / sums.alongVolume : sums.least / sums.volume,
    sheetModulus_Pa: resin.elastic.E1,
    most_Pa: sums.most / sums.volume,
    least_Pa: sums.least / sums.volume,
    weld: weakest ? weldFacts(part, weakest, inputs) : null,
  };
}

function weldFacts(
  part: TriangleMesh,
  { line, ofFibres }: { line: WeldLine; ofFibres: number },
  inputs: Inputs,
): NonNullable<StrengthFacts['weld']> {
  return {
    id: line.id,
    share: line.strength * ofFibres,
    ofFibres,
    healed: line.strength,
    flowedThrough_m: line.flowedThrough ?? 0,
    place_m: line.points[Math.floor(line.points.length / 2)],
    tab: tabBeside(part, line, inputs),
  };
}

/** A tab sits so many wall thicknesses beside the line, on a face that is no steeper to the opening than this (cosine). */
const TAB_BESIDE = 5;
const SIDEWAYS = 0.3;
/** Room that it needs outwards, in walls. */
const TAB_ROOM = 7;

/** Place of the part's sides that is nearest to one beside an end of the line, and the way outwards. */
function tabBeside(part: TriangleMesh, { points }: WeldLine, inputs: Inputs) {
  const wall = nominalWall(part);
  const opening = openingOf(inputs.tool);
  const { positions, triangles } = part;
  const tree = new SurfaceTree(part);
  let best: { position: Vec3; direction: Vec3; off: number } | null = null;
  for (const [end, inner] of [
    [points[0], points[1]],
    [points[points.length - 1], points[points.length - 2]],
  ]) {
    if (!inner) continue;
    const along = normalised(sub(end, inner));
    for (let t = 0; t < triangles.length; t += 3) {
      const corners = [0, 1, 2].map((k) => vertexAt(positions, triangles[t + k]));
      const area = cross(sub(corners[1], corners[0]), sub(corners[2], corners[0]));
      if (!(Math.hypot(...area) > 0)) continue;
      const direction = normalised(area);
      if (Math.abs(dot(direction, opening)) > SIDEWAYS) continue;
      const place = [0, 1, 2].map((d) => (corners[0][d] + corners[1][d] + corners[2][d]) / 3) as Vec3;
      const from = sub(place, end);
      const on = dot(from, along);
      const beside = Math.sqrt(Math.max(0, dot(from, from) - on * on));
      // Outwards past the end of the line, and beside it.
      const off = Math.abs(beside - TAB_BESIDE * wall) + Math.abs(on) + (dot(direction, along) > 0 ? 0 : 1);
      if (best && off >= best.off) continue;
      // Out of the part, not into a hole of it.
      const [x, y, z] = place.map((p, d) => p + 1e-3 * wall * direction[d]);
      if (tree.ray(x, y, z, ...direction, 0, TAB_ROOM * wall) >= 0) continue;
      best = { position: place, direction, off };
    }
  }
  return best && { position: best.position, direction: best.direction, wall };
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
  const { weld, strength_Pa: strength } = facts;
  const stressed = shape ? shape.skinStress_Pa / strength : 0;
  const stiff = facts.modulus_Pa / facts.sheetModulus_Pa;
  const verdicts = {
    weld: weld ? judge(RULES.weldWithFibres, weld.share) : ('good' as const),
    stress: judge(RULES.stressOverStrength, stressed),
    stiff: judge(RULES.alongLoad, stiff),
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
          : null,
    why: reasons(facts, shape, stressed, settings),
    try: tries(verdicts.weld !== 'good' ? weld : null, verdicts.stress !== 'good', inputs, settings),
  };
}

function headlineOf(v: Record<'weld' | 'stress' | 'stiff', string>, weld: StrengthFacts['weld']): string {
  if (v.weld === 'problem') return `Hardly a fibre holds weld line ${weld?.id} together.`;
  if (v.stress === 'problem') return 'Stress frozen in leaves little for a load.';
  if (v.stiff === 'problem') return 'Along the load the fibres do next to nothing.';
  if (v.weld === 'watch') return 'A weld line is the weakest place.';
  if (v.stress === 'watch') return 'Stress frozen in takes a part of the strength.';
  if (v.stiff === 'watch') return 'Along the load it is softer than its data sheet.';
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
  if (fibres)
    list.push(
      `Fibres count as ${formatNumber(fibres.model.aspect >= 1 ? fibres.model.aspect : 1 / fibres.model.aspect, 3)} times as long as thick all over the part: how they break is not followed.`,
    );
  return list;
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
