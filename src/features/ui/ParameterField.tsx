'use client';

import type { ComponentProps } from 'react';
import type { Parameter } from '@/core/model/parameter';
import { inputHelpId } from '@/core/help/help';
import { NumberField } from './NumberField';

type Own = Omit<ComponentProps<typeof NumberField>, 'label' | 'unit' | 'min' | 'max' | 'step'>;

/** Smallest value of a parameter whose lower limit itself is not allowed, as a share of the largest. */
const LEAST = 1e-9;

/** The field of a parameter: name, unit, limits and step are those of its table. */
export function ParameterField({ of, label, ...own }: Own & { of: Parameter; label?: string }) {
  const { unit, min, max, above, step } = of;
  return (
    <NumberField
      help={inputHelpId(of)}
      label={label ?? of.label}
      unit={unit}
      min={above ? min + LEAST * (max - min) : min}
      max={max}
      step={step}
      {...own}
    />
  );
}
