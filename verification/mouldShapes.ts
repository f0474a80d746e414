import type { Bounds, Vec3 } from '@/core/geometry/mesh';
import { prism } from './shapes';
import { boundsOf, type TriangleMesh } from '@/core/geometry/mesh';
import { buildFineGrid } from '@/core/grid/grid';
import { latticeOver } from '@/core/grid/lattice';
import { buildMouldGrid } from '@/core/grid/mouldGrid';
import { mapSurface } from '@/core/partmaps/surface';
import type { Circuit } from '@/core/solvers/cool/circuit';
import { LineSinks } from '@/core/solvers/cool/lineSinks';
import { facetsOf, MouldField, type FaceContact, type HeatSource } from '@/core/solvers/cool/mouldField';
import { boreOf } from '@/core/solvers/cool/passages';

/** Bores of a test without a network: straight, with a coolant of one temperature. */
export function boresOf(list: { from: Vec3; to: Vec3; bore: number }[]): Circuit {
  return {
    nNodes: 2 * list.length,
    elements: list.map(({ from, to, bore }, k) => ({
      line: `L${k + 1}`,
      from: 2 * k,
      to: 2 * k + 1,
      pipes: [],
      rise: 0,
      wet: { from, to, bore, pipe: boreOf(1, bore, 0, 0) },
    })),
    pumps: [],
    returns: [],
    supplies: [],
    faults: [],
    still: new Set(),
  };
}

export interface Block {
  mesh: TriangleMesh;
  /** Spacing of the fine grid, m: a quarter of that of the mould. */
  spacing: number;
  block: Bounds;
  conductivity: number;
  contacts: readonly FaceContact[];
  bores: { from: Vec3; to: Vec3; bore: number }[];
  coolant: number;
  film: number;
  /** Where cells hardly grow; the box of the bores when absent. */
  fineIn?: Bounds;
  source: (normal: Vec3, area: number, T: number, centre: Vec3) => [heat: number, slope: number];
}

export const CLOSED: readonly FaceContact[] = Array.from({ length: 6 }, () => ({ temperature: 300, transfer: 0 }));

/** Mould field with heat given facet by facet, relaxed until it balances. */
export function solveBlock(b: Block) {
  const fine = buildFineGrid(b.mesh, latticeOver(b.mesh, b.spacing));
  const grid = buildMouldGrid(
    fine,
    b.block,
    boundsOf(b.mesh.positions),
    b.fineIn ?? boundsOf(b.bores.flatMap((x) => [...x.from, ...x.to])),
  );
  const surface = mapSurface(b.mesh, grid.spacing / 2);
  const facets = facetsOf(surface);
  const metals = {
    conductivity: new Float64Array(grid.n).fill(b.conductivity),
    capacity: new Float64Array(grid.n).fill(3.6e6),
  };
  const field = new MouldField(grid, metals, b.contacts, facets, b.coolant);
  const circuit = boresOf(b.bores);
  const sinks = new LineSinks(grid, circuit, metals.conductivity);
  const at = (list: Float64Array, f: number) => [list[3 * f], list[3 * f + 1], list[3 * f + 2]] as Vec3;
  const source: HeatSource = {
    evaluate(T, heat, slope) {
      for (let f = 0; f < facets.n; f++)
        [heat[f], slope[f]] = b.source(at(facets.normals, f), facets.areas[f], T[f], at(facets.centroids, f));
    },
  };
  let [left, passes] = [1, 0];
  for (; passes < 150 && left > 1e-7; passes++) {
    sinks.read(field.temperature);
    circuit.elements.forEach((_, e) => sinks.take(e, b.coolant, 1e9, b.film, true));
    left = field.relax(source, sinks, 0.02);
  }
  return { field, sinks, grid, passes, left };
}

/** Area-weighted mean of the facets that `want` picks, K. */
export function meanOverFacets(
  { facets, covered, facetTemperature }: MouldField,
  want: (centre: Vec3, normal: Vec3) => boolean,
) {
  let [sum, area] = [0, 0];
  let [low, high] = [Infinity, -Infinity];
  for (let f = 0; f < facets.n; f++) {
    const at = (list: Float64Array) => [list[3 * f], list[3 * f + 1], list[3 * f + 2]] as Vec3;
    if (!(covered[f] > 0) || !want(at(facets.centroids), at(facets.normals))) continue;
    sum += covered[f] * facets.areas[f] * facetTemperature[f];
    area += covered[f] * facets.areas[f];
    low = Math.min(low, facetTemperature[f]);
    high = Math.max(high, facetTemperature[f]);
  }
  return { mean: sum / area, low, high, area };
}

/** A plate that reaches past the block on all sides, so placed that the faces of the block lie on planes of the grid. */
export function plateOver(halfX: number, halfY: number, a: number) {
  const [x, y] = [halfX + 0.6181 * a, halfY + 0.5858 * a];
  return prism(
    [
      [-x, -y],
      [x, -y],
      [x, y],
      [-x, y],
    ],
    0,
    0.003,
  );
}

export const facingDown = (_: Vec3, normal: Vec3) => normal[2] < -0.5;

/** Channels side by side below a cavity wall under even flux: diameter, distances [m], W/(m K), W/m2, K. */
export interface ChannelRow {
  d: number;
  pitch: number;
  depth: number;
  k: number;
  q: number;
  T_coolant: number;
}

/** Mould field of a row, three channels of it, on cells of four times `a`; `lift` raises the bores. */
export function rowOfChannels({ d, pitch, depth, k, q, T_coolant }: ChannelRow, a: number, film: number, lift = 0) {
  const W = Math.round(0.012 / a) * a;
  const L = Math.round((3 * pitch) / a) * a;
  const bores = [-1, 0, 1].map((i) => ({
    from: [i * pitch, -W / 2, -depth + lift] as Vec3,
    to: [i * pitch, W / 2, -depth + lift] as Vec3,
    bore: d,
  }));
  const block: Block = {
    mesh: plateOver(L / 2, W / 2, a),
    spacing: a,
    block: { min: [-L / 2, -W / 2, -(depth + 3 * pitch)], max: [L / 2, W / 2, 0.012] },
    conductivity: k,
    contacts: CLOSED,
    bores,
    coolant: T_coolant,
    film,
    source: (n, A) => (n[2] < -0.5 ? [q * A, 0] : [0, 0]),
  };
  const out = solveBlock(block);
  const within = (x: number, half: number) =>
    meanOverFacets(out.field, (p, n) => facingDown(p, n) && Math.abs(p[0] - x) < half && Math.abs(p[1]) < W / 2).mean;
  const profile = Array.from({ length: 17 }, (_, i) => within(((i - 8) * pitch) / 16, pitch / 32));
  const heat = out.sinks.stations.reduce((s, x) => s + x.heat, 0);
  return { ...out, mean: within(0, pitch / 2), profile, heatError: heat / (q * L * W) - 1 };
}

/** Half a mould with a plate cavity and channels at `channel_x` and their mirror images; ambient at its sides. */
export interface HalfMould {
  cavity_width: number;
  block_width: number;
  block_height: number;
  d: number;
  depth: number;
  channel_x: number[];
  k: number;
  q: number;
  h_coolant: number;
  T_coolant: number;
  h_ambient: number;
  T_ambient: number;
}

/** Its mould field; heats are those of one half, W/m. */
export function halfMould(i: HalfMould) {
  const a = 5e-4;
  const depth = 0.012;
  const mesh = prism(
    [
      [-i.cavity_width / 2, -depth / 2 - 0.5858 * a],
      [i.cavity_width / 2, -depth / 2 - 0.5858 * a],
      [i.cavity_width / 2, depth / 2 + 0.5858 * a],
      [-i.cavity_width / 2, depth / 2 + 0.5858 * a],
    ],
    // The block ends at the first plane of the grid above the cavity wall (see latticeOver).
    0,
    0.003,
  );
  const air = { temperature: i.T_ambient, transfer: i.h_ambient };
  const closed = { temperature: i.T_ambient, transfer: 0 };
  const out = solveBlock({
    mesh,
    spacing: a,
    block: {
      min: [-i.block_width / 2, -depth / 2, -i.block_height],
      max: [i.block_width / 2, depth / 2, 0.6357 * a],
    },
    conductivity: i.k,
    contacts: [air, air, closed, closed, air, closed],
    bores: i.channel_x.flatMap((x) =>
      [-1, 1].map((s) => ({
        from: [s * x, -depth / 2, -i.depth] as Vec3,
        to: [s * x, depth / 2, -i.depth] as Vec3,
        bore: i.d,
      })),
    ),
    coolant: i.T_coolant,
    film: i.h_coolant,
    source: (n, A) => (n[2] < -0.5 ? [i.q * A, 0] : [0, 0]),
  });
  const near = (x: number) =>
    meanOverFacets(out.field, (p, n) => facingDown(p, n) && Math.abs(Math.abs(p[0]) - x) < 1.2e-3).mean;
  const wall = meanOverFacets(out.field, facingDown);
  const { ambient, platens } = out.field.heatOutside();
  const coolant = out.sinks.stations.reduce((s, x) => s + x.heat, 0) / 2 / depth;
  return { out, near, wall, coolant, outside: (ambient + platens) / 2 / depth };
}
