import { describe, expect, it } from 'vitest';
import { sideOfNormal } from '@/core/grid/wallSides';
import { WEIGHTS, type SurfaceMap } from '@/core/grid/surfaceMap';
import { feedFieldId } from '@/core/results/feedFields';
import type { Manifest } from '@/runtime/manifest';
import { nodesAt } from '@/viewer/frames';
import type { ViewGrid } from '@/core/formats/viewGrid';
import type { RunData } from './runData';
import { bareSaid, liveField, mapToSides, storedField } from './shownField';

type FieldMeta = Manifest['fields'][number];
const N = 4;
const END = 2;

const meta = (id: string, values: number[], more: Partial<FieldMeta> = {}): [FieldMeta, Float32Array] => {
  const known = values.filter((x) => x === x);
  const range: [number, number] = [Math.min(...known), Math.max(...known)];
  return [{ id, location: 'cell', components: 1, times: [0], range, ...more } as FieldMeta, Float32Array.from(values)];
};

/** A run of four nodes of equal volume that were filled one after the other, the last one never. */
function runOf(...fields: [FieldMeta, Float32Array][]): RunData {
  const all = [meta('fillTime', [0.5, 1, 1.5, NaN]), ...fields];
  return {
    surface: null,
    grid: { nNodes: N, nodeVolume: new Float32Array(N).fill(1e-9) } as ViewGrid,
    manifest: { fields: all.map(([m]) => m), history: { time: [0, 1, END] } } as Manifest,
    fields: new Map(all.map(([m, values]) => [m.id, values])),
    block: null,
    inserts: null,
    moved: null,
    core: null,
  };
}

describe('the field that is shown', () => {
  it('comes only when all that it is made of is there', () => {
    const run = runOf(meta('pressure', [3, 2, 1, 0]));
    expect(storedField(run, 'pressure', false)).not.toBeNull();
    for (const missing of [{ manifest: null }, { grid: null }, { fields: new Map(run.fields) }]) {
      missing.fields?.delete('fillTime');
      expect(storedField({ ...run, ...missing }, 'pressure', false)).toBeNull();
    }
    expect(storedField(run, 'airTraps', false)).toBeNull();
  });

  it('draws what was never reached as later than the end', () => {
    const shown = storedField(runOf(), 'fillTime', false);
    expect([...(shown?.nodes.at(0) ?? [])].slice(0, 3)).toEqual([0.5, 1, 1.5]);
    expect(shown?.nodes.at(0)[3]).toBeGreaterThan(END);
    expect(shown?.end).toBe(END);
  });

  it('says what places of the filled part without a value mean, and nothing of those that were never filled', () => {
    const volumes = new Float32Array(N).fill(1e-9);
    const said = (id: string, values: number[], more?: Partial<FieldMeta>) =>
      bareSaid(storedField(runOf(meta(id, values, more)), id, false)!, volumes);
    expect(said('frozenAt', [1, NaN, 1.2, NaN])).toBe('plain: not frozen by the end (33 %)');
    expect(said('sinkDepth', [1, 2, NaN, NaN])).toBe('plain: no value (33 %)');
    expect(said('frozenAt', [1, 1.1, 1.2, NaN])).toBe('');
    // Before its time one over the shot has no values: that says nothing.
    expect(said('pressure', [NaN, NaN, NaN, NaN, 1, 1, 1, 1], { times: [0, 2] })).toBe('');
  });

  it('has the pressure of the air ahead of the front, and lies between the frames', () => {
    const frames = [NaN, NaN, NaN, NaN, 10e6, 4e6, NaN, NaN];
    const run = runOf(meta('pressure', frames, { times: [0, 2], range: [0, 10e6] }));
    const shown = storedField(run, 'pressure', false)!;
    const at = (time: number) => [...nodesAt(shown.nodes, time)];
    expect(at(2)).toEqual([10e6, 4e6, 0, 0]);
    // Between the frames it rises from the pressure of the air.
    expect(at(1)).toEqual([5e6, 2e6, 0, 0]);
    expect(at(99)).toEqual(at(END));
  });

  it('has one scale with the feed where that is seen, so that pressure falls from the nozzle on', () => {
    const run = runOf(
      meta('pressure', [3e6, 2e6, 1e6, 0]),
      meta(feedFieldId('pressure'), [40e6, 5e6], { location: 'segment' }),
    );
    expect(storedField(run, 'pressure', false)?.range).toEqual([0, 3e6]);
    expect(storedField(run, 'pressure', true)?.range).toEqual([0, 40e6]);
  });

  it('shows the outermost of values through the wall, and keeps them all for a section', () => {
    const profile = [500, 400, 300, 501, 401, 301, 502, 402, 302, 503, 403, 303];
    const shown = storedField(runOf(meta('temperature', profile, { components: 3 })), 'temperature', false);
    expect([...(shown?.nodes.at(0) ?? [])]).toEqual([300, 301, 302, 303]);
    expect(shown?.profile?.components).toBe(3);
    expect([...(shown?.profile?.at(0) ?? [])]).toEqual(profile);
  });

  it('of both sides of the walls keeps both, and takes their mean within', () => {
    const sides = [320, 340, 330, 330, 310, 350, 300, 360];
    const shown = storedField(runOf(meta('wallTemperature', sides, { location: 'wall' })), 'wallTemperature', false);
    expect([...(shown?.nodes.at(0) ?? [])]).toEqual([330, 330, 330, 330]);
    expect([...(shown?.wallValues ?? [])]).toEqual(sides);
    expect(shown?.range[0]).toBeLessThan(shown?.range[1] as number);
  });

  it('while the run is under way is the front so far', () => {
    const shown = liveField({ times: Float32Array.of(0.1, 0.2, NaN), end: 0.2 }, N);
    expect(shown.live).toBe(true);
    expect(shown.range[1]).toBeCloseTo(0.2, 6);
    expect(shown.nodes.at(0)).toHaveLength(N);
    // Empty nodes, and those behind the last one that is known, lie past the front.
    expect([...shown.nodes.at(0)].slice(2).every((t) => t > 0.2)).toBe(true);
  });
});

describe('the two sides of a wall on the drawn surface', () => {
  it('are told by the way a facet looks', () => {
    // A triangle that looks up and one that looks down, far from each other, both of node 1.
    const surface: SurfaceMap = {
      positions: Float32Array.of(0, 0, 1, 1, 0, 1, 0, 1, 1, 0, 0, 0, 0, 1, 0, 1, 0, 0),
      triangles: Uint32Array.of(0, 1, 2, 3, 4, 5),
      nodes: new Int32Array(6 * WEIGHTS).fill(1),
      weights: new Uint8Array(6 * WEIGHTS).fill(32),
    };
    const map = mapToSides(surface);
    expect(map.nodes[0]).toBe(2 + sideOfNormal(0, 0, 1));
    expect(map.nodes[3 * WEIGHTS]).toBe(2 + sideOfNormal(0, 0, -1));
    expect(map.nodes[0]).not.toBe(map.nodes[3 * WEIGHTS]);
    expect(mapToSides(surface)).toBe(map);
  });
});
