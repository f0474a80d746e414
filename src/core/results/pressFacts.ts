import { z } from 'zod';
import { real } from '../numerics/real';
import type { OpenToolOnGrid } from '../setup/press';
import type { FillSettings } from '../setup/settings';
import type { Shot } from './shotFound';

/** What came of a tool that closes on the melt. SI; times from the start of the shot. */
export const pressFactsSchema = z.object({
  by: z.enum(['gates', 'charge']),
  /** Volume of the melt over that of the closed cavity. */
  dose: real,
  gapAtStart_m: real,
  /** When the cavity was full, or the closing ended; and when the mould opens. */
  gapWhenFull_m: real,
  gapLeft_m: real,
  /** When the half began to move, and when the halves met; null: they did not. */
  from_s: real,
  met_s: real.nullable(),
  /** Largest force, what the press may use, and when it first had to slow down for it; null: it did not. */
  force_N: real,
  forceLimit_N: real,
  limitedAt_s: real.nullable(),
});
export type PressFacts = z.infer<typeof pressFactsSchema>;

/** Share of its force from which a press counts as slowed down by it. */
const AT_LIMIT = 0.98;
/** Halves nearer than this have met, m. */
const MET = 1e-8;

/** Facts of one cavity. */
export function pressFacts(shot: Shot, tool: OpenToolOnGrid, { press }: FillSettings): PressFacts | null {
  if (!press) return null;
  const history = (shot.pack ?? shot.result).history;
  const moving = history.phase.findIndex((phase) => phase === 'closing');
  const met = history.gap.findIndex((g, k) => k >= moving && g <= MET);
  const forces = shot.result.history.clampForce;
  const limited = forces.findIndex((f, k) => shot.result.history.phase[k] === 'closing' && f > AT_LIMIT * press.force);
  const first = history.gap.findIndex((g) => g < tool.gap * (1 - 1e-9));
  return {
    by: tool.charge ? 'charge' : 'gates',
    dose: tool.melt / tool.closed,
    gapAtStart_m: tool.gap,
    gapWhenFull_m: shot.result.gap,
    gapLeft_m: history.gap.at(-1) ?? 0,
    from_s: history.time[Math.max(0, first - 1)] ?? 0,
    met_s: met < 0 ? null : history.time[met],
    force_N: Math.max(0, ...history.clampForce),
    forceLimit_N: press.force,
    limitedAt_s: limited < 0 ? null : shot.result.history.time[limited],
  };
}
