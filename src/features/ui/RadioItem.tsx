'use client';

import { RadioGroup } from 'radix-ui';
import type { ComponentProps } from 'react';

/**
 * One choice of a RadioGroup.Root that follows the focus between its choices. The package's own item looks whether an
 * arrow key is held at that moment, and on a busy page the key is up again before the focus has moved.
 */
export function RadioItem(props: ComponentProps<typeof RadioGroup.Item>) {
  return (
    <RadioGroup.Item
      {...props}
      onFocus={(event) => {
        const group = event.currentTarget.closest('[role="radiogroup"]');
        if (event.relatedTarget?.closest('[role="radio"]') && group?.contains(event.relatedTarget))
          event.currentTarget.click();
      }}
    />
  );
}
