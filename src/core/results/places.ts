import { z } from 'zod';
import { real } from '../numerics/real';
import { vec3Schema } from '../geometry/schemas';
import type { Vec3 } from '../geometry/mesh';
import type { PressureGrid } from '../grid/pressureGrid';
import { weightedMedian } from '../numerics/weighted';
import type { AirTrap } from '../solvers/melt/trappedAir';

/** Air that found no way out. SI; pressures absolute. */
export const trappedAirPlaceSchema = z.object({
  id: z.string(),
  position: vec3Schema,
  /** When the melt cut it off, s; its volume then and where it stopped, m3. */
  since: real,
  volume: real,
  leftVolume: real,
  /** If the steel keeps it cool, and if it has no time to cool: the truth lies between. */
  isothermalPressure: real,
  adiabaticPressure: real,
  adiabaticTemperature: real,
  /** It had a vent, which was too small. */
  vented: z.boolean().optional(),
  /** Over time: s, Pa by both laws, K without cooling. */
  history: z
    .array(
      z.object({
        time: real,
        isothermal: real,
        adiabatic: real,
        temperature: real,
      }),
    )
    .optional(),
});
export type TrappedAirPlace = z.infer<typeof trappedAirPlaceSchema>;

/** A place where the front almost stood still while the melt went elsewhere. */
export const hesitationSchema = z.object({
  id: z.string(),
  position: vec3Schema,
  /** Slowest front speed there, m/s, and the part's median. */
  speed: real,
  medianSpeed: real,
  /** When the front was there, s, and its temperature, K. */
  time: real,
  temperature: real,
  /** m3 */
  volume: real,
});
export type Hesitation = z.infer<typeof hesitationSchema>;

const pointOf = ({ centroid: c }: PressureGrid, i: number): Vec3 => [c[3 * i], c[3 * i + 1], c[3 * i + 2]];
const distance = (a: Vec3, b: Vec3) => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);

/** Traps as places, the largest first; several within a few blocks are one place. */
export function airTraps(grid: PressureGrid, traps: readonly AirTrap[]): TrappedAirPlace[] {
  const places: TrappedAirPlace[] = [];
  for (const trap of [...traps].sort((a, b) => b.volume - a.volume)) {
    const position = pointOf(grid, trap.node);
    if (places.some((p) => distance(p.position, position) < 4 * grid.spacing)) continue;
    places.push({
      id: `A${places.length + 1}`,
      position,
      since: trap.since,
      volume: trap.volume,
      leftVolume: trap.isothermal.volume,
      // With a vent the worst is not at the end.
      isothermalPressure: Math.max(trap.isothermal.pressure, ...trap.history.map((h) => h.isothermal)),
      adiabaticPressure: Math.max(trap.adiabatic.pressure, ...trap.history.map((h) => h.adiabatic)),
      adiabaticTemperature: Math.max(trap.adiabatic.temperature, ...trap.history.map((h) => h.temperature)),
      vented: trap.vented,
      history: thinned(trap.history),
    });
  }
  return places;
}

/** At most so many points of a history go into the findings. */
const MOST_POINTS = 60;

function thinned<T>(list: readonly T[]): T[] {
  const every = Math.ceil(list.length / MOST_POINTS);
  return list.filter((_, i) => i % every === 0 || i === list.length - 1);
}

/** A front slower than this share of the part's median hesitates. */
export const HESITATION_SHARE = 0.12;
const MOST_PLACES = 6;

/** Connected sets of nodes whose front crept, by volume. The last few per cent of filling always creep. */
export function hesitations(
  grid: PressureGrid,
  fillTime: ArrayLike<number>,
  frontSpeed: Float32Array,
  frontTemperature: ArrayLike<number>,
  end: number,
): Hesitation[] {
  const { n, spacing } = grid;
  const weight = Float64Array.from({ length: n }, (_, i) => (frontSpeed[i] > 0 ? grid.volume[i] : 0));
  const medianSpeed = weightedMedian(frontSpeed, weight);
  const slow = new Uint8Array(n);
  for (let i = 0; i < n; i++)
    if (frontSpeed[i] < HESITATION_SHARE * medianSpeed && fillTime[i] < end && grid.volume[i] > 0.1 * spacing ** 3)
      slow[i] = 1;
  const found: Hesitation[] = [];
  for (let start = 0; start < n; start++) {
    if (!slow[start]) continue;
    slow[start] = 0;
    const nodes = [start];
    for (let q = 0; q < nodes.length; q++) {
      for (let k = grid.rowStart[nodes[q]]; k < grid.rowStart[nodes[q] + 1]; k++) {
        const j = grid.rowNode[k];
        if (!slow[j]) continue;
        slow[j] = 0;
        nodes.push(j);
      }
    }
    // A few cells at a corner are the grid's, not the part's.
    if (nodes.length < 4) continue;
    const slowest = nodes.reduce((b, i) => (frontSpeed[i] < frontSpeed[b] ? i : b));
    found.push({
      id: '',
      position: pointOf(grid, slowest),
      speed: frontSpeed[slowest],
      medianSpeed,
      time: fillTime[slowest],
      temperature: frontTemperature[slowest],
      volume: nodes.reduce((s, i) => s + grid.volume[i], 0),
    });
  }
  return found
    .sort((a, b) => b.volume - a.volume)
    .slice(0, MOST_PLACES)
    .map((h, k) => ({ ...h, id: `H${k + 1}` }));
}
