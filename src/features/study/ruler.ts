'use client';

import { useMemo } from 'react';
import { snapToEdge } from '@/core/geometry/snap';
import { SurfaceTree } from '@/core/geometry/surfaceTree';
import { throughWall } from '@/core/geometry/throughWall';
import { boundsOf, type TriangleMesh, type Vec3 } from '@/core/geometry/mesh';
import type { Inputs } from '@/core/model/study';
import { format } from '@/core/units/reader';
import type { RulerMark } from '@/viewer/RulerLayer';
import { useAim, useBench, type RulerEnd } from './bench';
import { useCavity } from './meshes';

/** A click this near to a sharp edge means the edge, in diagonals of the part. */
const CATCH = 0.008;
/** A place this far off the surface lies on another body, in reaches of a catch. */
const ON_FACE = 0.1;
/** Past this many triangles the search for edges takes longer than a click may. */
const MOST_TRIANGLES = 200_000;

const trees = new WeakMap<TriangleMesh, SurfaceTree>();
function treeOf(mesh: TriangleMesh): SurfaceTree {
  let tree = trees.get(mesh);
  if (!tree) trees.set(mesh, (tree = new SurfaceTree(mesh)));
  return tree;
}

/** A place to measure from or to: on the sharp edge beside it, else where it was clicked, with the wall below it. */
export function rulerEnd(mesh: TriangleMesh, at: Vec3, normal: Vec3): RulerEnd {
  const { min, max } = boundsOf(mesh.positions);
  const reach = CATCH * Math.hypot(...max.map((x, d) => x - min[d]));
  const edge = mesh.triangles.length / 3 < MOST_TRIANGLES ? snapToEdge(mesh, at) : null;
  // At an edge the wall is that of no face.
  if (edge && edge.distance < reach) return { at: edge.point, wall: null };
  const tree = treeOf(mesh);
  tree.closest(...at);
  return { at, wall: tree.distance < ON_FACE * reach ? throughWall(tree, at, normal) : null };
}

/** m; what is less is what rounding has left of nothing. */
const DUST = 1e-9;

const wallSaid = ({ wall }: RulerEnd): string => (wall === null ? '' : `wall ${format(wall, 'mm')}`);
const between = ([a, b]: readonly RulerEnd[]): Vec3 => b.at.map((x, d) => x - a.at[d]) as Vec3;

/** What has been measured so far, in words. */
export function rulerSaid(ends: readonly RulerEnd[]): string {
  if (!ends.length) return 'Click a place: the wall there. A second one: the distance. Esc when done.';
  const walls = ends.map(wallSaid).filter(Boolean);
  if (ends.length < 2) return [walls[0] ?? 'On an edge', 'click a second place for the distance'].join('; ');
  const way = between(ends);
  const parts = ['X', 'Y', 'Z'].map(
    (axis, d) => `${axis} ${format(Math.abs(way[d]) < DUST ? 0 : Math.abs(way[d]), 'mm')}`,
  );
  return [format(Math.hypot(...way), 'mm', 4), parts.join(', '), walls.join(', ')].filter(Boolean).join('; ');
}

/** Ends as they are drawn, with the wall at each and the distance between. */
const markOf = (ends: readonly RulerEnd[]): RulerMark => ({
  ends: ends.map(({ at, wall }) => ({
    at: at.map((x) => 1000 * x) as Vec3,
    label: wall === null ? null : format(wall, 'mm'),
  })),
  distance: ends.length > 1 ? format(Math.hypot(...between(ends)), 'mm', 4) : null,
});

/** What is measured on these bodies: as it is drawn and said, and what takes the next click; null while nothing is. */
export function useRuler(inputs: Inputs) {
  const { mesh } = useCavity(inputs);
  const aim = useAim('distance');
  return useMemo(() => {
    if (!aim) return null;
    const { ends } = aim;
    const take = (at: Vec3, normal: Vec3) => {
      if (!mesh) return;
      const end = rulerEnd(mesh, at, normal);
      // A third click begins anew.
      useBench.getState().set({ aim: { for: 'distance', ends: ends.length === 1 ? [ends[0], end] : [end] } });
    };
    return { mark: markOf(ends), said: rulerSaid(ends), take };
  }, [aim, mesh]);
}
