import { describe, expect, it } from 'vitest';
import type { Vec3 } from '../src/core/geometry/mesh';
import { combine } from '../src/cad/solids';
import { buildStructureGrid, locate, structureEdge } from '../src/core/grid/structureGrid';
import { plainContext } from '../src/core/stage/context';
import { connectedElements, solveElastic } from '../src/core/solvers/warp/elastic';
import { isotropicStiffness } from '../src/core/material/fibres/stiffness';
import { LANES } from '../src/core/solvers/warp/solid';
import { displacementAt, planeStress, SmoothStrain, vonMises } from '../src/core/solvers/warp/stress';
import { few, inTurns } from './extent';
import { relative } from './run';
import { box, ORIENTATIONS } from './shapes';
import { mapVertices } from '../src/core/geometry/mesh';
import {
  back,
  CASES,
  difference,
  EVERY_WAY,
  solved,
  STRAINS,
  turned,
  type Orientation,
  type StructureCase,
} from './structureCases';

const NAMES = CASES.map((c) => c.name);
const named = (name: string) => CASES.find((c) => c.name === name) as StructureCase;
const placesOf = (c: StructureCase) => c.samples_mm.map(([x, y, z]): Vec3 => [x, y, z]);
const reference = (c: StructureCase) => c.samples_mm.map(([, , , x, y, z]): Vec3 => [x, y, z]);

describe('free bodies that want to change their shape', () => {
  it.each(inTurns(NAMES, EVERY_WAY))('%s, %s, against conforming quadratic meshes', async (name, how) => {
    const c = named(name);
    // Small cells follow from the thin layers of the strip; the coarser ones do, too.
    const { grid, at } = await solved(c, how, name === 'bimetal-strip' ? 'quick' : 'normal');
    const volume = 1e9 * grid.weight.reduce((s, w) => s + w, 0);
    // The cells' volumes are exact but for specks that hang on nothing; the bracket's arc is one of chords.
    expect(
      relative(
        volume,
        c.bodies.reduce((s, b) => s + b.volume_mm3, 0),
      ),
    ).toBeLessThan(5e-4);
    const u = placesOf(c).map(at);
    expect(difference(placesOf(c), u, reference(c), false)).toBeLessThan(
      c.tolerance.displacement * c.maxDisplacement_mm,
    );
    expect(difference(placesOf(c), u, reference(c), true)).toBeLessThan(c.tolerance.shape * c.maxShape_mm);
  });

  it('the corner of the bracket springs in by its angle times the difference of the shrinkages', async () => {
    const c = named('l-bracket');
    const { at } = await solved(c, 'turned', 'fine');
    // Slope of the normal displacement of each leg.
    const slope = (a: Vec3, b: Vec3, d: number, length: number) => (at(b)[d] - at(a)[d]) / length;
    const first = slope([-35, 15, -4.25], [-5, 15, -4.25], 2, 30);
    const second = slope([4.25, 15, 5], [4.25, 15, 35], 0, 30);
    const springIn = ((second + first) * 180) / Math.PI;
    expect(Math.abs(Math.abs(springIn) / (c.springIn_deg as number) - 1)).toBeLessThan(0.03);
  });

  it('two grids of other cells agree, and the finer is nearer', async () => {
    const c = named('steep-tray');
    const error = async (detail: 'quick' | 'fine') => {
      const { at } = await solved(c, 'flat', detail);
      return difference(placesOf(c), placesOf(c).map(at), reference(c), true) / c.maxShape_mm;
    };
    const [quick, fine] = [await error('quick'), await error('fine')];
    expect(quick).toBeLessThan(0.03);
    expect(fine).toBeLessThan(quick + 0.01);
  });

  it('the iteration gives what a direct solution gives', async () => {
    const c = named('linear-tray');
    const [direct, iterative] = [
      await solved(c, 'turned', 'quick', 'direct'),
      await solved(c, 'turned', 'quick', 'iterative'),
    ];
    expect(direct.solution.iterations).toBe(0);
    expect(iterative.solution.iterations).toBeGreaterThan(3);
    const [a, b] = [direct, iterative].map((s) => placesOf(c).map(s.at));
    // It stops at 1e-4 of the energy norm.
    expect(difference(placesOf(c), a, b, false) / c.maxDisplacement_mm).toBeLessThan(2e-3);
  });

  it.each(Object.entries(ORIENTATIONS))('even shrinkage leaves no shape and no stress, %s', async (_, turn) => {
    const mesh = mapVertices(box(0.05, 0.03, 0.002), turn);
    const grid = buildStructureGrid([mesh], 0.0021);
    const strainAt = (_x: number, _y: number, _z: number, _b: number, out: Float64Array) => {
      out.fill(0);
      for (let k = 0; k < 3; k++) out[LANES * k] = -0.01;
    };
    const input = { grid, solids: [{ young: 2e9, poisson: 0.38 }], strainAt, supports: [] };
    const { displacement } = await solveElastic(input, plainContext());
    const u = Array.from({ length: grid.nNodes }, (_n, i) =>
      [0, 1, 2].map((d) => 1000 * displacement[LANES * (3 * i + d)]),
    ) as Vec3[];
    const places = u.map((_u, i) => [0, 1, 2].map((d) => 1000 * grid.position[3 * i + d]) as Vec3);
    const even = places.map((p) => p.map((x) => -0.01 * x) as Vec3);
    expect(difference(places, u, even, false)).toBeLessThan(1e-6 * 0.5);
  });

  it.each(inTurns([null], EVERY_WAY).map(([, how]) => how))(
    'stress in the plastic over an embedded bar, %s',
    async (how) => {
      const c = named('embedded-bar');
      const { grid, solution } = await solved(c, how);
      const smooth = new SmoothStrain(grid, solution, 0);
      const [strain, stress] = [new Float64Array(6), new Float64Array(6)];
      let [off, all] = [0, 0];
      for (const { place_mm, vonMises_MPa } of c.stresses ?? []) {
        smooth.at(turned(place_mm.map((x) => x / 1000) as Vec3, how), strain);
        const free = STRAINS[c.name](place_mm, 0) as number;
        for (let k = 0; k < 3; k++) strain[k] -= free;
        planeStress(strain, turned([0, 0, 1], how), isotropicStiffness({ young: 2e9, poisson: 0.38 }), stress);
        off += (1e-6 * vonMises(stress) - vonMises_MPa) ** 2;
        all += vonMises_MPa ** 2;
      }
      expect(Math.sqrt(off / all)).toBeLessThan(c.tolerance.stress as number);
    },
  );
});

describe('ribs thinner than the cells', () => {
  const WIDTH = { thin: 0.0008, usual: 0.0012 };

  /** What is left of the displacement of the floor without rigid motion and growth, m, and the connected pieces. */
  async function ribbed(rib: number, how: Orientation) {
    let mesh = box(0.06, 0.04, 0.002);
    for (const x of [0.016, 0.036])
      mesh =
        (await combine(
          mesh,
          mapVertices(box(rib, 0.04, 0.01), ([a, b, c]) => [a + x, b, c + 0.0055]),
          'join',
        )) ?? mesh;
    mesh = mapVertices(mesh, (p) => turned(p, how));
    const grid = buildStructureGrid([mesh], structureEdge([mesh], 'quick'));
    // Grows with the square of the height: the ribs pull the floor into a bow.
    const strainAt = (x: number, y: number, z: number, _body: number, out: Float64Array) => {
      const height = back([x, y, z], how)[2];
      out.fill(0);
      for (let k = 0; k < 3; k++) out[LANES * k] = -0.006 * (1 + (height / 0.01) ** 2);
    };
    const solids = [{ young: 2e9, poisson: 0.4 }];
    const { displacement } = await solveElastic({ grid, solids, strainAt, supports: [] }, plainContext());
    const [local, u] = [new Float64Array(3), new Float64Array(3 * LANES)];
    const places = Array.from({ length: 49 }, (_, k): Vec3 => [
      0.0005 + (0.059 * (k % 7)) / 6,
      0.0195 * (Math.floor(k / 7) / 3 - 1),
      0,
    ]);
    const moved = places.map((p) => {
      displacementAt(grid, displacement, locate(grid, ...turned(p, how), local), local, u);
      return back([u[0], u[LANES], u[2 * LANES]], how);
    });
    return { places, moved, pieces: new Set(connectedElements(grid)).size };
  }

  it.each(few(Object.entries(WIDTH), 1))('stay whole on their floor in every turn, %s', async (_, rib) => {
    const flat = await ribbed(rib, 'flat');
    const size = difference(
      flat.places,
      flat.moved,
      flat.moved.map((): Vec3 => [0, 0, 0]),
      true,
    );
    for (const how of EVERY_WAY) {
      const { places, moved, pieces } = await ribbed(rib, how);
      expect(pieces).toBe(1);
      expect(difference(places, moved, flat.moved, true) / size).toBeLessThan(0.03);
    }
  });
});
