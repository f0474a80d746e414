import { useMemo } from 'react';
import type { Gate, Inputs } from '@/core/model/study';
import { format, told } from '@/core/units/reader';
import type { Manifest } from '@/runtime/manifest';
import { fieldsIn } from '@/core/fields/table';
import { vertexNormals } from '@/core/grid/surfaceMap';
import { sideOfNormal } from '@/core/grid/wallSides';
import { eigenOf, frame } from '@/core/numerics/eigen';
import { PROFILE_PLACES } from '@/core/solvers/melt/profilePlaces';
import { extremesOf, type FindingMarks } from '@/viewer/FindingsLayer';
import type { VectorSet } from '@/viewer/FlowLayer';
import { nodeFrames, nodesAt } from '@/viewer/frames';
import { tracerPaths, type TracerPaths } from '@/viewer/tracers';
import type { Overlays } from '@/viewer/fieldView';
import { useShapeMarks } from './useShapeMarks';
import { DRAWN, useRunData, type RunData } from '../study/runData';
import { placeAt, type ShownField } from '../study/shownField';
import { useAim, useBench } from '../study/bench';
import { usePacedTime, useView, type Layers } from '../study/view';
import type { RunView } from '@/runtime/wire';
import { isolinesOver, isolinesText } from '../study/isolines';
import { fieldInfo } from '../study/fields';
import { nameOf } from '@/core/model/names';

type Point = [number, number, number];
const mm = (p: readonly number[]) => p.map((x) => 1000 * x) as Point;

const FRONT = ['fillTime'];
const FLOW = ['fillTime', 'velocity'];
const HOLD = ['fillTime', 'heldAlong'];
const FIBRES = ['fillTime', 'fibreTensor'];
const OF_FIBRES: ReadonlySet<string> = new Set(fieldsIn('fibres'));

/** Everything drawn over the field, from the run, the layers that are on and the probes of the study. */
export function useOverlays(run: RunView | null, field: ShownField | null, inputs: Inputs, results: boolean): Overlays {
  const layers = useView((s) => s.layers);
  // Whatever follows the play head by drawing anew does it a few times a second.
  const time = usePacedTime(layers.arrows || layers.extremes);
  const painting = useAim('no-gate');
  const selectedProbe = useBench((s) => s.selectedProbe);
  const station = useBench((s) => s.station);
  const needVelocity = layers.arrows || layers.tracers;
  const needHold = field?.id === 'heldShare';
  const needFibres = field !== null && OF_FIBRES.has(field.id);
  const depth = useView((s) => s.fibreDepth);
  const wanted = needVelocity ? FLOW : needHold ? HOLD : needFibres ? FIBRES : FRONT;
  const data = useRunData(results ? (run?.id ?? null) : null, DRAWN, wanted);
  const manifest = results ? (data?.manifest ?? null) : null;
  const findings = useMemo(
    () => (manifest ? findingMarks(manifest, layers) : { curves: [], places: [] }),
    [manifest, layers],
  );
  const extremes = useMemo(
    () =>
      results && layers.extremes && field && data?.grid ? extremeMarks(field, data, time, run?.inputs.gates ?? []) : [],
    [results, layers.extremes, field, data, time, run],
  );
  const probes = useMemo(
    () =>
      station === 'answers'
        ? inputs.probes.map((p) => ({
            id: p.id,
            position: mm(p.position),
            label: nameOf(inputs, 'probe', p.id),
            kind: p.id === selectedProbe ? ('chosen' as const) : ('probe' as const),
          }))
        : [],
    [inputs, station, selectedProbe],
  );
  const onShape = useShapeMarks(inputs);
  const tracers = useMemo(
    () => (results && layers.tracers && data && run ? tracersOf(data, run.inputs.gates) : null),
    [results, layers.tracers, data, run],
  );
  const places = useMemo(
    () =>
      results && (layers.arrows || needHold || needFibres) && data?.surface && data.grid
        ? samplePoints(data, needFibres && !layers.arrows ? N_STROKES : N_ARROWS)
        : null,
    [results, layers.arrows, needHold, needFibres, data],
  );
  const vectors = useMemo(
    () =>
      !places || !data
        ? null
        : layers.arrows
          ? arrowsAt(data, places, time)
          : needFibres
            ? strokesOf(data, places, depth)
            : barsOf(data, places),
    [places, data, layers.arrows, needFibres, depth, time],
  );
  const patches = useMemo(
    () =>
      station === 'feed' && (painting || inputs.noGate.length)
        ? inputs.noGate.map((p) => ({ position: mm(p.position), radius: 1000 * p.radius }))
        : station === 'answers' && layers.places
          ? (manifest?.findings?.speedJumps ?? []).flatMap((j) =>
              j.points.map((p) => ({ position: mm(p), radius: JUMP_DOT })),
            )
          : [],
    [station, painting, inputs.noGate, layers.places, manifest],
  );
  // Of the filling, not of the cycle: the front is what they draw.
  const filling = manifest?.summary.fillTime_s ?? 0;
  return {
    curves: findings.curves,
    places: [...findings.places, ...extremes, ...probes, ...onShape],
    isochrones: results && layers.isochrones ? isochroneStep(filling) : 0,
    vectors,
    tracers,
    patches,
  };
}

/** Radius of the dots where the front's speed jumped, mm. */
const JUMP_DOT = 0.9;

function findingMarks({ findings }: Manifest, layers: Layers): FindingMarks {
  // Runs of an earlier version have none.
  if (!findings) return { curves: [], places: [] };
  const curves = layers.weldLines
    ? findings.weldLines.map((w) => ({
        id: w.id,
        points: w.points.map(mm),
        label: `${w.id} ${Math.round(told(w.angle, '°'))}°`,
      }))
    : [];
  const places: FindingMarks['places'] = layers.places
    ? [
        ...findings.airTraps.map((a) => ({ id: a.id, position: mm(a.position), label: a.id, kind: 'air' as const })),
        ...(findings.speedJumps ?? []).map((j) => ({
          id: j.id,
          position: mm(j.position),
          label: j.id,
          kind: 'jump' as const,
        })),
        ...findings.hesitations.map((h) => ({
          id: h.id,
          position: mm(h.position),
          label: h.id,
          kind: 'slow' as const,
        })),
      ]
    : [];
  return { curves, places };
}

function extremeMarks(field: ShownField, data: RunData, time: number, gates: Gate[]): FindingMarks['places'] {
  const { grid } = data;
  const values = nodesAt(field.nodes, time);
  const found = grid && extremesOf(values, grid.nodeVolume, field.nodeTimes, Math.min(time, field.end));
  if (!found || !grid) return [];
  const { unit } = fieldInfo(field.id, gates);
  const at = (node: number) => mm([0, 1, 2].map((d) => grid.centroid[3 * node + d]));
  return [
    { id: 'least', position: at(found.low), label: `min ${format(values[found.low], unit)}`, kind: 'low' },
    { id: 'most', position: at(found.high), label: `max ${format(values[found.high], unit)}`, kind: 'high' },
  ];
}

function tracersOf(data: RunData, gates: Gate[]): TracerPaths | null {
  const velocity = data.fields.get('velocity');
  const meta = data.manifest?.fields.find((f) => f.id === 'velocity');
  if (!velocity || !meta || !data.grid || meta.times.length < 2) return null;
  return tracerPaths(data.grid, { times: meta.times, data: velocity }, gates);
}

const N_ARROWS = 650;
/** Strokes are short and lie side by side: more of them say more. */
const N_STROKES = 1400;

/** Vertices of the drawn surface, at most about N_ARROWS, evenly spread, with their nodes. */
interface VectorPlaces {
  positions: Float32Array;
  normals: Float32Array;
  nodes: Int32Array;
}

function samplePoints({ surface, grid }: RunData, most: number): VectorPlaces | null {
  if (!surface || !grid) return null;
  const { positions: p, nodes, weights } = surface;
  const [low, high] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  for (let i = 0; i < p.length; i++) {
    low[i % 3] = Math.min(low[i % 3], p[i]);
    high[i % 3] = Math.max(high[i % 3], p[i]);
  }
  let cell = Math.max(...high.map((h, d) => h - low[d])) / (most > N_ARROWS ? 52 : 34);
  for (;;) {
    const taken = new Set<string>();
    const chosen: number[] = [];
    for (let v = 0; v < p.length / 3; v++) {
      if (!weights[8 * v]) continue;
      const key = [0, 1, 2].map((d) => Math.floor((p[3 * v + d] - low[d]) / cell)).join();
      if (taken.has(key)) continue;
      taken.add(key);
      chosen.push(v);
    }
    if (chosen.length <= most) {
      const normals = vertexNormals({ positions: p, triangles: surface.triangles });
      return {
        normals: Float32Array.from(chosen.flatMap((v) => [0, 1, 2].map((d) => normals[3 * v + d]))),
        positions: Float32Array.from(chosen.flatMap((v) => [0, 1, 2].map((d) => 1000 * p[3 * v + d]))),
        nodes: Int32Array.from(chosen, (v) => nodes[8 * v]),
      };
    }
    cell *= 1.15;
  }
}

function arrowsAt(data: RunData, places: VectorPlaces, time: number): VectorSet | null {
  const field = data.fields.get('velocity');
  const meta = data.manifest?.fields.find((f) => f.id === 'velocity');
  if (!field || !meta || !data.grid) return null;
  const end = data.manifest?.history.time.at(-1) ?? 0;
  // The last frame stands still; a play head at the end looks at the flow just before it.
  const now = nodesAt(nodeFrames(field, data.grid.nNodes, meta.times, 3), Math.min(time, 0.97 * end));
  const velocities = new Float32Array(3 * places.nodes.length);
  let most = 0;
  places.nodes.forEach((node, i) => {
    for (let d = 0; d < 3; d++) velocities[3 * i + d] = now[3 * node + d] === now[3 * node + d] ? now[3 * node + d] : 0;
    most = Math.max(most, Math.hypot(velocities[3 * i], velocities[3 * i + 1], velocities[3 * i + 2]));
  });
  return {
    as: 'arrow',
    positions: places.positions,
    normals: places.normals,
    vectors: velocities,
    scale: 0.35 * most || 1,
  };
}

/**
 * The main direction of the fibres at a depth (0 in the middle of the wall, 1 at its face) below every place, as long as they are more
 * alike than by chance.
 */
export function strokesOf(
  { fields, manifest }: Pick<RunData, 'fields' | 'manifest'>,
  { positions, normals, nodes }: VectorPlaces,
  depth: number,
): VectorSet | null {
  const tensors = fields.get('fibreTensor');
  const components = manifest?.fields.find((f) => f.id === 'fibreTensor')?.components;
  if (!tensors || !components) return null;
  const nPlaces = components / 6;
  const half = PROFILE_PLACES.length;
  const nearest = placeAt(depth);
  const spectrum = frame();
  let most = 0;
  const vectors = new Float32Array(3 * nodes.length);
  nodes.forEach((node, i) => {
    const [nx, ny, nz] = normals.subarray(3 * i, 3 * i + 3);
    // The first half of a whole wall is told from its face inwards.
    const first = nPlaces > half && sideOfNormal(nx, ny, nz) === 0;
    const place = nPlaces === half ? nearest : first ? half - 1 - nearest : half + nearest;
    const at = node * components + 6 * place;
    const { values, vectors: v } = eigenOf(tensors.subarray(at, at + 6), spectrum);
    const size = Math.max(0, (values[0] - 1 / 3) * 1.5);
    for (let d = 0; d < 3; d++) vectors[3 * i + d] = size * v[3 * d];
    most = Math.max(most, size);
  });
  // Little alignment is seen too: the longest stroke is that of the most.
  return { as: 'bar', positions, normals, vectors, scale: most || 1 };
}

/** The directions that steel holds a wall in: two bars a place, as long as the shares. */
export function barsOf(
  { fields }: Pick<RunData, 'fields'>,
  { positions, normals, nodes }: VectorPlaces,
): VectorSet | null {
  const held = fields.get('heldAlong');
  if (!held) return null;
  const vectors = new Float32Array(6 * nodes.length);
  nodes.forEach((node, i) => {
    const [x, y, z, across] = held.subarray(4 * node, 4 * node + 4);
    const [nx, ny, nz] = normals.subarray(3 * i, 3 * i + 3);
    const along = Math.hypot(x, y, z);
    // Nothing held along the first direction is nothing held at all: it is the one held most.
    if (!(along > 0)) return;
    const square = [ny * z - nz * y, nz * x - nx * z, nx * y - ny * x];
    const length = Math.hypot(...square);
    vectors.set([x, y, z], 6 * i);
    // On the edge of a wall the hold may stand square to the surface: there is no second direction in it then.
    if (length > 1e-6 * along)
      vectors.set(
        square.map((v) => (across * v) / length),
        6 * i + 3,
      );
  });
  const twice = (a: Float32Array) =>
    Float32Array.from({ length: 2 * a.length }, (_, k) => a[3 * Math.floor(k / 6) + (k % 3)]);
  return { as: 'bar', positions: twice(positions), normals: twice(normals), vectors, scale: 1 };
}

/** Time between the isochrones of a filling, s. */
const isochroneStep = (fillTime: number): number => isolinesOver([0, fillTime], 's')?.step ?? 0;

/** The same as text, for the legend. */
export const isochroneText = (fillTime: number): string => isolinesText([0, fillTime], 's');
