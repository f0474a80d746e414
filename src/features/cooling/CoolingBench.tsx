'use client';

import { Trash2 } from 'lucide-react';
import { DEFAULT_PLAN, layOutChannels, withLayout } from '@/core/cooling/layout';
import { defaultCooling } from '@/core/model/cooling';
import { presentInputs, useStudy } from '../study/store';
import { Button, SectionTitle } from '../ui/controls';
import { BlockFields } from './BlockFields';
import { CoolingCheck } from './CoolingCheck';
import { EndFields } from './EndFields';
import { InsertFields } from './InsertFields';
import { LayoutFields } from './LayoutFields';
import { LineFields } from './LineFields';
import { SupplyFields } from './SupplyFields';
import { blockAround, useMouldSpace } from './useCooling';

export function CoolingBench() {
  const inputs = useStudy((s) => presentInputs(s));
  const change = useStudy((s) => s.change);
  const space = useMouldSpace();
  const { cooling } = inputs;
  if (!cooling)
    return (
      <>
        <p className="text-soft">
          The mould has the temperature that is set at Cycle, everywhere and at all times. With a block and circuits it
          is calculated, on both sides of every wall.
        </p>
        <Button
          look="primary"
          className="mt-3 w-full"
          off={!space && 'Bring in a part first'}
          onClick={() => {
            if (!space) return;
            const fresh = defaultCooling();
            const plan = DEFAULT_PLAN(space.part);
            const block = blockAround({ ...inputs, cooling: fresh }, space.part);
            const laid = layOutChannels(plan, space.mesh, space.part, block, fresh.supplies[0].id);
            change('Add cooling', { ...inputs, cooling: withLayout(fresh, plan, laid) });
          }}
        >
          Add a mould with channels
        </Button>
        {!space && <p className="text-soft mt-2 text-[12px]">It needs a cavity: bring in a part first.</p>}
      </>
    );
  return (
    <>
      <LayoutFields cooling={cooling} />
      <LineFields cooling={cooling} />
      <EndFields cooling={cooling} />
      <CoolingCheck />
      <SupplyFields cooling={cooling} />
      <BlockFields cooling={cooling} />
      <InsertFields cooling={cooling} />
      <SectionTitle>Without it</SectionTitle>
      <Button
        className="w-full"
        onClick={() => {
          const { cooling: _, ...rest } = inputs;
          change('Remove cooling', rest);
        }}
      >
        <Trash2 size={13} /> Remove block and circuits
      </Button>
    </>
  );
}
