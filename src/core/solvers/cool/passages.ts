import type { CoolingLine } from '../../model/cooling';
import type { Pipe } from './friction';

/** Drawn plastic tube. */
const HOSE_ROUGHNESS = 2e-6;
/** Into the well, round its tip and out again: an estimate for sharp turns. */
const WELL_LOSS = { baffle: 2.4, bubbler: 3 } as const;
/** Connector at either end of a hose. */
const HOSE_LOSS = 1;
/** A loose loop is this much longer than the straight way, and never shorter than this, m. */
const LOOP = { share: 1.6, least: 0.15 };

export const lineLength = ({ from, to }: Pick<CoolingLine, 'from' | 'to'>): number =>
  Math.hypot(to[0] - from[0], to[1] - from[1], to[2] - from[2]);

export const isWell = (line: CoolingLine): boolean => line.kind.as === 'baffle' || line.kind.as === 'bubbler';

/** Length of coolant in a hose, m: as given, or of a loose loop between its ends. */
export const hoseLength = (line: CoolingLine): number =>
  (line.kind.as === 'hose' ? line.kind.length : null) ?? Math.max(LOOP.least, LOOP.share * lineLength(line));

/** A round bore. */
export const boreOf = (length: number, diameter: number, roughness: number, loss: number): Pipe => ({
  length,
  diameter,
  area: (Math.PI * diameter * diameter) / 4,
  roughness,
  loss,
});

/** One half of a bore with a blade across it: what a baffle leaves on either side. */
export function halfBore(diameter: number, blade: number): { area: number; perimeter: number } {
  const r = diameter / 2;
  const half = Math.min(blade / 2, 0.9 * r);
  // Segment of a circle beyond a chord at `half` from the middle.
  const angle = 2 * Math.acos(half / r);
  return { area: (r * r * (angle - Math.sin(angle))) / 2, perimeter: r * angle + 2 * Math.sqrt(r * r - half * half) };
}

/**
 * Passages of `length` m of a line, in the order of the flow, and the one that wets the wall. A baffle goes up one
 * half bore and down the other; a bubbler up its tube and down the ring around it.
 */
export function passagesOf(
  line: CoolingLine,
  length: number,
  roughness: number,
  bends: number,
): { pipes: Pipe[]; wet: Pipe | null } {
  const { diameter, kind } = line;
  switch (kind.as) {
    case 'channel': {
      const pipe = boreOf(length, diameter, roughness, line.loss ?? bends);
      return { pipes: [pipe], wet: pipe };
    }
    case 'hose':
      return { pipes: [boreOf(hoseLength(line), diameter, HOSE_ROUGHNESS, line.loss ?? HOSE_LOSS + bends)], wet: null };
    case 'baffle': {
      const { area, perimeter } = halfBore(diameter, kind.blade);
      const loss = line.loss ?? WELL_LOSS.baffle;
      const pipe = { length: 2 * length, diameter: (4 * area) / perimeter, area, roughness, loss };
      return { pipes: [pipe], wet: pipe };
    }
    case 'bubbler': {
      const tube = boreOf(length, kind.inner, HOSE_ROUGHNESS, 0);
      const gap = Math.max(diameter - kind.outer, 1e-4);
      const ring = {
        length,
        diameter: gap,
        area: (Math.PI * (diameter + kind.outer) * gap) / 4,
        roughness,
        loss: line.loss ?? WELL_LOSS.bubbler,
      };
      return { pipes: [tube, ring], wet: ring };
    }
  }
}
