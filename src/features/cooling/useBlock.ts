import { useEffect } from 'react';
import type { RunView } from '@/runtime/wire';
import type { BlockCells } from '@/viewer/BlockSlice';
import { loadBlock, useRunData } from '../study/runData';
import { useView } from '../study/view';

/** Temperatures of the block while the section is on and a field of the mould is shown. */
export function useBlock(run: RunView | null): BlockCells | null {
  const wanted = useView((s) => s.section.on && s.field === 'mouldSurface');
  const data = useRunData(run?.id ?? null);
  const there = run?.summary?.cool !== undefined;
  useEffect(() => {
    if (run && wanted && there) loadBlock(run.id);
  }, [run, wanted, there]);
  return wanted ? (data?.block ?? null) : null;
}
