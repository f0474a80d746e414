import type { Vec3 } from '../geometry/mesh';
import { areaOf, between, ductOf, type Duct, type Section } from './section';

/** A straight piece of sprue, runner or gate between two points of the network. */
export interface FeedSegment {
  id: string;
  /** Indices into `points`, in the direction the melt comes. */
  from: number;
  to: number;
  section: Section;
  /** At `to`, where it tapers; null for a straight one. */
  endSection: Section | null;
  /**
   * Of how many equal cavities the melt goes through it, where one of them stands for all: it is then one
   * slice of the duct, with the pressure gradient and shear rate of the whole.
   */
  alike?: number;
  /** Wall temperature of a hot section, K: full of melt from the start. null for a cold one. */
  hot: number | null;
}

/** Everything between nozzle and gates. Metres. */
export interface FeedNetwork {
  points: Vec3[];
  segments: FeedSegment[];
  /** Point where the nozzle sits. */
  nozzle: number;
  /** Point at which each gate of the part hangs, in the order of the gates. */
  gatePoints: number[];
}

/** One length of duct with its own column of layers. */
export interface FeedCell {
  segment: number;
  position: Vec3;
  direction: Vec3;
  length: number;
  duct: Duct;
  /** See FeedSegment. */
  alike: number;
  hot: number | null;
}

/** A segment is cut into cells about twice as long as it is wide, */
const CELL_LENGTH = 2;
/** but into at least so many, and never into more than these. */
const FEWEST = 4;
const MOST = 24;

const sliced = (duct: Duct, n: number): Duct => ({ ...duct, area: duct.area / n, perimeter: duct.perimeter / n });

export const segmentLength = ({ points }: FeedNetwork, { from, to }: FeedSegment): number =>
  Math.hypot(...points[to].map((x, d) => x - points[from][d]));

/** Cells of every segment, in the direction of the melt. Throws RangeError for a segment without length. */
export function cutSegments(network: FeedNetwork): FeedCell[][] {
  return network.segments.map((segment, k) => {
    const length = segmentLength(network, segment);
    if (!(length > 0)) throw new RangeError(`Feed section ${segment.id} has no length: move one of its ends.`);
    const [a, b] = [network.points[segment.from], network.points[segment.to]];
    const direction = b.map((x, d) => (x - a[d]) / length) as Vec3;
    const width = ductOf(segment.section).width;
    // A hot section is full from the start and keeps its temperature: nothing runs along it but pressure.
    const most = segment.hot === null ? MOST : segment.endSection ? 2 * FEWEST : FEWEST;
    const n = Math.min(most, Math.max(FEWEST, Math.ceil(length / (CELL_LENGTH * width))));
    return Array.from({ length: n }, (_, i) => {
      const share = (i + 0.5) / n;
      const section = segment.endSection ? between(segment.section, segment.endSection, share) : segment.section;
      return {
        segment: k,
        position: a.map((x, d) => x + share * (b[d] - x)) as Vec3,
        direction,
        length: length / n,
        alike: segment.alike ?? 1,
        duct: sliced(ductOf(section), segment.alike ?? 1),
        hot: segment.hot,
      };
    });
  });
}

/** Volume of the cold sections, which is thrown away or ground with every shot, m3. */
export const coldVolume = (network: FeedNetwork): number =>
  network.segments.reduce((s, segment) => s + (segment.hot === null ? segmentVolume(network, segment) : 0), 0);

/** Volume of a segment, m3; a taper by Simpson's rule, which is exact for it. */
export function segmentVolume(network: FeedNetwork, segment: FeedSegment): number {
  const { section, endSection } = segment;
  const end = endSection ?? section;
  const mean = (areaOf(section) + 4 * areaOf(between(section, end, 0.5)) + areaOf(end)) / 6;
  return (mean * segmentLength(network, segment)) / (segment.alike ?? 1);
}
