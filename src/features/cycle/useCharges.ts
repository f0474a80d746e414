import { useMemo } from 'react';
import { openingOf } from '@/core/model/body';
import { chargeOf } from '@/core/model/compression';
import type { Inputs } from '@/core/model/study';
import { widthOf } from '@/core/setup/press';
import type { ChargeMark } from '@/viewer/ChargeLayer';
import { useBench } from '../study/bench';
import { presentPart, useStudy } from '../study/store';

/** Pieces of the charge as they lie on the part; one that is dragged where it is now, mm. */
export function useCharges(
  inputs: Inputs,
  moved: { id: string; position: [number, number, number] } | null,
): ChargeMark[] | undefined {
  const selected = useBench((s) => s.selectedPiece);
  const volume = useStudy(presentPart)?.size.volume ?? 0;
  const { compression, tool } = inputs;
  return useMemo(() => {
    const charge = chargeOf(compression);
    if (!compression || !charge) return undefined;
    const { outline, pieces } = charge;
    const along = openingOf(tool);
    const across = outline.as === 'round' ? widthOf(along, 0) : widthOf(along, outline.turned);
    const area = outline.as === 'round' ? (Math.PI * outline.diameter ** 2) / 4 : outline.width * outline.length;
    // As high as the melt that is meant for the cavity stands on all outlines together.
    const height = (1e3 * compression.dose * volume) / (area * Math.max(1, pieces.length));
    const size =
      outline.as === 'round'
        ? { diameter: 1e3 * outline.diameter }
        : { width: 1e3 * outline.width, length: 1e3 * outline.length };
    return pieces.map(({ id, position }) => ({
      id,
      position: moved?.id === id ? moved.position : (position.map((x) => 1e3 * x) as [number, number, number]),
      size,
      height,
      along,
      across,
      selected: id === selected,
    }));
  }, [compression, tool, volume, selected, moved]);
}
