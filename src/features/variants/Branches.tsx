import type { TreeRow } from '@/core/model/variantTree';

/** The lines of the tree left of a variant. */
export function Branches({ row: { depth, goesOn } }: { row: Pick<TreeRow<unknown>, 'depth' | 'goesOn'> }) {
  return (
    <span aria-hidden className="flex shrink-0">
      {Array.from({ length: depth }, (_, k) => {
        const last = k === depth - 1;
        const on = goesOn[k + 1];
        return (
          <span key={k} className="relative w-5">
            {(last || on) && (
              <span className={`border-line absolute left-2 border-l ${on ? 'inset-y-0' : 'top-0 h-[18px]'}`} />
            )}
            {last && <span className="border-line absolute top-[18px] left-2 w-2.5 border-t" />}
          </span>
        );
      })}
    </span>
  );
}
