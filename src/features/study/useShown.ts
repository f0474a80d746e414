import { fieldEntry } from '@/core/fields/table';
import { useMemo } from 'react';
import type { ViewGrid } from '@/core/formats/viewGrid';
import type { SurfaceMap } from '@/core/grid/surfaceMap';
import { geometryKey } from '@/core/model/study';
import type { RunView } from '@/runtime/wire';
import { nodeFrames, onPoints, stillFrames } from '@/viewer/frames';
import { NO_VALUE, valuesAt } from '@/viewer/results';
import type { CoreDraw, FieldView } from '@/viewer/fieldView';
import { fieldInfo, OF_SHAPE, onSomeFaces } from './fields';
import { isolinesOver } from './isolines';
import { useShapeField } from './shownShape';
import { useLive } from './liveRun';
import { CORE, CORE_FIELDS, DRAWN, DRAWN_MOVED, useRunData, type ResultPart, type RunData } from './runData';
import { liveField, mapToSides, storedField, type ShownField } from './shownField';
import { inputsAs, shotRunId } from './shots';
import { latestResult, outOfDate, presentInputs, presentVariant, runUnderWay, useStudy, type OutOfDate } from './store';
import { useScaleRange } from './scaleRange';
import { useView } from './view';

const LIVE: readonly ResultPart[] = ['surface', 'grid'];
const NO_FIELD: readonly string[] = [];

/** The run whose results the part shows: one under way first, else the newest of the variant on this part. */
export function useShownRun(): { run: RunView | null; live: boolean; outdated: OutOfDate } {
  const whole = useStudy(runUnderWay);
  const liveShot = useLive((s) => (whole && s.shots[whole.id]) ?? 1);
  // While it is calculated a run is looked at as the shot that it has come to.
  const underWay = useMemo(
    () => whole && { ...whole, id: shotRunId(whole.id, liveShot), inputs: inputsAs(whole.inputs, liveShot) },
    [whole, liveShot],
  );
  const inputs = useStudy(presentInputs);
  const result = useStudy(latestResult);
  const variant = useStudy(presentVariant);
  const front = useLive((s) => (underWay ? s.fronts[underWay.id] : undefined));
  const grid = useRunData(underWay && front ? underWay.id : null, LIVE)?.grid;
  const samePart = (run: RunView | null) => (run && geometryKey(run.inputs) === geometryKey(inputs) ? run : null);
  const run = samePart(result);
  // What nobody has asked for does not come before a result that is there.
  const watched = underWay?.status === 'running' && grid && !(underWay.aside && run);
  if (watched) return { run: underWay, live: true, outdated: null };
  return { run, live: false, outdated: run && outOfDate(run, variant) };
}

export function useShownField(run: RunView | null, live: boolean): { data: RunData | null; field: ShownField | null } {
  const id = useView((s) => s.field);
  const feedSeen = useView((s) => s.feedShown === 'full' || s.feedShown === 'alone');
  // Only fibres are looked at below the face.
  const depth = useView((s) => (fieldEntry(s.field)?.group === 'fibres' ? s.fibreDepth : 1));
  const front = useLive((s) => (run && live ? s.fronts[run.id] : undefined));
  const isShape = OF_SHAPE.includes(id);
  const data = useRunData(
    run?.id ?? null,
    live ? LIVE : id === 'wallChange' ? DRAWN_MOVED : DRAWN,
    live || isShape ? NO_FIELD : ['fillTime', id],
  );
  const ofShape = useShapeField(live ? null : run, id);
  const field = useMemo(() => {
    if (!data?.grid) return null;
    if (live) return front ? liveField(front, data.grid.nNodes) : null;
    return isShape ? ofShape : storedField(data, id, feedSeen, depth);
  }, [data, live, front, isShape, id, feedSeen, depth, ofShape]);
  return { data, field };
}

/** The core, in the colours of a field that is its own. */
function coreDrawn({ core, fields }: RunData, id: string, melt: boolean): CoreDraw | null {
  const [skin, nodeTimes] = CORE_FIELDS.map((f) => fields.get(f));
  if (!core || !skin || !nodeTimes) return null;
  const values = id === 'coreShare' ? core.shares : id === 'coreTime' ? core.times : null;
  // A second melt leaves nothing hollow.
  return { mesh: core.mesh, times: core.times, values, skin: melt ? skin.map(() => NaN) : skin, nodeTimes };
}

/** Wall behind each vertex of a surface, mm. */
function wallsOf(surface: SurfaceMap, { thickness }: ViewGrid): Float32Array {
  const walls = valuesAt(surface, thickness, new Float32Array(surface.positions.length / 3));
  return walls.map((t) => (t < NO_VALUE / 2 ? 1000 * t : 0));
}

const drawn = (values: Float32Array): Float32Array => values.map((v) => (v === v ? v : NO_VALUE));

/** What the viewer needs, per vertex. */
export function useFieldView(run: RunView | null, data: RunData | null, field: ShownField | null): FieldView | null {
  const brush = useView((s) => s.brush);
  const scale = useView((s) => s.shape.scale);
  const moving = useView((s) => s.shape.moving);
  const withLines = useView((s) => s.layers.isolines);
  const surface = data?.surface ?? null;
  const hollow = data?.manifest?.summary.core !== undefined && !field?.live;
  const ofCore = useRunData(hollow ? (run?.id ?? null) : null, CORE, CORE_FIELDS);
  const melt = data?.manifest?.summary.core?.melt === true;
  const core = useMemo(() => (ofCore && field ? coreDrawn(ofCore, field.id, melt) : null), [ofCore, field, melt]);
  const perVertex = useMemo(() => {
    if (!surface || !field) return null;
    const n = surface.positions.length / 3;
    const times = valuesAt(surface, field.nodeTimes, new Float32Array(n));
    const values = field.atVertices
      ? stillFrames(drawn(field.atVertices.values))
      : field.wallValues
        ? onPoints(mapToSides(surface), nodeFrames(field.wallValues, field.wallValues.length, []), n)
        : onPoints(surface, field.nodes, n);
    return { times, values };
  }, [surface, field]);
  const deformed = useMemo(() => {
    if (field?.atVertices) return { offset: field.atVertices.offset, scale, moving };
    // Inserts move, the part stays.
    return field?.inserts && surface
      ? { offset: new Float32Array(surface.positions.length), scale, moving: false }
      : null;
  }, [field, surface, scale, moving]);
  const [grid, brushed] = [data?.grid ?? null, brush !== null];
  const walls = useMemo(() => (brushed && surface && grid ? wallsOf(surface, grid) : null), [brushed, surface, grid]);
  const range = useScaleRange(field, data?.grid?.nodeVolume ?? null);
  return useMemo(() => {
    if (!perVertex || !field || !range) return null;
    return {
      ...perVertex,
      nodes: field.nodes,
      nodeTimes: field.nodeTimes,
      grid: data?.grid ?? null,
      range,
      profile: field.profile,
      ...(field.signed ? { map: 'diverging' as const } : {}),
      bare: onSomeFaces(field.id),
      core,
      deformed,
      through: field.atVertices?.through,
      brush: field.live ? null : brush,
      // Of what is seen on some faces alone no pieces are left.
      walls: onSomeFaces(field.id) ? null : walls,
      lines: withLines ? isolinesOver(range, fieldInfo(field.id).unit) : null,
      end: field.end,
      still: field.live ? 'front' : null,
      inserts: field.inserts && { ...field.inserts, values: drawn(field.inserts.values) },
    };
  }, [perVertex, field, range, data, brush, walls, deformed, core, withLines]);
}
