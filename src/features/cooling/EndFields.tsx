import { useState } from 'react';
import type { CircuitEnd, Cooling } from '@/core/model/cooling';
import { Button, SectionTitle, Select } from '../ui/controls';
import { freeEnds, withEnd, type FreeEnd } from './ends';
import { addHose } from './lineActions';
import { patchCooling } from './useCooling';
import { Called, useNameOf } from '../study/names';
import { formatCoordinate, shownUnit } from '@/core/units/reader';

const place = (p: readonly number[]) => p.map((x) => (1000 * x).toFixed(0).replace('-', '−')).join(', ');

/** As the reader is told it, short: whole millimetres tell the ends of lines apart. */
const placeOf = (p: readonly number[]) => (shownUnit('mm') === 'mm' ? place(p) : p.map(formatCoordinate).join(', '));

/** Where circuits begin and end, and hoses from one to the other. */
export function EndFields({ cooling }: { cooling: Cooling }) {
  const ends = freeEnds(cooling);
  const nameOf = useNameOf();
  const [first, setFirst] = useState<FreeEnd | null>(null);
  const chosen = first && ends.find((e) => place(e.at) === place(first.at));
  if (!ends.length) return null;
  const roles = [
    ...cooling.supplies.flatMap((s) => [
      { value: `inlet:${s.id}`, label: `Inlet ${nameOf('supply', s.id)}` },
      { value: `outlet:${s.id}`, label: `Outlet ${nameOf('supply', s.id)}` },
    ]),
    { value: 'plug:', label: 'Plug' },
    { value: 'open:', label: 'Open' },
  ];
  const valueOf = ({ mark }: FreeEnd) =>
    !mark ? 'open:' : mark.as === 'plug' ? 'plug:' : `${mark.as}:${mark.supply ?? cooling.supplies[0].id}`;
  return (
    <>
      <SectionTitle>Ends and hoses</SectionTitle>
      <ul className="space-y-1">
        {ends.map((end) => (
          <li key={`${end.line} ${place(end.at)}`} className="flex items-center gap-1.5">
            <span className="num min-w-0 flex-1 truncate text-[12px]">
              <Called kind="line" id={end.line} className="font-semibold" />{' '}
              <span className="text-soft">{placeOf(end.at)}</span>
            </span>
            <div className="w-[104px]">
              <Select
                label={`End of ${end.line} at ${place(end.at)}`}
                value={valueOf(end)}
                options={roles}
                onChange={(v) => {
                  const [as, supply] = v.split(':');
                  patchCooling(`End of ${end.line}`, {
                    ends: withEnd(cooling, end.at, as as CircuitEnd['as'] | 'open', supply || null),
                  });
                }}
              />
            </div>
            <Button
              className="h-6 px-1.5 text-[12px]"
              look={chosen === end ? 'primary' : 'plain'}
              aria-label={chosen && chosen !== end ? `Hose to ${end.line}` : `Hose from ${end.line}`}
              title={chosen && chosen !== end ? 'Lay the hose to here' : 'Lay a hose from here'}
              onClick={() => {
                if (!chosen) return setFirst(end);
                setFirst(null);
                if (chosen !== end) addHose(chosen.at, end.at, Math.max(chosen.bore, end.bore));
              }}
            >
              {chosen && chosen !== end ? 'to here' : 'Hose'}
            </Button>
          </li>
        ))}
      </ul>
    </>
  );
}
