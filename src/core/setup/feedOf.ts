import { feedOfOne } from '../feed/alike';
import { layOut, type LaidFeed } from '../feed/layout';
import { openFeed, withTabs } from '../feed/tabs';
import { nCopies, type Inputs } from '../model/study';
import { allGates } from './copies';

/** The feed that a run solves: of all gates, or of one cavity that stands for all. */
export function feedOf(inputs: Inputs, meltTemperature: number): LaidFeed {
  const { feed, tabs = [], gates } = inputs;
  if (!feed)
    return withTabs(
      openFeed(
        gates.map((g) => g.position),
        meltTemperature,
      ),
      tabs,
    );
  const network = layOut(feed, allGates(inputs), meltTemperature);
  return withTabs(feedOfOne(network, nCopies(inputs)) ?? network, tabs);
}

/** One cavity is solved for all: wanted, and the feed treats them alike. */
export function solvedOnce(inputs: Inputs): boolean {
  const { cavities, feed, gates } = inputs;
  // Each copy lies elsewhere in the mould and has walls of its own.
  if (!cavities?.solveOnce || inputs.cooling) return false;
  // Without runners every gate is fed alike.
  if (!feed || !gates.length) return true;
  return feedOfOne(layOut(feed, allGates(inputs), 0), nCopies(inputs)) !== null;
}
