import { format, formatCoordinate, shownUnit } from '@/core/units/reader';
import { type Unit } from '@/core/units/units';
import type { SurfaceHit } from '@/viewer/PartSurface';

interface Props {
  hit: SurfaceHit;
  pointer: { x: number; y: number };
  field: { label: string; unit: Unit } | null;
  name: string | null;
  head: number;
}

/** Value under the pointer, with its unit, and the place. */
export function PointerTag({ hit, pointer, field, head, name }: Props) {
  const filled = hit.time !== null && hit.time <= head;
  return (
    <div
      data-testid="probe"
      className="bg-sheet/95 num pointer-events-none absolute z-10 rounded border px-2 py-1 text-[12px] shadow-sm"
      style={{ left: pointer.x + 14, top: pointer.y + 12 }}
    >
      {name && <div className="font-semibold">{name}</div>}
      {field && (
        <div className="font-semibold">
          {hit.value !== null && filled ? `${field.label} ${format(hit.value, field.unit)}` : 'not filled'}
        </div>
      )}
      <div className="text-soft">
        {hit.point
          .toArray()
          .map((x) => formatCoordinate(x / 1000))
          .join(', ')}{' '}
        {shownUnit('mm')}
      </div>
    </div>
  );
}
