'use client';

import { nShots } from '@/core/model/shots';
import { presentVariant, shownShot, useStudy } from '../study/store';
import { Choice } from '../ui/controls';

/** Which shot is shown; not there with one shot. */
export function ShotSwitch() {
  const shots = useStudy((s) => nShots(presentVariant(s).inputs));
  const shown = useStudy(shownShot);
  const show = useStudy((s) => s.showShot);
  if (shots < 2) return null;
  const options = Array.from({ length: shots }, (_, k) => ({ value: `${k + 1}`, label: `Shot ${k + 1}` }));
  return (
    <div className="mb-3">
      <Choice label="Shot" value={`${shown}`} options={options} onChange={(v) => show(Number(v))} />
    </div>
  );
}
