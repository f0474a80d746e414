import type { Bounds, Vec3 } from '@/core/geometry/mesh';
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
