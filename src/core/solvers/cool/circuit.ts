import type { Vec3 } from '../../geometry/mesh';
import { coolantById } from '../../material/others';
import { glycolLaw, lawOf, waterLaw, type CoolantLaw } from '../../material/coolantLaw';
import { UnionFind } from '../../numerics/unionFind';
import type { CoolantChoice, Cooling, CoolingLine, Supply } from '../../model/cooling';
import type { PumpElement } from './network';
import { boreOf, isWell, lineLength, passagesOf } from './passages';
import { bendLoss, stepLoss, type Pipe } from './friction';

/** Ends nearer than this are joined, m. */
export const JOINED = 5e-4;
/** Where three or more lines meet, for each of them: an estimate between straight on and round the corner. */
const TEE_LOSS = 0.5;
const HOSE_ROUGHNESS = 2e-6;

/** A stretch of a line between two nodes of the circuit. */
export interface CircuitElement {
  /** Id of the line; null for the hose of a supply. */
  line: string | null;
  from: number;
  to: number;
  pipes: Pipe[];
  rise: number;
  /** Where it lies in the block and what wets its wall; null outside. A well lies from its foot to its tip. */
  wet: { from: Vec3; to: Vec3; bore: number; pipe: Pipe } | null;
}

/** Something about the circuits that is not as it should be. */
export interface CircuitFault {
  kind:
    | 'open-end'
    | 'dead-end'
    | 'slow'
    | 'no-inlet'
    | 'no-outlet'
    | 'well-foot'
    | 'no-length'
    | 'loose-end-mark'
    | 'coolant';
  line: string | null;
  message: string;
  remedy: string;
  place: Vec3 | null;
}

export interface Circuit {
  nNodes: number;
  elements: CircuitElement[];
  pumps: PumpElement[];
  returns: number[];
  /** Supply of each pump, and its coolant. */
  supplies: { supply: Supply; law: CoolantLaw; out: number; back: number }[];
  faults: CircuitFault[];
  /** Lines of circuits without a way in or out, which `faults` tells once for each circuit. */
  still: ReadonlySet<string>;
}

/** Properties of a chosen coolant; undefined when it is not in the library. */
export function coolantLaw(choice: CoolantChoice): CoolantLaw | undefined {
  if (typeof choice === 'string') {
    if (choice === 'water') return waterLaw;
    const glycol = /^glycol-(\d+)$/.exec(choice);
    if (glycol) return glycolLaw(Number(glycol[1]) / 100);
    const known = coolantById(choice);
    return known && lawOf(known);
  }
  return 'glycol' in choice ? glycolLaw(choice.glycol) : lawOf(choice);
}

const away = (a: readonly number[], b: readonly number[]) => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);

/** Place of a point along a line, 0..1, and how far off it is. */
export function alongLine(
  { from, to }: Pick<CoolingLine, 'from' | 'to'>,
  p: readonly number[],
): { share: number; off: number } {
  const d = to.map((x, i) => x - from[i]);
  const squared = d[0] ** 2 + d[1] ** 2 + d[2] ** 2;
  const dot = d[0] * (p[0] - from[0]) + d[1] * (p[1] - from[1]) + d[2] * (p[2] - from[2]);
  const share = squared > 0 ? Math.min(1, Math.max(0, dot / squared)) : 0;
  return {
    share,
    off: away(
      p,
      from.map((x, i) => x + share * d[i]),
    ),
  };
}

interface Stretch {
  line: CoolingLine;
  ends: [number, number];
  points: [Vec3, Vec3];
}

/** Nodes and elements of the circuits as they are drawn: lines join where an end meets another line. */
export function circuitOf(cooling: Cooling): Circuit {
  const faults: CircuitFault[] = [];
  const fault = (
    kind: CircuitFault['kind'],
    line: string | null,
    message: string,
    remedy: string,
    place: Vec3 | null = null,
  ) => faults.push({ kind, line, message, remedy, place });
  const lines = cooling.lines.filter((line) => {
    if (lineLength(line) > JOINED) return true;
    fault('no-length', line.id, `Line ${line.id} has no length.`, 'Move one of its ends, or delete it.', [
      ...line.from,
    ]);
    return false;
  });
  const points: Vec3[] = [];
  const nodeAt = (p: readonly number[]): number => {
    const found = points.findIndex((q) => away(p, q) < JOINED);
    return found >= 0 ? found : points.push([p[0], p[1], p[2]]) - 1;
  };
  const wells = lines.filter(isWell);
  const stretches = cutAtJoints(lines, nodeAt);
  const elements: CircuitElement[] = [];
  const touching = (node: number) => stretches.filter((s) => s.ends.includes(node));
  const wellEnds = new Set<number>();
  for (const well of wells) {
    const foot = nodeAt(well.from);
    const at = touching(foot);
    if (at.length !== 2) {
      fault(
        'well-foot',
        well.id,
        `${well.kind.as === 'baffle' ? 'Baffle' : 'Bubbler'} ${well.id} does not stand on a channel that goes on behind it.`,
        'Put its foot on a channel, away from ends and branches.',
        [...well.from],
      );
      continue;
    }
    // The blade, or the plug around the tube, parts the channel: from here the way leads through the well.
    const beyond = points.push([...points[foot]]) - 1;
    at[1].ends[at[1].ends.indexOf(foot)] = beyond;
    wellEnds.add(foot).add(beyond);
    const { pipes, wet } = passagesOf(well, lineLength(well), cooling.roughness, 0);
    elements.push({
      line: well.id,
      from: foot,
      to: beyond,
      pipes,
      rise: 0,
      wet: wet && { from: [...well.from], to: [...well.to], bore: well.diameter, pipe: wet },
    });
  }
  const up = upOf(cooling.down);
  const losses = bendsOf(stretches, wellEnds);
  stretches.forEach((s, k) => {
    const [a, b] = s.points;
    const length = away(a, b);
    const { pipes, wet } = passagesOf(s.line, length, cooling.roughness, losses[k]);
    const rise = (b[0] - a[0]) * up[0] + (b[1] - a[1]) * up[1] + (b[2] - a[2]) * up[2];
    const at = wet && { from: a, to: b, bore: s.line.diameter, pipe: wet };
    elements.push({ line: s.line.id, from: s.ends[0], to: s.ends[1], pipes, rise, wet: at });
  });
  return connectSupplies(cooling, points, stretches, wellEnds, elements, faults);
}

/** Channels and hoses, cut where the ends of others meet them. */
function cutAtJoints(lines: readonly CoolingLine[], nodeAt: (p: readonly number[]) => number): Stretch[] {
  const feet = lines.flatMap((l) => (isWell(l) ? [l.from] : [l.from, l.to]));
  return lines
    .filter((l) => !isWell(l))
    .flatMap((line) => {
      const length = lineLength(line);
      const shares = [0, 1];
      if (line.kind.as === 'channel')
        for (const p of feet) {
          const { share, off } = alongLine(line, p);
          const inside = share * length > JOINED && (1 - share) * length > JOINED;
          if (off < JOINED && inside && !shares.some((s) => Math.abs(s - share) * length < JOINED)) shares.push(share);
        }
      shares.sort((a, b) => a - b);
      const at = shares.map((s) => line.from.map((x, d) => x + s * (line.to[d] - x)) as Vec3);
      return at.slice(1).map((b, k): Stretch => ({ line, ends: [nodeAt(at[k]), nodeAt(b)], points: [at[k], b] }));
    });
}

/** Loss of bends, branches and changes of section at the ends of every stretch, for its own velocity. */
function bendsOf(stretches: readonly Stretch[], wellEnds: ReadonlySet<number>): number[] {
  const losses = stretches.map(() => 0);
  const at = new Map<number, number[]>();
  stretches.forEach((s, k) => s.ends.forEach((node) => at.set(node, [...(at.get(node) ?? []), k])));
  const outward = (k: number, node: number) => {
    const { ends, points } = stretches[k];
    const [a, b] = ends[0] === node ? points : [points[1], points[0]];
    const length = away(a, b);
    return b.map((x, d) => (x - a[d]) / length);
  };
  for (const [node, list] of at) {
    if (wellEnds.has(node) || list.length < 2) continue;
    if (list.length > 2) {
      for (const k of list) losses[k] += TEE_LOSS;
      continue;
    }
    const [i, j] = list;
    const [u, v] = [outward(i, node), outward(j, node)];
    const straight = Math.max(-1, Math.min(1, -(u[0] * v[0] + u[1] * v[1] + u[2] * v[2])));
    const narrow = stretches[i].line.diameter <= stretches[j].line.diameter ? i : j;
    const ratio = Math.min(
      stretches[i].line.diameter / stretches[j].line.diameter,
      stretches[j].line.diameter / stretches[i].line.diameter,
    );
    const hose = [i, j].some((k) => stretches[k].line.kind.as === 'hose');
    // A hose turns gently; its connector is in its own loss.
    losses[narrow] += (hose ? 0 : bendLoss(Math.acos(straight))) + stepLoss(ratio * ratio);
  }
  return losses;
}

/** Joins inlets and outlets to their supplies and tells what is left open. */
function connectSupplies(
  cooling: Cooling,
  points: Vec3[],
  stretches: readonly Stretch[],
  wellEnds: ReadonlySet<number>,
  elements: CircuitElement[],
  faults: CircuitFault[],
): Circuit {
  const degree = new Int32Array(points.length + 4 * cooling.supplies.length);
  for (const s of stretches) for (const node of s.ends) degree[node]++;
  for (const node of wellEnds) degree[node]++;
  const marked = new Set<number>();
  const merged = new Map<number, number>();
  const pumps: PumpElement[] = [];
  const returns: number[] = [];
  const supplies: Circuit['supplies'] = [];
  let nNodes = points.length;
  for (const supply of cooling.supplies) {
    const law = coolantLaw(supply.coolant);
    if (!law) {
      faults.push({
        kind: 'coolant',
        line: null,
        message: `The coolant of supply ${supply.id} is not in the library.`,
        remedy: 'Choose another coolant.',
        place: null,
      });
      continue;
    }
    const [out, spread, gather, back] = [nNodes++, nNodes++, nNodes++, nNodes++];
    const hose = boreOf(supply.hose.length, supply.hose.diameter, HOSE_ROUGHNESS, 1);
    let [nIn, nOut] = [0, 0];
    for (const end of cooling.ends) {
      if (end.as === 'plug' || (end.supply ?? cooling.supplies[0].id) !== supply.id) continue;
      const node = points.findIndex((p, i) => i < degree.length && away(p, end.at) < JOINED);
      if (node < 0) continue;
      marked.add(node);
      merged.set(node, end.as === 'inlet' ? spread : gather);
      if (end.as === 'inlet') nIn++;
      else nOut++;
    }
    if (!nIn && !nOut) continue;
    const missing = (what: 'inlet' | 'outlet') =>
      faults.push({
        kind: what === 'inlet' ? 'no-inlet' : 'no-outlet',
        line: null,
        message: `Supply ${supply.id} has no ${what}.`,
        remedy: `Make the open end of a channel its ${what}.`,
        place: null,
      });
    if (!nIn) missing('inlet');
    if (!nOut) missing('outlet');
    const way = { line: null, pipes: [hose], rise: 0, wet: null };
    elements.push({ ...way, from: out, to: spread }, { ...way, from: gather, to: back });
    pumps.push({ node: out, pump: supply.pump });
    returns.push(back);
    supplies.push({ supply, law, out, back });
  }
  for (const end of cooling.ends) {
    const node = points.findIndex((p) => away(p, end.at) < JOINED);
    if (node >= 0) marked.add(node);
    else
      faults.push({
        kind: 'loose-end-mark',
        line: null,
        message: `The ${end.as} at ${end.at.map((x) => (1000 * x).toFixed(1)).join(', ')} mm is not on any line.`,
        remedy: 'Delete it, or draw a line to it.',
        place: [...end.at],
      });
  }
  const sided = oneSided(cooling, points, nNodes, elements);
  faults.push(...sided.faults);
  for (const s of stretches)
    s.ends.forEach((node, e) => {
      if (degree[node] > 1 || marked.has(node)) return;
      const end = s.points[e];
      faults.push({
        kind: 'open-end',
        line: s.line.id,
        message: `Line ${s.line.id} has an open end.`,
        remedy: 'Make it an inlet, an outlet or a plug, join a hose, or draw on from it.',
        place: [...end],
      });
    });
  const at = (node: number) => merged.get(node) ?? node;
  return {
    nNodes,
    elements: elements.map((e) => ({ ...e, from: at(e.from), to: at(e.to) })),
    pumps,
    returns,
    supplies,
    faults,
    still: sided.still,
  };
}

/** Lines that hang together and have an inlet but no outlet, or the other way round: nothing flows there. */
function oneSided(
  { ends }: Cooling,
  points: Vec3[],
  nNodes: number,
  elements: readonly CircuitElement[],
): { faults: CircuitFault[]; still: Set<string> } {
  const still = new Set<string>();
  const sets = new UnionFind(nNodes);
  // Hoses of the supplies, which are no lines, join everything.
  for (const { line, from, to } of elements) if (line !== null) sets.union(from, to);
  const has = new Map<number, { inlet: boolean; outlet: boolean; place: Vec3 }>();
  for (const end of ends) {
    if (end.as === 'plug') continue;
    const node = points.findIndex((p) => away(p, end.at) < JOINED);
    if (node < 0) continue;
    const own = has.get(sets.find(node)) ?? { inlet: false, outlet: false, place: end.at };
    own[end.as] = true;
    has.set(sets.find(node), own);
  }
  // Where all of a supply's ends are of one kind, that has been told.
  const [inlets, outlets] = [...has.values()].reduce(([i, o], h) => [i || h.inlet, o || h.outlet], [false, false]);
  if (!inlets || !outlets) return { faults: [], still };
  const faults = [...has].flatMap(([root, { inlet, outlet, place }]): CircuitFault[] => {
    if (inlet && outlet) return [];
    const lines = elements.flatMap((e) => (e.line !== null && sets.find(e.from) === root ? [e.line] : []));
    lines.forEach((l) => still.add(l));
    const line = lines[0] ?? null;
    const [there, lacking] = inlet ? ['inlets', 'outlet'] : ['outlets', 'inlet'];
    return [
      {
        kind: inlet ? 'no-outlet' : 'no-inlet',
        line,
        message: `The circuit of line ${line} has ${there} but no ${lacking}: nothing flows, and it takes up no heat.`,
        remedy: `Make one of its ends an ${lacking}.`,
        place: [...place],
      },
    ];
  });
  return { faults, still };
}

const upOf = (down: Cooling['down']): Vec3 => {
  const up: Vec3 = [0, 0, 0];
  up['xyz'.indexOf(down[1])] = down[0] === '-' ? 1 : -1;
  return up;
};
