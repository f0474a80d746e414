import type { ViewGrid } from '@/core/formats/viewGrid';

export interface Particle {
  gate: number;
  /** Place at a time [s], m; null before it entered. */
  at(time: number): [number, number, number] | null;
}
export interface TracerPaths {
  particles: Particle[];
}

export interface VelocityField {
  times: readonly number[];
  /** 3 per node and frame, m/s; NaN where there is no melt. */
  data: Float32Array;
}

const PER_GATE_AND_RELEASE = 14;
const RELEASES = 9;
const STEPS = 160;

/**
 * Particles released round every gate at even times and carried along by the mean velocity (midpoint
 * rule, velocities linear in time between frames). A particle that leaves the melt waits for it.
 */
export function tracerPaths(
  grid: ViewGrid,
  velocity: VelocityField,
  gates: readonly { position: readonly number[]; diameter: number }[],
): TracerPaths {
  const { times } = velocity;
  const end = times[times.length - 1];
  const dt = end / STEPS;
  const particles: Particle[] = [];
  const move = (p: number[], t: number): [number, number, number] | null => velocityAt(grid, velocity, p, t);
  gates.forEach((gate, g) => {
    const radius = Math.max(0.75 * grid.spacing, 0.5 * gate.diameter + 0.5 * grid.spacing);
    for (let r = 0; r < RELEASES; r++) {
      const start = (r / RELEASES) * 0.9 * end;
      for (const direction of around(PER_GATE_AND_RELEASE, r)) {
        const seed = gate.position.map((x, d) => x + radius * direction[d]);
        if (grid.mapper.nodeAt(seed[0], seed[1], seed[2]) < 0) continue;
        particles.push({ gate: g, at: pathOf(seed, start, end, dt, move) });
      }
    }
  });
  return { particles };
}

type Move = (p: number[], t: number) => [number, number, number] | null;

function pathOf(seed: number[], start: number, end: number, dt: number, move: Move): Particle['at'] {
  const points: number[][] = [seed];
  let p = seed;
  for (let t = start; t < end; t += dt) {
    const v = move(p, t);
    if (v) {
      const half = p.map((x, d) => x + 0.5 * dt * v[d]);
      const w = move(half, t + 0.5 * dt);
      if (w) {
        const next = p.map((x, d) => x + dt * w[d]);
        if (move(next, t + dt)) p = next;
      }
    }
    points.push(p);
  }
  return (time) => {
    if (time < start) return null;
    const x = Math.min(points.length - 1.000001, (Math.min(time, end) - start) / dt);
    const i = Math.max(0, Math.floor(x));
    const [a, b] = [points[i], points[Math.min(points.length - 1, i + 1)]];
    return a.map((v, d) => v + (x - i) * (b[d] - v)) as [number, number, number];
  };
}

/** Velocity at a point and time; null outside the part or ahead of the melt. */
export function velocityAt(
  grid: ViewGrid,
  { times, data }: VelocityField,
  p: readonly number[],
  t: number,
): [number, number, number] | null {
  const node = grid.mapper.nodeAt(p[0], p[1], p[2]);
  if (node < 0) return null;
  let f = 1;
  while (f < times.length - 1 && times[f] < t) f++;
  const span = times[f] - times[f - 1] || 1;
  const s = Math.min(1, Math.max(0, (t - times[f - 1]) / span));
  const n = 3 * grid.nNodes;
  const value = (d: number) => {
    const [a, b] = [data[(f - 1) * n + 3 * node + d], data[f * n + 3 * node + d]];
    return a === a ? a + s * ((b === b ? b : a) - a) : b;
  };
  const v: [number, number, number] = [value(0), value(1), value(2)];
  return v[0] === v[0] ? v : null;
}

/** n directions spread over the sphere (golden angle), turned a little for every release. */
function around(n: number, release: number): number[][] {
  return Array.from({ length: n }, (_, k) => {
    const z = 1 - (2 * k + 1) / n;
    const r = Math.sqrt(1 - z * z);
    const a = 2.399963 * (k + 0.37 * release * n);
    return [r * Math.cos(a), r * Math.sin(a), z];
  });
}
