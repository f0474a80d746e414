import { expect, it } from 'vitest';
import { formatBytes } from '../ui/bytes';
import { dataWarning } from './dataWarning';

const GB = 1e9;

it.each([
  [{ total: 5 * GB, limit: 20 * GB, available: 50 * GB }, /^$/],
  [{ total: 18.5 * GB, limit: 20 * GB, available: 50 * GB }, /nearly reached the limit of 20 GB/],
  [{ total: 21 * GB, limit: 20 * GB, available: 50 * GB }, /more than the limit of 20 GB: delete runs/],
  [{ total: 1 * GB, limit: 20 * GB, available: 0.4 * GB }, /Only 400 MB are free on the disk/],
])('what is told of the room that is left: %o', (room, told) => expect(dataWarning(room)).toMatch(told));

it.each([
  [0, '0 B'],
  [999, '999 B'],
  [1000, '1.0 kB'],
  [9949, '9.9 kB'],
  [9960, '10 kB'],
  [999_600, '1.0 MB'],
  [12.4e9, '12 GB'],
  [3.2e15, '3200 TB'],
])('sizes in two figures: %d', (bytes, text) => expect(formatBytes(bytes)).toBe(text));
