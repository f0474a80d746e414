import { queryOptions, useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { Laying } from '@/core/geometry/laying';
import type { TriangleMesh, Vec3 } from '@/core/geometry/mesh';
import { inverse, placed, UNMOVED } from '@/core/geometry/placement';
import { vertexAt } from '@/core/geometry/vec';
import { NodeReader } from '@/core/grid/nodeReader';
import type { PlacesThere } from '@/core/grid/placesThere';
import type { SurfaceMap } from '@/core/grid/surfaceMap';
import { geometryKey } from '@/core/model/study';
import { weightedRange } from '@/core/numerics/weighted';
import { carriedOver } from '@/core/results/compareShapes';
import { longestSide } from '@/core/results/shape';
import type { RunView } from '@/runtime/wire';
import type { FieldView } from '@/viewer/fieldView';
import {
  derived,
  differenceFrames,
  differenceOfNodes,
  stillFrames,
  type NodeFrames,
  type ValueFrames,
} from '@/viewer/frames';
import type { DrawMesh } from '@/viewer/surfaceGeometry';
import type { ViewGrid } from '@/core/formats/viewGrid';
import { NO_VALUE } from '@/viewer/results';
import { useCavity } from '../study/meshes';
import { blobPath } from '../study/shots';
import type { RunData } from '../study/runData';
import { areasOf, meshOf } from '../study/shapeField';
import { askLaying } from './layingWork';
import type { ShownField } from '../study/shownField';

/** A run's field with what draws it. */
export interface Shown {
  run: RunView;
  data: RunData;
  field: ShownField;
  view: FieldView;
}

/** What one result is more than another, drawn on the part of the first. */
export interface Difference {
  surface: SurfaceMap;
  view: FieldView;
  /** The same for a legend. */
  field: ShownField;
  /** The grids differ: values of the second were read at the places of the first. */
  resampled: boolean;
  /** Where the part of the second has more, and where less, than that of the first; null where it is the same part. */
  parts: { added: DrawMesh; removed: DrawMesh } | null;
}

/** What is off a surface by more than this share of the part's size lies elsewhere. */
const SAME_PLACE = 2e-3;
/** Of a shape the nearest place within this share of its size counts. */
const SAME_PART = 0.01;
/** Parts whose axes differ by less lie with the same sides to the tool. */
const SAME_SIDES = 0.1;
/** Instants whose differences make the scale. */
const LOOKED_AT = 12;

/** How the part of one run lies on that of another; null while that is worked out. */
export function useLaying(first: RunView | null, second: RunView | null): Laying | null {
  const [a, b] = [useCavity(first?.inputs ?? NO_PART), useCavity(second?.inputs ?? NO_PART)];
  const marks = useMemo(() => {
    const [from, onto] = [first, second].map((run) => run?.inputs.gates.map((g) => g.position) ?? []);
    return { from, onto };
  }, [first, second]);
  const alike = first !== null && second !== null && geometryKey(first.inputs) === geometryKey(second.inputs);
  const { data } = useQuery(
    queryOptions({
      queryKey: ['laying', a.key, b.key, marks],
      enabled: !alike && a.mesh !== null && b.mesh !== null,
      queryFn: async ({ signal }) => {
        const request = { type: 'lay' as const, from: a.mesh as TriangleMesh, onto: b.mesh as TriangleMesh, marks };
        return (await askLaying<'laid'>(request, signal)).laying;
      },
    }),
  );
  return alike ? AS_DRAWN : (data ?? null);
}

const NO_PART = { bodies: [] } as unknown as RunView['inputs'];
export const AS_DRAWN: Laying = { matrix: UNMOVED, distance: 0, whole: 0 };

/** The difference of the second from the first; null while something of it is missing. */
export function useDifference(first: Shown | null, second: Shown | null): Difference | null {
  const laying = useLaying(first?.run ?? null, second?.run ?? null);
  const parts = usePartsApart(first, second, laying);
  const there = useThere(first, second, laying);
  const difference = useMemo(
    () => (first && second && laying && there ? differenceOf(first, second, laying, there.there) : null),
    [first, second, laying, there],
  );
  return useMemo(() => difference && { ...difference, parts }, [difference, parts]);
}

/** Two results on one grid, of parts that lie alike: there is nothing to be read elsewhere. */
export const onOneGrid = (first: Shown, second: Shown, laying: Laying): boolean =>
  laying === AS_DRAWN && first.data.grid?.gridKey === second.data.grid?.gridKey;

/** What reads the second result at the places of the first; `there` null: they are the same. null while it is worked out. */
function useThere(first: Shown | null, second: Shown | null, laying: Laying | null): { there: There | null } | null {
  const same = first !== null && second !== null && laying !== null && onOneGrid(first, second, laying);
  const { data } = useQuery({
    queryKey: ['places-there', first?.run.id, second?.run.id, laying?.matrix],
    enabled: !same && first !== null && second !== null && laying !== null,
    // Large: not longer than it is looked at.
    gcTime: 0,
    queryFn: async ({ signal }) => {
      const [from, onto] = [(first as Shown).run.id, (second as Shown).run.id].map((id) => ({
        surface: blobPath(id, 'surface.bin'),
        grid: blobPath(id, 'grid.bin'),
      }));
      const { places } = await askLaying<'placed'>(
        { type: 'place', from, onto: onto.grid, matrix: (laying as Laying).matrix },
        signal,
      );
      return thereFrom(places);
    },
  });
  return useMemo(() => (same ? { there: null } : data ? { there: data } : null), [same, data]);
}

/** The second result at the places of the first. */
export interface There extends Pick<PlacesThere, 'places' | 'sides'> {
  surface: NodeReader;
  nodes: NodeReader;
}

export const thereFrom = ({ surface, nodes, places, sides }: PlacesThere): There => ({
  surface: new NodeReader(surface),
  nodes: new NodeReader(nodes),
  places,
  sides,
});

/** The difference of two results that lie on each other so, without what was added or removed. */
export function differenceOf(
  first: Shown,
  second: Shown,
  laying: Laying,
  there: There | null,
): Omit<Difference, 'parts'> | null {
  const { surface, grid } = first.data;
  const theirSurface = second.data.surface;
  if (!surface || !grid || !second.data.grid || !theirSurface || first.field.id !== second.field.id) return null;
  const values = differenceFrames(first.view.values, there ? at(second, theirSurface, there) : second.view.values);
  const atNodes = there ? derived(second.field.nodes, 1, (all) => there.nodes.read(all)) : second.field.nodes;
  const nodes = differenceOfNodes(first.field.nodes, atNodes);
  const profile = profileApart(first.field.profile, second.field.profile, there, laying.matrix);
  const [mine, others] = [first.field.nodeTimes, second.field.nodeTimes];
  const nodeTimes = later(mine, there ? there.nodes.read(others) : others);
  const times = later(first.view.times, there ? withNone(there.surface.read(others)) : second.view.times);
  const reach = reachOf(first, surface, grid, values, nodes);
  const view: FieldView = {
    ...first.view,
    values,
    nodes,
    nodeTimes,
    times,
    profile,
    core: null,
    inserts: null,
    range: [-reach, reach],
    map: 'diverging',
    brush: second.view.brush,
    end: Math.max(first.view.end, second.view.end),
    deformed: null,
  };
  const field: ShownField = {
    ...first.field,
    nodes,
    nodeTimes,
    range: view.range as [number, number],
    end: view.end,
    wallValues: null,
    atVertices: first.field.atVertices && atVertices(first.field.atVertices, values, surface),
    inserts: null,
    profile,
  };
  return { surface, view, field, resampled: there !== null };
}

/**
 * Difference of profiles through the wall, place by place; null where one has none, or where the parts are turned against
 * each other, so that the sides of a wall are not the same.
 */
function profileApart(
  mine: NodeFrames | null,
  theirs: NodeFrames | null,
  there: There | null,
  matrix: readonly number[],
): NodeFrames | null {
  if (!mine || !theirs || mine.components !== theirs.components) return null;
  if (UNMOVED.some((m, k) => k % 4 < 3 && Math.abs(m - matrix[k]) > SAME_SIDES)) return null;
  if (!there) return differenceOfNodes(mine, theirs);
  const { components } = theirs;
  const read = derived(theirs, components, (all) => {
    const out = new Float32Array(there.nodes.n * components);
    const one = new Float32Array(all.length / components);
    for (let c = 0; c < components; c++) {
      for (let i = 0; i < one.length; i++) one[i] = all[i * components + c];
      there.nodes.read(one).forEach((v, i) => (out[i * components + c] = v));
    }
    return out;
  });
  return differenceOfNodes(mine, read);
}

/** Differences at the vertices, for a legend that counts them. */
function atVertices(
  { offset }: NonNullable<ShownField['atVertices']>,
  frames: ValueFrames,
  surface: SurfaceMap,
): ShownField['atVertices'] {
  const values = atStart(frames);
  return { values, offset, counted: { values, areas: areasOf(surface) } };
}

/** Values of the only frame; NaN where there is none. */
function atStart(frames: ValueFrames): Float32Array {
  const all = new Float32Array(frames.n);
  frames.write(0, all);
  return all.map((v) => (v >= NO_VALUE / 2 ? NaN : v));
}

/** Values of the second run at the vertices of the first one's surface. */
function at({ field }: Shown, theirSurface: SurfaceMap, there: There): ValueFrames {
  if (field.atVertices) {
    const reach = SAME_PART * longestSide(theirSurface.positions);
    const values = field.atVertices.values;
    return stillFrames(withNone(carriedOver(meshOf(theirSurface), values, { positions: there.places }, reach, 1)));
  }
  const wall = field.wallValues;
  if (wall) {
    const [low, high] = [0, 1].map((side) => {
      const ofSide = Float32Array.from({ length: wall.length / 2 }, (_, i) => wall[2 * i + side]);
      return there.surface.read(ofSide);
    });
    return stillFrames(withNone(low.map((v, p) => (there.sides[p] ? high[p] : v))));
  }
  return {
    n: there.surface.n,
    times: field.nodes.times,
    write: (frame, out) => {
      out.set(there.surface.read(field.nodes.at(frame)));
      for (let p = 0; p < out.length; p++) if (out[p] !== out[p]) out[p] = NO_VALUE;
    },
  };
}

const withNone = (values: Float32Array): Float32Array => values.map((v) => (v === v ? v : NO_VALUE));

const later = (a: Float32Array, b: Float32Array): Float32Array =>
  a.map((t, i) => (b[i] > t || b[i] !== b[i] ? b[i] : t));

/** Half the span that the differences take up, without the last half per cent of the part; never 0. */
function reachOf(
  { field }: Shown,
  surface: SurfaceMap,
  grid: ViewGrid,
  values: ValueFrames,
  nodes: ReturnType<typeof differenceOfNodes>,
): number {
  const far = ([low, high]: readonly [number, number]) => Math.max(Math.abs(low), Math.abs(high));
  const ofField = far(field.range);
  if (field.atVertices || field.wallValues) {
    return far(weightedRange(atStart(values), areasOf(surface), 0.005)) || LEAST * ofField || LEAST;
  }
  // All instants together: where one front is a little ahead, little of the part differs by much for a short time.
  const step = Math.max(1, Math.floor(nodes.times.length / LOOKED_AT));
  const looked = nodes.times.map((_, k) => nodes.times.length - 1 - k).filter((_, k) => k % step === 0);
  const [all, weights] = [0, 1].map(() => new Float32Array(looked.length * grid.nNodes));
  looked.forEach((frame, k) => {
    all.set(nodes.at(frame), k * grid.nNodes);
    weights.set(grid.nodeVolume, k * grid.nNodes);
  });
  return far(weightedRange(all, weights, 0.005)) || LEAST * ofField || LEAST;
}

/** Scale of a difference that is 0 all over, over the field's own. */
const LEAST = 1e-3;

/** What was added to the part of the first run and what removed, where they are not the same part. */
function usePartsApart(first: Shown | null, second: Shown | null, laying: Laying | null): Difference['parts'] {
  const [a, b] = [first?.data.surface ?? null, second?.data.surface ?? null];
  const differ = a !== null && b !== null && laying !== null && laying !== AS_DRAWN;
  const { data } = useQuery({
    queryKey: ['parts-apart', first?.run.id, second?.run.id, laying?.matrix],
    enabled: differ,
    queryFn: ({ signal }) => {
      const [mine, theirs] = [meshOf(a as SurfaceMap), meshOf(b as SurfaceMap)];
      const apart = SAME_PLACE * longestSide(mine.positions);
      const { matrix } = laying as Laying;
      return askLaying<'apart'>({ type: 'apart', first: mine, second: theirs, matrix, apart }, signal);
    },
  });
  return useMemo(() => {
    if (!differ || !data) return null;
    return { added: only(b, data.added, inverse(laying.matrix)), removed: only(a, data.removed, UNMOVED) };
  }, [a, b, differ, data, laying]);
}

/** Some triangles of a surface, moved. */
function only({ positions, triangles }: SurfaceMap, list: readonly number[], matrix: readonly number[]): DrawMesh {
  const corners = list.flatMap((i) => [triangles[3 * i], triangles[3 * i + 1], triangles[3 * i + 2]]);
  return {
    positions: Float32Array.from(corners.flatMap((v): Vec3 => placed(matrix, vertexAt(positions, v)))),
    triangles: Uint32Array.from(corners.keys()),
  };
}
