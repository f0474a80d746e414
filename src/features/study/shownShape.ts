import { useMemo } from 'react';
import { useShallow } from 'zustand/react/shallow';
import { weightedRange } from '@/core/numerics/weighted';
import { vertexAreas } from '@/core/geometry/alignment';
import { principal, stresses, type ShapeFacts } from '@/core/results/shape';
import type { SurfaceMap } from '@/core/grid/surfaceMap';
import type { Manifest } from '@/runtime/manifest';
import type { RunView } from '@/runtime/wire';
import { nodeFrames } from '@/viewer/frames';
import { timesToDraw, valuesAt } from '@/viewer/results';
import { DRAWN, manifestOf, useRunData, type ResultPart, type RunData } from './runData';
import { useStudy } from './store';
import type { Counted } from './shownField';
import { isSigned } from './shapeSaid';
import { aboutZero } from './scaleRange';
import type { ShownField } from './shownField';
import type { ShownInserts } from './shownField';
import { useView, type FieldId, type ShapeLook } from './view';
import { OF_SHAPE } from './fields';
import { alignedShape, alongOf, areasOf, deviationOfOther, movedAlong, stressAlong } from './shapeField';

type Look = Omit<ShapeLook, 'scale' | 'moving' | 'against'>;
type Other = Parameters<typeof deviationOfOther>[1];

export const growthOf = ({ toolScaled, meanShrinkage }: ShapeFacts): number => (toolScaled ? meanShrinkage : 0);

/** The stored displacement of a cause. */
const movedBy = (cause: ShapeLook['cause']): FieldId => (cause === 'all' ? 'displacement' : `moved-${cause}`);

/** Stored fields that a shown one is made of. */
function storedAs(id: FieldId, { cause, body }: Look): FieldId[] {
  const shapes = ['fillTime', 'displacement', movedBy(cause), ...(body === 'counter' ? [body] : [])];
  if (id === 'deviation') return shapes;
  return [id === 'stressAlong' ? 'skinStress' : id, ...shapes];
}

/** A field of the shape of a run as it is looked at; null while it is coming, or for other fields. */
export function useShapeField(run: RunView | null, id: FieldId): ShownField | null {
  const look = useView(
    useShallow(({ shape: { cause, along, align, points, frame, body, stressIn } }): Look => {
      return { cause, along, align, points, frame, body, stressIn };
    }),
  );
  const facts = run?.summary?.shape;
  const other = useOtherShape(run?.id ?? null);
  const isShape = OF_SHAPE.includes(id);
  const withInserts = look.stressIn !== 'plastic' && run !== null && hasInserts(manifestOf(run.id));
  const data = useRunData(
    isShape && run ? run.id : null,
    withInserts ? WITH_INSERTS : DRAWN,
    isShape ? [...storedAs(id, look), ...(withInserts ? OF_INSERTS : [])] : [],
  );
  return useMemo(
    () => (isShape && data && facts ? shapeField(data, id, look, facts, other) : null),
    [isShape, data, id, look, facts, other],
  );
}

/** Stress of inserts is kept of runs that have some. */
const hasInserts = (manifest: Manifest | null): boolean =>
  manifest?.fields.some((f) => f.id === 'insertStress') ?? false;
const WITH_INSERTS: readonly ResultPart[] = [...DRAWN, 'inserts'];
const OF_INSERTS: readonly FieldId[] = ['insertStress', 'insertMoved'];

const SURFACE: readonly ResultPart[] = ['surface'];

/** The shape of the run that the shown one is compared with; null without one, or while it is coming. */
function useOtherShape(shownId: string | null): Other | null {
  const against = useView((s) => s.shape.against);
  const name = movedBy(useView((s) => s.shape.cause));
  const id = against === shownId ? null : against;
  const facts = useStudy((s) => s.runs.find((r) => r.id === id)?.summary?.shape);
  const data = useRunData(id, SURFACE, [name]);
  return useMemo(() => {
    const displacement = data?.fields.get(name);
    if (!data?.surface || !displacement || !facts) return null;
    return { surface: data.surface, displacement, growth: growthOf(facts) };
  }, [data, facts, name]);
}

/** A field of the shape, on the part as it comes out; it belongs to the end of the cycle. */
function shapeField(data: RunData, id: FieldId, look: Look, facts: ShapeFacts, other: Other | null): ShownField | null {
  const { manifest, grid, surface } = data;
  const displacement = data.fields.get(movedBy(look.cause));
  const nodeTimes = data.fields.get('fillTime');
  const source = id === 'stressAlong' ? 'skinStress' : id;
  const stored = data.fields.get(source);
  const meta = manifest?.fields.find((f) => f.id === source);
  if (!manifest || !grid || !surface || !displacement || !nodeTimes) return null;
  if (id !== 'deviation' && (!stored || !meta)) return null;
  const counter = look.body === 'counter' ? data.fields.get('counter') : undefined;
  const offset = counter ?? alignedShape(surface, displacement, look, growthOf(facts));
  if (!counter && other) {
    const theirs = deviationOfOther(surface, other, look);
    for (let k = 0; k < offset.length; k++) offset[k] -= theirs[k];
  }
  const end = manifest.history.time.at(-1) ?? 0;
  const rest = { id, nodeTimes: timesToDraw(nodeTimes, end), end, live: false, profile: null };
  if (meta?.location === 'cell') {
    const nodeValues = stored as Float32Array;
    const values = valuesAt(surface, nodeValues, new Float32Array(surface.positions.length / 3));
    return {
      ...rest,
      nodes: nodeFrames(nodeValues, grid.nNodes, []),
      range: weightedRange(nodeValues, grid.nodeVolume, 0.005),
      atVertices: { values, offset, counted: { values, areas: areasOf(surface) } },
    };
  }
  const values =
    id === 'deviation'
      ? alongOf(surface, offset, look)
      : id === 'stressAlong'
        ? stressAlong(stored as Float32Array, look)
        : (stored as Float32Array);
  const inserts = insertsOf(data, id, look, displacement, facts);
  const counted = countedOf(surface, values, inserts);
  const range = weightedRange(counted.values, counted.areas, id === 'deviation' ? 0 : 0.005);
  const signed = isSigned(id, look);
  if (id === 'deviation' && !signed) range[0] = 0;
  return {
    ...rest,
    // Of stresses at the surface the inside of the wall has none; a displacement goes straight from face to face.
    nodes: nodeFrames(new Float32Array(grid.nNodes).fill(NaN), grid.nNodes, []),
    range: signed ? aboutZero(range) : range,
    signed,
    atVertices: { values, offset, counted, through: id === 'deviation' && look.along !== 'normal' },
    inserts,
  };
}

/** Stresses by their field, from tensors of a vertex. */
const OF_TENSORS: Record<FieldId, (tensors: Float32Array, look: Look) => Float32Array> = {
  vonMises: stresses,
  principalStress: (tensors) => principal(tensors, 'largest'),
  leastPrincipal: (tensors) => principal(tensors, 'least'),
  stressAlong,
};

/** Fields that inserts have values of, too. */
export const IN_INSERTS: readonly FieldId[] = Object.keys(OF_TENSORS);

/** Inserts with their stress, moved as the part is; null where they are not asked for or not there yet. */
function insertsOf(
  { inserts: mesh, fields, surface }: RunData,
  id: FieldId,
  look: Look,
  displacement: Float32Array,
  facts: ShapeFacts,
): ShownInserts | null {
  const tensors = fields.get('insertStress');
  const moved = fields.get('insertMoved');
  if (look.stressIn === 'plastic' || !(id in OF_TENSORS) || !mesh || !tensors || !moved || !surface) return null;
  const values = OF_TENSORS[id](tensors, look);
  // Of single causes only the plastic is known: inserts stay where they lay.
  const offset =
    look.cause === 'all'
      ? movedAlong(surface, displacement, look, growthOf(facts), mesh.positions, moved)
      : new Float32Array(moved.length);
  return { mesh, values, offset, alone: look.stressIn === 'inserts' };
}

/** Values of the part, of inserts, or of both. */
function countedOf(surface: SurfaceMap, values: Float32Array, inserts: ShownInserts | null): Counted {
  const areas = areasOf(surface);
  if (!inserts) return { values, areas };
  const own = vertexAreas(inserts.mesh.positions, inserts.mesh.triangles);
  if (inserts.alone) return { values: inserts.values, areas: own };
  return {
    values: Float32Array.from([...values, ...inserts.values]),
    areas: Float64Array.from([...areas, ...own]),
  };
}
