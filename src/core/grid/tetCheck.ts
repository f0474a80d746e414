import { edgeTable } from '../geometry/edges';
import { measure, type TriangleMesh } from '../geometry/mesh';
import { findShells } from '../geometry/shells';
import { UnionFind } from '../numerics/unionFind';
import { volumeOf, type TetGrid } from './tetGrid';

/** What a mesh of tetrahedra makes of a closed surface. */
export interface TetCheck {
  /** Volume over that of the surface. */
  volume: number;
  /** Loose pieces of either. */
  pieces: number;
  wanted: number;
  /** Euler characteristic of either: pieces less tunnels plus hollows. */
  euler: number;
  wantedEuler: number;
}

/** Share of the volume that a mesh may lose or gain. */
export const TET_VOLUME = 0.01;

/** Volume, pieces and holes of tetrahedra against the surface they fill. */
export function checkTets({ positions, tets }: TetGrid, surface: TriangleMesh): TetCheck {
  const nVertices = positions.length / 3;
  const sets = new UnionFind(nVertices);
  const used = new Set<number>();
  const [edges, faces] = [new Set<number>(), new Set<string>()];
  let volume = 0;
  for (let e = 0; e < tets.length; e += 4) {
    const tet = Array.from(tets.subarray(e, e + 4));
    volume += volumeOf(positions, tet[0], tet[1], tet[2], tet[3]) / 6;
    const sorted = tet.sort((a, b) => a - b);
    sorted.forEach((v, i) => {
      used.add(v);
      sets.union(sorted[0], v);
      for (const w of sorted.slice(i + 1)) edges.add(v * nVertices + w);
      faces.add(sorted.filter((_, k) => k !== i).join());
    });
  }
  const table = edgeTable(surface);
  const shells = findShells(surface, table);
  const own = new Set(surface.triangles).size - table.nEdges + surface.triangles.length / 3;
  return {
    volume: volume / Math.abs(measure(surface).volume),
    pieces: new Set([...used].map((v) => sets.find(v))).size,
    wanted: shells.filter((s) => s.volume > 0).length,
    euler: used.size - edges.size + faces.size - tets.length / 4,
    // Of a solid it is half that of its skin.
    wantedEuler: own / 2,
  };
}

/** What is wrong with tetrahedra, in words; null when they keep volume, pieces and holes. */
export function lostInTets({ volume, pieces, wanted, euler, wantedEuler }: TetCheck): string | null {
  const off = 100 * (volume - 1);
  if (!(Math.abs(volume - 1) <= TET_VOLUME))
    return `they hold ${Math.abs(off).toFixed(1)} % ${off < 0 ? 'less' : 'more'} than the part`;
  if (pieces !== wanted) return `they fall into ${pieces} pieces where the part has ${wanted}`;
  if (euler !== wantedEuler) return 'they open or close holes of the part';
  return null;
}
