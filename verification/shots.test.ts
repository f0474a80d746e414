import { describe, expect, it } from 'vitest';
import { blockOf } from '../src/core/cooling/block';
import { DEFAULT_PLAN, layOutChannels, withLayout } from '../src/core/cooling/layout';
import { boundsOf, weld, mapVertices, type TriangleMesh, type Vec3 } from '../src/core/geometry/mesh';
import { refine } from '../src/core/geometry/refine';
import { joined } from '../src/core/geometry/shells';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor } from '../src/core/grid/lattice';
import { buildPressureGrid } from '../src/core/grid/pressureGrid';
import { stressForm } from '../src/core/material/stressForm';
import { defaultCooling } from '../src/core/model/cooling';
import { DEFAULT_INSERT } from '../src/core/model/insert';
import { freshShot } from '../src/core/model/shots';
import { cavityBody, emptyInputs, type Inputs } from '../src/core/model/study';
import { runPipeline } from '../src/core/pipeline/pipeline';
import { behindsOf, type MouldedBefore } from '../src/core/setup/behind';
import type { GridResult } from '../src/core/setup/grids';
import type { FillSettings } from '../src/core/setup/settings';
import { Behind } from '../src/core/solvers/melt/behind';
import { CompiledColumns, CompiledHeat } from '../src/core/solvers/melt/compiledColumns';
import { HALF_LAYERS } from '../src/core/solvers/melt/layers';
import { bend, pointsOfFaces } from '../src/core/solvers/warp/bentInsert';
import { runWarp, type WarpInput } from '../src/core/solvers/warp/stage';
import type { LayerStrain } from '../src/core/solvers/warp/strainField';
import { plainContext } from '../src/core/stage/context';
import heat from './reference/heat.json';
import { ALL, few } from './extent';
import { box } from './shapes';
import { TURNS } from './solids';

const turns = Object.entries(TURNS).slice(0, 3);
/** A plate along x and y between two heights, m. */
const plate = (lx: number, ly: number, z0: number, z1: number, turn: (v: Vec3) => Vec3): TriangleMesh =>
  mapVertices(box(lx, ly, z1 - z0), ([x, y, z]) => turn([x, y, z + (z0 + z1) / 2]));
const gridOf = (mesh: TriangleMesh): GridResult => {
  const fine = buildFineGrid(mesh, latticeFor(mesh, 'normal'));
  return { fine, grid: buildPressureGrid(fine), gridKey: '' };
};

/** Fused to plastic that is as hot everywhere: what `behindsOf` and the columns of a real grid make of it. */
describe.each(turns)('melt on a plate moulded before, %s', (_, turn) => {
  it.each(heat.backed)('contact $contact W/(m2 K): temperatures and times of the two-layer series', (c) => {
    const { melt, backing } = c;
    const size = 8 * melt.thickness;
    const mesh = plate(size, size, 0, melt.thickness, turn);
    const gridResult = gridOf(mesh);
    const { grid } = gridResult;
    const below = plate(size, size, -backing.thickness, 0, turn);
    const under = gridOf(below);
    const before: MouldedBefore = {
      number: 1,
      mesh: below,
      gridResult: under,
      material: backing,
      family: '',
      young: 1e9,
      nLayers: HALF_LAYERS,
      temperature: new Float64Array(under.grid.n * HALF_LAYERS).fill(backing.start),
      behind: null,
    };
    const settings = { wallTransfer: 1e9, detachedTransfer: 1e9 } as FillSettings;
    const behinds = behindsOf({ mesh, gridResult }, [], [before], settings, () => c.walls[1])!;
    if (c.contact !== null)
      behinds.spec.start.slice(0, -1).forEach((first) => (behinds.spec.layer.joint[first] = c.contact!));
    const mould = { temperature: c.walls[0], transfer: 1e9 };
    const sides = [mould, ...behinds.walls.list.map((_, s) => ({ ...mould, behind: s }))];
    const sideOf = behinds.walls.of.map((s) => s + 1);
    const form = stressForm({ kind: 'newtonian', eta: 100 });
    const columns = new CompiledColumns(grid, form, melt, { sides, sideOf }, melt.start);
    const behind = new Behind(behinds.spec);
    const whole = new CompiledHeat(grid, columns, melt, melt.start, c.walls[0], behind);
    const centre = turn([size / 2, 0, melt.thickness / 2]);
    const away = (i: number) => Math.hypot(...centre.map((x, d) => grid.position[3 * i + d] - x));
    const middle = Array.from({ length: grid.n }, (_, i) => i).filter((i) => away(i) < 2 * grid.spacing);
    const stacks = middle.map((i) => Math.max(behinds.walls.of[2 * i], behinds.walls.of[2 * i + 1]));
    expect(Math.min(...stacks)).toBeGreaterThanOrEqual(0);
    const mean = (of: (k: number) => number) => middle.reduce((s, _, k) => s + of(k), 0) / middle.length;
    const { start, layer } = behinds.spec;
    const ofStack = (s: number) => {
      let [sum, length] = [0, 0];
      for (let j = start[s]; j < start[s + 1]; j++) {
        sum += layer.thickness[j] * behind.memory.temperature[j];
        length += layer.thickness[j];
      }
      return sum / length;
    };
    let [t, dt] = [0, 2e-3];
    for (const expected of c.times) {
      for (; t < expected.t - 1e-9; dt = Math.min(0.1, 1.1 * dt)) {
        const step = Math.min(dt, expected.t - t);
        whole.rest(step, middle, grid.volume);
        t += step;
      }
      // A kelvin of 190: the walls are those of the grid.
      expect(Math.abs(mean((k) => columns.meanTemperature(middle[k])) - expected.meanMelt)).toBeLessThan(1);
      expect(Math.abs(mean((k) => ofStack(stacks[k])) - expected.meanBacking)).toBeLessThan(1);
    }
  });
});

const resin = 'pp-hollin-h14';
const gateAt = (turn: (v: Vec3) => Vec3, at: Vec3, id = 'G1') => ({ id, position: turn(at), diameter: 0.0015 });

/** What is asked of a run of bodies: its mesh, and those behind it. */
async function run(mesh: TriangleMesh, inputs: Partial<Inputs>, bodies: Map<string, TriangleMesh>) {
  const outcome = await runPipeline(
    mesh,
    'shots',
    { ...emptyInputs('shots'), detail: 'quick', upTo: 'pack', resin, ...inputs },
    plainContext(),
    { bodies, gridError: false },
  );
  if (outcome.status !== 'filled') throw new Error(JSON.stringify(outcome).slice(0, 500));
  expect(outcome.breaches).toEqual([]);
  return outcome;
}
const insertBody = (id = 'B2') => ({ ...cavityBody('steel', 'Sheet'), id, role: 'insert' as const });

describe('a steel sheet in the middle of a wall that is cooled alike on both sides', () => {
  const aside = (v: Vec3): Vec3 => TURNS['turned 30° about x, then 17° about z'](v);
  const lies = [
    ['turned', aside, 0.04],
    ['as drawn', (v: Vec3) => v, 0.02],
  ] as const;
  it.each(few(lies, 1))('%s: both walls freeze alike, and all heat is accounted for', async (_, turn, apart) => {
    const walls = [plate(0.05, 0.02, 0.0005, 0.0025, turn), plate(0.05, 0.02, -0.0025, -0.0005, turn)];
    const steel = plate(0.05, 0.02, -0.0005, 0.0005, turn);
    const outcome = await run(
      joined(walls),
      {
        bodies: [cavityBody('walls'), insertBody()],
        gates: [gateAt(turn, [0, 0, 0.0015]), gateAt(turn, [0, 0, -0.0015], 'G2')],
        tool: { ...emptyInputs().tool, opening: turn([0, 0, 1]) },
        cycle: { ...emptyInputs().cycle, venting: 'open' },
      },
      new Map([['B2', steel]]),
    );
    const { grid } = outcome.gridResult;
    const up = turn([0, 0, 1]);
    const mean = [0, 1].map((half) => {
      let [sum, volume] = [0, 0];
      for (let i = 0; i < grid.n; i++) {
        const z = up.reduce((s, u, d) => s + u * grid.centroid[3 * i + d], 0);
        const T = outcome.pack!.node.frozenAt[i];
        if (z > 0 !== (half === 0) || !Number.isFinite(T)) continue;
        sum += grid.volume[i] * T;
        volume += grid.volume[i];
      }
      return sum / volume;
    });
    expect(Math.abs(mean[0] / mean[1] - 1)).toBeLessThan(apart);
    expect(outcome.pack!.heatError).toBeLessThan(0.005);
    const [face] = outcome.summary.hold!.faces;
    expect(face.area_m2).toBeGreaterThan(0.9 * 2 * 0.05 * 0.02);
    // What it took stays in it: the mould is on neither of its sides, but for its edges.
    const stored = 7850 * 480 * 0.05 * 0.02 * 0.001 * (face.peak_K.high - 313);
    expect(face.taken_J).toBeGreaterThan(0.1 * stored);
    expect(face.taken_J).toBeLessThan(1.2 * stored);
  });
});

describe('a second shot', () => {
  const still = (v: Vec3) => v;
  const lower = plate(0.05, 0.02, -0.002, 0, still);
  const upper = plate(0.05, 0.02, 0, 0.002, still);

  const below = 'pa66-lowan-s40';

  it.runIf(ALL)('fills as over an insert of the same plastic that has cooled to the room', async () => {
    const later = [
      { ...freshShot(), resin, gates: [gateAt(still, [0, 0, 0.0012])], transfer: { time: 600, on: 'air' as const } },
    ];
    const two = await run(
      lower,
      {
        bodies: [cavityBody('lower'), { ...cavityBody('upper'), id: 'B2', shot: 2 }],
        resin: below,
        gates: [gateAt(still, [0, 0, -0.0012])],
        later,
      },
      new Map([['B2', upper]]),
    );
    const over = await run(
      upper,
      {
        bodies: [cavityBody('upper'), insertBody()],
        gates: later[0].gates,
        inserts: [{ ...DEFAULT_INSERT, id: 'B2', material: below, temperature: 296.15 }],
      },
      new Map([['B2', lower]]),
    );
    const [second] = two.later;
    expect(Math.abs(second.summary.pressureNeeded_Pa / over.summary.pressureNeeded_Pa - 1)).toBeLessThan(0.02);
    expect(Math.abs(second.summary.fillTime_s / over.summary.fillTime_s - 1)).toBeLessThan(0.01);
    // Over plastic it cools on one side alone: much later than the first, between steel and steel.
    expect(second.summary.pack!.ejectableTime_s!).toBeGreaterThan(2 * two.summary.pack!.ejectableTime_s!);
    const [face] = second.summary.hold!.faces;
    expect([face.body, face.kind, face.alike]).toEqual(['shot 1', 'plastic', false]);
    // The middle between a melt of 230 °C and plastic in the room, until the heat of both layers has met.
    expect(face.peak_K.mean).toBeGreaterThan(380);
    expect(face.peak_K.mean).toBeLessThan(430);
  });
});

/** A wall whose layers would all shrink alike, e along it and across it. */
function shrinking(mesh: TriangleMesh, e: number) {
  const { fine, grid } = gridOf(mesh);
  const frozen: LayerStrain = {
    nLayers: HALF_LAYERS,
    inPlane: new Float32Array(grid.n * HALF_LAYERS).fill(e),
    mean: new Float32Array(grid.n).fill(e),
    uneven: new Float32Array(0),
    heldAlong: new Float32Array(0),
  };
  return { fine, grid, frozen, volumetric: new Float32Array(grid.n).fill(1 - (1 + e) ** 3) };
}

describe.each(turns)('a plate of two shots that shrink differently, %s', (_, turn) => {
  it('bends as two bonded layers do', async () => {
    const [t1, t2, length] = [0.002, 0.003, 0.06];
    const [E1, E2, nu] = [1.5e9, 2.5e9, 0.35];
    const [e1, e2, already] = [-0.013, -0.005, -0.002];
    const first = plate(length, 0.012, -t2, 0, turn);
    const second = plate(length, 0.012, 0, t1, turn);
    const surface = refine(second, 0.003);
    const input: WarpInput = {
      part: second,
      ...shrinking(second, e1),
      plastic: { young: E1, poisson: nu },
      inserts: [
        {
          id: 'shot 1',
          mesh: first,
          solid: { young: E2, poisson: nu },
          strain: already,
          walls: { ...shrinking(first, e2), already, surface: first },
        },
      ],
      supports: [],
      detail: 'normal',
      large: 'never',
      surface,
    };
    const outcome = await runWarp(input, plainContext());
    if (outcome.status !== 'solved') throw new Error(outcome.message);
    // Timoshenko, Analysis of bi-metal thermostats, J. Opt. Soc. Am. 11 (1925) 233.
    const [m, n, h] = [t1 / t2, E1 / E2, t1 + t2];
    const curvature =
      (6 * (e1 - (e2 - already)) * (1 + m) ** 2) / (h * (3 * (1 + m) ** 2 + (1 + m * n) * (m * m + 1 / (m * n))));
    const { positions } = surface;
    const { displacement } = outcome.result;
    const back = turn([0, 0, 1]);
    const along = turn([1, 0, 0]);
    // Of the deflection over x a parabola: its second derivative.
    const rows: [number, number][] = [];
    for (let v = 0; v < positions.length / 3; v++) {
      const on = (e: Vec3, p: ArrayLike<number>) => e[0] * p[3 * v] + e[1] * p[3 * v + 1] + e[2] * p[3 * v + 2];
      rows.push([on(along, positions), on(back, displacement)]);
    }
    const fitted = secondDerivative(rows);
    expect(Math.abs(fitted / -curvature - 1)).toBeLessThan(0.06);
    expect(outcome.result.byCause.insert.every((u) => u === 0)).toBe(true);
    expect(outcome.result.byCause.shot.some((u) => Math.abs(u) > 1e-5)).toBe(true);
    const other = outcome.result.inserts[0].plastic!;
    expect(other.meanShrinkage).toBeCloseTo(-e2, 4);
  });
});

/** Second derivative of a parabola through points, by least squares. */
function secondDerivative(points: readonly [number, number][]): number {
  const x0 = points.reduce((s, [x]) => s + x, 0) / points.length;
  const sums = [0, 1, 2, 3, 4].map((k) => points.reduce((s, [x]) => s + (x - x0) ** k, 0));
  const right = [0, 1, 2].map((k) => points.reduce((s, [x, y]) => s + y * (x - x0) ** k, 0));
  const [[a, b, c], [d, e, f], [g, h, i]] = [0, 1, 2].map((k) => [sums[k], sums[k + 1], sums[k + 2]]);
  const det = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
  const third = a * (e * right[2] - right[1] * h) - b * (d * right[2] - right[1] * g) + right[0] * (d * h - e * g);
  return (2 * third) / det;
}

describe.each(turns.slice(0, 2))('a steel bar held at one end under even pressure, %s', (_, turn) => {
  it('bends as a beam does', async () => {
    const [L, b, h, E, p] = [0.05, 0.006, 0.003, 2e11, 1e6];
    const mesh = mapVertices(box(L, b, h), turn);
    const n = turn([0, 0, 1]);
    const [nx, ny] = [50, 6];
    const forces = Array.from({ length: nx * ny }, (_, k) => ({
      position: turn([(L * ((k % nx) + 0.5)) / nx, -b / 2 + (b * (Math.floor(k / nx) + 0.5)) / ny, h / 2 - 1e-7]),
      force: n.map((x) => (-x * p * L * b) / (nx * ny)) as Vec3,
    }));
    const held = pointsOfFaces(mesh, [turn([0, 0, 0])], h / 4);
    const { displacement } = await bend(
      { mesh, solid: { young: E, poisson: 0.3 }, detail: 'normal', held, forces },
      plainContext(),
    );
    let most = 0;
    for (let v = 0; v < displacement.length; v += 3)
      most = Math.max(most, -(n[0] * displacement[v] + n[1] * displacement[v + 1] + n[2] * displacement[v + 2]));
    const expected = (p * b * L ** 4) / (8 * E * ((b * h ** 3) / 12));
    expect(Math.abs(most / expected - 1)).toBeLessThan(0.05);
  });
});

describe('an insert between two gates', () => {
  const still = (v: Vec3) => v;
  const sheet = plate(0.06, 0.02, -0.0005, 0.0005, still);
  /** A wall over the sheet and one under it, joined at one end only by what feeds them. */
  const walls = joined([plate(0.04, 0.02, 0.0005, 0.0025, still), plate(0.04, 0.02, -0.0025, -0.0005, still)]);
  const moved = async (second: Partial<Inputs['gates'][number]>) => {
    const outcome = await run(
      walls,
      {
        bodies: [cavityBody('walls'), insertBody()],
        gates: [gateAt(still, [0.02, 0, 0.0025]), { ...gateAt(still, [0.02, 0, -0.0025], 'G2'), ...second }],
        cycle: { ...emptyInputs().cycle, venting: 'open' },
      },
      new Map([
        ['B2', weld(Array.from(sheet.triangles).flatMap((v) => [...sheet.positions.slice(3 * v, 3 * v + 3)])).mesh],
      ]),
    );
    const [load] = outcome.summary.hold!.loads;
    expect(load.held).toBe('outside');
    return load;
  };

  it('stays where it is when both fill alike, and is pushed aside when one is narrow', async () => {
    const even = await moved({});
    const uneven = await moved({ diameter: 0.0005 });
    expect(Math.abs(even.force_N[2])).toBeLessThan(0.1 * Math.abs(uneven.force_N[2]));
    expect(uneven.moved_m!).toBeGreaterThan(5 * even.moved_m!);
    expect(uneven.force_N[2]).toBeLessThan(0);
    expect(uneven.thinner_m!).toBeGreaterThan(0.5 * uneven.moved_m!);
  });
});

it('a third shot lies over the second, and that over the first as the second has warmed it', async () => {
  const still = (v: Vec3) => v;
  const [first, second, third] = [-0.002, 0, 0.002].map((z) => plate(0.04, 0.015, z, z + 0.002, still));
  const later = [0.0012, 0.0032].map((z) => ({ ...freshShot(), resin, gates: [gateAt(still, [0, 0, z])] }));
  const outcome = await run(
    first,
    {
      bodies: [cavityBody('first'), ...[2, 3].map((shot) => ({ ...cavityBody(`${shot}`), id: `B${shot}`, shot }))],
      resin: 'pa66-lowan-s40',
      gates: [gateAt(still, [0, 0, -0.0012])],
      later,
    },
    new Map([
      ['B2', second],
      ['B3', third],
    ]),
  );
  const [over, top] = outcome.later.map((o) => o.summary);
  expect([over, top].map((s) => s.hold!.faces.map((f) => f.body))).toEqual([['shot 1'], ['shot 2']]);
  // Two layers of plastic let less through than one.
  expect(top.pack!.ejectableTime_s!).toBeGreaterThan(over.pack!.ejectableTime_s!);
  expect(Math.max(...outcome.later.map((o) => o.pack!.heatError))).toBeLessThan(0.005);
});

describe('steel behind one wall', () => {
  const still = (v: Vec3) => v;
  const part = plate(0.06, 0.03, 0, 0.002, still);
  const steel = plate(0.06, 0.03, -0.006, 0, still);
  const bodies = [cavityBody('part'), insertBody()];
  const gates = [gateAt(still, [0.03, 0, 0.002])];
  const laidIn = new Map([['B2', steel]]);

  it.runIf(ALL)(
    'cools alike as a piece of the mould and as an insert whose face is as warm over the cycle',
    async () => {
      const bounds = boundsOf(part.positions);
      const plan = { ...DEFAULT_PLAN(bounds), distance: 0.018 };
      const fresh = defaultCooling();
      const channels = layOutChannels(plan, part, bounds, blockOf(fresh, bounds), fresh.supplies[0].id);
      const metal = 'steel-hw-30';
      const piece = { id: 'M1', name: 'Plate', shape: { shape: 'body' as const, body: 'B2' }, metal };
      const cooling = { ...withLayout(fresh, plan, channels), inserts: [piece] };
      const grid = await run(part, { bodies, gates, cooling }, laidIn);
      const walls = grid.mould!.source.wallTemperature;
      const meanOf = (side: number) => walls.reduce((s, T, k) => (k % 2 === side ? s + T : s), 0) / (walls.length / 2);
      const [upper, lower] = [meanOf(0), meanOf(1)];
      const column = (temperature: number) =>
        run(
          part,
          {
            bodies,
            gates,
            cycle: { ...emptyInputs().cycle, mouldTemperature: upper, lowerMouldTemperature: lower },
            inserts: [{ ...DEFAULT_INSERT, id: 'B2', material: metal, temperature }],
          },
          laidIn,
        );
      // What the face is warmer over the cycle than the steel was at its start.
      const first = await column(lower);
      const face = first.fields.find((f) => f.id === 'faceTemperature')!;
      const n = face.data.length / face.frames;
      const risen = face.times.map((_, t) => {
        const there = [...face.data.subarray(t * n, (t + 1) * n)].filter((T) => T === T);
        return there.length ? there.reduce((s, T) => s + T - lower, 0) / there.length : 0;
      });
      const { openTime_s, cycleTime_s } = first.summary.pack!;
      let sum = 0;
      for (let t = 1; t < risen.length && face.times[t] <= openTime_s; t++)
        sum += ((risen[t] + risen[t - 1]) / 2) * (face.times[t] - face.times[t - 1]);
      const even = await column(lower - sum / cycleTime_s);
      const [a, b] = [grid, even].map((o) => o.summary.pack!.ejectableTime_s!);
      expect(Math.abs(b / a - 1)).toBeLessThan(0.03);
    },
  );
});
