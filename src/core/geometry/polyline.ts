/**
 * Polylines through edges that share ends: each edge once, as long as it goes on. Where more than two edges meet, a
 * polyline ends or runs through.
 * @param edges Pairs of ids of their ends.
 * @returns Ids along each polyline; a closed one ends where it began.
 */
export function chained(edges: readonly (readonly [number, number])[]): number[][] {
  const at = new Map<number, number[]>();
  edges.forEach((edge, k) => {
    for (const end of edge) at.set(end, [...(at.get(end) ?? []), k]);
  });
  const used = new Uint8Array(edges.length);
  const walk = (from: number): number[] => {
    const path = [from];
    for (let here = from; ;) {
      const next = at.get(here)?.find((k) => !used[k]);
      if (next === undefined) return path;
      used[next] = 1;
      here = edges[next][0] === here ? edges[next][1] : edges[next][0];
      path.push(here);
    }
  };
  const out: number[][] = [];
  // Open ones from their ends first: begun in the middle they would fall into two.
  const odd = [...at].filter(([, list]) => list.length % 2).sort((a, b) => a[1].length - b[1].length);
  for (const id of [...odd.map(([id]) => id), ...at.keys()])
    for (let path = walk(id); path.length > 1; path = walk(id)) out.push(path);
  return out;
}
