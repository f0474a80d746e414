/**
 * The exported structure, run by another program: CalculiX on conforming quadratic tetrahedra must find the shape
 * that the cut cells found.
 */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { combine } from '../src/cad/solids';
import { readStl } from '../src/core/formats/stl';
import { mapVertices, weld, type TriangleMesh, type Vec3 } from '../src/core/geometry/mesh';
import { vertexAt } from '../src/core/geometry/vec';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor } from '../src/core/grid/lattice';
import { buildPressureGrid } from '../src/core/grid/pressureGrid';
import { locate } from '../src/core/grid/structureGrid';
import { checkTets, lostInTets } from '../src/core/grid/tetCheck';
import { stuffed } from '../src/core/grid/tetGrid';
import { emptyInputs } from '../src/core/model/study';
import { DEFAULT_WARPAGE } from '../src/core/model/warpage';
import { runPipeline } from '../src/core/pipeline/pipeline';
import { plainContext } from '../src/core/stage/context';
import { shapeDeck, shapeVtu, structureTets } from '../src/core/pipeline/structureFiles';
import { installedMesher } from '../src/runtime/tetgen';
import { bestFit, without } from '../src/core/geometry/alignment';
import { counterWarp } from '../src/core/pipeline/counter';
import { LANES } from '../src/core/solvers/warp/solid';
import { displacementAt } from '../src/core/solvers/warp/stress';
import { few } from './extent';
import { box } from './shapes';
import { prismOf, revolve, TURNS } from './solids';

/** Displacements (m, 3 a node) in a result file of CalculiX: block DISP, lines of fixed width. */
function displacements(frd: string, nNodes: number): Float64Array {
  const out = new Float64Array(3 * nNodes).fill(NaN);
  const lines = frd.slice(frd.indexOf(' -4  DISP')).split('\n');
  for (const line of lines) {
    if (line.startsWith(' -3')) break;
    if (!line.startsWith(' -1')) continue;
    const node = Number(line.slice(3, 13)) - 1;
    for (let d = 0; d < 3; d++) out[3 * node + d] = Number(line.slice(13 + 12 * d, 25 + 12 * d)) / 1000;
  }
  return out;
}

function solvedByCalculix(deck: string, nNodes: number): Float64Array {
  const dir = mkdtempSync(path.join(tmpdir(), 'deck-'));
  try {
    writeFileSync(path.join(dir, 'shape.inp'), deck);
    execFileSync('ccx', ['-i', 'shape'], { cwd: dir, stdio: 'pipe', env: { ...process.env, OMP_NUM_THREADS: '2' } });
    return displacements(readFileSync(path.join(dir, 'shape.frd'), 'utf8'), nNodes);
  } finally {
    rmSync(dir, { recursive: true, force: true });
  }
}

const rms = (u: ArrayLike<number>) => Math.sqrt(Array.from(u).reduce((s, x) => s + x * x, 0) / u.length);

/** U section of 2 mm walls, 24 by 12 mm, 50 mm long: its sides close and it bends. */
const channel = prismOf(
  [
    [0, 0],
    [0.024, 0],
    [0.024, 0.012],
    [0.022, 0.012],
    [0.022, 0.002],
    [0.002, 0.002],
    [0.002, 0.012],
    [0, 0.012],
  ],
  0.05,
);

it.each(
  few(
    [
      ['turned 30° about x, then 17° about z', 'pa6-lowan-n30-g30'],
      ['as drawn', 'pp-hollin-h14'],
      ['turned 30° about x, then 17° about z', 'pp-hollin-h14'],
    ] as const,
    1,
  ),
)('a channel, %s, of %s', async (turn, resin) => {
  const part = mapVertices(channel, TURNS[turn]);
  const inputs = {
    ...emptyInputs('box'),
    resin,
    detail: 'quick' as const,
    gates: [{ id: 'G1', position: TURNS[turn]([0.012, 0.01, 0]) as Vec3, diameter: 0.0015 }],
    // Little pressure, let go early: a shape that is well above what the grids differ by.
    cycle: { ...emptyInputs('box').cycle, packing: { by: 'constant' as const, pressure: 8e6, time: 9.5 } },
    warpage: { ...DEFAULT_WARPAGE, detail: 'normal' as const },
  };
  const outcome = await runPipeline(part, 'box', inputs, plainContext(), { gridError: false });
  if (!('shape' in outcome) || !outcome.shape) throw new Error(outcome.status);
  const { input, result } = outcome.shape;
  const meshed = await structureTets({ ...input, detail: 'fine' }, installedMesher());
  if (meshed.status === 'refused') throw new Error(meshed.message);
  const { tets } = meshed;
  const nNodes = tets.positions.length / 3;
  const deck = shapeDeck(input, 'box', meshed);
  expect(deck.includes('TYPE=ANISO')).toBe(input.oriented !== undefined);
  const theirs = solvedByCalculix(deck, nNodes);
  const ours = new Float64Array(3 * nNodes);
  const local = new Float64Array(3);
  const u = new Float64Array(3 * LANES);
  for (let n = 0; n < nNodes; n++) {
    const element = locate(result.structure, ...vertexAt(tets.positions, n), local);
    displacementAt(result.structure, result.solution.displacement, element, local, u);
    for (let d = 0; d < 3; d++) for (let lane = 0; lane < LANES; lane++) ours[3 * n + d] += u[LANES * d + lane];
  }
  const weights = new Float64Array(nNodes).fill(1);
  const off = (growth: boolean) => {
    const [a, b] = [ours, theirs].map((w) => without(tets.positions, w, bestFit(tets.positions, w, weights, growth)));
    return rms(a.map((x, k) => x - b[k])) / rms(b);
  };
  expect(off(false)).toBeLessThan(0.05);
  // Most of that is even shrinkage. What bends sits in the corners, where either mesh has two elements.
  expect(off(true)).toBeLessThan(0.13);
  if (turn === 'as drawn') {
    // Bent the other way and solved again, the channel comes out as it is drawn.
    const { facts } = outcome.shape;
    const target = facts.largest_m / 8;
    const found = await counterWarp(input, result.displacement, facts.meanShrinkage, target, plainContext());
    if (found.status !== 'found') throw new Error(found.message);
    const { steps } = found.result;
    expect(steps[0].largest).toBeCloseTo(facts.largest_m, 9);
    expect(steps.at(-1)!.rms).toBeLessThan(steps[0].rms / 8);
    expect(steps.at(-1)!.largest).toBeLessThan(steps[0].largest / 4);
  }
  // The same as points, stress and constants.
  const vtu = shapeVtu(input, result, { E1: 1e9 }, tets);
  expect(vtu).toContain(`NumberOfPoints="${nNodes}" NumberOfCells="${tets.body.length}"`);
  for (const name of ['displacement_m', 'strain', 'stress_Pa', 'acrossWall', 'young_Pa', 'resin_E1'])
    expect(vtu).toContain(`Name="${name}"`);
});

describe('tetrahedra of a deck', () => {
  const meshed = async (part: TriangleMesh, mesher = installedMesher()) => {
    const grid = buildPressureGrid(buildFineGrid(part, latticeFor(part, 'quick')));
    return structureTets({ part, inserts: [], detail: 'quick', grid }, mesher);
  };
  const sample = (file: string) =>
    mapVertices(
      weld(readStl(readFileSync(new URL(`../samples/${file}`, import.meta.url)))).mesh,
      (v) => v.map((x) => x / 1000) as Vec3,
    );

  it.each(Object.entries(TURNS))('keep ribs, edges and volume of a plate, %s', async (_, turn) => {
    let part = box(0.06, 0.04, 0.002);
    for (const x of [0.016, 0.036])
      part = (await combine(
        part,
        mapVertices(box(0.0012, 0.04, 0.01), ([a, b, c]) => [a + x, b, c + 0.0055]),
        'join',
      ))!;
    const found = await meshed(mapVertices(part, turn));
    expect(found).toMatchObject({ status: 'meshed' });
    if (found.status === 'meshed') expect(found.reached).toMatch(/in one piece, 100\.00 %/);
  });

  it('the tray with its thin walls, and two loose parts', async () => {
    for (const [file, pieces] of [
      ['feeder-tray.stl', 'one piece'],
      ['frame-spacers.stl', '2 pieces'],
    ]) {
      const found = await meshed(sample(file));
      if (found.status === 'refused') throw new Error(found.message);
      expect(found.reached).toContain(`in ${pieces}, 100.0`);
    }
  });

  it('are refused where walls would be lost, with what is missing', async () => {
    const found = await meshed(sample('feeder-tray.stl'), async () => null);
    if (found.status === 'meshed') throw new Error(found.reached);
    expect(found.message).toMatch(/hold [\d.]+ % less than the part/);
    expect(found.remedy.length).toBeGreaterThan(20);
  });

  it('are counted: pieces, tunnels and volume', () => {
    const cube = box(0.01, 0.01, 0.01);
    const whole = stuffed([cube], 0.0031);
    const check = checkTets(whole, cube);
    expect(check).toMatchObject({ pieces: 1, wanted: 1, euler: 1, wantedEuler: 1 });
    expect(lostInTets({ ...check, volume: 1 })).toBeNull();
    expect(lostInTets({ ...check, volume: 0.9 })).toContain('10.0 % less');
    expect(lostInTets({ ...check, volume: 1, pieces: 2 })).toContain('2 pieces');
    expect(lostInTets({ ...check, volume: 1, euler: 0 })).toContain('holes');
    const ring = revolve(
      [
        [0.006, 0],
        [0.009, 0],
        [0.009, 0.003],
        [0.006, 0.003],
      ],
      32,
    );
    expect(checkTets(stuffed([ring], 0.001), ring)).toMatchObject({ pieces: 1, euler: 0, wantedEuler: 0 });
  });
});
