import type { Usage } from '@/runtime/wire';
import { formatBytes } from '../ui/bytes';

/** Share of the limit from which on it is told, and room on the disk below which it is, bytes. */
const NEAR = 0.9;
const LITTLE = 1e9;

/** What is to be said of the room that is left; empty while there is enough. */
export function dataWarning({ total, limit, available }: Pick<Usage, 'total' | 'limit' | 'available'>): string {
  if (available < LITTLE)
    return `Only ${formatBytes(available)} are free on the disk: delete runs that are no longer wanted, or free room elsewhere.`;
  if (total > limit)
    return `The data take up more than the limit of ${formatBytes(limit)}: delete runs that are no longer wanted, or raise BELLOWS_DATA_LIMIT_GB.`;
  if (total > NEAR * limit) return `The data have nearly reached the limit of ${formatBytes(limit)}.`;
  return '';
}
