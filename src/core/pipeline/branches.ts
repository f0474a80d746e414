import { branchKey } from '../feed/builder';
import type { Bounds } from '../feed/balance';
import { segmentLength } from '../feed/network';
import { ductOf, type Section } from '../feed/section';
import type { BalanceAsk } from '../model/balanceAsk';
import { nCopies, type Inputs } from '../model/study';
import { feedOf } from '../setup/feedOf';

/** One branch of the feed that may get a diameter of its own. */
export interface Branch {
  key: string;
  gates: string[];
  segments: number[];
  length: number;
  diameter: number;
  bounds: Bounds;
  /** Share of the gates it feeds. */
  share: number;
  /** ln of the diameter over the mean of all, and of the flow ratio, in the trial before. */
  last?: { size: number; error: number };
}

/** Inputs with diameters of branches, m, by key. */
export function withDiameters(inputs: Inputs, diameters: Record<string, number>): Inputs {
  if (!inputs.feed) return inputs;
  const own = Object.fromEntries(Object.entries(diameters).map(([key, diameter]) => [key, { diameter }]));
  return { ...inputs, feed: { ...inputs.feed, branches: { ...inputs.feed.branches, ...own } } };
}

/** Diameter of the round section with the same flow at the same gradient (Newtonian), m. */
function roundOf(section: Section): number {
  if (section.shape === 'round') return section.diameter;
  const { area, mobility } = ductOf(section);
  return Math.pow((128 * area * mobility) / Math.PI, 0.25);
}

/** Runners and drops gathered by the gates they feed. Sprue, lands and slugs stay as they are. */
export function branchesOf(inputs: Inputs, ask: Pick<BalanceAsk, 'goal' | 'bounds' | 'own'>): Branch[] {
  const { feed, gates } = inputs;
  if (!feed) return [];
  const network = feedOf(inputs, 0);
  const found = new Map<string, Branch>();
  network.segments.forEach((segment, k) => {
    if (network.kinds[k] !== 'runner' && network.kinds[k] !== 'drop') return;
    const fed = network.feeds[k];
    // Balance is made where the ways part; the least volume moves all.
    if (ask.goal === 'balance' && fed.length === gates.length) return;
    const ids = fed.map((g) => gates[g].id);
    const { alike = 1 } = segment;
    const key = branchKey(ids, alike);
    const length = segmentLength(network, segment);
    const size = roundOf(segment.section);
    const known = found.get(key);
    if (known) {
      known.diameter = (known.diameter * known.length + size * length) / (known.length + length);
      known.length += length;
      known.segments.push(k);
    } else {
      const bounds = ask.own[key] ?? ask.bounds;
      const share = (fed.length * alike) / (gates.length * nCopies(inputs));
      found.set(key, { key, gates: ids, segments: [k], length, diameter: size, bounds, share });
    }
  });
  return [...found.values()].map((b) =>
    b.bounds.min === b.bounds.max ? { ...b, diameter: b.bounds.min > 0 ? b.bounds.min : b.diameter } : b,
  );
}
