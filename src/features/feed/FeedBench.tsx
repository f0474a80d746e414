'use client';

import { Crosshair, Trash2 } from 'lucide-react';
import type { Gate } from '@/core/model/study';
import { latestResult, presentPart, presentVariant, useStudy } from '../study/store';
import { useView } from '../study/viewStore';
import { deleteSelectedGate } from '../shell/useKeyboard';
import { Button, SectionTitle } from '../ui/controls';
import { NumberField } from '../ui/NumberField';
import { formatNumber, fromSi } from '@/core/units/units';
import { GateFinder } from './GateFinder';
import { PinFields } from './PinFields';
import { RunnerFields } from './RunnerFields';
import { useLooseGates } from './useLooseGates';

const AXES = ['X', 'Y', 'Z'] as const;

export function FeedBench() {
  const inputs = useStudy((s) => presentVariant(s).inputs);
  const part = useStudy(presentPart);
  const result = useStudy(latestResult);
  const placing = useView((s) => s.placingGate);
  const selected = useView((s) => s.selectedGate);
  const set = useView((s) => s.set);
  const gate = inputs.gates.find((g) => g.id === selected);
  const loose = useLooseGates();
  const shares = result?.summary?.gateShares ?? [];
  return (
    <>
      <Button
        look={placing ? 'primary' : 'plain'}
        className="w-full"
        aria-pressed={placing}
        disabled={!part}
        onClick={() => set({ placingGate: !placing })}
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
                <span className="w-8 font-semibold">{g.id}</span>
                <span className="flex-1">
                  ⌀ {formatNumber(fromSi(g.diameter, 'mm'), 3)} mm
                  {g.pin && <span className="text-soft"> · pin</span>}
                </span>
                {loose.has(g.id) && (
                  <span className="text-problem" title="Its place on the part is gone: drag it onto the surface">
                    loose
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
      {gate && <GateForm gate={gate} />}
      <RunnerFields />
      <PreviewSwitch />
      <GateFinder />
    </>
  );
}

function PreviewSwitch() {
  const preview = useView((s) => s.preview);
  const set = useView((s) => s.set);
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

function GateForm({ gate }: { gate: Gate }) {
  const inputs = useStudy((s) => presentVariant(s).inputs);
  const part = useStudy(presentPart);
  const change = useStudy((s) => s.change);
  const update = (label: string, patch: Partial<Gate>) =>
    change(label, { ...inputs, gates: inputs.gates.map((g) => (g.id === gate.id ? { ...g, ...patch } : g)) });
  const bounds = part?.bounds;
  return (
    <>
      <SectionTitle
        aside={
          <button
            type="button"
            onClick={deleteSelectedGate}
            className="text-soft hover:text-problem"
            aria-label={`Delete gate ${gate.id}`}
            title="Delete (Del)"
          >
            <Trash2 size={14} />
          </button>
        }
      >
        Gate {gate.id}
      </SectionTitle>
      <div className="space-y-1.5">
        {AXES.map((axis, d) => (
          <NumberField
            key={axis}
            label={axis}
            unit="mm"
            value={gate.position[d]}
            min={bounds ? bounds.min[d] - 0.01 : -10}
            max={bounds ? bounds.max[d] + 0.01 : 10}
            step={1}
            onChange={(v) => {
              if (v === null) return;
              const position = gate.position.map((x, i) => (i === d ? v : x)) as Gate['position'];
              update(`Move gate ${gate.id}`, { position });
            }}
          />
        ))}
        <NumberField
          label="Diameter"
          unit="mm"
          value={gate.diameter}
          min={1e-4}
          max={0.05}
          step={0.25}
          onChange={(v) => v !== null && update(`Diameter of gate ${gate.id}`, { diameter: v })}
        />
        {(inputs.feed?.hot || gate.pin) && (
          <PinFields gate={gate} probes={inputs.probes} onChange={(label, pin) => update(label, { pin })} />
        )}
      </div>
      <p className="text-soft mt-2 text-[12px]">Drag the gate along the part, or type its place.</p>
    </>
  );
}
