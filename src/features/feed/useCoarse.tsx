'use client';

import { useEffect, useMemo } from 'react';
import type { Gate, Inputs } from '@/core/model/study';
import { format } from '@/core/units/reader';
import { useGateMapView, usePreviewOf } from '../study/preview';
import { usePreview } from '../study/previewWork';
import { presentInputs, presentPart, useStudy } from '../study/store';
import { useCavity } from '../study/meshes';
import { useBench } from '../study/bench';

/** The preview or the gate map, where it stands in for a result. */
export function useCoarse(
  inputs: Inputs,
  moved: { id: string; position: [number, number, number] } | null,
  now: { live: boolean; outOfDate: boolean; station: string; result: boolean },
) {
  const preview = useBench((s) => s.preview);
  const size = useStudy(presentPart)?.size ?? null;
  const { key, mesh } = useCavity(inputs);
  const gates = useMemo(
    () =>
      inputs.gates.map((g) =>
        moved?.id === g.id ? { ...g, position: moved.position.map((x) => x / 1000) as Gate['position'] } : g,
      ),
    [inputs.gates, moved],
  );
  const inputStation = now.station === 'feed' || now.station === 'resin' || now.station === 'cycle';
  const wanted = inputStation && !now.live;
  const changing = moved !== null || now.outOfDate || !now.result;
  const map = useGateMapView(wanted && now.station === 'feed' && moved === null);
  const filled = usePreviewOf({
    // At the Feed station the coarse grid is made ahead: a drag or a search must not wait for it.
    on: wanted && (preview || now.station === 'feed'),
    key,
    mesh,
    size,
    inputs,
    gates,
  });
  const shown = map
    ? { kind: 'gate-map' as const, ...map }
    : filled && changing && preview
      ? { kind: 'preview' as const, ...filled }
      : null;
  const drawn = shown?.kind ?? null;
  useEffect(() => usePreview.getState().set({ drawn }), [drawn]);
  return shown;
}

/** Says on the part that what is seen is no result. */
export function PreviewNote({ kind }: { kind: 'preview' | 'gate-map' }) {
  const ms = usePreview((s) => s.ms);
  const pressure = usePreview((s) => s.pressure);
  const runners = useStudy((s) => presentInputs(s).feed !== null);
  return (
    <p
      data-testid="preview-note"
      data-ms={Math.round(ms)}
      className="bg-copper text-copper-ink num max-w-full truncate rounded-full px-3 py-0.5 text-[12px]"
    >
      {kind === 'preview'
        ? `Preview, coarse and at one temperature: about ${format(pressure, 'MPa', 2)}${runners ? ' at the gates, without the runners' : ''}`
        : 'Where a single gate would do best: pressure and evenness'}
    </p>
  );
}
