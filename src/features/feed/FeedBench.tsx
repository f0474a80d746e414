'use client';

import { Crosshair } from 'lucide-react';
import { GATE_KINDS } from '@/core/model/gateForm';
import { latestResult, presentPart, presentInputs, useStudy } from '../study/store';
import { useAim, useBench } from '../study/bench';
import { Button, SectionTitle } from '../ui/controls';
import { format } from '@/core/units/reader';
import { formatNumber } from '@/core/units/units';
import { GateFinder } from './GateFinder';
import { BalancePanel } from './BalancePanel';
import { CavityFields } from './CavityFields';
import { FeedCheck } from './FeedCheck';
import { GateFields } from './GateFields';
import { NeedleFields } from './NeedleFields';
import { OutletFields } from './OutletFields';
import { RunnerFields } from './RunnerFields';
import { useLooseGates } from './useLooseGates';
import { Called } from '../study/names';

const KIND = Object.fromEntries(GATE_KINDS.map(({ kind, label }) => [kind, label]));

export function FeedBench() {
  const inputs = useStudy((s) => presentInputs(s));
  const part = useStudy(presentPart);
  const result = useStudy(latestResult);
  const placing = useAim('gate') !== null;
  const selected = useBench((s) => s.selectedGate);
  const set = useBench((s) => s.set);
  const gate = inputs.gates.find((g) => g.id === selected);
  const loose = useLooseGates();
  const shares = result?.summary?.gateShares ?? [];
  return (
    <>
      <Button
        look={placing ? 'primary' : 'plain'}
        className="w-full"
        aria-pressed={placing}
        off={!part && 'Bring in a part first'}
        onClick={() => set({ aim: placing ? null : { for: 'gate' } })}
      >
        <Crosshair size={14} /> {placing ? 'Click on the part, Esc when done' : 'Place gate (G)'}
      </Button>
      <SectionTitle>Gates</SectionTitle>
      <ul className="divide-y border-y">
        {inputs.gates.map((g) => {
          const share = shares.find((s) => s.gate === g.id);
          return (
            <li key={g.id}>
              <button
                type="button"
                aria-pressed={g.id === selected}
                onClick={() => set({ selectedGate: g.id === selected ? null : g.id })}
                className={`num -mx-2 flex w-[calc(100%+1rem)] items-baseline gap-2 rounded px-2 py-1.5 text-left ${g.id === selected ? 'bg-petrol-wash' : 'hover:bg-well'}`}
              >
                <Called kind="gate" id={g.id} className="min-w-8 font-semibold" />
                <span className="min-w-16 flex-1">
                  {g.form ? KIND[g.form.kind] : `⌀ ${format(g.diameter, 'mm')}`}
                  {g.pin && <span className="text-soft"> · pin</span>}
                </span>
                {loose.has(g.id) && (
                  <span className="text-problem" title="Its place on the part is gone: drag it onto the surface">
                    loose, {format(loose.get(g.id)!, 'mm', 2)} off
                  </span>
                )}
                {share && inputs.gates.length > 1 && (
                  <span className="text-soft" title="Share of the melt in the last result">
                    {formatNumber(100 * share.share, 3)} %
                  </span>
                )}
              </button>
            </li>
          );
        })}
        {inputs.gates.length === 0 && <li className="text-soft py-2">None yet.</li>}
      </ul>
      {gate && <GateFields gate={gate} />}
      <FeedCheck />
      <CavityFields />
      <RunnerFields />
      <BalancePanel />
      <OutletFields />
      <NeedleFields />
      <PreviewSwitch />
      <GateFinder />
    </>
  );
}

function PreviewSwitch() {
  const preview = useBench((s) => s.preview);
  const set = useBench((s) => s.set);
  return (
    <label className="mt-4 flex items-start gap-2">
      <input
        type="checkbox"
        className="accent-petrol mt-1"
        checked={preview}
        onChange={(e) => set({ preview: e.target.checked })}
      />
      <span>
        Preview while I change things
        <span className="text-soft block text-[12px]">
          Coarse, the melt at one temperature; Run gives the real thing.
        </span>
      </span>
    </label>
  );
}
