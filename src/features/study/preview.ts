import { useEffect, useMemo, useRef } from 'react';
import type { TriangleMesh } from '@/core/geometry/mesh';
import type { Inputs } from '@/core/model/study';
import type { PartSize } from '@/core/setup/settings';
import type { PreviewSurface } from '@/runtime/previewProtocol';
import { valuesAt } from '@/viewer/results';
import { nodeFrames, stillFrames } from '@/viewer/frames';
import type { FieldView } from '@/viewer/fieldView';
import { askFilling, sendPart, usePreview, type PreviewGates } from './previewWork';

interface Wanted {
  on: boolean;
  key: string | null;
  mesh: TriangleMesh | null;
  size: PartSize | null;
  inputs: Inputs;
  gates: PreviewGates;
}

/** Keeps the preview of the given gates and inputs up to date while it is wanted. */
export function usePreviewOf({
  on,
  key,
  mesh,
  size,
  inputs,
  gates,
}: Wanted): { view: FieldView; surface: PreviewSurface } | null {
  const data = usePreview((s) => s.data);
  useEffect(() => {
    if (on && key && mesh) sendPart(key, mesh);
  }, [on, key, mesh]);
  // The text names all that a filling depends on: the objects are others with every change of the study.
  const wish = JSON.stringify([gates, inputs.resin, inputs.cycle]);
  const latest = useRef({ inputs, gates });
  latest.current = { inputs, gates };
  const there = data !== null && data.key === key;
  useEffect(() => {
    const now = latest.current;
    if (on && there && now.gates.length && size) askFilling(now.inputs, size, now.gates);
  }, [on, there, wish, size]);
  const gated = gates.length > 0;
  return useMemo(() => {
    if (!on || !data || data.key !== key || !data.times || !gated) return null;
    const { surface, times, end, grid } = data;
    const n = surface.positions.length / 3;
    const drawn = times.map((t) => (t === t ? t : 1.04 * end));
    const values = valuesAt(surface, drawn, new Float32Array(n));
    const view: FieldView = {
      values: stillFrames(values),
      times: values,
      nodes: nodeFrames(drawn, drawn.length, []),
      nodeTimes: drawn,
      grid,
      range: [0, end],
      brush: null,
      end,
      still: 'whole',
    };
    return { view, surface };
  }, [on, key, data, gated]);
}

/** The map of the gate search as a field, when it is shown. */
export function useGateMapView(on: boolean): { view: FieldView; surface: PreviewSurface } | null {
  const data = usePreview((s) => s.data);
  const show = usePreview((s) => s.showMap);
  return useMemo(() => {
    if (!on || !show || !data?.found) return null;
    const { surface, grid, found } = data;
    const n = surface.positions.length / 3;
    const values = valuesAt(surface, found.score, new Float32Array(n));
    const times = new Float32Array(n);
    const view: FieldView = {
      values: stillFrames(values),
      times,
      nodes: nodeFrames(found.score, found.score.length, []),
      nodeTimes: new Float32Array(grid.nNodes),
      grid,
      range: [0, 1],
      brush: null,
      end: 1,
      still: 'whole',
    };
    return { view, surface };
  }, [on, show, data]);
}
