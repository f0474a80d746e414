import * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import { fitDistance, refit } from './camera';
import { extremesOf } from './FindingsLayer';
import type { ViewGrid } from '@/core/formats/viewGrid';
import { tracerPaths, velocityAt } from './tracers';

/** One node that takes up a box from the origin to (length, 1, 1) m; velocities are the same all over it. */
const boxOf = (length: number): ViewGrid =>
  ({
    nNodes: 1,
    spacing: 0.1,
    mapper: {
      nodeAt: (x: number, y: number, z: number) =>
        x >= 0 && x <= length && y >= 0 && y <= 1 && z >= 0 && z <= 1 ? 0 : -1,
    },
  }) as unknown as ViewGrid;
const GATE = [{ position: [0.5, 0.5, 0.5], diameter: 0.01 }];

describe('velocities between frames', () => {
  const field = { times: [0, 1, 3], data: Float32Array.of(NaN, NaN, NaN, 1, 0, 0, 3, 2, 0) };
  it.each([
    // What fills between two frames has the velocity it fills with.
    [0.5, [1, 0, 0]],
    [1, [1, 0, 0]],
    [2, [2, 1, 0]],
    [9, [3, 2, 0]],
  ])('at %f s', (t, v) => expect(velocityAt(boxOf(1), field, [0.5, 0.5, 0.5], t)).toEqual(v));

  it('are none outside the part, and where no melt is', () => {
    expect(velocityAt(boxOf(1), field, [2, 0.5, 0.5], 2)).toBeNull();
    const empty = { times: [0, 1], data: new Float32Array(6).fill(NaN) };
    expect(velocityAt(boxOf(1), empty, [0.5, 0.5, 0.5], 0.5)).toBeNull();
  });
});

describe('tracers', () => {
  it('go with the melt: as far as a velocity that grows evenly takes them', () => {
    const times = [0, 10];
    const { particles } = tracerPaths(boxOf(100), { times, data: Float32Array.of(0, 0, 0, 2, 0, 0) }, GATE);
    expect(particles.length).toBeGreaterThan(50);
    for (const p of particles) {
      let start = 0;
      while (p.at(start) === null) start += 0.01;
      const [a, b] = [p.at(start)!, p.at(9)!];
      // v = t / 5: the way is (t² − t0²) / 10.
      expect(b[0] - a[0]).toBeCloseTo((81 - start ** 2) / 10, 2);
      expect([b[1], b[2]]).toEqual([a[1], a[2]]);
    }
  });

  it('start around their gate, one after the other, and are not there before', () => {
    const { particles } = tracerPaths(boxOf(100), { times: [0, 10], data: Float32Array.of(1, 0, 0, 1, 0, 0) }, GATE);
    const begun = (t: number) => particles.filter((p) => p.at(t) !== null).length;
    expect(begun(-0.001)).toBe(0);
    expect(begun(0)).toBeGreaterThan(0);
    expect([1, 3, 5, 8].map(begun)).toEqual([...[1, 3, 5, 8].map(begun)].sort((a, b) => a - b));
    expect(begun(10)).toBe(particles.length);
    for (const p of particles.filter((q) => q.at(0))) {
      const away = p.at(0)!.map((x, d) => x - GATE[0].position[d]);
      expect(Math.hypot(...away)).toBeCloseTo(0.075, 6);
    }
  });

  it('do not leave the part: they wait where it ends', () => {
    const { particles } = tracerPaths(boxOf(1), { times: [0, 10], data: Float32Array.of(1, 0, 0, 1, 0, 0) }, GATE);
    for (const p of particles) expect(p.at(10)![0]).toBeLessThanOrEqual(1);
  });
});

describe('the least and the most of a field', () => {
  const volumes = [1, 1, 1, 0.1, 1];
  it('leave out slivers, what has no value and what is not filled yet', () => {
    expect(extremesOf([5, 3, 8, 99, NaN], volumes, [0, 1, 2, 0, 0], 2)).toEqual({ low: 1, high: 2 });
    expect(extremesOf([5, 3, 8, 99, NaN], volumes, [0, 1, 2, 0, 0], 1)).toEqual({ low: 1, high: 0 });
    expect(extremesOf([5, 3, 8, 99, NaN], volumes, [3, 3, 3, 3, 3], 1)).toBeNull();
  });
});

describe('the distance from which all is seen', () => {
  const box = new THREE.Box3(new THREE.Vector3(-40, -15, 0), new THREE.Vector3(60, 25, 30));
  const centre = box.getCenter(new THREE.Vector3());
  it.each([
    [0.6, [0.72, -1, 0.86]],
    [1.8, [0.72, -1, 0.86]],
    [1.8, [0, -1, 0]],
    [1, [1, 0, 0]],
    [2.4, [0, -1e-4, 1]],
  ])('in a window %f times as wide as high, from %j', (aspect, from) => {
    const camera = new THREE.PerspectiveCamera(28, aspect, 1, 10_000);
    camera.up.set(0, 0, 1);
    const direction = new THREE.Vector3(...(from as [number, number, number])).normalize();
    const seen = (distance: number) => {
      camera.position.copy(centre).addScaledVector(direction, distance);
      camera.lookAt(centre);
      camera.updateMatrixWorld();
      camera.updateProjectionMatrix();
      const corners = [0, 1, 2, 3, 4, 5, 6, 7].map((k) =>
        new THREE.Vector3(
          k & 1 ? box.max.x : box.min.x,
          k & 2 ? box.max.y : box.min.y,
          k & 4 ? box.max.z : box.min.z,
        ).project(camera),
      );
      return Math.max(...corners.flatMap((c) => [Math.abs(c.x), Math.abs(c.y)]));
    };
    const distance = fitDistance(camera, box, direction);
    // Nothing is cut off, and no more than a margin is given away.
    expect(seen(distance)).toBeLessThan(1);
    expect(seen(distance)).toBeGreaterThan(0.85);
    // A window that becomes another is looked into from where all is seen again; back in the first, from the same place.
    const other = refit(camera, box, direction, aspect, 0.6);
    camera.aspect = 0.6;
    expect(seen(other * distance)).toBeLessThan(1);
    expect(seen(other * distance)).toBeGreaterThan(0.85);
    expect(other * refit(camera, box, direction, 0.6, aspect)).toBeCloseTo(1, 12);
  });
});
