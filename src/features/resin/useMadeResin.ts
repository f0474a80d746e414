import { useState } from 'react';
import type { Resin } from '@/core/model/resin';
import { freshId, useMaterials } from './materials';

/** Saves a resin that was made of another by a fit, and takes it into the study; what came of it in words. */
export function useMadeResin(base: Resin, onUse: (r: Resin) => void) {
  const [said, setSaid] = useState<string | null>(null);
  const save = useMaterials((s) => s.save);
  /** `how` ends its name. */
  const make = async (found: Resin, how: string) => {
    const name = `${base.name} ${how}`;
    const made: Resin = { ...found, id: freshId(name), name: name.slice(0, 80), origin: 'fitted from data' };
    try {
      await save('resin', made);
      onUse(made);
      setSaid(`${made.name} is in the library and in this study.`);
    } catch (error) {
      setSaid((error as Error).message);
    }
  };
  return { said, setSaid, make };
}
