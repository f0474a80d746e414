import { closestPoint } from '../src/core/geometry/closestPoint';
import { mapVertices, type Vec3 } from '../src/core/geometry/mesh';
import { cross, dot } from '../src/core/geometry/vec';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor, type Detail } from '../src/core/grid/lattice';
import { buildPressureGrid, type PressureGrid } from '../src/core/grid/pressureGrid';
import type { Filled, FillInput } from '../src/core/solvers/fill/outcome';
import { fill } from '../src/core/solvers/fill/stage';
import { constantFlow } from '../src/core/solvers/melt/drive';
import { noGating, placeGating } from '../src/core/solvers/melt/gating';
import { CENTRES, HALF_LAYERS } from '../src/core/solvers/melt/layers';
import { emptyState } from '../src/core/solvers/shot/state';
import { plainContext } from '../src/core/stage/context';
import { evenHeat } from './evenMelt';
import { box, disc } from './shapes';

/**
 * Fibres in the flow of an isothermal power-law melt between two walls: from the middle of a disc, or along a strip. They
 * have no direction before another up to `start`. SI.
 */
export interface FibreFlow {
  flow: 'radial' | 'straight';
  n: number;
  halfGap: number;
  start: number;
  aspect: number;
  CI: number;
  /** Radius of the disc; length of the strip from the start on. */
  reach: number;
}

type Turn = (v: Vec3) => Vec3;

/** What the filling has come to, and what can be read from it. */
export interface FlownFibres {
  grid: PressureGrid;
  after: Filled;
  /** Centre of a node in the axes of the body as drawn. */
  place: (node: number) => Vec3;
  /** Along the flow, across it in the plane, across the wall, and their shear, at a way along it [m] and a place of the wall (0 .. 1). */
  at: (way: number, zeta: number) => [a11: number, a22: number, a33: number, a13: number];
}

const MELT = 500;
const FLOW = 2e-5;
/** The filling ends a little before the disc or the strip does. */
const FILLED = 0.96;
export const STRIP_WIDTH = 0.026;
/** Half the width of what counts as the middle of the strip. */
const MIDDLE = 0.006;
/** Melt of the first part of a strip comes through the gate, and has no history of its own. */
const BEFORE_START = 0.0065;
const AT_GATE = 0.002;

/** Runs the filling stage on the real grid, the body lying as `turn` says. */
export async function flowFibres(c: FibreFlow, turn: Turn, detail: Detail = 'normal'): Promise<FlownFibres> {
  const radial = c.flow === 'radial';
  const drawn = radial ? disc(c.reach, 2 * c.halfGap) : box(c.reach + BEFORE_START, STRIP_WIDTH, 2 * c.halfGap);
  const turned = mapVertices(drawn, turn);
  const fine = buildFineGrid(turned, latticeFor(turned, detail));
  const grid = buildPressureGrid(fine);
  const axes = [0, 1, 2].map((d) => turn([0, 1, 2].map((k) => Number(k === d)) as Vec3));
  const place = (i: number) => axes.map((e) => e.reduce((s, x, d) => s + x * grid.centroid[3 * i + d], 0)) as Vec3;
  const top = closestPoint(turned, turn([0, 0, c.halfGap]));
  const gating = radial
    ? placeGating(fine, grid, [{ id: 'G1', surface: top, diameter: 0.004 }])
    : {
        ...noGating(grid),
        gateOfNode: Int16Array.from({ length: grid.n }, (_, i) => (place(i)[0] < AT_GATE ? 0 : -1)),
      };
  const kept = (p: Vec3) => (radial ? Math.hypot(p[0], p[1]) < c.start : p[0] < BEFORE_START);
  const input: FillInput = {
    grid,
    gating,
    nGates: 1,
    viscosity: { kind: 'power-law', K: 5000, n: c.n },
    meltTemperature: MELT,
    control: { ...constantFlow(FLOW), switchover: { by: 'share', share: FILLED }, packing: null },
    heat: evenHeat(grid.n, MELT),
    air: null,
    projectedArea: null,
    timeLimit: 1e5,
    fibres: {
      model: { aspect: c.aspect, interaction: { by: 'even', CI: c.CI }, slowing: 1 },
      closure: 'hybrid',
      across: Float64Array.from({ length: 3 * grid.n }, (_, k) => axes[2][k % 3]),
      fresh: [1 / 3, 1 / 3, 1 / 3, 0, 0, 0],
      kept: Uint8Array.from({ length: grid.n }, (_, i) => Number(kept(place(i)))),
    },
  };
  const after = await fill(emptyState(grid, gating), input, plainContext());
  if (after.status === 'failed') throw new Error(after.message);
  // Fibres of a strip start to turn at the first face of the nodes that are not kept.
  const ways = [...grid.volume.keys()].map((i) => place(i)[0]).filter((x) => x >= BEFORE_START);
  const from = ways.reduce((least, x) => Math.min(least, x), Infinity) - grid.spacing / 2 - c.start;
  const wayOf = (p: Vec3): { way: number; along: Vec3 } | null => {
    if (!radial) return Math.abs(p[1]) < MIDDLE ? { way: p[0] - from, along: [1, 0, 0] } : null;
    const way = Math.hypot(p[0], p[1]);
    return way > 0 ? { way, along: [p[0] / way, p[1] / way, 0] } : null;
  };
  return { grid, after, place, at: (way, zeta) => read(grid, after, turn, (i) => wayOf(place(i)), way, zeta) };
}

/** Points of a layer's profile that a value between them is read from. */
const POINTS = 4;

/**
 * Layers around a place of the wall with what they count for in a cubic through them (Lagrange), and in that of the shear,
 * whose sign is the other one beyond the middle.
 */
function layersAt(zeta: number): [layer: number, weight: number, shear: number][] {
  const above = CENTRES.findIndex((x) => x > zeta);
  const first = Math.min((above < 0 ? HALF_LAYERS : above) - POINTS / 2, HALF_LAYERS - POINTS);
  const places = Array.from({ length: POINTS }, (_, k) => first + k);
  const at = (l: number) => (l < 0 ? -CENTRES[-1 - l] : CENTRES[l]);
  return places.map((l) => {
    const weight = places.reduce((w, m) => (m === l ? w : (w * (zeta - at(m))) / (at(l) - at(m))), 1);
    return [l < 0 ? -1 - l : l, weight, l < 0 ? -weight : weight];
  });
}

/** Mean over the nodes around a way, between the layers around a place of the wall. */
function read(
  grid: PressureGrid,
  after: Filled,
  turn: Turn,
  wayOf: (node: number) => { way: number; along: Vec3 } | null,
  at: number,
  zeta: number,
): [number, number, number, number] {
  const { orientation } = after.state.layer;
  const layers = layersAt(zeta);
  const sums: [number, number, number, number] = [0, 0, 0, 0];
  let all = 0;
  for (let i = 0; i < grid.n; i++) {
    const found = wayOf(i);
    if (!found) continue;
    // A half column is that of the first wall: outwards is against the way across.
    const [e1, e3] = [turn(found.along), turn([0, 0, -1])];
    // Fibres of a node are those that leave it: by half of its stay further on.
    const further = grid.spacing / 2 / e1.reduce((s, x) => s + Math.abs(x), 0);
    const near = 1 - Math.abs(found.way + further - at) / (0.7 * grid.spacing);
    if (!(near > 0)) continue;
    const e2 = cross(e3, e1);
    for (const [layer, weight, shear] of layers) {
      const from = (i * HALF_LAYERS + layer) * 6;
      const a = orientation.subarray(from, from + 6);
      const row = (v: Vec3): Vec3 => [
        a[0] * v[0] + a[3] * v[1] + a[5] * v[2],
        a[3] * v[0] + a[1] * v[1] + a[4] * v[2],
        a[5] * v[0] + a[4] * v[1] + a[2] * v[2],
      ];
      sums[0] += near * weight * dot(e1, row(e1));
      sums[1] += near * weight * dot(e2, row(e2));
      sums[2] += near * weight * dot(e3, row(e3));
      sums[3] += near * shear * dot(e1, row(e3));
    }
    all += near;
  }
  return [sums[0] / all, sums[1] / all, sums[2] / all, sums[3] / all];
}
