'use client';

import { FileUp } from 'lucide-react';
import { useState } from 'react';
import { CELLS_PER_WALL } from '@/core/grid/lattice';
import { geometryKey, type Inputs } from '@/core/model/study';
import { solidDensity } from '@/core/material/properties';
import { resolveResin } from '@/core/setup/settings';
import { format, formatPlace } from '@/core/units/reader';

import { latestResult, presentPart, presentInputs, useStudy } from '../study/store';
import { useBench } from '../study/bench';
import { mainView } from '../study/view';
import { Button, Choice, Fact, SectionTitle } from '../ui/controls';
import { BodyList } from './BodyList';
import { BodyTools } from './BodyTools';
import { Orientation } from './Orientation';
import { MapsAndRules } from './MapsAndRules';
import { TaskBar } from './TaskBar';

const INSTANTS = [
  { value: 'few', label: 'Few' },
  { value: 'normal', label: 'Usual' },
  { value: 'many', label: 'Many' },
] as const;

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

const TABS = [
  { value: 'bodies', label: 'Bodies' },
  { value: 'orient', label: 'Orient' },
  { value: 'maps', label: 'Maps' },
  { value: 'detail', label: 'Detail' },
] as const;
type Tab = (typeof TABS)[number]['value'];

export function PartBench() {
  const bodies = useStudy((s) => presentInputs(s).bodies);
  const [tab, setTab] = useState<Tab>('bodies');
  const openImport = () => window.dispatchEvent(new Event('bellows:import'));
  if (!bodies.length)
    return (
      <>
        <p className="text-soft">
          Any closed shape works: STEP, IGES, BREP, 3MF, STL or OBJ. Drop files on the page or choose them; what the
          file does not say, such as its unit, is asked for.
        </p>
        <Button look="primary" className="mt-3 w-full" onClick={openImport}>
          <FileUp size={14} /> Bring in a part
        </Button>
        <SectionTitle>Detail</SectionTitle>
        <DetailChoice />
      </>
    );
  const choose = (next: Tab) => {
    setTab(next);
    if (next !== 'maps') mainView.getState().set({ map: null, brush: null });
    if (next !== 'bodies') useBench.getState().set({ draft: null, marks: [] });
  };
  return (
    <>
      <Choice label="Part tools" value={tab} options={TABS} onChange={choose} />
      <div className="mt-3.5">
        {tab === 'bodies' && (
          <>
            <BodyList />
            <BodyTools />
            <PartFactsList />
            <Button className="mt-3.5 w-full" onClick={openImport}>
              <FileUp size={14} /> Bring in files
            </Button>
          </>
        )}
        {tab === 'orient' && <Orientation />}
        {tab === 'maps' && <MapsAndRules />}
        {tab === 'detail' && <DetailChoice />}
      </div>
      <TaskBar />
    </>
  );
}

/** The cavities together: what the run will fill. */
function PartFactsList() {
  const part = useStudy(presentPart);
  const resin = useStudy((s) => resolveResin(presentInputs(s)));
  if (!part) return null;
  const density = resin && solidDensity(resin);
  return (
    <>
      <SectionTitle>To be moulded</SectionTitle>
      <dl className="num grid grid-cols-[1fr_auto] gap-y-1">
        <Fact label="Size" value={sizeOf(part.bounds)} />
        <Fact label="Volume" value={format(part.size.volume, 'cm³')} />
        <Fact label="Nominal wall" value={format(part.size.wall, 'mm')} />
        {resin && density && (
          <Fact label={`Weight in ${resin.family}`} value={format(part.size.volume * density, 'g')} />
        )}
      </dl>
    </>
  );
}

function DetailChoice() {
  const part = useStudy(presentPart);
  const inputs = useStudy((s) => presentInputs(s));
  const change = useStudy((s) => s.change);
  const result = useStudy(latestResult);
  const same = result && result.inputs.detail === inputs.detail && geometryKey(result.inputs) === geometryKey(inputs);
  return (
    <>
      <Choice
        label="Detail"
        value={inputs.detail}
        options={DETAILS}
        onChange={(detail) => change(`Detail ${detail}`, { ...inputs, detail })}
      />
      <p className="text-soft mt-1.5 text-[12px]">{DETAIL_NOTE[inputs.detail]}</p>
      <SectionTitle>Instants kept</SectionTitle>
      <Choice
        label="Instants kept"
        value={inputs.instants ?? 'normal'}
        options={INSTANTS}
        onChange={(instants) => {
          const { instants: _, ...rest } = inputs;
          change('Instants kept', instants === 'normal' ? rest : { ...rest, instants });
        }}
      />
      <p className="text-soft mt-1.5 text-[12px]">
        For looking at, and for animations: between them fields are interpolated. Numbers stay the same.
      </p>
      {part && (
        <dl className="num mt-2 grid grid-cols-[1fr_auto] gap-y-1">
          <Fact label="Cells, at most" value={format(part.size.wall / CELLS_PER_WALL[inputs.detail], 'mm')} />
          {result?.summary && same && (
            <Fact label="Cells in the part" value={result.summary.nCells.toLocaleString('en-GB')} />
          )}
        </dl>
      )}
    </>
  );
}

export const sizeOf = ({ min, max }: { min: number[]; max: number[] }) =>
  formatPlace(
    max.map((m, d) => m - min[d]),
    ' × ',
    4,
  );
