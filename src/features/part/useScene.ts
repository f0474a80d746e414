import { useMemo } from 'react';
import { boundsOf, type Bounds, type TriangleMesh } from '@/core/geometry/mesh';
import { openingOf, type Body } from '@/core/model/body';
import { copyPlacements } from '@/core/model/cavityLayout';
import { cavities, type Inputs } from '@/core/model/study';
import { meshWithCopies, placedCopy } from '@/core/setup/copies';
import type { MapId } from '@/core/partmaps/mapKinds';
import type { BodyDraw } from '@/viewer/BodySurface';
import type { DrawMesh } from '@/viewer/surfaceGeometry';
import type { PartingMark } from '@/viewer/SceneMarks';
import { nodeFrames, stillFrames } from '@/viewer/frames';
import { NO_VALUE } from '@/viewer/results';
import type { FieldView } from '@/viewer/fieldView';
import { presentInputs, useStudy } from '../study/store';
import { useJoined, useMeshes } from '../study/meshes';
import { useBench } from '../study/bench';
import { useView } from '../study/view';
import { colourOf } from './bodyColours';
import { useMapArrays, useMapsManifest } from './useMaps';

/** What of the part is drawn: the surface that carries a field, and bodies one by one. */
export interface Scene {
  surface: DrawMesh | null;
  bodies: BodyDraw[];
  /** Everything that is to be framed and outlined; null while surfaces are still coming. */
  outline: DrawMesh | null;
  /** Box around all of it, hidden or not, m. */
  frame: Bounds;
  /** True when bodies are shown as they are, without a result. */
  plain: boolean;
}

const FADED = 0.22;
const GHOST = '#b9ad9a';

/** The result was made on the cavity with all its copies. */
function isWhole(result: DrawMesh | null, cavity: TriangleMesh): boolean {
  if (!result) return false;
  const [a, b] = [boundsOf(result.positions), boundsOf(cavity.positions)];
  return [0, 1].some((d) => a.max[d] - a.min[d] > 1.05 * (b.max[d] - b.min[d]));
}

/**
 * At the Part station bodies are drawn one by one, or under the map; elsewhere the cavities carry the
 * result (or nothing yet) and other bodies stand faintly around them.
 */
export function useScene(inputs: Inputs, result: DrawMesh | null, map: DrawMesh | null): Scene {
  const station = useBench((s) => s.station);
  const selected = useBench((s) => s.selectedBodies);
  const bodyView = useView((s) => s.bodyView);
  const draft = useBench((s) => s.draft);
  const partHidden = useView((s) => s.partHidden);
  const meshes = useMeshes(inputs.bodies.map((b) => b.mesh));
  const atPart = station === 'part';
  const hasCavity = cavities(inputs).length > 0;
  const shown = inputs.bodies.filter((b) =>
    atPart ? bodyView[b.id] !== 'hidden' : b.role !== 'left-out' || !hasCavity,
  );
  const meshesOf = (list: readonly Body[]) => list.map((b) => b.mesh);
  // With everything hidden the eye keeps what it had.
  const outline = useJoined(meshes, meshesOf(shown.length ? shown : inputs.bodies));
  const cavity = useJoined(meshes, meshesOf(cavities(inputs)));
  const single = atPart && !map;
  const bodies = useMemo(() => {
    const list: BodyDraw[] = [];
    const own = new Set(cavities(inputs).map((b) => b.id));
    for (const body of inputs.bodies) {
      const mesh = meshes.get(body.mesh);
      const how = bodyView[body.id];
      if (!mesh || how === 'hidden') continue;
      if (!single && (own.has(body.id) || (body.role === 'left-out' && !atPart))) continue;
      const faint = how === 'faded' || (!single && how !== 'solid') || draft?.body === body.id;
      list.push({
        id: body.id,
        mesh,
        colour: colourOf(body),
        opacity: faint ? FADED : 1,
        selected: single && selected.includes(body.id),
      });
    }
    return list;
  }, [inputs, meshes, bodyView, single, atPart, selected, draft?.body]);
  // Copies stand around the cavity, unless the result shows them itself.
  const placements = inputs.cavities;
  const ghosts = useMemo(() => {
    if (atPart || map || !cavity || !placements || isWhole(result, cavity)) return [];
    return copyPlacements(placements).map((m, k): BodyDraw => ({
      id: `copy ${k + 2}`,
      mesh: placedCopy(cavity, m),
      colour: GHOST,
      opacity: 2 * FADED,
      selected: false,
    }));
  }, [atPart, map, cavity, placements, result]);
  const frame = useMemo(() => {
    const framed = inputs.bodies.filter((b) => atPart || b.role !== 'left-out' || !hasCavity).map((b) => b.mesh);
    const boxes = framed.flatMap((h) => (meshes.has(h) ? [boundsOf(meshes.get(h)!.positions)] : []));
    if (!atPart && cavity && placements)
      boxes.push(boundsOf(meshWithCopies(cavity, { cavities: placements }).positions));
    return {
      min: [0, 1, 2].map((d) => Math.min(...boxes.map((b) => b.min[d]))) as Bounds['min'],
      max: [0, 1, 2].map((d) => Math.max(...boxes.map((b) => b.max[d]))) as Bounds['max'],
    };
  }, [inputs.bodies, meshes, atPart, hasCavity, cavity, placements]);
  const all = useMemo(() => [...bodies, ...ghosts], [bodies, ghosts]);
  const surface = single || (partHidden && !atPart) ? null : (map ?? result ?? cavity);
  return { surface, bodies: all, outline, frame, plain: single };
}

/** The part map chosen at the Part station, ready for the view. */
export function useMapView(): { id: MapId; mesh: DrawMesh; view: FieldView } | null {
  const station = useBench((s) => s.station);
  const id = useView((s) => s.map);
  const brush = useView((s) => s.brush);
  const manifest = useMapsManifest();
  const arrays = useMapArrays(station === 'part' && id && manifest ? manifest.key : null);
  const values = useMemo(
    () => (arrays && id ? arrays.corner(id).map((v) => (v === v ? v : NO_VALUE)) : null),
    [arrays, id],
  );
  return useMemo(() => {
    const range = manifest?.ranges.find((r) => r.id === id)?.range;
    if (station !== 'part' || !id || !arrays || !values || !range) return null;
    const times = new Float32Array(values.length);
    const view: FieldView = {
      values: stillFrames(values),
      times,
      nodes: nodeFrames(values, values.length, []),
      nodeTimes: times,
      grid: null,
      range,
      brush: id === 'side' ? null : brush,
      end: 0,
      still: 'whole',
    };
    return { id, mesh: arrays.mesh, view };
  }, [station, id, arrays, values, manifest, brush]);
}

/** Height of the parting plane while the halves are shown, m. */
export function useParting(): PartingMark | null {
  const station = useBench((s) => s.station);
  const map = useView((s) => s.map);
  const tool = useStudy((s) => presentInputs(s).tool);
  const manifest = useMapsManifest();
  const height = station === 'part' && map === 'side' ? (tool.partingHeight ?? manifest?.parting ?? null) : null;
  return useMemo(() => (height === null ? null : { height: 1000 * height, opening: openingOf(tool) }), [height, tool]);
}
