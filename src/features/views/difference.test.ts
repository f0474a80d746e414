import { describe, expect, it } from 'vitest';
import { box } from '../../../verification/shapes';
import { TURNS } from '../../../verification/solids';
import { inverse } from '@/core/geometry/placement';
import { layOnto, type Laying } from '@/core/geometry/laying';
import { mapVertices, type TriangleMesh, type Vec3 } from '@/core/geometry/mesh';
import { vertexAt } from '@/core/geometry/vec';
import { buildFineGrid } from '@/core/grid/grid';
import { latticeFor, type Detail } from '@/core/grid/lattice';
import { buildPressureGrid } from '@/core/grid/pressureGrid';
import { placesThere } from '@/core/grid/placesThere';
import { PointMapper, surfaceMap } from '@/core/grid/surfaceMap';
import type { RunView } from '@/runtime/wire';
import { nodeFrames, onPoints, type ValueFrames } from '@/viewer/frames';
import type { ViewGrid } from '@/core/formats/viewGrid';
import { NO_VALUE } from '@/viewer/results';
import type { RunData } from '../study/runData';
import type { ShownField } from '../study/shownField';
import { AS_DRAWN, differenceOf, onOneGrid, thereFrom, type Shown } from './useDifference';

/** A result whose field rises along the part from frame to frame. */
function resultOn(mesh: TriangleMesh, detail: Detail, of: (p: Vec3, time: number) => number): Shown {
  const fine = buildFineGrid(mesh, latticeFor(mesh, detail));
  const grid = buildPressureGrid(fine);
  const surface = surfaceMap(mesh, fine, grid);
  const view: ViewGrid = {
    gridKey: `${detail} ${mesh.positions.join()}`,
    nNodes: grid.n,
    nodeVolume: Float32Array.from({ length: grid.n }, () => 1),
    centroid: Float32Array.from(grid.centroid),
    thickness: new Float32Array(grid.n).fill(0.002),
    mapper: new PointMapper(fine, grid),
    spacing: grid.spacing,
  };
  const times = [0, 1, 2];
  const values = Float32Array.from({ length: 3 * grid.n }, (_, k) =>
    of(vertexAt(view.centroid, k % grid.n), times[Math.floor(k / grid.n)]),
  );
  const nodes = nodeFrames(values, grid.n, times);
  const nodeTimes = new Float32Array(grid.n);
  const field: ShownField = {
    id: 'pressure',
    nodes,
    nodeTimes,
    range: [0, 10],
    end: 2,
    live: false,
    profile: null,
  };
  const nVertices = surface.positions.length / 3;
  return {
    run: {} as RunView,
    data: { surface, grid: view } as RunData,
    field,
    view: {
      values: onPoints(surface, nodes, nVertices),
      times: new Float32Array(nVertices),
      nodes,
      nodeTimes,
      grid: view,
      range: [0, 10],
      brush: null,
      end: 2,
      still: null,
    },
  };
}

const largest = (frames: ValueFrames): number => {
  let most = 0;
  for (let frame = 0; frame < frames.times.length; frame++) {
    const out = new Float32Array(frames.n);
    frames.write(frame, out);
    for (const v of out) most = Math.max(most, v >= NO_VALUE / 2 ? Infinity : Math.abs(v));
  }
  return most;
};

const along = (p: Vec3, time: number) => time * (1 + 40 * p[0] - 25 * p[1]);

/** As the page has it, with the places worked out here. */
function difference(first: Shown, second: Shown, laying: Laying) {
  const places = () => placesThere(first.data.surface!, first.data.grid!, second.data.grid!, laying.matrix);
  return differenceOf(first, second, laying, onOneGrid(first, second, laying) ? null : thereFrom(places()));
}

describe('the difference of two results', () => {
  const plate = box(0.06, 0.04, 0.002);

  it('is 0 all over of a run with itself', () => {
    const run = resultOn(plate, 'quick', along);
    const { view, field, resampled } = difference(run, run, AS_DRAWN)!;
    expect(resampled).toBe(false);
    expect(largest(view.values)).toBe(0);
    expect(field.nodes.at(2).every((v) => v === 0)).toBe(true);
    // A scale of nothing would draw noise.
    expect(view.range[1]).toBeGreaterThan(0);
    expect(view.range[0]).toBe(-view.range[1]);
  });

  it('of quick and normal with the same linear field is none, on the surface and inside', () => {
    const [quick, normal] = (['quick', 'normal'] as const).map((detail) => resultOn(plate, detail, along));
    const { view, resampled } = difference(quick, normal, AS_DRAWN)!;
    expect(resampled).toBe(true);
    // Beyond its outermost nodes the drawn surface of the first shows these: half a node of the slope, 0.7 mm.
    expect(largest(view.values)).toBeLessThan(2 * 40 * 1.5e-3);
    for (let frame = 0; frame < 3; frame++)
      for (const v of view.nodes.at(frame)) expect(Math.abs(v)).toBeLessThan(2e-3 * 2);
  });

  it('of profiles is taken place by place through the wall, and left out where sides are others', () => {
    const withProfile = (detail: Detail, more: number): Shown => {
      const run = resultOn(plate, detail, along);
      const { nodes } = run.field;
      const deep = Float32Array.from(
        [0, 1, 2].flatMap((t) => [...nodes.at(t)].flatMap((v) => [v, v + more, v + 2 * more])),
      );
      const profile = nodeFrames(deep, run.data.grid!.nNodes, nodes.times, 3);
      return { ...run, field: { ...run.field, profile } };
    };
    const [first, second] = [withProfile('quick', 0), withProfile('normal', 4)];
    for (const other of [second, { ...withProfile('quick', 4), data: first.data }]) {
      const { view, field } = difference(first, other, AS_DRAWN)!;
      expect(view.profile).toBe(field.profile);
      expect(view.profile!.components).toBe(3);
      view.profile!.at(2).forEach((v, k) => expect(Math.abs(v - 4 * (k % 3))).toBeLessThan(4e-3));
    }
    const over = { ...AS_DRAWN, matrix: [1, 0, 0, 0, 0, -1, 0, 0, 0, 0, -1, 0] };
    expect(difference(first, second, over)!.view.profile).toBeNull();
    expect(difference(first, resultOn(plate, 'normal', along), AS_DRAWN)!.view.profile).toBeNull();
  });

  it.each(Object.entries(TURNS))('of a part that was turned is that of the part as it lay, %s', (_name, turn) => {
    const notched = mapVertices(box(0.06, 0.04, 0.002), ([x, y, z]) => [x, y * (1 - 4 * x), z]);
    const there = mapVertices(notched, turn);
    const laying = layOnto(notched, there);
    const back = inverse(laying.matrix);
    const first = resultOn(notched, 'normal', along);
    const second = resultOn(there, 'normal', ([x, y, z], time) => {
      const p = [0, 4, 8].map((r) => back[r] * x + back[r + 1] * y + back[r + 2] * z + back[r + 3]) as Vec3;
      return along(p, time) + 3;
    });
    const { view } = difference(first, second, laying)!;
    const nodes = view.nodes.at(2);
    const off = Array.from(nodes, (v) => Math.abs(v - 3)).sort((a, b) => a - b);
    expect(off[Math.floor(0.98 * off.length)]).toBeLessThan(0.02);
    expect(off.every(Number.isFinite)).toBe(true);
  });
});
