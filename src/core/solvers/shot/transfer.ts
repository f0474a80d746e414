import { copyOf, type BehindMemory } from '../melt/behind';
import { Cavity, type CavitySpec } from './cavity';
import type { PhaseContext } from './phase';
import { emptyState } from './state';

/** Layers of a part and of what lies behind its walls at a moment. */
export interface Warmth {
  /** K, length n * nLayers. */
  temperature: Float64Array;
  /** null: the mould alone. */
  behind: BehindMemory | null;
}

/** What the way from one mould to the next needs to be told. SI. */
export interface TransferInput extends CavitySpec {
  /** When the mould opened. */
  from: Warmth;
  /** How long it takes, s. */
  time: number;
  /** Sides of nodes (2 a node) that stay on steel, 1, and its temperature [K] and contact [W/(m2 K)]. */
  onSteel: Uint8Array;
  steel: { temperature: number; transfer: number };
  /** Around all other sides. */
  air: { temperature: number; transfer: number };
}

/** Steps of the way; they grow with the time gone by. */
const STEPS = 24;
const GROWTH = 1.15;

/** The part on its way from one mould to the next: every column by itself, between steel, air and its inserts. */
export async function transfer(input: TransferInput, ctx: PhaseContext): Promise<Warmth> {
  const { grid, gating, from, time, onSteel, steel, air } = input;
  const { heat } = input;
  if (!heat) throw new Error('a transfer needs a shot with heat');
  // Air is there twice, for either side of a wall: columns go from wall to wall whatever lies at both.
  const sides = [...heat.sides, air, air, steel];
  const sideOf = Int32Array.from(heat.sideOf, (side, k) => {
    if (heat.sides[side].behind !== undefined) return side;
    return onSteel[k] ? sides.length - 1 : sides.length - 3 + (k % 2);
  });
  const start = emptyState(grid, gating);
  start.walls.behind = from.behind;
  const cavity = new Cavity({ ...input, heat: { ...heat, sides, sideOf } }, start);
  if (!cavity.columns || !cavity.heat) throw new Error('a transfer needs a shot with heat');
  const { columns } = cavity;
  if (columns.temperature.length === from.temperature.length) columns.temperature.set(from.temperature);
  else mirror(from.temperature, columns.temperature, grid.n);
  const nodes = Int32Array.from({ length: grid.n }, (_, i) => i);
  let dt = (time * (GROWTH - 1)) / (GROWTH ** STEPS - 1);
  for (let t = 0; t < time - 1e-9; t += dt, dt *= GROWTH) {
    await ctx.checkpoint();
    cavity.heat.rest(Math.min(dt, time - t), nodes, grid.volume);
    ctx.report({ stage: 'pack', fraction: 1, message: 'The part is carried to the next mould' });
  }
  return { temperature: columns.temperature.slice(), behind: cavity.heat.behind && copyOf(cavity.heat.behind.memory) };
}

/** Lays half columns (middle to wall) out from wall to wall. */
function mirror(half: Float64Array, whole: Float64Array, n: number): void {
  const layers = half.length / n;
  for (let i = 0; i < n; i++)
    for (let l = 0; l < layers; l++) {
      const T = half[i * layers + l];
      whole[2 * i * layers + layers - 1 - l] = T;
      whole[2 * i * layers + layers + l] = T;
    }
}
