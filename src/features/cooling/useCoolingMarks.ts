import { useMemo } from 'react';
import type { Vec3 } from '@/core/geometry/mesh';
import { SurfaceTree } from '@/core/geometry/surfaceTree';
import { frameOn, normalised } from '@/core/geometry/vec';
import { format } from '@/core/units/reader';
import type { Cooling } from '@/core/model/cooling';
import { nameOf } from '@/core/model/names';
import type { Inputs } from '@/core/model/study';
import { alongLine, JOINED } from '@/core/solvers/cool/circuit';
import { isWell } from '@/core/solvers/cool/passages';
import type { LineFacts } from '@/core/solvers/cool/lineResults';
import type { RunView } from '@/runtime/wire';
import type { ChannelMark, CoolingMarks } from '@/viewer/CoolingLayer';
import type { DrawPlan } from '@/viewer/DrawLayer';
import { presentPart, useStudy } from '../study/store';
import { useAim, useBench } from '../study/bench';
import { useView } from '../study/view';
import { freeEnds } from './ends';
import { blockAround, useMouldSpace } from './useCooling';

const mm = (p: readonly number[]) => p.map((x) => 1000 * x) as Vec3;

/** Block, lines and ends as they are drawn, mm; with the heat along the lines where the run has just these. */
export function useCoolingMarks(inputs: Inputs, run: RunView | null): CoolingMarks | null {
  const selected = useBench((s) => s.selectedChannel);
  const station = useBench((s) => s.station);
  const field = useView((s) => s.field);
  const part = useStudy(presentPart);
  const { cooling } = inputs;
  const shown = station === 'cooling' || (station === 'answers' && field.startsWith('mould'));
  const facts = run?.summary?.cool?.lines;
  const fits = facts && JSON.stringify(run.inputs.cooling?.lines) === JSON.stringify(cooling?.lines);
  return useMemo(() => {
    if (!cooling || !part || !shown) return null;
    const block = blockAround(inputs, part.bounds);
    const results = fits ? new Map(facts.map((f) => [f.id, f])) : null;
    // Wells take up so much in one place that the channels would all look alike beside them.
    const most = results && facts ? mostAlong(facts) : 1;
    return {
      lines: cooling.lines.map((line): ChannelMark => {
        const along = results?.get(line.id)?.along_W_m;
        return {
          id: line.id,
          label: nameOf(inputs, 'line', line.id),
          as: line.kind.as,
          from: mm(line.from),
          to: mm(line.to),
          bore: 1000 * line.diameter,
          blade: line.kind.as === 'baffle' ? 1000 * line.kind.blade : undefined,
          tube: line.kind.as === 'bubbler' ? 1000 * line.kind.outer : undefined,
          across:
            line.kind.as === 'hose'
              ? outOf(line.from, block)
              : isWell(line)
                ? bladeAcross(line.from, cooling)
                : undefined,
          selected: line.id === selected,
          heat: along?.length ? along.map((q) => Math.min(1, Math.max(0, q / most))) : undefined,
        };
      }),
      ends: freeEnds(cooling).flatMap(({ at, mark, bore }) =>
        mark ? [{ at: mm(at), out: outOf(at, block), as: mark.as, size: 1000 * bore }] : [],
      ),
      inserts: cooling.inserts.flatMap(({ id, shape }) => {
        if (shape.shape === 'body') return [];
        const axes =
          shape.shape === 'box' ? shape.axes : frameOn(normalised(shape.shape === 'cylinder' ? shape.axis : [0, 0, 1]));
        const size: Vec3 =
          shape.shape === 'box'
            ? shape.size
            : shape.shape === 'cylinder'
              ? [shape.diameter, shape.diameter, shape.length]
              : [shape.diameter, shape.diameter, shape.diameter];
        return [{ id, selected: id === selected, shape: shape.shape, centre: mm(shape.centre), axes, size: mm(size) }];
      }),
      block: { min: mm(block.min), max: mm(block.max) },
    };
  }, [cooling, part, shown, inputs, selected, facts, fits]);
}

/** Largest heat per length along a channel, W/m. */
export const mostAlong = (facts: readonly LineFacts[]): number =>
  Math.max(1e-9, ...facts.filter((f) => f.as === 'channel').flatMap((f) => f.along_W_m));

/** Out of the face of the block that a point is nearest to. */
function outOf(p: readonly number[], { min, max }: { min: Vec3; max: Vec3 }): Vec3 {
  let [best, out]: [number, Vec3] = [Infinity, [0, 0, 1]];
  for (let d = 0; d < 3; d++)
    for (const [face, sign] of [
      [min[d], -1],
      [max[d], 1],
    ] as const) {
      const off = Math.abs(p[d] - face);
      if (off >= best) continue;
      best = off;
      out = [0, 0, 0];
      out[d] = sign;
    }
  return out;
}

/** A blade stands across the channel its well is on. */
function bladeAcross(foot: Vec3, { lines }: Cooling): Vec3 {
  const host = lines.find((l) => l.kind.as === 'channel' && alongLine(l, foot).off < JOINED);
  if (!host) return [1, 0, 0];
  const [x, y] = host.to.map((c, d) => c - host.from[d]);
  const length = Math.hypot(x, y) || 1;
  return [-y / length, x / length, 0];
}

/** Least steel between the part and a bore along a line, mm. */
function steelLeft(tree: SurfaceTree, from: Vec3, to: Vec3, radius: number): string {
  const steps = 24;
  let least = Infinity;
  for (let k = 0; k <= steps; k++) {
    const [x, y, z] = from.map((p, d) => (p + (k / steps) * (to[d] - p)) / 1000);
    tree.closest(x, y, z);
    least = Math.min(least, tree.inside(x, y, z) ? -tree.distance : tree.distance - radius);
  }
  return least <= 0 ? 'in the cavity' : `${format(least, 'mm', 3)} to the part`;
}

/** The plane channels are drawn in, with the points that catch the pointer; null while none are drawn. */
export function useChannelPlan(inputs: Inputs): DrawPlan | null {
  const drawing = useAim('channel');
  const space = useMouldSpace();
  const { cooling } = inputs;
  const active = drawing !== null;
  const tree = useMemo(() => (active && space ? new SurfaceTree(space.mesh) : null), [active, space]);
  return useMemo(() => {
    if (!drawing || !cooling || !space || !tree) return null;
    const { block } = space;
    const radius = (cooling.plan?.diameter ?? 0.008) / 2;
    const near = cooling.lines.flatMap((l) => [l.from, l.to]).filter((p) => Math.abs(p[2] - drawing.height) < 1e-6);
    const corners = [block.min, block.max];
    const faces = near.flatMap((p) =>
      corners.flatMap((c): Vec3[] => [
        [c[0], p[1], drawing.height],
        [p[0], c[1], drawing.height],
      ]),
    );
    return {
      height: 1000 * drawing.height,
      from: drawing.from && mm(drawing.from),
      snaps: [...near, ...faces].map(mm),
      said: (from, at) => steelLeft(tree, from ?? at, at, radius),
    };
  }, [drawing, cooling, space, tree]);
}
