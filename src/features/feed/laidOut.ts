import { layOut, type LaidFeed } from '@/core/feed/layout';
import { withTabs } from '@/core/feed/tabs';
import type { Inputs } from '@/core/model/study';
import { allGates, allTabs } from '@/core/setup/copies';

/** The whole feed as it will be, copies and tabs included; null while there is none or its lines are missing. */
export function laidOut(inputs: Inputs): LaidFeed | null {
  const { feed, gates } = inputs;
  if (!feed || !gates.length || (feed.layout === 'drawn' && !feed.lines?.length)) return null;
  return withTabs(layOut(feed, allGates(inputs), 0), allTabs(inputs));
}
