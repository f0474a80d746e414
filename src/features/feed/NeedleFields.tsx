import { Crosshair } from 'lucide-react';
import { fluidById } from '@/core/material/coreFluids';
import type { CoreChoice, Needle } from '@/core/model/core';
import { presentInputs, presentPart, useStudy } from '../study/store';
import { useAim, useBench } from '../study/bench';
import { Button, Choice, SectionTitle } from '../ui/controls';
import { DeleteButton, PlacesList } from '../ui/PlacesList';
import { PositionFields } from './PositionFields';
import { changeCore, deleteNeedle, moveNeedle } from './needleActions';
import { NameField } from '../study/names';

const THROUGH: { value: CoreChoice['through']; label: string }[] = [
  { value: 'needles', label: 'Needles' },
  { value: 'nozzle', label: 'Nozzle' },
];

/** Where a fluid comes into the core of the melt. What and when is set with the cycle. */
export function NeedleFields() {
  const core = useStudy((s) => presentInputs(s).core);
  const part = useStudy(presentPart);
  const selected = useBench((s) => s.selectedNeedle);
  const placing = useAim('core')?.what === 'needle';
  const set = useBench((s) => s.set);
  const needle = core?.needles.find((n) => n.id === selected);
  if (core?.fluid === 'melt') return null;
  return (
    <>
      <SectionTitle>Fluid in the core</SectionTitle>
      {core && (
        <Choice
          label="Comes in through"
          value={core.through}
          options={THROUGH}
          onChange={(through) => changeCore('Where the fluid comes in', () => ({ through }))}
        />
      )}
      {core?.through !== 'nozzle' && (
        <Button
          className={`mt-1.5 w-full ${placing ? 'border-petrol! bg-petrol-wash!' : ''}`}
          aria-pressed={placing}
          off={!part && 'Bring in a part first'}
          onClick={() => set({ aim: placing ? null : { for: 'core', what: 'needle' } })}
        >
          <Crosshair size={13} /> {placing ? 'Click on the part, Esc when done' : 'Place needle'}
        </Button>
      )}
      {core?.through === 'needles' && core.needles.length > 0 && (
        <PlacesList
          label="Needles"
          places={core.needles}
          selected={selected}
          onSelect={(selectedNeedle) => set({ selectedNeedle })}
        />
      )}
      {core?.through === 'needles' && needle && <NeedleForm needle={needle} />}
      <p className="text-soft mt-1.5 text-[12px]">
        {core
          ? `${fluidById(core.fluid)?.name}, as the Cycle station says.`
          : 'Gas or water that pushes the melt from inside and leaves it hollow. A needle begins it.'}
      </p>
    </>
  );
}

function NeedleForm({ needle }: { needle: Needle }) {
  return (
    <>
      <SectionTitle
        aside={<DeleteButton label={`Delete needle ${needle.id}`} onClick={() => deleteNeedle(needle.id)} />}
      >
        Needle {needle.id}
      </SectionTitle>
      <div className="space-y-1.5">
        <NameField kind="needle" id={needle.id} />
        <PositionFields position={needle.position} onChange={(position) => moveNeedle(needle.id, position)} />
      </div>
    </>
  );
}
