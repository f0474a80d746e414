import { useEffect, useMemo, useState } from 'react';
import { boundsOf, type TriangleMesh, type Vec3 } from '@/core/geometry/mesh';
import { add, dot } from '@/core/geometry/vec';
import { chained } from '@/core/geometry/polyline';
import { openingOf } from '@/core/model/body';
import { nameOf } from '@/core/model/names';
import { moulding, partingEdges } from '@/core/partmaps/moulding';
import { mapSurface } from '@/core/partmaps/surface';
import { lineGraph } from '@/core/feed/drawn';
import type { LaidFeed } from '@/core/feed/layout';
import { withTabs } from '@/core/feed/tabs';
import { between, type Section } from '@/core/feed/section';
import type { Gate, Inputs } from '@/core/model/study';
import { allTabs } from '@/core/setup/copies';
import type { DrawPlan } from '@/viewer/DrawLayer';
import type { DuctMark } from '@/viewer/FeedDucts';
import type { FindingMarks } from '@/viewer/FindingsLayer';
import { useAim, useBench } from '../study/bench';
import { useCavity } from '../study/meshes';
import { laidOut } from './laidOut';

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

/** Tabs of a part without runners. */
const onlyTabs = (inputs: Inputs): LaidFeed =>
  withTabs({ points: [], segments: [], kinds: [], feeds: [], nozzle: 0, gatePoints: [] }, allTabs(inputs));

/** The feed as it is drawn, mm; follows a gate while it is dragged. */
export function useFeedMarks(
  inputs: Inputs,
  moved: { id: string; position: [number, number, number] } | null,
): DuctMark[] {
  const { feed, gates } = inputs;
  return useMemo(() => {
    if (!feed && !inputs.tabs?.length) return [];
    const now = gates.map((g) =>
      moved?.id === g.id ? { ...g, position: moved.position.map((x) => x / 1000) as Gate['position'] } : g,
    );
    const network = laidOut({ ...inputs, gates: now }) ?? onlyTabs(inputs);
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
  }, [inputs, feed, gates, moved]);
}

const mm = (p: readonly number[]) => p.map((x) => 1000 * x) as [number, number, number];

/** The plane runners are drawn in, with the points that catch the pointer; null while nothing is drawn. */
export function useDrawPlan(inputs: Inputs): DrawPlan | null {
  const drawing = useAim('runner');
  const { feed, gates } = inputs;
  return useMemo(() => {
    if (!drawing || !feed) return null;
    const { lines = [] } = feed;
    const graph = lines.length ? lineGraph(lines, feed.at) : null;
    const sprue = feed.at ? [[...feed.at, feed.height]] : [];
    const above = gates.map((g) => [g.position[0], g.position[1], feed.height]);
    const snaps = [...(graph?.points ?? []), ...sprue, ...above].map(mm);
    const height = 1000 * (drawing.from?.[2] ?? feed.height);
    return { height, from: drawing.from && mm(drawing.from), snaps };
  }, [drawing, feed, gates]);
}

/** Vents at places of the part, as marks on it. */
export function useOutletMarks(inputs: Inputs): FindingMarks['places'] {
  const { vents } = inputs;
  const selected = useBench((s) => s.selectedOutlet);
  return useMemo(
    () =>
      (vents ?? []).flatMap((v) =>
        v.at.kind === 'place'
          ? [
              {
                id: v.id,
                position: mm(v.at.position),
                label: nameOf(inputs, 'vent', v.id),
                kind: v.id === selected ? 'vent-chosen' : 'vent',
              } as const,
            ]
          : [],
      ),
    [inputs, vents, selected],
  );
}

/** Looking for the line on more would hold the page up for seconds. */
const MOST_TRIANGLES = 200_000;
/** Facets a side of the part is looked at in, for where the halves of the tool meet. */
const FACETS = 60;

/** The line along which a vent of the rim lets air out; drawn a moment later, when the halves are known, and not on very large parts. */
export function useRim(inputs: Inputs): FindingMarks['curves'] {
  const { mesh } = useCavity(inputs);
  const vent = inputs.vents?.find((v) => v.at.kind === 'rim') ?? null;
  const shown = useBench((s) => s.station) === 'feed' && vent !== null;
  const [lines, setLines] = useState<{ of: unknown; points: [number, number, number][][] } | null>(null);
  const { tool } = inputs;
  useEffect(() => {
    if (!shown || !mesh || mesh.triangles.length / 3 > MOST_TRIANGLES) return;
    // The page is drawn first: large parts take a while.
    const later = setTimeout(() => setLines({ of: mesh, points: rimOf(mesh, tool) }), 50);
    return () => clearTimeout(later);
  }, [shown, mesh, tool]);
  return useMemo(() => {
    if (!shown || !vent || lines?.of !== mesh) return [];
    const label = nameOf(inputs, 'vent', vent.id);
    return lines.points.map((points, k) => ({ id: `rim ${k}`, points, label: k ? '' : label }));
  }, [shown, vent, lines, mesh, inputs]);
}

/** mm */
function rimOf(mesh: TriangleMesh, tool: Inputs['tool']): [number, number, number][][] {
  const { min, max } = boundsOf(mesh.positions);
  const facet = Math.hypot(...max.map((x, d) => x - min[d])) / FACETS;
  const surface = mapSurface(mesh, facet);
  const opening = openingOf(tool);
  const halves = moulding(surface, opening, tool.partingHeight);
  const { positions } = surface.mesh;
  const paths = chained(partingEdges(surface, halves)).sort((a, b) => b.length - a.length);
  const place = (k: number): Vec3 => {
    const p: Vec3 = [positions[k], positions[k + 1], positions[k + 2]];
    // On walls along the opening the halves meet in the parting plane, not along the edges of facets.
    const off = halves.parting - dot(p, opening);
    return Math.abs(off) < facet ? add(p, opening, off) : p;
  };
  return paths.map((path) => path.map((k) => mm(place(k))));
}
