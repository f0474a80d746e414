import { describe, expect, it } from 'vitest';
import { box } from '../../../verification/shapes';
import { measure } from '../geometry/mesh';
import { defaultCooling } from '../model/cooling';
import { defaultFeed } from '../model/feed';
import { cavityBody, emptyInputs, type Inputs } from '../model/study';
import { feedOf } from './feedOf';
import { resolve } from './resolve';
import { partSize, resolveSettings } from './settings';

const plate = box(0.06, 0.03, 0.002);
const study = (more: Partial<Inputs> = {}): Inputs => ({
  ...emptyInputs(),
  bodies: [cavityBody('plate')],
  gates: [{ id: 'G1', position: [0.004, 0.003, 0], diameter: 0.002 }],
  ...more,
});
const copies = (solveOnce: boolean): Inputs['cavities'] => ({
  middle: [0.06, 0.015],
  places: { by: 'circle', count: 4, centre: [0.12, 0.015] },
  solveOnce,
});
const volume = (mesh: typeof plate) => Math.abs(measure(mesh).volume);

describe('a study as a run reads it', () => {
  it('of one cavity without runners is that, with its settings', () => {
    const inputs = study();
    const run = resolve(plate, inputs);
    expect(run.mesh).toBe(plate);
    expect(run.inputs).toBe(inputs);
    expect(run.feed).toBeNull();
    expect(run.settings).toEqual(resolveSettings(inputs, partSize(plate)));
  });

  it('has every copy as a cavity of its own where they are solved one by one', () => {
    const run = resolve(plate, study({ cavities: copies(false) }));
    expect(volume(run.mesh)).toBeCloseTo(4 * volume(plate), 12);
    expect(run.inputs.cavities).toBeUndefined();
    expect(run.inputs.gates.map((g) => g.id)).toEqual(['G1', 'G1.2', 'G1.3', 'G1.4']);
  });

  it('has one cavity for all where they are alike; the machine fills them all either way', () => {
    const [one, all] = [true, false].map((once) => resolve(plate, study({ cavities: copies(once) })));
    expect(one.mesh).toBe(plate);
    expect(one.inputs.gates).toHaveLength(1);
    expect(one.settings.shotVolume).toBeCloseTo(all.settings.shotVolume, 12);
    expect(one.settings.injectionTime).toBeCloseTo(all.settings.injectionTime, 9);
  });

  it('has all runners where a mould is settled around them: each copy lies elsewhere in the steel', () => {
    const feed = defaultFeed(0.002, -0.02, false);
    const once = study({ cavities: copies(true), feed });
    const cooled = resolve(plate, { ...once, cooling: defaultCooling() });
    expect(resolve(plate, once).feed?.gatePoints).toHaveLength(1);
    expect(cooled.feed?.gatePoints).toHaveLength(4);
    expect(cooled.feed).toEqual(feedOf(cooled.inputs, cooled.settings.meltTemperature));
  });

  it('keeps hot runners at the temperature of the melt unless they have their own', () => {
    const hot = (temperature: number | null) => ({ ...defaultFeed(0.002, -0.02, false), hot: { temperature } });
    const kept = (temperature: number | null) => {
      const { feed, settings } = resolve(plate, study({ feed: hot(temperature) }));
      return { kept: feed?.segments.flatMap((s) => s.hot ?? []) ?? [], melt: settings.meltTemperature };
    };
    const own = kept(null);
    expect(new Set(own.kept)).toEqual(new Set([own.melt]));
    expect(new Set(kept(511).kept)).toEqual(new Set([511]));
  });
});
