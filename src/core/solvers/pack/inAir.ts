import { ROOM } from '../../material/pvt';
import type { PackedMelt } from './packedMelt';
import type { WallStrain } from './wallStrain';

/** Air around a part out of its mould: K, W/(m2 K), and how long until it is measured, s since the opening. */
export interface AirOutside {
  temperature: number;
  transfer: number;
  until: number;
}

/** Free convection and radiation of a warm part in a room (Incropera & DeWitt, Fundamentals of Heat Transfer). */
export const ROOM_AIR: Omit<AirOutside, 'until'> = { temperature: ROOM, transfer: 15 };

/** First step over the time that the nominal wall freezes in, growth, and the longest over the time gone by. */
const FIRST = 1 / 60;
const GROWTH = 1.5;
const LONGEST = 0.4;
/** Colder than this above the air the part counts as cold, and only relaxes on, K. */
const COLD = 0.3;
/** Time from which on decades of shrinking on are counted, s. */
const AGEING = 3600;
/** Steps of relaxation in the cold part. */
const COLD_STEPS = 8;

/**
 * Cooling of the part in the air from the opening of the mould on: heat of every column by itself, walls that shorten
 * and bend as they like. The part then lies in the air until it is measured.
 */
export async function coolInAir(
  melt: PackedMelt,
  wall: WallStrain,
  /** Temperatures of the columns when the mould opened, before whatever came to pass in it later, K. */
  opened: Float64Array,
  { temperature, transfer, until }: AirOutside,
  afterShrinkage: number,
  freezeTime: number,
  checkpoint: () => Promise<void>,
): Promise<void> {
  const { columns, all, grid } = melt;
  columns.temperature.set(opened);
  const side = columns.sides.push({ temperature, transfer }) - 1;
  for (const i of all) columns.sideOf[2 * i] = columns.sideOf[2 * i + 1] = side;
  const none = new Float64Array(grid.n);
  let time = 0;
  let dt = FIRST * freezeTime;
  while (time < until) {
    await checkpoint();
    dt = Math.min(dt, until - time);
    melt.lie(dt);
    time += dt;
    const cold = hottest(melt) < temperature + COLD;
    wall.look(dt, none, 'free', cold || time >= until);
    dt = Math.min(GROWTH * dt, Math.max(FIRST * freezeTime, LONGEST * time));
    if (cold) break;
  }
  for (const i of all) columns.temperature.fill(temperature, i * columns.nLayers, (i + 1) * columns.nLayers);
  for (let left = until - time, k = COLD_STEPS; k > 0 && left > 0; k--) {
    const step = k === 1 ? left : Math.min(left, Math.max(time, left * 10 ** (1 - k / 2)));
    wall.look(step, none, 'free', true);
    time += step;
    left -= step;
  }
  wall.age(-afterShrinkage * Math.log10(1 + until / AGEING));
}

function hottest({ columns, all }: PackedMelt): number {
  let most = -Infinity;
  const { nLayers, temperature } = columns;
  for (const i of all) for (let l = i * nLayers; l < (i + 1) * nLayers; l++) most = Math.max(most, temperature[l]);
  return most;
}
