import type { RunView } from '@/runtime/wire';
import type { BlockCells } from '@/viewer/BlockSlice';
import { useRunData, type ResultPart } from '../study/runData';
import { useView } from '../study/view';

const BLOCK: readonly ResultPart[] = ['block'];

/** Temperatures of the block while the section is on and a field of the mould is shown. */
export function useBlock(run: RunView | null): BlockCells | null {
  const wanted = useView((s) => s.section.on && s.field === 'mouldSurface');
  const there = run?.summary?.cool !== undefined;
  return useRunData(wanted && there ? run.id : null, BLOCK)?.block ?? null;
}
