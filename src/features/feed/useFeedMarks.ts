import { useMemo } from 'react';
import { layOut } from '@/core/feed/layout';
import { between, type Section } from '@/core/feed/section';
import type { Gate, Inputs } from '@/core/model/study';
import type { DuctMark } from '@/viewer/FeedDucts';

const ROUND = 24;

/** Points of a section's edge, m: across and up from the runner's line; flat sides lie on the parting plane. */
export function outlineOf(section: Section): [number, number][] {
  switch (section.shape) {
    case 'round':
      return arc(section.diameter / 2, 0, 2 * Math.PI, ROUND);
    case 'half-round':
      return [...arc(section.diameter / 2, Math.PI, 2 * Math.PI, ROUND / 2), [section.diameter / 2, 0]];
    case 'rectangle': {
      const [w, h] = [section.width / 2, section.height / 2];
      return [
        [-w, -h],
        [w, -h],
        [w, h],
        [-w, h],
      ];
    }
    case 'trapezoid': {
      const { width, height, draft } = section;
      const bottom = width / 2 - height * Math.tan(draft);
      return [
        [-bottom, -height],
        [bottom, -height],
        [width / 2, 0],
        [-width / 2, 0],
      ];
    }
  }
}

const arc = (radius: number, from: number, to: number, n: number): [number, number][] =>
  Array.from({ length: n }, (_, k) => {
    const angle = from + ((to - from) * k) / n;
    return [radius * Math.cos(angle), radius * Math.sin(angle)];
  });

/** The feed as it is drawn, mm; follows a gate while it is dragged. */
export function useFeedMarks(
  { feed, gates }: Inputs,
  moved: { id: string; position: [number, number, number] } | null,
): DuctMark[] {
  return useMemo(() => {
    if (!feed || !gates.length) return [];
    const now = gates.map((g) =>
      moved?.id === g.id ? { ...g, position: moved.position.map((x) => x / 1000) as Gate['position'] } : g,
    );
    const network = layOut(feed, now, 0);
    const mm = (p: readonly number[]) => p.map((x) => 1000 * x) as [number, number, number];
    const outline = (section: Section) => outlineOf(section).map(([x, y]): [number, number] => [1000 * x, 1000 * y]);
    return network.segments.map((s) => ({
      id: s.id,
      from: mm(network.points[s.from]),
      to: mm(network.points[s.to]),
      start: outline(s.section),
      end: outline(s.endSection ? between(s.section, s.endSection, 1) : s.section),
      hot: s.hot !== null,
    }));
  }, [feed, gates, moved]);
}
