import { describe, expect, it } from 'vitest';
import { RESINS } from '../../material/library';
import { decadesAt } from '../../material/relaxation';
import { ATMOSPHERE, ROOM, specificVolume, transitionAt } from '../../material/pvt';
import { solidLawOf } from '../../material/solid';
import { CENTRES, EDGES, HALF_LAYERS } from '../melt/layers';
import type { FreezingResin } from './freeStrain';
import { RelaxingLayers } from './relaxingLayers';
import { WallStrain, type Hold } from './wallStrain';
import { WALLS_KERNEL } from './wallsKernel';

const plain: FreezingResin = {
  density: { density0: 900, compressibility: 0 },
  transition: 400,
  expansion: 1e-4,
  poisson: 0.4,
  relaxation: null,
  crystalShare: 0,
};
const N = 2 * HALF_LAYERS;
const share = Float64Array.from({ length: N }, (_, t) => {
  const l = t < HALF_LAYERS ? HALF_LAYERS - 1 - t : t - HALF_LAYERS;
  return (EDGES[l + 1] - EDGES[l]) / 2;
});

/** One wall of whole columns; each step sets its temperature by side and holds it. */
function wall(resin: FreezingResin, steel: ConstructorParameters<typeof WallStrain>[5] = null) {
  const temperature = new Float64Array(N).fill(500);
  const columns = { nLayers: N, temperature, layersOf: () => ({ share }) };
  const strain = new WallStrain(columns, resin, [0], 1, 500, steel);
  const none = new Float64Array(1);
  return {
    strain,
    /** Strain of the wall, and half of what its first face has more: what a layer would have alone, and what it bears. */
    end() {
      const { inPlane, inRoom } = strain.finish().node;
      const [first, last] = [inPlane[0] + inRoom[0], inPlane[N - 1] + inRoom[N - 1]];
      return { strain: (first + last) / 2, bend: (first - last) / (2 * CENTRES[HALF_LAYERS - 1]) };
    },
    to(first: number, second: number, hold: Hold, dt = 1) {
      temperature.fill(first, 0, HALF_LAYERS);
      temperature.fill(second, HALF_LAYERS);
      strain.look(dt, none, hold, true);
    },
  };
}

describe('elastic layers, the limit without relaxation', () => {
  it('held to the end contract from where they froze, alike: the plate stays straight', () => {
    const { strain, end, to } = wall(plain);
    to(390, 450, 'held');
    to(350, 350, 'held');
    to(300, 300, 'free');
    expect(end().strain).toBeCloseTo(-0.01, 6);
    expect(end().bend).toBeCloseTo(0, 6);
    expect(Math.max(...strain.finish().node.inRoom.map(Math.abs))).toBeLessThan(1e-6);
  });

  it('sliding: the side that freezes last is short of what the other has shrunk by, concave there', () => {
    const { end, to } = wall(plain);
    to(390, 450, 'sliding');
    to(350, 410, 'sliding');
    to(350, 350, 'sliding');
    to(300, 300, 'free');
    // The second, warm side froze at the length of the first one at 350 K: it ends up shorter by 50 K.
    const { bend } = end();
    expect(bend).toBeGreaterThan(1e-3);
    expect(end().strain).toBeLessThan(-0.0105);
  });

  it('mirrored, bends to the other side; alike on both sides, not at all', () => {
    const run = (a: number, b: number) => {
      const { end, to } = wall(plain);
      to(390 + a, 390 + b, 'sliding');
      to(350 + a, 350 + b, 'sliding');
      to(300, 300, 'free');
      return end().bend;
    };
    expect(run(0, 45)).toBeCloseTo(-run(45, 0), 6);
    expect(run(20, 20)).toBeCloseTo(0, 7);
  });
});

describe('steel that the part closes around', () => {
  const hold = (along: number, square: number) => ({ share: [along, square], along: [1, 0, 0] });

  it('both ways all of it is as held, nothing of it as free', () => {
    const end = (steel: ReturnType<typeof hold> | null, how: Hold) => {
      const { end: now, to } = wall(plain, steel);
      to(390, 390, how);
      to(330, 330, how);
      return now().strain;
    };
    expect(end(hold(1, 1), 'sliding')).toBe(end(null, 'held'));
    expect(end(hold(0, 0), 'sliding')).toBe(end(null, 'sliding'));
    const half = end(hold(0.5, 0.5), 'sliding');
    expect(half).toBeLessThan(-1e-3);
    expect(half).toBeGreaterThan(end(null, 'sliding'));
  });

  it('one way: stays as long along it, gives way across by what Poisson adds, and leaves no difference when let go', () => {
    const { strain, to } = wall(plain, hold(1, 0));
    to(390, 390, 'sliding');
    to(330, 330, 'sliding');
    strain.opens();
    to(300, 300, 'free');
    const { node } = strain.finish();
    // Elastic, it forgets what held it, but for what froze while it moved.
    expect(Math.max(...node.uneven.map(Math.abs))).toBeLessThan(5e-4);
    expect(node.mean[0]).toBeCloseTo(-0.01, 3);
    expect([...node.heldAlong]).toEqual([1, 0, 0]);
    // Held one way: stress along E e, none across; their mean over E/(1 - nu) is e (1 - nu) / 2.
    expect(node.inMould[0]).toBeCloseTo((0.007 * (1 - plain.poisson)) / 2, 3);
  });
});

describe('layers of a resin', () => {
  const pp = RESINS[0];
  const resin: FreezingResin = { ...plain, density: pp.pvt, ...solidLawOf(pp) };
  const layers = (crystalShare: number) =>
    new RelaxingLayers(1, 0, new Float64Array(HALF_LAYERS), { ...resin, crystalShare });

  it('want to shrink by a third of their volume, crystals by their share, continuously through the transition', () => {
    const T = [ROOM, 340];
    const p = 3e7;
    const solid = (t: number) => specificVolume({ ...pp.pvt, b7: 0 }, t, p + ATMOSPHERE);
    const none = layers(0);
    expect(none.freeStrain(T[1], p) - none.freeStrain(T[0], p)).toBeCloseTo(Math.log(solid(T[1]) / solid(T[0])) / 3, 5);
    const all = layers(1);
    const whole = (t: number) => specificVolume(pp.pvt, t, ATMOSPHERE);
    expect(all.freeStrain(T[1], 0) - all.freeStrain(T[0], 0)).toBeCloseTo(Math.log(whole(T[1]) / whole(T[0])) / 3, 4);
    const at = transitionAt(pp.pvt, p + ATMOSPHERE);
    expect(all.freeStrain(at + 1e-6, p)).toBeCloseTo(all.freeStrain(at - 1e-6, p), 7);
    // More pressure is less volume.
    expect(none.freeStrain(340, 5e7)).toBeLessThan(none.freeStrain(340, 0));
  });

  it('leave out crystals by how fast they turn solid, from then on, and nothing jumps as they do', () => {
    const elastic = { ...resin, relaxation: null, crystalShare: 0.6, quenchLoss: 0.1, shrinkageFactor: 1 };
    const solid = transitionAt(pp.pvt, ATMOSPHERE);
    /** Stress of a layer that is held at its length from the melt to the room, at so many K/s. */
    const cooled = (rate: number, quenchLoss: number) => {
      const l = new RelaxingLayers(1, 0, new Float64Array(HALF_LAYERS), { ...elastic, quenchLoss });
      l.begin(0, solid + 10, 0);
      const course: number[] = [];
      for (let T = solid + 10; T > ROOM; T -= 5) {
        l.before.fill(T);
        l.after.fill(Math.max(ROOM, T - 5));
        l.step(0, -1, (T - l.after[0]) / rate, 0, 0);
        course.push(l.stresses(0)[2]);
      }
      return course;
    };
    const whole = cooled(20, 0);
    const left = (T: number) =>
      (pp.pvt.b7 * Math.exp(Math.min(0, pp.pvt.b8 * (T - pp.pvt.b5)))) / (pp.pvt.b1s + pp.pvt.b2s * (T - pp.pvt.b5));
    const crystals = (Math.log1p(0.6 * left(solid)) - Math.log1p(0.6 * left(ROOM))) / 3;
    for (const [rate, leftOut] of [
      [20, 0],
      [200, 0.1],
      [2000, 0.2],
      [2, -0.1],
      // Bounded: there is no end to how fast a wall cools in its first moment.
      [2e9, 0.6],
    ]) {
      const course = cooled(rate, 0.1);
      // To the quarter of a kelvin by which the tables round the kink at the transition.
      const difference = course[course.length - 1] - whole[whole.length - 1];
      expect(Math.abs(difference + leftOut * crystals)).toBeLessThan(0.005 * crystals);
      // Just below the transition there is hardly a difference yet.
      expect(Math.abs(course[2] - whole[2])).toBeLessThan(Math.abs(leftOut) * crystals + 1e-9);
      const steps = course.map((s, k) => s - (course[k - 1] ?? 0));
      expect(Math.min(...steps)).toBeGreaterThan(-1e-9);
    }
  });

  it('fade after a strain as the spectrum says, in one step or in many', () => {
    const one = resin.relaxation!;
    const T = 350;
    const relaxed = (steps: number) => {
      const l = layers(0);
      l.before.fill(T);
      l.after.fill(T);
      l.begin(0, T, 0);
      l.step(0, -1, 1e-12, 0, 0);
      l.stretch(0, 1e-3, 0);
      for (let k = 0; k < steps; k++) l.step(0, -1, 100 / steps, 0, 0);
      return l.stresses(0)[3] / 1e-3;
    };
    const reduced = 100 / 10 ** decadesAt(one, T);
    const exact = one.terms.reduce((s, { share: g, time }) => s + g * Math.exp(-reduced / time), 0);
    expect(relaxed(1)).toBeCloseTo(exact, 4);
    expect(relaxed(20)).toBeCloseTo(exact, 4);
    expect(exact).toBeGreaterThan(0.05);
  });

  it('the compiled kernel is that of its source', async () => {
    const { compileKernel } = (await import('../../../../scripts/kernels.mjs')) as {
      compileKernel: (name: string) => Promise<string>;
    };
    expect(await compileKernel('walls')).toBe(WALLS_KERNEL);
  });
});
