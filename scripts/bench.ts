/**
 * `npm run bench`: seconds for reading, checking and measuring a part, and for grid and whole
 * run of the Feeder tray at each detail, with counts. Nothing is asserted; machines differ, compare ratios.
 */
import { readFileSync } from 'node:fs';
import { resolve } from '../src/core/setup/resolve';
import { readStl } from '../src/core/formats/stl';
import { weld } from '../src/core/geometry/mesh';
import { readFile } from '../src/cad/readFile';
import { writeStl } from '../src/core/formats/stl';
import { refine } from '../src/core/geometry/refine';
import { mapSurface } from '../src/core/partmaps/surface';
import { wallThickness } from '../src/core/partmaps/thickness';
import { partMaps } from '../src/core/partmaps/maps';
import { rulesWith } from '../src/core/partmaps/rules';
import { checkBody } from '../src/core/pipeline/importPart';
import { networkAlone } from '../src/core/cooling/alone';
import { trayCooling } from '../src/core/cooling/sample';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor, type Detail } from '../src/core/grid/lattice';
import { buildPressureGrid } from '../src/core/grid/pressureGrid';
import { defaultFeed } from '../src/core/model/feed';
import { defaultCore } from '../src/core/model/core';
import { DEFAULT_FIBRES } from '../src/core/model/fibres';
import { freshShot } from '../src/core/model/shots';
import { cavityBody, emptyInputs, type Inputs } from '../src/core/model/study';
import { settleMould } from '../src/core/setup/mould';
import { runPipeline } from '../src/core/pipeline/pipeline';
import { buildStructureGrid } from '../src/core/grid/structureGrid';
import { solveElastic } from '../src/core/solvers/warp/elastic';
import { LANES } from '../src/core/solvers/warp/solid';
import { box as boxMesh } from '../verification/shapes';
import { plainContext } from '../src/core/stage/context';
import { surfaceRange } from '../src/core/solvers/cool/stage';
import { secondThreadFrom } from '../src/runtime/secondThread';
import { warmUp } from '../src/runtime/warmUp';
import { surfaceMap } from '../src/core/grid/surfaceMap';

const details = (process.argv[2]?.split(',') ?? ['quick', 'normal', 'fine']) as Detail[];
const soup = readStl(readFileSync(new URL('../samples/feeder-tray.stl', import.meta.url)));
const { mesh } = weld(Float64Array.from(soup, (x) => x / 1000));
const since = (t: number) => ((performance.now() - t) / 1000).toFixed(2);
const secondThread = () => secondThreadFrom(new URL('./workers/second.worker.mjs', import.meta.url));
const rows: Record<string, string | number>[] = [];

// As the server's worker does before the first run of a user.
await warmUp(new AbortController().signal);

for (const detail of details) {
  const cycle: Inputs = {
    ...emptyInputs('feeder-tray'),
    gates: [{ id: 'G1', position: [0.004, 0.003, 0], diameter: 0.002 }],
    detail,
  };
  const inputs: Inputs = { ...cycle, upTo: 'fill' };
  let t = performance.now();
  const fine = buildFineGrid(mesh, latticeFor(mesh, detail));
  const grid = buildPressureGrid(fine);
  const gridSeconds = since(t);
  t = performance.now();
  const map = surfaceMap(mesh, fine, grid);
  const mapSeconds = since(t);
  t = performance.now();
  const outcome = await runPipeline(mesh, 'bench', inputs, plainContext(), { gridError: false });
  const seconds = since(t);
  // Once more: the server keeps its worker.
  t = performance.now();
  await runPipeline(mesh, 'bench', inputs, plainContext(), { gridError: false });
  const again = since(t);
  t = performance.now();
  const marks: { stage: string; at: number }[] = [];
  const context = plainContext(
    ({ stage }) => {
      if (stage !== marks.at(-1)?.stage) marks.push({ stage, at: performance.now() });
    },
    undefined,
    secondThread,
  );
  const whole = await runPipeline(mesh, 'bench', cycle, context, { gridError: false });
  const ended = performance.now();
  const shapeFrom = marks.find((m) => m.stage === 'warp')?.at ?? ended;
  const wholeSeconds = (shapeFrom - t) / 1000;
  if (outcome.status === 'failed' || outcome.status === 'refused') throw new Error(outcome.status);
  if (whole.status === 'failed' || whole.status === 'refused' || !whole.pack) throw new Error(whole.status);
  const { summary, fill } = outcome;
  rows.push({
    detail,
    cells: fine.cells.n,
    nodes: grid.n,
    'grid s': gridSeconds,
    'surface map s': mapSeconds,
    triangles: map.triangles.length / 3,
    'first run s': seconds,
    'next run s': again,
    'packing and cooling add s': (wholeSeconds - Number(again)).toFixed(2),
    'steps of it': whole.pack.steps,
    'its of it': whole.pack.iterations - whole.fill.iterations,
    steps: fill.steps,
    solves: fill.solves,
    its: fill.iterations,
    'p MPa': (summary.pressureNeeded_Pa / 1e6).toFixed(2),
    'heat error %': (100 * summary.heatError).toFixed(3),
    'shape adds s': ((ended - shapeFrom) / 1000).toFixed(2),
    'shape cells': whole.shape?.facts.elements ?? 0,
    'shape unknowns': whole.shape?.facts.unknowns ?? 0,
    'shape its': whole.shape?.facts.iterations ?? 0,
    MB: Math.round(process.memoryUsage().rss / 1e6),
  });
  console.table(rows.slice(-1));
}

/** Wide and thin: iterations of the structural solve for plates that shrink unevenly, by width over thickness. */
for (const width of [10, 20, 40, 80]) {
  const wall = 0.002;
  const plate = boxMesh(width * wall, 0.5 * width * wall, wall);
  const t = performance.now();
  const grid = buildStructureGrid([plate], wall);
  const { iterations, unknowns } = await solveElastic(
    {
      grid,
      solids: [{ young: 2e9, poisson: 0.38 }],
      supports: [],
      method: 'iterative',
      strainAt: (x, _y, z, _body, out) => {
        out.fill(0);
        const e = -0.01 * (1 + x / (width * wall)) * (1 + (0.1 * z) / wall);
        for (let k = 0; k < 3; k++) out[LANES * k] = e;
      },
    },
    plainContext(undefined, undefined, secondThread),
  );
  console.table([{ 'width over wall': width, cells: grid.nElements, unknowns, iterations, seconds: since(t) }]);
}

/** The mould of the tray, two circuits and four baffles, brought into balance with the part; and its network alone. */
for (const detail of details) {
  const cooling = trayCooling(mesh);
  const inputs: Inputs = {
    ...emptyInputs('feeder-tray'),
    gates: [{ id: 'G1', position: [0.004, 0.003, 0], diameter: 0.002 }],
    cooling,
    detail,
  };
  const fine = buildFineGrid(mesh, latticeFor(mesh, detail));
  const grid = { fine, grid: buildPressureGrid(fine), gridKey: 'bench' };
  let t = performance.now();
  const outcome = await settleMould(resolve(mesh, inputs), grid, new Map(), plainContext());
  const seconds = since(t);
  if (outcome.status === 'failed') throw new Error(outcome.message);
  const { result } = outcome.mould;
  t = performance.now();
  const alone = networkAlone(cooling, 2000);
  const [mean, low, high] = surfaceRange(result.field).map((T) => (T - 273.15).toFixed(1));
  console.table([
    {
      mould: detail,
      unknowns: result.field.grid.n,
      'rings of sinks': result.sinks.stations.length,
      's to balance': seconds,
      passes: result.passes,
      its: result.iterations,
      'balance %': (100 * result.balanceError).toFixed(4),
      'surface °C': `${low} … ${mean} … ${high}`,
      'network ms': (performance.now() - t).toFixed(1),
      'of it': `${alone?.coolant.stretches.length} stretches`,
    },
  ]);
}

/** The Queen cage lid with its fibres followed, and beside it alike all over: filling and packing, the shape, and an unfilled grade. */
for (const detail of details) {
  const lid = weld(
    Float64Array.from(
      readStl(readFileSync(new URL('../samples/queen-cage-lid.stl', import.meta.url))),
      (x) => x / 1000,
    ),
  ).mesh;
  const study = (resin: string, follow: boolean): Inputs => ({
    ...emptyInputs('queen-cage-lid'),
    resin,
    gates: [-0.034, 0.034].map((x, k) => ({ id: `G${k + 1}`, position: [x, 0, 0], diameter: 0.0015 })),
    fibres: { ...DEFAULT_FIBRES, follow },
    detail,
  });
  const timed = async (inputs: Inputs) => {
    let shapeFrom = 0;
    const context = plainContext(
      ({ stage }) => {
        if (stage === 'warp') shapeFrom ||= performance.now();
      },
      undefined,
      secondThread,
    );
    const t = performance.now();
    const outcome = await runPipeline(lid, 'bench', inputs, context, { gridError: false });
    if (outcome.status !== 'filled') throw new Error(outcome.status);
    return { shot: shapeFrom - t, shape: performance.now() - shapeFrom };
  };
  const pairs = { alike: [] as number[], followed: [] as number[] };
  let shapes = { alike: 0, followed: 0 };
  for (let round = 0; round < 3; round++) {
    const alike = await timed(study('pa6-lowan-n30-g30', false));
    const followed = await timed(study('pa6-lowan-n30-g30', true));
    pairs.alike.push(alike.shot);
    pairs.followed.push(followed.shot);
    shapes = { alike: alike.shape, followed: followed.shape };
  }
  const plain = [await timed(study('pa6-lowan-n30', false)), await timed(study('pa6-lowan-n30', true))];
  const added = pairs.followed.map((s, k) => s / pairs.alike[k] - 1).sort((a, b) => a - b);
  console.table([
    {
      fibres: detail,
      'alike s': (pairs.alike[1] / 1000).toFixed(1),
      'followed s': (pairs.followed[1] / 1000).toFixed(1),
      'adds %': (100 * added[1]).toFixed(0),
      'shape alike s': (shapes.alike / 1000).toFixed(1),
      'shape followed s': (shapes.followed / 1000).toFixed(1),
      'unfilled, asked or not': (plain[1].shot / plain[0].shot).toFixed(2),
    },
  ]);
}

/** The Smoker grip with gas in its core, from the surface to the opening of the mould, and beside it without. */
for (const detail of details) {
  const handle = readStl(readFileSync(new URL('../samples/smoker-grip.stl', import.meta.url)));
  const { mesh: grip } = weld(Float64Array.from(handle, (x) => x / 1000));
  const solid: Inputs = {
    ...emptyInputs('smoker-grip'),
    gates: [{ id: 'G1', position: [0, 0, 0.003], diameter: 0.003 }],
    detail,
    upTo: 'pack',
  };
  const hollow: Inputs = {
    ...solid,
    core: { ...defaultCore(), needles: [{ id: 'N1', position: [0, 0, -0.004] }], melt: { by: 'share', share: 0.75 } },
  };
  const timed = async (inputs: Inputs) => {
    const t = performance.now();
    const outcome = await runPipeline(grip, 'bench', inputs, plainContext(), { gridError: false });
    if (outcome.status === 'failed' || outcome.status === 'refused') throw new Error(outcome.status);
    return { seconds: since(t), outcome };
  };
  const [plain, core] = [await timed(solid), await timed(hollow)];
  console.table([
    {
      core: detail,
      nodes: core.outcome.gridResult.grid.n,
      'solid s': plain.seconds,
      'hollow s': core.seconds,
      steps: core.outcome.fill.steps + (core.outcome.pack?.steps ?? 0),
      'core cm3': (1e6 * (core.outcome.summary.core?.volume_m3 ?? 0)).toFixed(2),
      'heat error %': (100 * (core.outcome.pack?.heatError ?? 0)).toFixed(2),
      MB: Math.round(process.memoryUsage().rss / 1e6),
    },
  ]);
}

/** What a feed adds to the same filling: the middle of seven ratios of runs right after each other. */
{
  const plain: Inputs = {
    ...emptyInputs('feeder-tray'),
    upTo: 'fill',
    gates: [
      { id: 'G1', position: [0.004, 0.003, 0], diameter: 0.002 },
      { id: 'G2', position: [0.06, 0.003, 0], diameter: 0.002 },
    ],
    detail: 'quick',
  };
  const time = async (inputs: Inputs) => {
    const t = performance.now();
    const outcome = await runPipeline(mesh, 'bench', inputs, plainContext(), { gridError: false });
    if (outcome.status !== 'filled') throw new Error(outcome.status);
    return { ms: performance.now() - t, its: outcome.fill.iterations };
  };
  for (const hot of [null, { temperature: null }]) {
    const fed: Inputs = { ...plain, feed: { ...defaultFeed(0.002, -0.012, false), hot } };
    const ratios: number[] = [];
    let its = '';
    for (let turn = 0; turn < 7; turn++) {
      const [a, b] = [await time(plain), await time(fed)];
      ratios.push(b.ms / a.ms);
      its = `${a.its} to ${b.its}`;
    }
    const added = `${(100 * (ratios.sort((a, b) => a - b)[3] - 1)).toFixed(0)} %`;
    console.table([{ filling: 'Feeder tray, two gates, quick', feed: hot ? 'hot' : 'cold', added, iterations: its }]);
  }
}

/** The tool handle: steel blade, core, and a grip over the core as a second shot, to the shape of both. */
{
  const file = 'hive-tool-handle.3mf';
  const { bodies } = await readFile(file, readFileSync(new URL(`../samples/${file}`, import.meta.url)));
  const surfaces = new Map(
    bodies.map((b) => [b.name, { ...b.mesh, positions: b.mesh.positions.map((x) => x / 1000) }] as const),
  );
  const gate = (position: [number, number, number]) => ({ id: 'G1', position, diameter: 0.002 });
  for (const detail of details.filter((d) => d !== 'fine')) {
    const inputs: Inputs = {
      ...emptyInputs('core'),
      bodies: [
        cavityBody('core', 'Core'),
        { ...cavityBody('grip', 'Grip'), id: 'Grip', shot: 2 },
        { ...cavityBody('blade', 'Blade'), id: 'Blade', role: 'insert' },
      ],
      resin: 'pa6-lowan-n30',
      gates: [gate([0.094, 0, 0.008])],
      later: [{ ...freshShot(), gates: [gate([0.048, 0, 0.0165])] }],
      detail,
    };
    const at: Record<string, number> = {};
    const context = plainContext(
      ({ stage, shot }) => (at[`${stage}${shot ?? ''}`] ??= performance.now()),
      undefined,
      secondThread,
    );
    const outcome = await runPipeline(surfaces.get('Core')!, 'handle', inputs, context, {
      bodies: surfaces,
      gridError: false,
    });
    if (outcome.status !== 'filled') throw new Error(outcome.status);
    const seconds = (from: string, to: string) => ((at[to] - at[from]) / 1000).toFixed(1);
    const ended = performance.now();
    console.table([
      {
        handle: detail,
        nodes: [outcome, ...outcome.later].map((o) => o.gridResult.grid.n).join(', '),
        's first shot': seconds('grid1', 'grid2'),
        's second shot': seconds('grid2', 'warp'),
        's shape': ((ended - at.warp) / 1000).toFixed(1),
        'shape cells': outcome.shape?.facts.elements ?? 0,
        'heat error %': [outcome, ...outcome.later].map((o) => (100 * (o.pack?.heatError ?? 0)).toFixed(2)).join(', '),
        MB: Math.round(process.memoryUsage().rss / 1e6),
      },
    ]);
  }
}

/** A ring of n triangles, bent and twisted so that nothing is flat or aligned. */
function ring(n: number): typeof mesh {
  const [around, along] = [Math.round(Math.sqrt(n / 8)), Math.round(2 * Math.sqrt(n / 2))];
  const positions: number[] = [];
  const triangles: number[] = [];
  const at = (i: number, j: number) => (i % along) * around + (j % around);
  for (let i = 0; i < along; i++) {
    for (let j = 0; j < around; j++) {
      const [a, b] = [(2 * Math.PI * i) / along, (2 * Math.PI * j) / around];
      const r = 0.006 * (1 + 0.2 * Math.sin(3 * a));
      const R = 0.04 + r * Math.cos(b);
      positions.push(R * Math.cos(a), R * Math.sin(a), r * Math.sin(b) + 0.004 * Math.sin(2 * a));
      triangles.push(at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j), at(i + 1, j + 1), at(i, j + 1));
    }
  }
  return { positions: Float64Array.from(positions), triangles: Uint32Array.from(triangles) };
}

const parts: Record<string, string | number>[] = [];
{
  const bytes = writeStl(ring(500_000));
  let t = performance.now();
  const { bodies } = await readFile('ring.stl', bytes);
  const reading = since(t);
  t = performance.now();
  const { report } = checkBody(bodies[0].mesh, bodies[0].nDropped);
  parts.push({ work: 'read 500,000 triangles', triangles: report.nTriangles, seconds: reading });
  parts.push({ work: 'check 500,000 triangles', triangles: report.nTriangles, seconds: since(t) });
  for (const [name, surface] of [
    ['solid ring', ring(100_000)],
    ['Feeder tray', refine(mesh, 0.0048)],
  ] as const) {
    t = performance.now();
    const prepared = mapSurface(surface, Infinity);
    wallThickness(prepared);
    parts.push({ work: `wall thickness, ${name}`, triangles: prepared.n, seconds: since(t) });
  }
  t = performance.now();
  const maps = partMaps({
    mesh,
    opening: [0, 0, 1],
    partingHeight: null,
    gates: [[0.004, 0.003, 0]],
    rules: rulesWith({}),
  });
  parts.push({ work: 'all maps, Feeder tray', triangles: maps.surface.n, seconds: since(t) });
}
console.table(parts);
