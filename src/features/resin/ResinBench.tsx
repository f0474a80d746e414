'use client';

import { RESINS } from '@/core/material/library';
import { meltDensity, meltThermal } from '@/core/material/properties';
import { viscosity } from '@/core/material/viscosity';
import { resolveResin } from '@/core/pipeline/settings';
import { format, formatNumber, fromSi } from '@/core/units/units';
import { Fact } from '../part/PartBench';
import { presentVariant, useStudy } from '../study/store';
import { SectionTitle } from '../ui/controls';

const RATES = [100, 1000, 10000];

export function ResinBench() {
  const inputs = useStudy((s) => presentVariant(s).inputs);
  const change = useStudy((s) => s.change);
  const resin = resolveResin(inputs);
  return (
    <>
      <ul role="radiogroup" aria-label="Resin" className="divide-y border-y">
        {RESINS.map((r) => {
          const chosen = r.id === resin?.id;
          return (
            <li key={r.id}>
              <button
                type="button"
                role="radio"
                aria-checked={chosen}
                onClick={() => change(`Resin ${r.name}`, { ...inputs, resin: r.id })}
                className={`-mx-2 flex w-[calc(100%+1rem)] items-baseline gap-2 rounded px-2 py-1.5 text-left ${chosen ? 'bg-petrol-wash' : 'hover:bg-well'}`}
              >
                <span className="w-10 shrink-0 font-semibold">{r.family}</span>
                <span className="flex-1 truncate">{r.name}</span>
                <span className="text-soft truncate text-[12px]">{r.supplier}</span>
              </button>
            </li>
          );
        })}
      </ul>
      {resin && (
        <>
          <SectionTitle>{resin.name}</SectionTitle>
          <dl className="num grid grid-cols-[1fr_auto] gap-y-1">
            <Fact label="Structure" value={resin.structure} />
            <Fact label="Melt" value={`${celsius(resin.melt.min)} to ${celsius(resin.melt.max)} °C`} />
            <Fact label="Mould" value={`${celsius(resin.mould.min)} to ${celsius(resin.mould.max)} °C`} />
            <Fact label="No flow below" value={`${celsius(resin.noFlowTemperature)} °C`} />
            <Fact label="Ejection below" value={`${celsius(resin.ejectionTemperature)} °C`} />
            <Fact label="Melt density" value={`${formatNumber(meltDensity(resin) / 1000, 3)} g/cm³`} />
            <Fact label="Conductivity" value={`${formatNumber(meltThermal(resin).conductivity, 2)} W/(m K)`} />
            <Fact label="Specific heat" value={`${formatNumber(meltThermal(resin).specificHeat, 4)} J/(kg K)`} />
          </dl>
          <SectionTitle>Viscosity at {celsius(resin.melt.recommended)} °C</SectionTitle>
          <dl className="num grid grid-cols-[1fr_auto] gap-y-1">
            {RATES.map((rate) => (
              <Fact
                key={rate}
                label={`at ${rate.toLocaleString('en-GB')} 1/s`}
                value={format(viscosity(resin.viscosity, resin.melt.recommended, 0, rate), 'Pa·s')}
              />
            ))}
          </dl>
          <p className="text-soft mt-3 text-[12px]">Made-up grade with values typical of its family.</p>
        </>
      )}
    </>
  );
}

const celsius = (kelvin: number) => String(Math.round(fromSi(kelvin, '°C')));
