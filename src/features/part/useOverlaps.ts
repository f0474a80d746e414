import { useEffect, useState } from 'react';
import type { Finding } from '@/core/geometry/finding';
import type { GeometryResults } from '@/core/model/geometryTask';
import type { Body } from '@/core/model/body';
import { format } from '@/core/units/reader';
import { api } from '../study/api';

type Pair = GeometryResults['overlaps']['pairs'][number];

/** More bodies than this are looked at only when asked for: the pairs grow with the square. */
const MOST = 40;

const known = new Map<string, Pair[]>();

/**
 * Findings about bodies in use that share space, looked for by themselves whenever the bodies change.
 * Two cavities that overlap would be filled twice; anything else takes room from its neighbour.
 */
export function useOverlapFindings(bodies: readonly Body[]): { body: string; finding: Finding }[] {
  const used = bodies.filter((b) => b.role !== 'left-out');
  const key = used.map((b) => `${b.id}:${b.mesh}`).join();
  const [pairs, setPairs] = useState<{ key: string; list: Pair[] }>({ key: '', list: [] });
  useEffect(() => {
    const list = key.split(',').map((entry) => entry.split(':'));
    const done = known.get(key);
    if (done) return setPairs({ key, list: done });
    if (list.length < 2 || list.length > MOST) return;
    const abort = new AbortController();
    const task = { do: 'overlaps' as const, bodies: list.map(([id, mesh]) => ({ id, mesh })) };
    api
      .geometry<'overlaps'>(task, () => {}, abort.signal)
      .then(({ answer }) => {
        known.set(key, answer.pairs);
        setPairs({ key, list: answer.pairs });
      })
      // Asked for by nobody: a failure shows when the tool is used.
      .catch(() => {});
    return () => abort.abort();
  }, [key]);
  if (pairs.key !== key) return [];
  return pairs.list.flatMap((pair) => {
    const [a, b] = [used.find((x) => x.id === pair.a), used.find((x) => x.id === pair.b)];
    if (!a || !b) return [];
    const both = a.role === 'cavity' && b.role === 'cavity';
    const finding: Finding = {
      severity: 'misleads',
      code: 'overlapping',
      count: 1,
      places: [pair.place],
      message: `${a.name} and ${b.name} share ${format(pair.volume, 'cm³')}.`,
      remedy: both
        ? 'Melt would be counted twice there: join the bodies or cut one, with Overlaps.'
        : 'Choose one of them and resolve it with Overlaps: cut one, or join them.',
    };
    return [{ body: `${a.name}, ${b.name}`, finding }];
  });
}
