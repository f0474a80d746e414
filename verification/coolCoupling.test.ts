import { beforeAll, describe, expect, it } from 'vitest';
import { boundsOf, type TriangleMesh, type Vec3 } from '@/core/geometry/mesh';
import { buildFineGrid } from '@/core/grid/grid';
import { latticeOver } from '@/core/grid/lattice';
import { buildMouldGrid } from '@/core/grid/mouldGrid';
import { buildPressureGrid } from '@/core/grid/pressureGrid';
import { wallSides } from '@/core/grid/wallSides';
import { stressForm } from '@/core/material/stressForm';
import { defaultCooling, type Cooling, type CoolingLine } from '@/core/model/cooling';
import { plainContext } from '@/core/stage/context';
import { circuitOf } from '@/core/solvers/cool/circuit';
import { facetsOf, type FaceContact } from '@/core/solvers/cool/mouldField';
import { PartHeat } from '@/core/solvers/cool/partHeat';
import { PartSource } from '@/core/solvers/cool/partSource';
import { runCool, type CoolResult } from '@/core/solvers/cool/stage';
import { CLOSED } from './mouldShapes';
import { prism } from './shapes';

const PLASTIC = { conductivity: 0.2, density: 950, specificHeat: 2200 };
const THICKNESS = 0.0025;
const MELT = 503.15;
const CONTACT = 20;
const OPEN = 5;

const channel = (id: string, from: Vec3, to: Vec3): CoolingLine => ({
  id,
  from,
  to,
  diameter: 0.008,
  kind: { as: 'channel' },
  loss: null,
});

const plate = (x: number, y: number): TriangleMesh =>
  prism(
    [
      [-x, -y],
      [x, -y],
      [x, y],
      [-x, y],
    ],
    0,
    THICKNESS,
  );

async function settle(
  mesh: TriangleMesh,
  cooling: Cooling,
  block: { min: Vec3; max: Vec3 },
  contacts: readonly FaceContact[],
  startUp: number | null = null,
): Promise<{ result: CoolResult; source: PartSource }> {
  const fine = buildFineGrid(mesh, latticeOver(mesh, THICKNESS / 2));
  const grid = buildPressureGrid(fine);
  const sides = wallSides(mesh, fine, grid);
  const bores = boundsOf(cooling.lines.flatMap((l) => [...l.from, ...l.to]));
  const mould = buildMouldGrid(fine, block, boundsOf(mesh.positions), bores);
  const source = new PartSource({
    grid,
    sides,
    thermal: PLASTIC,
    form: stressForm({ kind: 'newtonian', eta: 100 }, 400),
    meltTemperature: MELT,
    transfer: 1e6,
    detachedTransfer: null,
    ejectionTemperature: 360,
    solidShare: 0.9,
    injectionTime: 0,
    packingEnd: 0,
    coolingTime: CONTACT,
    openTime: OPEN,
    feed: [],
    start: 305,
  });
  const outcome = await runCool(
    {
      mould,
      metals: { conductivity: new Float64Array(mould.n).fill(32), capacity: new Float64Array(mould.n).fill(3.6e6) },
      contacts,
      facets: facetsOf(sides.surface),
      source,
      circuit: circuitOf(cooling),
      friction: 'churchill',
      start: 305,
      startUp,
      coldStart: 296.15,
    },
    plainContext(),
  );
  if (outcome.status === 'failed') throw new Error(outcome.message);
  return { result: outcome.result, source };
}

/** Heat per area through the second wall in the contact time, J/m2: series for walls of fixed temperature. */
function throughSecondWall(T1: number, T2: number, contact = CONTACT): number {
  const { conductivity: k, density, specificHeat } = PLASTIC;
  const a = k / (density * specificHeat);
  let sum = ((T2 - T1) * contact) / THICKNESS;
  for (let n = 1; n < 400; n++) {
    const sign = n % 2 ? -1 : 1;
    const rate = a * ((n * Math.PI) / THICKNESS) ** 2;
    const b = (2 / (n * Math.PI)) * (MELT - T1 - sign * (MELT - T2));
    sum += (b * ((n * Math.PI) / THICKNESS) * sign * (1 - Math.exp(-rate * contact))) / rate;
  }
  return -k * sum;
}

describe('what a wall gives its two sides', () => {
  const table = new PartHeat({
    thermal: PLASTIC,
    form: stressForm({ kind: 'newtonian', eta: 100 }, 400),
    meltTemperature: MELT,
    wall: 320,
    transfer: 1e6,
    detachedTransfer: null,
    detachedAt: 0,
    ejectionTemperature: 360,
    solidShare: 0.9,
    reach: [0.0006, 0.002],
  });
  it.each([2, 5, 10, 20])('after %d s: the series, between equal and unequal walls', (time) => {
    const { E, own, other } = table.heat(time, [THICKNESS / 2], [2]);
    const given = (T0: number, T1: number) => (E[0] - own[0] * (T0 - 320) + other[0] * (T1 - 320)) * THICKNESS;
    for (const [T0, T1] of [
      [320, 320],
      [420, 320],
      [320, 420],
    ])
      expect(Math.abs(given(T0, T1) / throughSecondWall(T1, T0, time) - 1)).toBeLessThan(0.005);
  });
  it('is ready when nine tenths of it are below the ejection temperature', () => {
    const { conductivity, density, specificHeat } = PLASTIC;
    const a = conductivity / (density * specificHeat);
    for (const wall of [320, 330]) {
      // One term of the series, at a tenth of the way from the middle to the wall.
      const there = (4 / Math.PI) * Math.cos(0.05 * Math.PI) * (MELT - wall);
      const t = (THICKNESS ** 2 / (Math.PI ** 2 * a)) * Math.log(there / (360 - wall));
      expect(Math.abs(table.ejectableAt(THICKNESS / 2, 2, wall) / t - 1)).toBeLessThan(0.02);
    }
  });
});

describe('a slab with channels on one side only', () => {
  let out: Awaited<ReturnType<typeof settle>>;
  beforeAll(async () => {
    const a = THICKNESS / 2;
    const [x, y] = [28 * a, 14 * a];
    const cooling: Cooling = {
      ...defaultCooling(),
      lines: [-1, 0, 1].map((i) => channel(`L${i + 2}`, [(i * x) / 1.5, -y, -0.016], [(i * x) / 1.5, y, -0.016])),
      ends: [-1, 0, 1].flatMap((i) => [
        { at: [(i * x) / 1.5, -y, -0.016] as Vec3, as: 'inlet' as const, supply: 'U1' },
        { at: [(i * x) / 1.5, y, -0.016] as Vec3, as: 'outlet' as const, supply: 'U1' },
      ]),
    };
    // The plate reaches past the block, whose faces lie on planes of the grid: nothing goes round its edge.
    out = await settle(
      plate(x + 7.6181 * a, y + 7.5858 * a),
      cooling,
      { min: [-x, -y, -0.05], max: [x, y, 0.03] },
      CLOSED,
    );
  });

  it('the far side gets so warm that no heat goes to it', () => {
    const { field } = out.result;
    const mean = (up: boolean) => {
      let [sum, area] = [0, 0];
      for (let f = 0; f < field.facets.n; f++) {
        const [px, py] = [field.facets.centroids[3 * f], field.facets.centroids[3 * f + 1]];
        const facing = field.facets.normals[3 * f + 2] * (up ? 1 : -1);
        if (facing < 0.9 || Math.abs(px) > 0.012 || Math.abs(py) > 0.008) continue;
        sum += field.facets.areas[f] * field.facetTemperature[f];
        area += field.facets.areas[f];
      }
      return sum / area;
    };
    const [near, far] = [mean(false), mean(true)];
    let [low, high] = [near, MELT];
    for (let k = 0; k < 60; k++) {
      const T = (low + high) / 2;
      if (throughSecondWall(near, T) > 0) low = T;
      else high = T;
    }
    expect(low - near).toBeGreaterThan(20);
    expect(Math.abs((far - near) / (low - near) - 1)).toBeLessThan(0.02);
  });

  it('all heat of the plate goes to the coolant', () => {
    const { balance, balanceError } = out.result;
    expect(balanceError).toBeLessThan(1e-3);
    expect(Math.abs(balance.toCoolant / balance.fromPart - 1)).toBeLessThan(1e-3);
    const [supply] = out.result.coolant.supplies;
    expect(Math.abs(supply.heat / balance.toCoolant - 1)).toBeLessThan(5e-3);
  });
});

describe('a mould from cold', () => {
  it('comes to the settled state, and heat in = heat to coolant, air and press within 0.5 %', async () => {
    const cooling: Cooling = {
      ...defaultCooling(),
      lines: [channel('L1', [-0.05, 0, -0.016], [0.05, 0, -0.016]), channel('L2', [-0.05, 0, 0.019], [0.05, 0, 0.019])],
      ends: [-0.016, 0.019].flatMap((z) => [
        { at: [-0.05, 0, z] as Vec3, as: 'inlet' as const, supply: 'U1' },
        { at: [0.05, 0, z] as Vec3, as: 'outlet' as const, supply: 'U1' },
      ]),
    };
    const air = { temperature: 296.15, transfer: 12 };
    const press = { temperature: 303.15, transfer: 250 };
    const contacts = [air, air, air, air, press, press];
    const { result } = await settle(
      plate(0.03, 0.02),
      cooling,
      { min: [-0.05, -0.04, -0.04], max: [0.05, 0.04, 0.04] },
      contacts,
      40,
    );
    expect(result.balanceError).toBeLessThan(5e-3);
    expect(result.balance.toAmbient).not.toBe(0);
    const { startUp } = result;
    const mean = startUp?.mean ?? [];
    for (let k = 1; k < mean.length; k++) expect(mean[k]).toBeGreaterThan(mean[k - 1] - 0.02);
    let [sum, area] = [0, 0];
    result.field.facetTemperature.forEach((T, f) => {
      sum += result.field.facets.areas[f] * T;
      area += result.field.facets.areas[f];
    });
    expect(Math.abs(mean[mean.length - 1] - sum / area)).toBeLessThan(0.02 * (sum / area - 296.15));
  });
});
