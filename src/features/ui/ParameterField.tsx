'use client';

import type { ComponentProps } from 'react';
import type { Parameter } from '@/core/model/parameter';
import { inputHelpId } from '@/core/help/help';
import { leastOf } from '@/core/model/quantity';
import { NumberField } from './NumberField';

type Own = Omit<ComponentProps<typeof NumberField>, 'label' | 'unit' | 'min' | 'max' | 'step'>;

/** The field of a parameter: name, unit, limits and step are those of its table. */
export function ParameterField({ of, label, ...own }: Own & { of: Parameter; label?: string }) {
  const { unit, max, step } = of;
  return (
    <NumberField
      help={inputHelpId(of)}
      label={label ?? of.label}
      unit={unit}
      min={leastOf(of)}
      max={max}
      step={step}
      {...own}
    />
  );
}
