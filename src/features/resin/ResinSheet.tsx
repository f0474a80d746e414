'use client';

import { ChartSpline, Download, X } from 'lucide-react';
import { useMemo, useState } from 'react';
import { resolveResin } from '@/core/setup/settings';
import type { Resin } from '@/core/model/resin';
import { presentInputs, useStudy } from '../study/store';
import { download } from '../ui/download';
import { Button, Choice } from '../ui/controls';
import { CurveChart } from './CurveChart';
import { curvesCsv, curvesOf, CURVES, type CurveKind } from './curves';
import { FitPanel } from './FitPanel';
import { MaterialEditor } from './MaterialEditor';
import { allResins, chooseResin, copyOf, useMaterials, type SheetTab } from './materials';
import { OthersPanel } from './OthersPanel';
import { ResinTable } from './ResinTable';
import { ShrinkagePanel } from './ShrinkagePanel';

const TABS: { value: SheetTab; label: string }[] = [
  { value: 'curves', label: 'Curves' },
  { value: 'table', label: 'Table' },
  { value: 'constants', label: 'Constants' },
  { value: 'fit', label: 'Fit' },
  { value: 'shrinkage', label: 'Shrinkage' },
  { value: 'others', label: 'Others' },
];

/** Lies over the part at the Resin station: curves, constants and fits of the chosen resin. */
export function ResinSheet() {
  const inputs = useStudy((s) => presentInputs(s));
  const change = useStudy((s) => s.change);
  const { tab, draft, own, compared, open, set } = useMaterials();
  const resin = resolveResin(inputs);
  const other = allResins(own).find((r) => r.id === compared);
  if (!resin) return null;
  if (!open)
    return (
      <Button className="absolute top-12 right-3 z-20" onClick={() => set({ open: true })}>
        <ChartSpline size={13} /> Resin sheet
      </Button>
    );
  const use = (r: Resin) => change(`Resin ${r.name}`, { ...inputs, resin: r });
  return (
    <section aria-label="Resin sheet" className="bg-paper absolute inset-0 z-20 flex flex-col">
      <header className="flex items-center gap-4 border-b px-5 py-2">
        <h2 className="truncate text-[15px] font-semibold">
          {draft && tab === 'constants' ? draft.material.name : resin.name}
          {other && other.id !== resin.id && tab === 'curves' && (
            <span className="text-soft font-normal"> and {other.name} (dashed)</span>
          )}
        </h2>
        <div className="ml-auto w-[32rem] shrink-0">
          <Choice label="Sheet" value={tab} options={TABS} onChange={(next) => set({ tab: next })} />
        </div>
        <button
          type="button"
          aria-label="Show the part"
          title="Show the part"
          className="text-soft hover:text-ink"
          onClick={() => set({ open: false })}
        >
          <X size={15} />
        </button>
      </header>
      {tab === 'curves' && <Curves resins={other && other.id !== resin.id ? [resin, other] : [resin]} />}
      {tab === 'table' && <ResinTable chosen={resin.id} onChoose={chooseResin} />}
      {tab === 'constants' && (
        <MaterialEditor
          key={draft?.material.id ?? resin.id}
          kind="resin"
          material={draft?.kind === 'resin' ? draft.material : resin.origin === 'sample' ? copyOf(resin) : resin}
          onDone={(saved) => {
            set({ draft: null, tab: 'curves' });
            if (saved) use(saved as Resin);
          }}
        />
      )}
      {tab === 'fit' && <FitPanel base={resin} onUse={use} />}
      {tab === 'shrinkage' && <ShrinkagePanel key={resin.id} base={resin} onUse={use} />}
      {tab === 'others' && <OthersPanel />}
    </section>
  );
}

function Curves({ resins }: { resins: Resin[] }) {
  const [kind, setKind] = useState<CurveKind>('viscosity');
  const curves = useMemo(() => curvesOf(kind, resins), [kind, resins]);
  return (
    <div className="flex min-h-0 flex-1 flex-col px-5 py-3">
      <div className="flex items-center gap-3">
        <div className="min-w-0 flex-1">
          <Choice label="Curve" value={kind} options={CURVES} onChange={setKind} />
        </div>
        <Button
          onClick={() =>
            download(
              new Blob([curvesCsv(curves)], { type: 'text/csv' }),
              `${resins[0].name.replace(/\W+/g, '-').toLowerCase()}-${kind}.csv`,
            )
          }
        >
          <Download size={13} /> CSV
        </Button>
      </div>
      <p className="text-soft mt-3 text-[12px]">{curves.title}</p>
      <div className="relative mt-1 min-h-0 flex-1">
        <CurveChart key={kind} set={curves} />
      </div>
    </div>
  );
}
