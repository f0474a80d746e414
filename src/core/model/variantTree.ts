/** Variants of a project as a tree: each stands under the one that it was branched from, or was put under since. */

/** What of a variant its place in the tree is made of. */
export interface Placed {
  id: string;
  parentId: string | null;
}

export interface TreeRow<V> {
  variant: V;
  /** 0 at the root. */
  depth: number;
  /** Whether each of the branches it stands on, from the root to its own, goes on below it. */
  goesOn: readonly boolean[];
}

/** Rows of the tree from top to bottom, in the given order among siblings. What has lost its parent stands at the root. */
export function treeRows<V extends Placed>(variants: readonly V[]): TreeRow<V>[] {
  const ids = new Set(variants.map((v) => v.id));
  const parentOf = ({ parentId }: V) => (parentId !== null && ids.has(parentId) ? parentId : null);
  const under = (id: string | null) => variants.filter((v) => parentOf(v) === id);
  const seen = new Set<string>();
  const rows = (list: readonly V[], goesOn: readonly boolean[]): TreeRow<V>[] =>
    list.flatMap((variant, k) => {
      if (seen.has(variant.id)) return [];
      seen.add(variant.id);
      const own = [...goesOn, k < list.length - 1];
      return [{ variant, depth: goesOn.length, goesOn: own }, ...rows(under(variant.id), own)];
    });
  const fromRoots = rows(under(null), []);
  // What stands in a ring has no root: it is shown all the same.
  return [
    ...fromRoots,
    ...rows(
      variants.filter((v) => !seen.has(v.id)),
      [],
    ),
  ];
}

/** Whether a variant can be put under another one: not under itself, nor under what stands under it. */
export function mayStandUnder(variants: readonly Placed[], id: string, parentId: string | null): boolean {
  const parents = new Map(variants.map((v) => [v.id, v.parentId]));
  for (let at = parentId, steps = 0; at !== null && steps <= variants.length; at = parents.get(at) ?? null, steps++)
    if (at === id) return false;
  return true;
}
