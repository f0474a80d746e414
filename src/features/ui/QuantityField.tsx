'use client';

import type { ComponentProps } from 'react';
import { helpOf, type HelpedInput } from '@/core/help/inputHelp';
import { leastOf, QUANTITIES, type QuantityName } from '@/core/model/quantity';
import { NumberField } from './NumberField';

type Own = Omit<ComponentProps<typeof NumberField>, 'unit' | 'min' | 'max' | 'step' | 'help'>;
/** Quantities and help have one name where they are one thing; else it is said which help explains the quantity. */
type Explained =
  { of: Extract<QuantityName, HelpedInput>; help?: HelpedInput } | { of: QuantityName; help: HelpedInput };

/** The field of a quantity: unit, limits and step are those of its table, its help that of its name. */
export function QuantityField({ of, help, ...own }: Own & Explained) {
  const { unit, max, step } = QUANTITIES[of];
  return (
    <NumberField
      help={helpOf(help ?? (of as HelpedInput))}
      unit={unit}
      min={leastOf(QUANTITIES[of])}
      max={max}
      step={step}
      {...own}
    />
  );
}
