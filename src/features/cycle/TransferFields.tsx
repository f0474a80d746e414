'use client';

import { shotNumber } from '@/core/model/shots';
import { DEFAULT_TRANSFER, type Inputs, type Transfer } from '@/core/model/study';
import { changeInputs } from '../study/store';
import { Choice, SectionTitle } from '../ui/controls';
import { QuantityField } from '../ui/QuantityField';

const ON = [
  { value: 'lower-half', label: 'On the lower half' },
  { value: 'air', label: 'In the air' },
] as const;

/** From the opening after the shot before to the closing for this one; nothing for the first. */
export function TransferFields({ inputs }: { inputs: Inputs }) {
  const number = shotNumber(inputs);
  const transfer = inputs.later?.[number - 2]?.transfer;
  if (!transfer) return null;
  const put = (label: string, patch: Partial<Transfer>) =>
    changeInputs(label, ({ later }) => ({
      later: later?.map((l, k) => (k === number - 2 ? { ...l, transfer: { ...l.transfer, ...patch } } : l)),
    }));
  return (
    <>
      <SectionTitle>Transfer from shot {number - 1}</SectionTitle>
      <div className="space-y-1.5">
        <QuantityField
          of="transfer"
          label="Takes"
          value={transfer.time}
          onChange={(time) => put('Transfer time', { time: time ?? DEFAULT_TRANSFER.time })}
        />
        <Choice
          label="The part lies"
          value={transfer.on}
          options={ON}
          onChange={(on) => put('Where the part lies meanwhile', { on })}
        />
      </div>
    </>
  );
}
