import { readFileSync } from 'node:fs';
import { beforeAll, describe, expect, it } from 'vitest';
import type { Vec3 } from '../src/core/geometry/mesh';
import { CENTRES, HALF_LAYERS } from '../src/core/solvers/melt/layers';
import type { Relaxation } from '../src/core/material/relaxation';
import { constantPressure } from '../src/core/solvers/pack/control';
import type { FrozenStrain } from '../src/core/solvers/pack/wallStrain';
import { filledCavity, pack } from './packing';
import { box } from './shapes';
import { TURNS } from './solids';

interface Material {
  young: number;
  poisson: number;
  expansion: number;
  density: number;
  specificHeat: number;
  conductivity: number;
  relaxation: Relaxation;
}
interface Side {
  temperature: number;
  transfer: number;
}
interface Plate {
  title: string;
  material: string;
  thickness: number;
  melt: number;
  lower: Side;
  upper: Side;
  opens: number;
  slidesFrom: number | null;
  air: Side;
  end: number;
  places: number[];
  opening: { stress: number[] };
  room: { strain: number; curvature: number; stress: number[] };
  u: { strain: number; curvature: number; stress: number };
}
const { materials, plates } = JSON.parse(
  readFileSync(new URL('./reference/relaxing.json', import.meta.url), 'utf8'),
) as { materials: Record<string, Material>; plates: Plate[] };

/** Longer than any of them, s. */
const HELD = 1e6;
const WIDTH = 0.02;

/** The plate through the packing stage, on the grid as it lies; no pressure, no flow. */
async function cooled(plate: Plate, turn: (v: Vec3) => Vec3, stepsPerFreeze = 40) {
  const m = materials[plate.material];
  const alike = plate.lower.temperature === plate.upper.temperature && plate.lower.transfer === plate.upper.transfer;
  const density = { density0: m.density, compressibility: 1e-10 };
  const filled = filledCavity({
    mesh: box(WIDTH, WIDTH, plate.thickness),
    turn,
    detail: 'quick',
    viscosity: { kind: 'newtonian', eta: 100 },
    noFlow: 1000,
    thermal: m,
    walls: alike ? [plate.upper] : [plate.upper, plate.lower],
    melt: plate.melt,
    before: 0,
    inletAt: () => false,
    density,
  });
  const { result } = await pack(filled, density, {
    control: constantPressure(0, 0),
    freezeTime: plate.opens / 2,
    stepsPerFreeze,
    stepShare: 2 / stepsPerFreeze,
    firstStep: 0.02,
    coolingTime: plate.opens,
    noFlowTemperature: 1000,
    ejectionTemperature: 1000,
    solidShare: 0.5,
    freezing: { ...m, density, transition: m.relaxation.reference, crystalShare: 0 },
    heldUntil: plate.slidesFrom ?? HELD,
    outside: { ...plate.air, until: plate.end - plate.opens },
  });
  const { grid, place } = filled;
  let [node, least] = [0, Infinity];
  for (let i = 0; i < grid.n; i++) {
    const [x, y, z] = place(i);
    const d = Math.hypot(x - WIDTH / 2, y, z);
    if (d < least) [node, least] = [i, d];
  }
  return { node, frozen: result.frozen!, scale: m.young / (1 - m.poisson) };
}

/** Layers of a node from the lower face up: place as a share of the thickness, and what they have. */
function profile({ nLayers }: FrozenStrain, node: number, values: Float32Array): [number, number][] {
  const at = (t: number) => {
    if (nLayers === HALF_LAYERS) return CENTRES[t];
    return t < HALF_LAYERS ? CENTRES[HALF_LAYERS - 1 - t] : -CENTRES[t - HALF_LAYERS];
  };
  const own = values.subarray(node * nLayers, (node + 1) * nLayers);
  const half = Array.from(own, (v, t): [number, number] => [(1 + at(t)) / 2, v]);
  const both = nLayers === HALF_LAYERS ? [...half, ...half.map(([x, v]): [number, number] => [1 - x, v])] : half;
  return both.sort((a, b) => a[0] - b[0]);
}

/** Least that a profile is off a value at a place: zero where it lies between the layers on either side. */
function off(layers: [number, number][], place: number, value: number): number {
  const k = Math.max(
    1,
    layers.findIndex(([x]) => x > place),
  );
  const [a, b] = [layers[k - 1], layers[k]];
  const straight = a[1] + ((b[1] - a[1]) * (place - a[0])) / (b[0] - a[0]);
  // Where the stress jumps from layer to layer, at the depth that was solid when the wall let go, either may be meant.
  const jump = Math.abs(a[1] - b[1]) / 2;
  return Math.max(0, Math.abs(straight - value) - jump);
}

describe.each(plates)('$title', (plate) => {
  describe.each(['as drawn', 'turned 30° about x, then 17° about z'])('%s', (how) => {
    let run: Awaited<ReturnType<typeof cooled>>;
    beforeAll(async () => {
      run = await cooled(plate, TURNS[how]);
    });

    it('shrinks and bends in the room as it should', () => {
      const { node, frozen } = run;
      const { nLayers } = frozen;
      const layers = frozen.node.inPlane.map((e, l) => e + frozen.node.inRoom[l]);
      // Strain of the wall itself: what a layer would have alone and what it bears.
      const wall = profile(frozen, node, layers);
      const [first, last] = [wall[0], wall[wall.length - 1]];
      const slope = (last[1] - first[1]) / (last[0] - first[0]);
      const middle = first[1] + slope * (0.5 - first[0]);
      const { strain, curvature } = plate.room;
      expect(Math.abs(middle / strain - 1)).toBeLessThan(0.02);
      if (nLayers === HALF_LAYERS) expect(Math.abs(curvature)).toBeLessThan(1e-6);
      else
        expect(Math.abs(slope / plate.thickness - curvature)).toBeLessThan(
          0.03 * Math.abs(curvature) + plate.u.curvature,
        );
    });

    it('bears the stress it should, before the mould opens and in the room', () => {
      const { node, frozen, scale } = run;
      for (const [values, wanted] of [
        [frozen.node.inMould, plate.opening.stress],
        [frozen.node.inRoom, plate.room.stress],
      ] as const) {
        const layers = profile(frozen, node, values);
        const most = Math.max(...plate.room.stress.map(Math.abs), ...wanted.map(Math.abs));
        plate.places.forEach((place, k) =>
          expect(off(layers, place, wanted[k] / scale) * scale).toBeLessThan((0.04 + plate.u.stress) * most),
        );
      }
    });
  });
});

describe('resolution', () => {
  it('half as long steps change little', async () => {
    const plate = plates.find((p) => p.slidesFrom !== null && p.lower.temperature !== p.upper.temperature)!;
    const [coarse, fine] = [await cooled(plate, (v) => v), await cooled(plate, (v) => v, 80)];
    const mean = ({ frozen, node }: typeof coarse) => frozen.node.mean[node];
    expect(Math.abs(mean(coarse) / mean(fine) - 1)).toBeLessThan(0.006);
  });
});
