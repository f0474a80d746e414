import type { LaidFeed } from './builder';
import { segmentLength } from './network';

/** Lengths that agree within this are equal, m. */
const SAME_LENGTH = 1e-5;

/** Segments from the nozzle to a gate, in the order of the melt. */
export function wayTo({ segments, gatePoints }: LaidFeed, gate: number): number[] {
  const into = new Map(segments.map((s, k) => [s.to, k]));
  const way: number[] = [];
  for (let k = into.get(gatePoints[gate]); k !== undefined; k = into.get(segments[k].from)) way.unshift(k);
  return way;
}

/** Everything about a way that the melt feels, and with how many copies it is shared piece by piece. */
function signature(network: LaidFeed, gate: number, copyOf: (gate: number) => number): string {
  return JSON.stringify(
    wayTo(network, gate).map((k) => {
      const { section, endSection, hot } = network.segments[k];
      const copies = new Set(network.feeds[k].map(copyOf)).size;
      const length = Math.round(segmentLength(network, network.segments[k]) / SAME_LENGTH);
      return [length, section, endSection, hot, copies, network.feeds[k].length];
    }),
  );
}

/**
 * The feed of one cavity that stands for `nCopies` equal ones, or null when the feed does not treat them
 * alike: then every one must be solved. Gates come copy by copy, the cavity's own first.
 */
export function feedOfOne(network: LaidFeed, nCopies: number): LaidFeed | null {
  const nGates = network.gatePoints.length / nCopies;
  const copyOf = (gate: number) => Math.floor(gate / nGates);
  for (let g = 0; g < nGates; g++) {
    const own = signature(network, g, copyOf);
    for (let c = 1; c < nCopies; c++) if (signature(network, c * nGates + g, copyOf) !== own) return null;
  }
  const kept = network.segments.flatMap((_, k) => (network.feeds[k].some((g) => copyOf(g) === 0) ? [k] : []));
  const copies = new Map(kept.map((k) => [k, new Set(network.feeds[k].map(copyOf)).size]));
  const before = new Map(kept.map((k) => [network.segments[k].to, k]));
  network.segments.forEach((s, k) => {
    const upstream = before.get(s.from);
    if (network.feeds[k].length || upstream === undefined) return;
    kept.push(k);
    copies.set(k, copies.get(upstream) as number);
  });
  // Points of the other copies go, so that every point has a section.
  const used = [
    ...new Set([network.nozzle, ...kept.flatMap((k) => [network.segments[k].from, network.segments[k].to])]),
  ];
  const index = new Map(used.map((p, i) => [p, i]));
  const at = (p: number) => index.get(p) as number;
  return {
    points: used.map((p) => network.points[p]),
    segments: kept.map((k) => {
      const s = network.segments[k];
      return { ...s, from: at(s.from), to: at(s.to), alike: copies.get(k) };
    }),
    kinds: kept.map((k) => network.kinds[k]),
    feeds: kept.map((k) => network.feeds[k].filter((g) => copyOf(g) === 0)),
    nozzle: at(network.nozzle),
    gatePoints: network.gatePoints.slice(0, nGates).map(at),
  };
}
