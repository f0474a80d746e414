/** How the nodes of a mould hang together, and what of them lies in the faces of the block. */
export interface Links {
  /** Links with from < to. */
  linkFrom: Int32Array;
  linkTo: Int32Array;
  linkAxis: Uint8Array;
  /** Steel area between the two, m2. */
  linkArea: Float64Array;
  /** Faces of the block: node, side (0 -x, 1 +x, 2 -y, …), area and distance from the cell's centre. */
  outer: { node: number; side: number; area: number; depth: number }[];
}

/** What is left of the nodes: new number of each old one (-1: gone), the old node that stands for each new one. */
interface Absorbed {
  now: Int32Array;
  hosts: number[];
  volume: number[];
  links: Links;
}

/**
 * Pieces with hardly any steel go to the neighbour they share most area with, or away when they have none: heat
 * that comes into a sliver could leave it only at absurd temperatures.
 */
export function absorbed(volume: readonly number[], sliver: Uint8Array, links: Links): Absorbed {
  const hostOf = hostsOf(volume, sliver, links);
  // Hosts may be slivers themselves, but larger ones: every chain ends.
  const rootOf = (i: number): number => (sliver[i] ? (hostOf[i] < 0 ? -1 : rootOf(hostOf[i])) : i);
  const number = new Int32Array(volume.length).fill(-1);
  const hosts: number[] = [];
  for (let i = 0; i < volume.length; i++) if (!sliver[i]) number[i] = hosts.push(i) - 1;
  const kept = new Array<number>(hosts.length).fill(0);
  const now = Int32Array.from(volume, (v, i) => {
    const root = rootOf(i);
    if (root < 0) return -1;
    kept[number[root]] += v;
    return number[root];
  });
  return { now, hosts, volume: kept, links: joined(links, now, hosts.length) };
}

/** For each sliver the larger neighbour it shares most area with; -1 for none. */
function hostsOf(volume: readonly number[], sliver: Uint8Array, { linkFrom, linkTo, linkArea }: Links): Int32Array {
  const most = new Float64Array(volume.length);
  const host = new Int32Array(volume.length).fill(-1);
  for (let l = 0; l < linkFrom.length; l++)
    for (const [i, j] of [
      [linkFrom[l], linkTo[l]],
      [linkTo[l], linkFrom[l]],
    ])
      if (sliver[i] && (!sliver[j] || volume[j] > volume[i]) && linkArea[l] > most[i]) {
        most[i] = linkArea[l];
        host[i] = j;
      }
  return host;
}

/** The links between the `n` new nodes; those that have become one add up. */
function joined({ linkFrom, linkTo, linkAxis, linkArea, outer }: Links, now: Int32Array, n: number): Links {
  const sums = new Map<number, { axis: number; area: number }>();
  for (let l = 0; l < linkFrom.length; l++) {
    const [i, j] = [now[linkFrom[l]], now[linkTo[l]]];
    if (i < 0 || j < 0 || i === j) continue;
    const key = Math.min(i, j) * n + Math.max(i, j);
    const sum = sums.get(key);
    if (sum) sum.area += linkArea[l];
    else sums.set(key, { axis: linkAxis[l], area: linkArea[l] });
  }
  const keys = [...sums.keys()];
  return {
    linkFrom: Int32Array.from(keys, (k) => Math.floor(k / n)),
    linkTo: Int32Array.from(keys, (k) => k % n),
    linkAxis: Uint8Array.from(sums.values(), (x) => x.axis),
    linkArea: Float64Array.from(sums.values(), (x) => x.area),
    outer: outer.flatMap((o) => (now[o.node] < 0 ? [] : [{ ...o, node: now[o.node] }])),
  };
}
