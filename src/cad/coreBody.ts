import { boundsOf, type TriangleMesh, type Vec3 } from '../core/geometry/mesh';
import { SurfaceTree } from '../core/geometry/surfaceTree';
import type { GridResult } from '../core/setup/grids';
import { PointMapper, WEIGHTS } from '../core/grid/surfaceMap';
import { skinOf } from '../core/results/coreFacts';
import type { CoreFound } from '../core/results/shotFound';
import { levelSet } from './solids';

/** The core of a moulded part as a body: one value a vertex of when the fluid came there, s, and of its share of the section. */
export interface CoreBody extends TriangleMesh {
  times: Float32Array;
  shares: Float32Array;
}

/** Samples of the box around the core; edges of its facets over those of the grid's nodes. */
const MOST_SAMPLES = 250_000;
const EDGE = 0.5;

/** Body of the fluid in the core: everywhere deeper below the surface than its skin; null where there is none. */
export async function coreBody(
  part: TriangleMesh,
  { fine, grid }: Pick<GridResult, 'fine' | 'grid'>,
  { node: { volume, time } }: CoreFound,
): Promise<CoreBody | null> {
  const hollow = [...volume.keys()].filter((i) => volume[i] > 0);
  if (!hollow.length) return null;
  const mapper = new PointMapper(fine, grid);
  const shares = Float32Array.from(volume, (v, i) => v / grid.volume[i]);
  // Next to no skin would let the body stand out of the part by what its facets miss.
  const skins = Float32Array.from(shares, (share, i) =>
    Math.max(LEAST_SKIN * grid.thickness[i], skinOf(grid, i, share)),
  );
  const tree = new SurfaceTree(part);
  const nodes = new Int32Array(WEIGHTS);
  const weights = new Uint8Array(WEIGHTS);
  const mean = (p: Vec3, values: ArrayLike<number>): number => {
    const own = mapper.nodeAt(...p);
    if (own < 0) return NaN;
    mapper.weightsAt(p, own, nodes, weights, 0);
    let [sum, whole] = [0, 0];
    for (let s = 0; s < WEIGHTS; s++) {
      const v = values[nodes[s]];
      if (!weights[s] || !(v === v)) continue;
      sum += weights[s] * v;
      whole += weights[s];
    }
    return whole > 0 ? sum / whole : NaN;
  };
  const inside = (p: Vec3): number => {
    const skin = mean(p, skins);
    if (!(skin === skin)) return -grid.spacing;
    // Next to nothing hollow there: no body, whatever the skin of half a wall would say.
    if (!(mean(p, shares) > LEAST_SHARE)) return -skin;
    if (tree.closest(...p) < 0) return -skin;
    const depth = tree.distance;
    return depth > skin && !tree.inside(...p) ? -depth : depth - skin;
  };
  const corners = hollow.flatMap((i) => [grid.centroid[3 * i], grid.centroid[3 * i + 1], grid.centroid[3 * i + 2]]);
  const box = boundsOf(corners);
  const pad = 1.5 * grid.spacing;
  const min = box.min.map((x) => x - pad) as Vec3;
  const max = box.max.map((x) => x + pad) as Vec3;
  const room = max.reduce((v, x, d) => v * (x - min[d]), 1);
  const edge = Math.max(EDGE * grid.spacing, Math.cbrt(room / MOST_SAMPLES));
  const mesh = await levelSet(inside, { min, max }, edge);
  if (!mesh.triangles.length) return null;
  const at = (v: number): Vec3 => [mesh.positions[3 * v], mesh.positions[3 * v + 1], mesh.positions[3 * v + 2]];
  const n = mesh.positions.length / 3;
  const of = (values: ArrayLike<number>, otherwise: number) =>
    Float32Array.from({ length: n }, (_, v) => {
      const value = mean(at(v), values);
      return value === value ? value : otherwise;
    });
  const last = hollow.reduce((t, i) => Math.max(t, time[i] || 0), 0);
  return { ...mesh, times: of(time, last), shares: of(shares, 0) };
}

const LEAST_SHARE = 0.03;
const LEAST_SKIN = 0.04;
