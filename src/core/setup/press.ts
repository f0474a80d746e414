import type { FineGrid } from '../grid/grid';
import type { PressureGrid } from '../grid/pressureGrid';
import { frameOn, add, scale } from '../geometry/vec';
import type { Vec3 } from '../geometry/mesh';
import { chargeOf, type Compression } from '../model/compression';
import { openingOf } from '../model/body';
import type { Inputs } from '../model/study';
import { footprint, type Footprint } from './charge';

/** The open tool on the part's own grid. SI; arrays have one entry per node. */
export interface OpenToolOnGrid {
  growth: Float64Array;
  area: Float64Array;
  /** At the start of the shot. */
  gap: number;
  /** Of the closed cavity and of the open one, m3; and of the melt that is meant for it. */
  closed: number;
  open: number;
  melt: number;
  /** Share of every node under the charge; null where the melt comes through gates. */
  charge: Float64Array | null;
}

type Outline = Extract<Compression['melt'], { by: 'charge' }>['outline'];

/** Direction of the width of a charge that is `turned` [rad] about the opening direction. */
export function widthOf(along: Vec3, turned: number): Vec3 {
  const [u, v] = frameOn(along);
  return add(scale(u, Math.cos(turned)), v, Math.sin(turned));
}

function sizeOf(outline: Outline, along: Vec3): Pick<Footprint, 'across' | 'size'> {
  if (outline.as === 'round') return { size: { diameter: outline.diameter } };
  const { width, length, turned } = outline;
  return { across: widthOf(along, turned), size: { width, length } };
}

/** Where a tool stands open at the start of a shot, and what lies in it; null where it is closed. */
export function openTool(
  inputs: Inputs,
  fine: FineGrid,
  grid: PressureGrid,
  { growth, projectedArea }: { growth: Float64Array | null; projectedArea: Float64Array },
): OpenToolOnGrid | null {
  const { compression } = inputs;
  if (!compression || !growth) return null;
  let [closed, opens] = [0, 0];
  for (let i = 0; i < grid.n; i++) {
    closed += grid.volume[i];
    opens += grid.volume[i] * growth[i];
  }
  const melt = compression.dose * closed;
  const charge = chargeOf(compression);
  const along = openingOf(inputs.tool);
  const laid =
    charge &&
    footprint(
      fine,
      grid,
      growth,
      { at: charge.pieces.map((p) => p.position), along, ...sizeOf(charge.outline, along) },
      melt,
    );
  const gap = laid ? laid.gap : (compression.melt as Extract<Compression['melt'], { by: 'gates' }>).gap;
  return {
    growth,
    area: projectedArea,
    gap,
    closed,
    open: closed + gap * opens,
    melt,
    charge: laid?.share ?? null,
  };
}
