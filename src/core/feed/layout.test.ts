import { describe, expect, it } from 'vitest';
import { defaultFeed, feedSchema, type Feed } from '../model/feed';
import type { Gate } from '../model/study';
import { layOut } from './layout';
import { coldVolume, segmentLength } from './network';

const gate = (id: string, x: number, y: number, z = 0): Gate => ({ id, position: [x, y, z], diameter: 0.002 });
const four = [gate('G1', -0.04, -0.02), gate('G2', 0.04, -0.02), gate('G3', -0.04, 0.02), gate('G4', 0.04, 0.02)];
const feed = (patch: Partial<Feed> = {}): Feed => ({ ...defaultFeed(0.002, -0.012, false), ...patch });
const wayTo = (network: ReturnType<typeof layOut>, g: number) =>
  network.segments.reduce((s, x, k) => s + (network.feeds[k].includes(g) ? segmentLength(network, x) : 0), 0);

describe('a feed laid out to the gates', () => {
  it('the default is a valid feed', () => {
    expect(feedSchema.parse(feed())).toEqual(feed());
  });

  it.each(['star', 'trunk', 'tree'] as const)('%s: every gate hangs on the nozzle by one way', (layout) => {
    const network = layOut(feed({ layout }), four, 500);
    expect(network.nozzle).toBe(0);
    // A tree: one segment fewer than points.
    expect(network.segments.length).toBe(network.points.length - 1);
    four.forEach((g, k) => {
      expect(network.points[network.gatePoints[k]]).toEqual(g.position);
      let at = network.gatePoints[k];
      for (let step = 0; at !== network.nozzle; step++) {
        expect(step).toBeLessThan(20);
        at = network.segments.find((s) => s.to === at)!.from;
      }
    });
  });

  it('a tree over a regular field has equal ways', () => {
    const network = layOut(feed({ layout: 'tree' }), four, 500);
    const ways = four.map((_, g) => wayTo(network, g));
    for (const way of ways) expect(way).toBeCloseTo(ways[0], 9);
  });

  it('a gate at the height of the runners is fed from the side, others through a drop', () => {
    const side = layOut(feed({ height: 0 }), four, 500);
    expect(side.kinds).not.toContain('drop');
    const below = layOut(feed(), four, 500);
    expect(below.kinds.filter((k) => k === 'drop')).toHaveLength(4);
    const land = below.segments[below.kinds.indexOf('land')];
    expect(segmentLength(below, land)).toBeCloseTo(0.001, 9);
  });

  it('one gate below the sprue needs no runner', () => {
    expect(layOut(feed(), [gate('G1', 0, 0)], 500).kinds).toEqual(['sprue', 'drop', 'land']);
  });

  it('hot sections take the melt, lands stay cold and are all that is lost', () => {
    const network = layOut(feed({ hot: { temperature: null } }), four, 511);
    network.kinds.forEach((kind, k) => expect(network.segments[k].hot).toBe(kind === 'land' ? null : 511));
    expect(coldVolume(network)).toBeCloseTo(4 * 0.001 * Math.PI * 0.001 ** 2, 13);
  });

  it('a branch can have its own diameter', () => {
    const network = layOut(feed({ branches: { G2: { diameter: 0.0061 } } }), four, 500);
    const own = network.segments.filter((_, k) => network.kinds[k] === 'runner' && network.feeds[k].includes(1));
    expect(own.map((s) => s.section)).toEqual([{ shape: 'round', diameter: 0.0061 }]);
  });
});
