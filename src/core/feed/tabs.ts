import type { Vec3 } from '../geometry/mesh';
import type { Tab } from '../model/outlet';
import type { LaidFeed } from './builder';
import type { Section } from './section';

const slot = (width: number, height: number): Section => ({ shape: 'rectangle', width, height });

/** Overflow tabs as dead ends of the network, behind a land each; their points follow those of the gates. */
export function withTabs(network: LaidFeed, tabs: readonly Tab[]): LaidFeed {
  if (!tabs.length) return network;
  const { points, segments, kinds, feeds, gatePoints } = network;
  const out: LaidFeed = {
    ...network,
    points: [...points],
    segments: [...segments],
    kinds: [...kinds],
    feeds: [...feeds],
    gatePoints: [...gatePoints],
  };
  for (const tab of tabs) {
    const along = (by: number) => tab.position.map((x, d) => x + by * tab.direction[d]) as Vec3;
    const start = out.points.push(along(0)) - 1;
    const mouth = out.points.push(along(tab.land.length)) - 1;
    const end = out.points.push(along(tab.land.length + tab.size.length)) - 1;
    const add = (id: string, from: number, to: number, section: Section) => {
      out.segments.push({ id, from, to, section, endSection: null, hot: null });
      out.kinds.push('tab');
      out.feeds.push([]);
    };
    add(`${tab.id} land`, start, mouth, slot(tab.land.width, tab.land.thickness));
    add(tab.id, mouth, end, slot(tab.size.width, tab.size.thickness));
    out.gatePoints.push(start);
  }
  return out;
}

/** Stands in where tabs hang on a part without runners: hot ways so wide that they take next to nothing. */
export function openFeed(gates: readonly Vec3[], meltTemperature: number): LaidFeed {
  const middle = [0, 1, 2].map((d) => gates.reduce((s, p) => s + p[d], 0) / gates.length) as Vec3;
  const nozzle: Vec3 = [middle[0], middle[1], middle[2] + OPEN_LENGTH];
  return {
    points: [nozzle, ...gates],
    segments: gates.map((_, g) => ({
      id: `open ${g + 1}`,
      from: 0,
      to: g + 1,
      section: { shape: 'round', diameter: OPEN_DIAMETER },
      endSection: null,
      hot: meltTemperature,
    })),
    kinds: gates.map(() => 'runner'),
    feeds: gates.map((_, g) => [g]),
    nozzle: 0,
    gatePoints: gates.map((_, g) => g + 1),
  };
}

const OPEN_LENGTH = 0.02;
const OPEN_DIAMETER = 0.02;
