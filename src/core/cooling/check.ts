import type { Bounds, Vec3 } from '../geometry/mesh';
import type { SurfaceTree } from '../geometry/surfaceTree';
import type { Cooling, CoolingLine } from '../model/cooling';
import { alongLine, circuitOf, JOINED, type CircuitFault } from '../solvers/cool/circuit';
import { runCoolant } from '../solvers/cool/coolant';
import { lineLength } from '../solvers/cool/passages';
import { format } from '../units/reader';
import { boxHolds } from './block';
import { metalOf } from './metals';

/** Something about the cooling: a problem keeps it from being calculated, a watch does not. */
export interface CoolingFinding {
  severity: 'problem' | 'watch';
  kind:
    | CircuitFault['kind']
    | 'metal'
    | 'block'
    | 'cavity'
    | 'thin-wall'
    | 'crossing'
    | 'close'
    | 'face'
    | 'outside'
    | 'keep-out';
  line: string | null;
  message: string;
  remedy: string;
  place: Vec3 | null;
}

/** Steel that should stay between a channel and the cavity, another channel and the outside, in bores. */
const WALL = { cavity: 1, channel: 0.6, face: 0.6 };
/** Faults of flow that only say that it is not good. */
const MILD = new Set<CircuitFault['kind']>(['loose-end-mark']);

/** What needs neither part nor grid: metals, circuits and what the coolant does in them. */
export function checkCircuits(cooling: Cooling): CoolingFinding[] {
  const findings: CoolingFinding[] = [];
  const metal = (name: string) =>
    findings.push({
      severity: 'problem',
      kind: 'metal',
      line: null,
      message: `The metal of ${name} is not in the library.`,
      remedy: 'Choose another one.',
      place: null,
    });
  if (!metalOf(cooling.steel)) metal('the block');
  for (const insert of cooling.inserts) if (!metalOf(insert.metal)) metal(insert.name);
  const circuit = circuitOf(cooling);
  const flow = circuit.supplies.length
    ? runCoolant(circuit, cooling.friction, () => 0).faults
    : noFlow(cooling, circuit.faults);
  for (const fault of [...circuit.faults, ...flow])
    findings.push({ ...fault, severity: MILD.has(fault.kind) ? 'watch' : 'problem' });
  return findings;
}

/** Lines without any inlet or outlet. */
function noFlow({ lines }: Cooling, faults: readonly CircuitFault[]): CircuitFault[] {
  if (!lines.length || faults.some((f) => f.kind === 'open-end')) return [];
  return [
    {
      kind: 'no-inlet',
      line: null,
      message: 'The circuits have neither inlet nor outlet.',
      remedy: 'Make the ends of a channel an inlet and an outlet.',
      place: [...lines[0].from],
    },
  ];
}

const at = ({ from, to }: CoolingLine, s: number): Vec3 => from.map((x, d) => x + s * (to[d] - x)) as Vec3;

/** Where bores lie against the cavity (`tree` of its surface), each other, the faces of the block and what is to stay clear. */
export function checkClearances(cooling: Cooling, tree: SurfaceTree, part: Bounds, block: Bounds): CoolingFinding[] {
  const findings: CoolingFinding[] = [];
  const add = (
    severity: CoolingFinding['severity'],
    kind: CoolingFinding['kind'],
    line: CoolingLine | null,
    place: Vec3 | null,
    message: string,
    remedy: string,
  ) => findings.push({ severity, kind, line: line?.id ?? null, message, remedy, place });
  if (!boxHolds(block, part.min) || !boxHolds(block, part.max))
    add(
      'problem',
      'block',
      null,
      null,
      'The mould block does not hold the part.',
      'Make the block larger, or let it size itself.',
    );
  const bores = cooling.lines.filter((l) => l.kind.as !== 'hose' && lineLength(l) > JOINED);
  for (const line of bores) {
    toCavity(line, tree, add);
    toFaces(line, block, add);
    for (const zone of cooling.keepOut) {
      const near = nearestAlong(line, [zone.at[0], zone.at[1], 0], true);
      if (near.off >= zone.radius + line.diameter / 2) continue;
      add(
        'watch',
        'keep-out',
        line,
        at(line, near.share),
        `Line ${line.id} runs through a spot that is to stay clear.`,
        'Move the line, or the spot.',
      );
    }
  }
  bores.forEach((a, i) => {
    for (const b of bores.slice(i + 1)) between(a, b, add);
  });
  return findings;
}

type Add = (
  severity: CoolingFinding['severity'],
  kind: CoolingFinding['kind'],
  line: CoolingLine | null,
  place: Vec3 | null,
  message: string,
  remedy: string,
) => void;

function toCavity(line: CoolingLine, tree: SurfaceTree, add: Add): void {
  const n = Math.max(2, Math.ceil(lineLength(line) / (line.diameter / 4)));
  let [least, where] = [Infinity, 0];
  for (let k = 0; k <= n; k++) {
    const p = at(line, k / n);
    tree.closest(p[0], p[1], p[2]);
    const wall = tree.inside(p[0], p[1], p[2]) ? -tree.distance : tree.distance - line.diameter / 2;
    if (wall < least) [least, where] = [wall, k / n];
  }
  if (least <= 0)
    add(
      'problem',
      'cavity',
      line,
      at(line, where),
      `Line ${line.id} runs into the cavity.`,
      'Move it away from the part, or make a well shorter.',
    );
  else if (least < WALL.cavity * line.diameter)
    add(
      'watch',
      'thin-wall',
      line,
      at(line, where),
      `Only ${format(least, 'mm', 2)} of steel lie between line ${line.id} and the cavity.`,
      `Keep at least its diameter, ${format(line.diameter, 'mm', 2)}: thinner walls crack and show on the part.`,
    );
}

function toFaces(line: CoolingLine, block: Bounds, add: Add): void {
  const ends = [line.from, line.to];
  const out = ends.find((p) => !boxHolds(block, p, -1e-4));
  if (out)
    return add(
      'problem',
      'outside',
      line,
      [...out],
      `Line ${line.id} lies outside the mould block.`,
      'Shorten it to the face of the block, or make the block larger.',
    );
  for (let d = 0; d < 3; d++)
    for (const [face, sign] of [
      [block.min[d], 1],
      [block.max[d], -1],
    ] as const) {
      // A bore may come out of a face; beside one it needs steel.
      const gaps = ends.map((p) => sign * (p[d] - face) - line.diameter / 2);
      if (
        Math.min(...gaps) >= WALL.face * line.diameter ||
        Math.abs(line.from[d] - line.to[d]) > 0.5 * lineLength(line)
      )
        continue;
      add(
        'watch',
        'face',
        line,
        at(line, gaps[0] < gaps[1] ? 0 : 1),
        `Line ${line.id} runs ${format(Math.max(0, Math.min(...gaps)), 'mm', 2)} under a face of the block.`,
        'Move it inwards, or make the block larger.',
      );
      return;
    }
}

function nearestAlong(line: CoolingLine, p: Vec3, flat: boolean): { share: number; off: number } {
  if (!flat) return alongLine(line, p);
  const down = (q: readonly number[]): Vec3 => [q[0], q[1], 0];
  return alongLine({ from: down(line.from), to: down(line.to) }, p);
}

/** Bores that are joined may meet; others must keep apart. */
function between(a: CoolingLine, b: CoolingLine, add: Add): void {
  const joined = [
    [a, b],
    [b, a],
  ].some(([x, y]) => [x.from, x.to].some((p) => alongLine(y, p).off < JOINED));
  if (joined) return;
  const { off, s } = betweenSegments(a, b);
  const wall = off - (a.diameter + b.diameter) / 2;
  const least = WALL.channel * Math.min(a.diameter, b.diameter);
  if (wall >= least) return;
  if (wall <= 0)
    add(
      'problem',
      'crossing',
      a,
      at(a, s),
      `Lines ${a.id} and ${b.id} run into each other.`,
      'Move one of them, or let an end of one lie on the other to join them.',
    );
  else
    add(
      'watch',
      'close',
      a,
      at(a, s),
      `Only ${format(wall, 'mm', 2)} of steel lie between lines ${a.id} and ${b.id}.`,
      'Move one of them.',
    );
}

/** Least distance of two straight stretches and its place along the first (Ericson, Real-Time Collision Detection, 5.1.9). */
function betweenSegments(a: CoolingLine, b: CoolingLine): { off: number; s: number } {
  const sub = (p: readonly number[], q: readonly number[]) => p.map((x, d) => x - q[d]);
  const dot = (p: readonly number[], q: readonly number[]) => p[0] * q[0] + p[1] * q[1] + p[2] * q[2];
  const [u, v, w] = [sub(a.to, a.from), sub(b.to, b.from), sub(a.from, b.from)];
  const [uu, vv, uv, uw, vw] = [dot(u, u), dot(v, v), dot(u, v), dot(u, w), dot(v, w)];
  const clamp = (x: number) => Math.min(1, Math.max(0, x));
  const bottom = uu * vv - uv * uv;
  let s = bottom > 1e-18 ? clamp((uv * vw - uw * vv) / bottom) : 0;
  const t = clamp((uv * s + vw) / vv);
  s = clamp((uv * t - uw) / uu);
  return { off: Math.hypot(...w.map((x, d) => x + s * u[d] - t * v[d])), s };
}
