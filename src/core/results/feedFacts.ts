import { z } from 'zod';
import { real } from '../numerics/real';
import { segmentKindSchema } from '../feed/builder';
import type { LaidFeed } from '../feed/layout';
import { coldVolume, segmentLength } from '../feed/network';
import type { FillResult } from '../solvers/fill/outcome';
import type { JoinedFeed } from '../solvers/melt/joinFeed';

/** What happened in one section of the feed. SI. */
export const feedSectionFactsSchema = z.object({
  id: z.string(),
  kind: segmentKindSchema,
  /** Gates it feeds. */
  gates: z.array(z.string()),
  length_m: real,
  /** Cells it was cut into; missing in runs of version 0.3 and earlier. */
  nCells: real.optional(),
  /** Largest pressure loss over it while the melt flowed at its far end, Pa. */
  pressureLoss_Pa: real,
  /** The loss over time, at `times_s` of the feed. */
  losses_Pa: z.array(real),
  peakShearRate_1_s: real,
  /** When the melt had passed it, s; null when it never did. */
  filledAt_s: real.nullable(),
  /** Share of its wall that is frozen at the end. */
  frozenShareEnd: real,
});
export type FeedSectionFacts = z.infer<typeof feedSectionFactsSchema>;

export const feedFactsSchema = z.object({
  /** Cold sections, lost with every shot, m3. */
  coldVolume_m3: real,
  times_s: z.array(real),
  sections: z.array(feedSectionFactsSchema),
  /** Valve pins: when they began to open and to close, and when the melt had come to the gate, s. */
  pins: z.array(
    z.object({
      gate: z.string(),
      openedAt_s: real.nullable(),
      closedAt_s: real.nullable(),
      /** All moves: openings at even places, closings at odd ones. */
      moves_s: z.array(real),
      reachedAt_s: real.nullable(),
    }),
  ),
});
export type FeedFacts = z.infer<typeof feedFactsSchema>;

/** Facts of every section from the run of the joined grid. */
export function feedFacts(
  result: FillResult,
  joined: JoinedFeed,
  network: LaidFeed,
  gates: readonly { id: string }[],
  nCopies = 1,
): FeedFacts {
  const { frames } = result;
  const last = frames.node.frozen[frames.node.frozen.length - 1];
  const sections = network.segments.map((segment, k): FeedSectionFacts => {
    const nodes = joined.cells.filter(({ cell }) => cell.segment === k).map(({ node }) => node);
    const [first, end] = [nodes[0], nodes[nodes.length - 1]];
    // Cell centres lie half a cell inside both ends.
    const whole = nodes.length / Math.max(1, nodes.length - 1);
    const losses = frames.node.pressure.map((p) => (p[end] === p[end] ? (p[first] - p[end]) * whole : 0));
    const filled = result.node.fillTime[end];
    return {
      id: segment.id,
      kind: network.kinds[k],
      gates: network.feeds[k].map((g) => gates[g].id),
      length_m: segmentLength(network, segment),
      nCells: nodes.length,
      pressureLoss_Pa: Math.max(0, ...losses),
      losses_Pa: losses.map((p) => Math.round(Math.max(0, p))),
      peakShearRate_1_s: nodes.reduce((m, i) => Math.max(m, result.node.peakShearRate[i]), 0),
      filledAt_s: filled === filled ? filled : null,
      frozenShareEnd: nodes.reduce((s, i) => s + (last[i] === last[i] ? last[i] : 0), 0) / nodes.length,
    };
  });
  const { gateNode } = joined.gating;
  const pins = result.pins.map((p) => {
    const reached = gateNode ? result.node.fillTime[gateNode[p.gate]] : NaN;
    return {
      gate: gates[p.gate].id,
      openedAt_s: p.movedAt[0] ?? null,
      closedAt_s: p.movedAt[1] ?? null,
      moves_s: p.movedAt,
      reachedAt_s: reached === reached ? reached : null,
    };
  });
  return { coldVolume_m3: nCopies * coldVolume(network), times_s: [...frames.times], sections, pins };
}
