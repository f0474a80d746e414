import { z } from 'zod';
import { real } from '../numerics/real';
import { vec3Schema } from '../geometry/schemas';
import type { Vec3 } from '../geometry/mesh';
import { distance, dot, normalised, sub } from '../geometry/vec';
import type { PressureGrid } from '../grid/pressureGrid';
import { relaxationTime } from '../material/stressForm';
import type { ViscosityModel } from '../material/viscosity';
import { curvesThrough } from './curves';

/** Where two fronts met. Angles in rad, SI. */
export const weldLineSchema = z.object({
  id: z.string(),
  /** Points along it, m. */
  points: z.array(vec3Schema),
  length: real,
  /** Angle between the fronts: 0 head on, pi side by side. Mean and smallest along the line. */
  angle: real,
  smallestAngle: real,
  /** Of the colder front, K: mean and lowest. */
  temperature: real,
  lowestTemperature: real,
  /** Largest pressure on the line by the end of filling, Pa. */
  pressure: real,
  /** When the fronts first met there, s. */
  time: real,
  /** How far melt has gone through it after the fronts met, mean along it, m; missing in runs of earlier versions. */
  flowedThrough: real.optional(),
  /** Estimated share of the strength of the sound wall, 0..1. */
  strength: real,
});
export type WeldLine = z.infer<typeof weldLineSchema>;

export interface WeldInput {
  grid: PressureGrid;
  fillTime: ArrayLike<number>;
  frontDirection: ArrayLike<number>;
  frontTemperature: ArrayLike<number>;
  /** At the end of filling, Pa. */
  pressure: ArrayLike<number>;
  viscosity: ViscosityModel;
  noFlowTemperature: number;
  mouldTemperature: number;
  /** m2/s */
  diffusivity: number;
}

/** Fronts that meet at more than this run on side by side: no line is left (135 degrees). */
export const WELD_ANGLE = (135 * Math.PI) / 180;
/** Directions must point this much towards each other for the fronts to meet, and both together so much. */
const TOWARDS = 0.08;
const CONVERGING = 0.45;
const SLIVER = 0.08;
/**
 * Lines shorter than this many blocks are noise, unless so many fronts met on them that they are not, or they close the
 * section that they lie in.
 */
const SHORTEST = 3;
const CLEAR = 22;
const SHORT = 1;
/** A section is narrow when nothing of it is farther from its middle than so many blocks; what lies beside it is looked at as far as. */
const SECTION = 2;
const BESIDE_SECTION = 4;

interface Meeting {
  position: Vec3;
  /** From both sides: the first one's front ran towards the second. */
  nodes: [number, number];
  /** Node between them in which the fronts met; -1 where they lie side by side. */
  middle: number;
  angle: number;
}

/** Weld lines as curves, the longest first. */
export function weldLines(input: WeldInput): WeldLine[] {
  const { grid } = input;
  const meetings = findMeetings(input);
  const groups = connected(meetings, grid).sort((a, b) => b.length - a.length);
  const lines: WeldLine[] = [];
  const closed: Vec3[] = [];
  for (const group of groups) {
    const curves = curvesThrough(
      group.map((m) => m.position),
      grid.spacing,
    ).filter(({ length, members }) => length >= (members.length >= CLEAR ? SHORT : SHORTEST) * grid.spacing);
    for (const curve of curves)
      lines.push(
        describe(
          curve.members.map((k) => group[k]),
          curve.points,
          curve.length,
          input,
        ),
      );
    // A rod, a ring or a rib is narrower than three blocks, and its weld line goes right through.
    const middle = middleOf(group);
    const again = closed.some((c) => distance(c, middle) < SECTION * grid.spacing);
    if (!curves.length && !again && closesSection(group, middle, input)) {
      closed.push(middle);
      const points = across(group);
      lines.push(
        describe(group, points, Math.max(grid.spacing, distance(points[0], points[points.length - 1])), input),
      );
    }
  }
  lines.sort((a, b) => b.length - a.length);
  return lines.map((line, k) => ({ ...line, id: `W${k + 1}` }));
}

function findMeetings(input: WeldInput): Meeting[] {
  const { grid, fillTime, frontDirection: d } = input;
  const meetings: Meeting[] = [];
  const whole = (i: number) => isWhole(grid, d, i);
  const consider = (a: number, b: number, e: Vec3, middle: number) => {
    if (!whole(a) || !whole(b)) return;
    const towards = d[3 * a] * e[0] + d[3 * a + 1] * e[1] + d[3 * a + 2] * e[2];
    const against = -(d[3 * b] * e[0] + d[3 * b + 1] * e[1] + d[3 * b + 2] * e[2]);
    if (!(towards > TOWARDS && against > TOWARDS && towards + against > CONVERGING)) return;
    const dot = d[3 * a] * d[3 * b] + d[3 * a + 1] * d[3 * b + 1] + d[3 * a + 2] * d[3 * b + 2];
    const angle = Math.PI - Math.acos(Math.max(-1, Math.min(1, dot)));
    if (angle > WELD_ANGLE) return;
    meetings.push({ position: between(grid, a, b, middle), nodes: [a, b], middle, angle });
  };
  for (let l = 0; l < grid.linkFrom.length; l++)
    if (grid.linkAxis[l] < 3) consider(grid.linkFrom[l], grid.linkTo[l], AXES[grid.linkAxis[l]], -1);
  // Fronts that met inside a node: its neighbours on opposite or adjacent sides filled before it.
  for (let i = 0; i < grid.n; i++) {
    if (!(grid.volume[i] > SLIVER * grid.spacing ** 3) || !(fillTime[i] > 0)) continue;
    const sides = neighboursOf(grid, i).filter(({ node }) => fillTime[i] >= fillTime[node]);
    for (let p = 0; p < sides.length; p++)
      for (let q = 0; q < p; q++) {
        const [a, b] = [sides[p], sides[q]];
        const e = normalised([0, 1, 2].map((k) => b.way[k] - a.way[k]) as Vec3);
        consider(a.node, b.node, e, i);
        consider(b.node, a.node, [-e[0], -e[1], -e[2]], i);
      }
  }
  return meetings;
}

/** Nodes that hold enough to have a front of their own. */
const isWhole = (grid: PressureGrid, direction: ArrayLike<number>, i: number) =>
  grid.volume[i] > SLIVER * grid.spacing ** 3 && direction[3 * i] === direction[3 * i];

const AXES: readonly Vec3[] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];

/** Neighbours of a node with the ways to them, in blocks. */
function neighboursOf(grid: PressureGrid, i: number): { node: number; way: Vec3 }[] {
  const found: { node: number; way: Vec3 }[] = [];
  for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
    const link = grid.rowLink[k];
    const axis = grid.linkAxis[link];
    if (axis > 2) continue;
    const sign = grid.linkFrom[link] === i ? 1 : -1;
    found.push({ node: grid.rowNode[k], way: AXES[axis].map((x) => sign * x) as Vec3 });
  }
  return found;
}

/**
 * Whether a group lies right across a narrow section: taken out with what is near, it leaves parts of the body that hang
 * together no more, and melt came out of every one of them.
 */
function closesSection(
  group: readonly Meeting[],
  middle: Vec3,
  { grid, fillTime, frontDirection }: WeldInput,
): boolean {
  const nodes = [...new Set(group.flatMap((m) => (m.middle >= 0 ? [...m.nodes, m.middle] : m.nodes)))];
  const away = (i: number) => Math.hypot(...middle.map((x, k) => grid.centroid[3 * i + k] - x)) / grid.spacing;
  const near = new Set(nodes);
  for (const i of near)
    for (const { node } of neighboursOf(grid, i))
      if (away(node) < BESIDE_SECTION && isWhole(grid, frontDirection, node)) near.add(node);
  const beyond = [...near].filter((i) => away(i) >= SECTION);
  /** Mean time at which a part filled, of those that hang together beyond the section. */
  const filled: number[] = [];
  const seen = new Set<number>();
  for (const start of beyond) {
    if (seen.has(start)) continue;
    const part = new Set([start]);
    for (const i of part) {
      seen.add(i);
      for (const { node } of neighboursOf(grid, i)) if (near.has(node) && away(node) >= SECTION) part.add(node);
    }
    filled.push(meanOf(part, (i) => fillTime[i]));
  }
  const met = meanOf(nodes, (i) => fillTime[i]);
  return filled.length > 1 && filled.every((t) => t < met);
}

const middleOf = (group: readonly Meeting[]) =>
  [0, 1, 2].map((k) => group.reduce((s, m) => s + m.position[k], 0) / group.length) as Vec3;

function meanOf(nodes: Iterable<number>, value: (i: number) => number): number {
  let [sum, count] = [0, 0];
  for (const i of nodes) {
    sum += value(i);
    count++;
  }
  return sum / count;
}

/** The two meetings of a group farthest apart, as the ends of a straight line. */
function across(group: readonly Meeting[]): Vec3[] {
  let ends: [Vec3, Vec3] = [group[0].position, group[0].position];
  let most = 0;
  for (const a of group)
    for (const b of group) {
      const apart = distance(a.position, b.position);
      if (apart > most) [most, ends] = [apart, [a.position, b.position]];
    }
  return ends;
}

function between(grid: PressureGrid, a: number, b: number, middle: number): Vec3 {
  const c = grid.centroid;
  if (middle >= 0) return [c[3 * middle], c[3 * middle + 1], c[3 * middle + 2]];
  return [0, 1, 2].map((k) => 0.5 * (c[3 * a + k] + c[3 * b + k])) as Vec3;
}

/** Meetings that share a node or lie on linked nodes. */
function connected(meetings: Meeting[], grid: PressureGrid): Meeting[][] {
  const atNode = new Map<number, number[]>();
  meetings.forEach((m, k) => {
    for (const i of m.nodes) atNode.set(i, [...(atNode.get(i) ?? []), k]);
  });
  const seen = new Uint8Array(meetings.length);
  const groups: Meeting[][] = [];
  for (let start = 0; start < meetings.length; start++) {
    if (seen[start]) continue;
    seen[start] = 1;
    const queue = [start];
    for (let q = 0; q < queue.length; q++) {
      for (const i of meetings[queue[q]].nodes) {
        const near = [i];
        for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) near.push(grid.rowNode[k]);
        for (const j of near)
          for (const k of atNode.get(j) ?? []) {
            if (seen[k]) continue;
            seen[k] = 1;
            queue.push(k);
          }
      }
    }
    groups.push(queue.map((k) => meetings[k]));
  }
  return groups;
}

function describe(own: Meeting[], points: Vec3[], length: number, input: WeldInput): WeldLine {
  const { fillTime, frontTemperature, pressure } = input;
  const mean = (f: (m: Meeting) => number) => own.reduce((s, m) => s + f(m), 0) / own.length;
  const least = (f: (m: Meeting) => number) => own.reduce((s, m) => Math.min(s, f(m)), Infinity);
  const colder = (m: Meeting) => Math.min(frontTemperature[m.nodes[0]], frontTemperature[m.nodes[1]]);
  const temperature = mean(colder);
  return {
    id: '',
    points,
    length,
    angle: mean((m) => m.angle),
    smallestAngle: least((m) => m.angle),
    temperature,
    lowestTemperature: least(colder),
    pressure: own.reduce((s, m) => Math.max(s, pressure[m.nodes[0]] || 0, pressure[m.nodes[1]] || 0), 0),
    time: least((m) => Math.max(fillTime[m.nodes[0]], fillTime[m.nodes[1]])),
    strength: weldStrength(
      temperature,
      mean((m) => 0.5 * input.grid.thickness[m.nodes[0]]),
      input,
    ),
  };
}

/** Has every node within so many spacings of a line looked at, with the direction of the line there, point by point. */
export function besideLine(
  grid: PressureGrid,
  points: readonly Vec3[],
  spacings: number,
  look: (node: number, along: Vec3) => void,
): void {
  const reach = spacings * grid.spacing;
  const { centroid: c } = grid;
  points.forEach((p, k) => {
    const [before, after] = [points[Math.max(0, k - 1)], points[Math.min(points.length - 1, k + 1)]];
    if (!(distance(before, after) > 0)) return;
    const along = normalised(sub(after, before));
    for (let i = 0; i < grid.n; i++)
      if (Math.hypot(c[3 * i] - p[0], c[3 * i + 1] - p[1], c[3 * i + 2] - p[2]) <= reach) look(i, along);
  });
}

/** Nodes so many spacings from a line say what has flowed through it. */
const BESIDE = 0.8;

/**
 * How far melt has gone through a line, square to it, since the fronts met there: mean along it, m. `passed` of every node, 3 each.
 * The notch that the fronts left in the skin stays where it was.
 */
export function flowedThrough(grid: PressureGrid, points: readonly Vec3[], passed: ArrayLike<number>): number {
  let [sum, weight] = [0, 0];
  besideLine(grid, points, BESIDE, (i, along) => {
    const way: Vec3 = [passed[3 * i], passed[3 * i + 1], passed[3 * i + 2]];
    sum += grid.volume[i] * Math.sqrt(Math.max(0, dot(way, way) - dot(way, along) ** 2));
    weight += grid.volume[i];
  });
  return weight > 0 ? sum / weight : 0;
}

/**
 * Share of the wall's strength that the two fronts regain by interdiffusion while they cool.
 *
 * Degree of autohesion in each layer: (Integral dt / t_r(T))^(1/4), at most 1 (Wool & O'Connor, J. Appl.
 * Phys. 52 (1981) 5953; Kim & Suh, Polym. Eng. Sci. 26 (1986) 1200), with the melt's relaxation time
 * eta0 / tau* for the reptation time t_r; diffusion ends at the no-flow temperature. Temperatures are
 * those of a plate that starts at the front's temperature between walls at the mould's (Carslaw &
 * Jaeger 1959, section 3.4). The estimate is the mean over the wall. It knows no notch at the surface,
 * no fibres and no flow through the line after the meeting.
 *
 * @param temperature of the fronts, K
 * @param halfWall m
 */
export function weldStrength(
  temperature: number,
  halfWall: number,
  material: Pick<WeldInput, 'viscosity' | 'noFlowTemperature' | 'mouldTemperature' | 'diffusivity'>,
): number {
  const { viscosity, noFlowTemperature, mouldTemperature, diffusivity } = material;
  if (temperature <= noFlowTemperature) return 0;
  const N = 24;
  const unit = halfWall ** 2 / diffusivity;
  let sum = 0;
  for (let k = 0; k < N; k++) {
    const zeta = (k + 0.5) / N;
    let healed = 0;
    let t = 0;
    // Steps grow with time: the skin is cold within a thousandth of the cooling time.
    for (let s = 0; s < 200 && healed < 1; s++) {
      const dt = unit * 2e-5 * Math.pow(1.055, s);
      const share = plateTemperature(zeta, (t + dt / 2) / unit);
      const T = mouldTemperature + share * (temperature - mouldTemperature);
      if (T < noFlowTemperature) break;
      const relaxation = relaxationTime(viscosity, T, 0);
      healed = relaxation > 0 ? healed + dt / relaxation : 1;
      t += dt;
    }
    sum += Math.min(1, Math.pow(healed, 0.25)) / N;
  }
  return sum;
}

/** (T - T_wall) / (T_0 - T_wall) in a plate at place zeta (0 middle, 1 wall) and Fourier number of the half wall. */
export function plateTemperature(zeta: number, fourier: number): number {
  let sum = 0;
  for (let n = 0; n < 60; n++) {
    const lambda = (n + 0.5) * Math.PI;
    const decay = Math.exp(-lambda * lambda * fourier);
    if (n > 0 && decay < 1e-12) break;
    sum += ((n % 2 ? -2 : 2) / lambda) * decay * Math.cos(lambda * zeta);
  }
  return Math.max(0, Math.min(1, sum));
}
