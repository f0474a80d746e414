import { describe, expect, it } from 'vitest';
import { box } from '../../../../verification/shapes';
import { joined } from '../../geometry/shells';
import { mapVertices, type TriangleMesh, type Vec3 } from '../../geometry/mesh';
import { buildStructureGrid, locate } from '../../grid/structureGrid';
import { structureLattice } from '../../grid/structureLattice';
import { plainContext } from '../../stage/context';
import { defaultFeed } from '../../model/feed';
import { inputKey } from '../../model/inputKey';
import { emptyInputs, type Inputs } from '../../model/study';
import { DEFAULT_INSERT } from '../../model/insert';
import { DEFAULT_WARPAGE } from '../../model/warpage';
import { heldMotions } from '../../pipeline/checkShape';
import { runPipeline } from '../../pipeline/pipeline';
import { stresses } from '../../results/shape';
import { insertSurface, packShotStrain, unpackShotStrain, warpInputOf } from '../../pipeline/shape';
import { connectedElements, solveElastic } from './elastic';
import { LANES } from './solid';
import { ELASTIC_KERNEL } from './elasticKernel';
import { runWarp, type WarpResult } from './stage';
import { displacementAt } from './stress';

const even = (e: number) => (_x: number, _y: number, _z: number, _b: number, out: Float64Array) => {
  out.fill(0);
  for (let k = 0; k < 3; k++) out[LANES * k] = e;
};

describe('structural cells', () => {
  it('keep two walls in one cell apart', () => {
    const plate = box(0.02, 0.02, 0.001);
    const pair = joined([plate, mapVertices(plate, ([x, y, z]) => [x, y, z + 0.0013])]);
    const sets = new Set(connectedElements(buildStructureGrid([pair], 0.002)));
    expect(sets.size).toBe(2);
  });

  it('hold the exact volume, slivers carried by their neighbours', () => {
    // 2 mm of wall over cells of 1.85 mm: the layer on top is a sliver of 13 %.
    const grid = buildStructureGrid([box(0.03, 0.02, 0.002)], 0.00185);
    expect(grid.weight.reduce((s, w) => s + w, 0)).toBeCloseTo(0.03 * 0.02 * 0.002, 14);
    const beyond = grid.local.some((x) => Math.abs(x) > 1.01);
    expect(beyond).toBe(true);
  });

  it('have the square faces of an insert in their planes, a turned insert none', () => {
    const plate = box(0.04, 0.02, 0.004);
    const insert = mapVertices(box(0.02, 0.0067, 0.0017), ([x, y, z]) => [x + 0.0113, y, z]);
    const lattice = structureLattice([plate, insert], 0.002);
    const offPlane = (x: number, d: number) => {
      const k = (x - lattice.origin[d]) / lattice.edges[d];
      return Math.abs(k - Math.round(k));
    };
    for (const [x, d] of [
      [0.0113, 0],
      [0.0313, 0],
      [0.00335, 1],
      [-0.00335, 1],
      [0.00085, 2],
      [-0.00085, 2],
    ])
      expect(offPlane(x, d)).toBeLessThan(1e-6);
    const turned = mapVertices(insert, ([x, y, z]) => [x * 0.8 - y * 0.6, x * 0.6 + y * 0.8 - 0.01, z]);
    const [ex, ey] = structureLattice([plate, turned], 0.002).edges;
    expect([ex, ey]).toEqual([0.002, 0.002]);
    // Whole cells of one material need no jumps; cut ones do.
    expect([...buildStructureGrid([plate, insert], 0.002).interfaces]).toHaveLength(0);
    expect(buildStructureGrid([plate, turned], 0.002).interfaces.size).toBeGreaterThan(0);
  });

  it('stay where supports hold them', async () => {
    const grid = buildStructureGrid([box(0.04, 0.02, 0.002)], 0.002);
    const position: Vec3 = [0.04, 0.01, 0];
    const hold = (p: Vec3, ...axes: number[]) =>
      axes.map((d) => ({ position: p, direction: [0, 1, 2].map((k) => (k === d ? 1 : 0)) as Vec3 }));
    const supports = [...hold(position, 0, 1, 2), ...hold([0, 0.01, 0], 1, 2), ...hold([0, -0.01, 0], 2)];
    const input = { grid, solids: [{ young: 2e9, poisson: 0.35 }], strainAt: even(-0.01), supports };
    const { displacement } = await solveElastic(input, plainContext());
    const local = new Float64Array(3);
    const u = new Float64Array(3 * LANES);
    const at = (p: Vec3) => {
      displacementAt(grid, displacement, locate(grid, ...p, local), local, u);
      return [u[0], u[LANES], u[2 * LANES]];
    };
    expect(Math.hypot(...at(position))).toBeLessThan(1e-9);
    // The other end comes nearer by its length times the shrinkage.
    expect(at([0, 0.01, 0])[0]).toBeCloseTo(0.0004, 8);
  });

  it('tell how many motions supports hold', () => {
    const holds = { x: true, y: true, z: true };
    const at = (id: string, position: Vec3) => ({ id, position, holds });
    expect(heldMotions([at('a', [0, 0, 0])], 0.1).motions).toBe(3);
    expect(heldMotions([at('a', [0, 0, 0]), at('b', [0.1, 0, 0])], 0.1).motions).toBe(5);
    expect(heldMotions([at('a', [0, 0, 0]), at('b', [0.1, 0, 0]), at('c', [0, 0.1, 0])], 0.1)).toEqual({
      motions: 6,
      directions: 9,
    });
  });

  it('the compiled kernel is that of its source', async () => {
    const { compileKernel } = (await import('../../../../scripts/kernels.mjs')) as {
      compileKernel: (name: string) => Promise<string>;
    };
    expect(await compileKernel('elastic')).toBe(ELASTIC_KERNEL);
  });
});

describe('the shape of a moulded plate', () => {
  const plate = box(0.06, 0.02, 0.002);
  const inputs = {
    ...emptyInputs('plate'),
    gates: [{ id: 'G1', position: [0, 0, 0] as Vec3, diameter: 0.0015 }],
    detail: 'quick' as const,
  };

  it('bends towards the warmer half, and the causes add up', async () => {
    const warmBelow = {
      ...inputs,
      cycle: {
        ...inputs.cycle,
        mouldTemperature: 293.15,
        lowerMouldTemperature: 333.15,
        // Let go early, so that the walls slide while they freeze.
        packing: { by: 'constant' as const, pressure: 1e7, time: 3 },
      },
    };
    const outcome = await runPipeline(plate, 'plate', warmBelow, plainContext(), { gridError: false });
    if (!('shape' in outcome) || !outcome.shape) throw new Error(outcome.status);
    const { result, facts, input } = outcome.shape;
    const { positions } = input.surface;
    const heightAt = (x: number) => {
      let [best, least] = [0, Infinity];
      for (let v = 0; v < positions.length; v += 3) {
        const d = Math.hypot(positions[v] - x, positions[v + 1], positions[v + 2] - 0.001);
        if (d < least) [best, least] = [v, d];
      }
      return result.byCause.cooling[best + 2];
    };
    // The lower side is the last to freeze and ends up shorter: the middle stands above the ends.
    const sag = heightAt(0.03) - (heightAt(0.001) + heightAt(0.059)) / 2;
    expect(sag).toBeGreaterThan(5e-6);
    expect(facts.causes.reduce((s, c) => s + c.share, 0)).toBeCloseTo(1, 9);
    const addUp = ({ byCause, displacement }: WarpResult) => {
      const { base, cooling, shrinkage, corner, insert, thickness, large } = byCause;
      for (let k = 0; k < positions.length; k += 97)
        expect(base[k] + cooling[k] + shrinkage[k] + corner[k] + insert[k] + thickness[k] + large[k]).toBeCloseTo(
          displacement[k],
          9,
        );
    };
    addUp(result);
    // A bend of less than half a wall, far from buckling, is no large deflection: following it changes some of it.
    expect(result.beyond?.large ?? null).toBeNull();
    const looked = await runWarp({ ...input, large: 'always' }, plainContext());
    if (looked.status !== 'solved') throw new Error(looked.message);
    expect(looked.result.beyond?.large?.settled).toBe(true);
    addUp(looked.result);
    const most = (u: Float32Array) => u.reduce((m, v) => Math.max(m, Math.abs(v)), 0);
    expect(looked.result.beyond?.buckling).toBeGreaterThan(1.5);
    expect(most(looked.result.byCause.large)).toBeLessThan(0.4 * facts.largest_m);
    // Hardly packed polypropylene: at the upper end of what its data sheets say, and beyond.
    expect(facts.meanShrinkage).toBeGreaterThan(0.015);
    expect(facts.meanShrinkage).toBeLessThan(0.033);
  });

  it('is that of the part where the melt comes through a feed, too', async () => {
    const shrinkageOf = async (feed: Inputs['feed']) => {
      const outcome = await runPipeline(plate, 'plate', { ...inputs, feed }, plainContext(), { gridError: false });
      if (outcome.status !== 'filled' || !outcome.shape) throw new Error(outcome.status);
      const { frozen, grid } = outcome.shape.input;
      expect(frozen.mean).toHaveLength(grid.n);
      // The mean of a node is that of its own layers.
      for (let i = 0; i < grid.n; i += 7) {
        const own = frozen.inPlane.subarray(i * frozen.nLayers, (i + 1) * frozen.nLayers);
        if (own.some((e) => Number.isNaN(e))) continue;
        expect(frozen.mean[i]).toBeGreaterThanOrEqual(Math.min(...own) - 1e-7);
        expect(frozen.mean[i]).toBeLessThanOrEqual(Math.max(...own) + 1e-7);
      }
      return outcome.shape.facts.meanShrinkage;
    };
    const [plain, fed] = [await shrinkageOf(null), await shrinkageOf(defaultFeed(0.002, 0.02, true))];
    expect(fed / plain).toBeGreaterThan(0.8);
    expect(fed / plain).toBeLessThan(1.25);
  });

  it('may cool on its cold runners, which hold it where they shrink less', async () => {
    const feed = defaultFeed(0.002, 0.02, true);
    const study = { ...inputs, feed, warpage: { ...DEFAULT_WARPAGE, withFeed: true } };
    const outcome = await runPipeline(plate, 'plate', { ...inputs, feed }, plainContext(), { gridError: false });
    if (outcome.status !== 'filled' || !outcome.shape) throw new Error(outcome.status);
    const { shot, result } = outcome.shape;
    expect(shot.frozen.feed!.length).toBeGreaterThan(0);
    for (const { strain, area } of shot.frozen.feed!) {
      expect(strain).toBeLessThan(-0.002);
      expect(strain).toBeGreaterThan(-0.04);
      expect(area).toBeGreaterThan(1e-7);
    }
    // Kept as bytes, nothing is lost.
    const bytes = packShotStrain(shot);
    const again = unpackShotStrain(
      bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length) as ArrayBuffer,
    );
    const onFeed = warpInputOf(
      { mesh: plate, inputs: study, settings: outcome.settings },
      outcome.gridResult,
      again,
      [],
    );
    const held = await runWarp(onFeed, plainContext());
    if (held.status !== 'solved') throw new Error(held.message);
    expect(held.result.elements).toBeGreaterThan(result.elements);
    expect(held.result.displacement).toHaveLength(result.displacement.length);
    expect(result.byCause.insert.every((u) => u === 0)).toBe(true);
    const far = Math.max(...held.result.byCause.insert.map(Math.abs));
    expect(far).toBeGreaterThan(1e-7);
    expect(far).toBeLessThan(1e-3);
  });

  it('carries a steel plate bonded to it along, and presses it together', async () => {
    const steel = mapVertices(box(0.06, 0.02, 0.001), ([x, y, z]) => [x, y, z + 0.0015]);
    const body = { ...inputs.bodies[0], id: 'B2', name: 'Blade', role: 'insert' as const };
    const outcome = await runPipeline(
      plate,
      'plate',
      {
        ...inputs,
        bodies: [...inputs.bodies, body],
        warpage: { ...DEFAULT_WARPAGE, large: 'never' as const },
        inserts: [{ ...DEFAULT_INSERT, id: 'B2' }],
      },
      plainContext(),
      { bodies: new Map([['B2', steel]]) },
    );
    if (outcome.status !== 'filled' || !outcome.shape) throw new Error(outcome.status);
    const { result, input, fields } = outcome.shape;
    const [{ surface, displacement, stress, highest }] = result.inserts;
    // Two layers that shrink alike in all directions along them (Timoshenko 1925, for a plate).
    const layers = [
      { solid: input.plastic, from: -0.001, to: 0.001, strain: -result.meanShrinkage },
      { solid: input.inserts[0].solid, from: 0.001, to: 0.002, strain: input.inserts[0].strain },
    ];
    const sums = [0, 0, 0, 0, 0];
    for (const { solid, from, to, strain } of layers) {
      const stiff = solid.young / (1 - solid.poisson);
      for (let k = 0; k < 3; k++) sums[k] += (stiff * (to ** (k + 1) - from ** (k + 1))) / (k + 1);
      for (let k = 0; k < 2; k++) sums[3 + k] += (stiff * strain * (to ** (k + 1) - from ** (k + 1))) / (k + 1);
    }
    const [s0, s1, s2, n, m] = sums;
    const bend = (m * s0 - n * s1) / (s2 * s0 - s1 * s1);
    const middle = (n - bend * s1) / s0;
    const [, { solid, strain }] = layers;
    const atInterface = (solid.young / (1 - solid.poisson)) * (middle + 0.001 * bend - strain);
    const part = input.surface.positions;
    let compared = 0;
    for (let v = 0; v < surface.positions.length / 3; v++) {
      const [x, y, z] = surface.positions.subarray(3 * v, 3 * v + 3);
      if (z > 0.0011 || Math.abs(x - 0.03) > 0.02 || Math.abs(y) > 0.005) continue;
      // Layers of the plastic that shrink unevenly bend it besides.
      expect(stress[6 * v] / atInterface).toBeGreaterThan(0.85);
      expect(stress[6 * v] / atInterface).toBeLessThan(1.15);
      let [nearest, least] = [0, Infinity];
      for (let w = 0; w < part.length; w += 3) {
        const d = Math.hypot(part[w] - x, part[w + 1] - y, part[w + 2] - z);
        if (d < least) [nearest, least] = [w, d];
      }
      if (least > 1e-4) continue;
      compared++;
      for (let d = 0; d < 3; d++) expect(displacement[3 * v + d]).toBeCloseTo(result.displacement[nearest + d], 5);
    }
    expect(compared).toBeGreaterThan(10);
    const largest = Math.max(...stresses(stress).filter((s) => s === s));
    expect(highest / largest).toBeGreaterThan(0.5);
    expect(highest / largest).toBeLessThan(2);
    const kept = fields.filter((f) => f.location === 'insert');
    expect(kept.map((f) => [f.id, f.data.length])).toEqual([
      ['insertMoved', displacement.length],
      ['insertStress', stress.length],
    ]);
    expect(insertSurface(result)!.positions).toHaveLength(displacement.length);
  });

  it('says when an insert does not touch the plastic, or is of nothing that is known', async () => {
    const far = mapVertices(box(0.01, 0.01, 0.002), ([x, y, z]) => [x + 0.02, y, z + 0.02]);
    // Half a millimetre off, in the same cells as the plastic.
    const near = mapVertices(far, ([x, y, z]) => [x, y, z - 0.0175]);
    const body = { ...inputs.bodies[0], id: 'B2', name: 'Blade', role: 'insert' as const };
    const run = (mesh: TriangleMesh, material = 'steel-hw-c') =>
      runPipeline(
        plate,
        'plate',
        { ...inputs, bodies: [...inputs.bodies, body], inserts: [{ ...DEFAULT_INSERT, id: 'B2', material }] },
        plainContext(),
        { bodies: new Map([['B2', mesh]]) },
      );
    const refusal = async (...given: Parameters<typeof run>) => {
      const outcome = await run(...given);
      return outcome.status === 'refused' ? outcome.problems[0].message : outcome.status;
    };
    expect(await refusal(far)).toMatch(/touches nothing of the plastic/);
    expect(await refusal(near)).toMatch(/there is a gap of 0.50 mm/);
    expect(await refusal(far, 'unobtainium')).toMatch(/is not in the library/);
  });

  it('is out of date when supports or the last stage change, not when it is judged otherwise', () => {
    const support = { id: 'S1', position: [0, 0, 0] as Vec3, holds: { x: true, y: false, z: false } };
    const measure = { id: 'M1', kind: 'flatness' as const, places: [[0, 0, 0] as Vec3], tolerance: 1e-4 };
    const [own, ...others] = [
      inputs,
      { ...inputs, warpage: { ...DEFAULT_WARPAGE, supports: [support] } },
      { ...inputs, warpage: { ...DEFAULT_WARPAGE, toolScaled: false } },
      { ...inputs, upTo: 'pack' as const },
    ].map(inputKey);
    expect(new Set([own, ...others]).size).toBe(4);
    expect(inputKey({ ...inputs, warpage: { ...DEFAULT_WARPAGE, tolerance: 1e-4, measures: [measure] } })).toBe(own);
  });
});
