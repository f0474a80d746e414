'use client';

import { FileUp } from 'lucide-react';
import { CELLS_PER_WALL } from '@/core/grid/lattice';
import type { Inputs } from '@/core/model/study';
import { format, formatNumber, fromSi } from '@/core/units/units';
import { latestResult, presentPart, presentVariant, useStudy } from '../study/store';
import { Button, Choice, SectionTitle } from '../ui/controls';

const DETAILS = [
  { value: 'quick', label: 'Quick' },
  { value: 'normal', label: 'Normal' },
  { value: 'fine', label: 'Fine' },
] as const;

const DETAIL_NOTE: Record<Inputs['detail'], string> = {
  quick: 'Seconds. For moving gates about.',
  normal: 'For decisions on wall, gate and machine.',
  fine: 'For the last word, and to see how far the numbers still move.',
};

export function PartBench() {
  const part = useStudy(presentPart);
  const inputs = useStudy((s) => presentVariant(s).inputs);
  const change = useStudy((s) => s.change);
  const result = useStudy(latestResult);
  const openImport = () => window.dispatchEvent(new Event('bellows:import'));
  return (
    <>
      {part ? (
        <>
          <div className="flex items-baseline justify-between gap-2">
            <span className="truncate font-medium" title={part.name}>
              {part.name}
            </span>
            <span className="text-good shrink-0 text-[12px]">{part.report.watertight ? 'watertight' : ''}</span>
          </div>
          <dl className="num mt-2 grid grid-cols-[1fr_auto] gap-y-1">
            <Fact label="Size" value={sizeOf(part.report.bounds)} />
            <Fact label="Volume" value={format(part.size.volume, 'cm³')} />
            <Fact label="Surface" value={format(part.report.area, 'cm²')} />
            <Fact label="Nominal wall" value={format(part.size.wall, 'mm')} />
            <Fact label="Triangles" value={part.report.nTriangles.toLocaleString('en-GB')} />
            <Fact label="Unit of the file" value={part.unit} />
          </dl>
          {part.findings.map((f) => (
            <p key={f.code} className="text-soft mt-2 text-[12px]">
              {f.message} {f.remedy}
            </p>
          ))}
          <Button className="mt-3.5 w-full" onClick={openImport}>
            <FileUp size={14} /> Bring in another part
          </Button>
        </>
      ) : (
        <>
          <p className="text-soft">
            Any closed shape works. Drop an STL file on the page or choose one; the unit is asked for next.
          </p>
          <Button look="primary" className="mt-3 w-full" onClick={openImport}>
            <FileUp size={14} /> Bring in a part
          </Button>
        </>
      )}
      <SectionTitle>Detail</SectionTitle>
      <Choice
        label="Detail"
        value={inputs.detail}
        options={DETAILS}
        onChange={(detail) => change(`Detail ${detail}`, { ...inputs, detail })}
      />
      <p className="text-soft mt-1.5 text-[12px]">{DETAIL_NOTE[inputs.detail]}</p>
      {part && (
        <dl className="num mt-2 grid grid-cols-[1fr_auto] gap-y-1">
          <Fact label="Cell size" value={format(part.size.wall / CELLS_PER_WALL[inputs.detail], 'mm')} />
          {result?.summary && result.inputs.detail === inputs.detail && result.inputs.part === inputs.part && (
            <Fact label="Cells in the part" value={result.summary.nCells.toLocaleString('en-GB')} />
          )}
        </dl>
      )}
    </>
  );
}

export function Fact({ label, value }: { label: string; value: string }) {
  return (
    <>
      <dt className="text-soft">{label}</dt>
      <dd className="text-right">{value}</dd>
    </>
  );
}

const sizeOf = ({ min, max }: { min: number[]; max: number[] }) =>
  `${max.map((m, d) => formatNumber(fromSi(m - min[d], 'mm'), 4)).join(' × ')} mm`;
