import { describe, expect, it, vi } from 'vitest';
import { facet } from '@/core/geometry/edges';
import type { Vec3 } from '@/core/geometry/mesh';
import { slab } from '../../../verification/solids';
import { cavities, emptyInputs, geometryKey, type Inputs } from '@/core/model/study';
import { inputKey } from '@/core/model/inputKey';
import { placed } from '@/core/geometry/placement';
import { placedMesh } from '@/core/geometry/placement';
import { after } from '@/core/geometry/placement';
import { inputsWith, withGuessedCavity } from './bringIn';

vi.mock('sonner', () => ({ toast: { error: () => {}, success: () => {}, warning: () => {} } }));
const { rotation, turnTo } = await import('./bodyActions');
const { withoutNode } = await import('./AxisTable');

const centre: Vec3 = [0.01, 0.02, 0.03];
const hash = (n: number) => n.toString(16).padStart(64, '0');
const arrival = (name: string, n: number) => ({ name, colour: null, mesh: hash(n) });

describe('turning', () => {
  it('quarter turns are exact and keep the middle of the part', () => {
    for (const axis of [0, 1, 2] as const) {
      let m = rotation(axis, Math.PI / 2, centre);
      placed(m, centre).forEach((x, d) => expect(x).toBeCloseTo(centre[d], 15));
      for (const x of m.filter((_, i) => i % 4 < 3)) expect([0, 1, -1]).toContain(x + 0);
      for (let k = 0; k < 3; k++) m = after(rotation(axis, Math.PI / 2, centre), m);
      m.forEach((x, i) => expect(x).toBeCloseTo([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0][i], 12));
    }
  });

  it.each([[[0, 0, 1]], [[0, 0, -1]], [[1, 0, 0]], [[0.6, 0, -0.8]], [[0.48, 0.6, 0.64]]] as [Vec3][])(
    'a face with normal %j goes down',
    (normal) => {
      const m = turnTo(normal, -1, centre);
      const turned = [0, 4, 8].map((r) => m[r] * normal[0] + m[r + 1] * normal[1] + m[r + 2] * normal[2]);
      [0, 0, -1].forEach((x, d) => expect(turned[d]).toBeCloseTo(x, 12));
      placed(m, centre).forEach((x, d) => expect(x).toBeCloseTo(centre[d], 12));
      // A rotation, no mirror: faces still point outwards.
      const mesh = placedMesh(
        slab(0.02, 0.01, () => 0.004),
        m,
      );
      const { positions: p, triangles: t } = mesh;
      const middle = [0, 1, 2].map((d) => p.reduce((s, x, i) => (i % 3 === d ? s + x : s), 0) / (p.length / 3));
      for (let i = 0; i < t.length / 3; i++) {
        const out = [0, 1, 2].map((d) => p[3 * t[3 * i] + d] - middle[d]);
        expect(facet(p, t, i).normal.reduce((s, x, d) => s + x * out[d], 0)).toBeGreaterThan(0);
      }
    },
  );
});

describe('files that come in', () => {
  const sizes = new Map([
    [hash(1), 0.1],
    [hash(2), 0.3],
    [hash(3), 0.2],
  ]);
  const old: Inputs = {
    ...emptyInputs(hash(9), 'Lid'),
    gates: [{ id: 'G1', position: [0, 0, 0], diameter: 0.002 }],
    rules: { draft: 0.02 },
  };

  it('a single body is the cavity; of several the largest is', () => {
    const one = inputsWith(emptyInputs(), [arrival('Lid', 1)], 'new', null);
    expect(one.bodies.map((b) => b.role)).toEqual(['cavity']);
    const three = withGuessedCavity(
      inputsWith(emptyInputs(), [arrival('a', 1), arrival('b', 2), arrival('c', 3)], 'new', null),
      sizes,
    );
    expect(three.bodies.map((b) => b.role)).toEqual(['left-out', 'cavity', 'left-out']);
  });

  it('starting over drops gates and turns, and keeps resin, rules and Detail', () => {
    const next = inputsWith({ ...old, detail: 'fine' }, [arrival('Lid', 1)], 'new', null);
    expect([next.gates, next.detail, next.rules]).toEqual([[], 'fine', old.rules]);
  });

  it('adding leaves what is there', () => {
    const next = inputsWith(old, [arrival('Insert', 1)], 'add', null);
    expect(next.bodies.map((b) => [b.id, b.role])).toEqual([
      ['B1', 'cavity'],
      ['B2', 'left-out'],
    ]);
    expect(next.gates).toEqual(old.gates);
    expect(geometryKey(next)).toBe(geometryKey(old));
  });

  it('a newer version takes the place of the body chosen, or of those of the same names', () => {
    const next = inputsWith(old, [arrival('Lid v2', 1)], 'newer', 'B1');
    expect(next.bodies.map((b) => [b.id, b.name, b.mesh])).toEqual([['B1', 'Lid', hash(1)]]);
    expect(next.gates).toEqual(old.gates);
    expect(inputKey(next)).not.toBe(inputKey(old));
    const two = inputsWith(
      { ...old, bodies: [...old.bodies, { ...old.bodies[0], id: 'B2', name: 'Pin' }] },
      [arrival('pin', 2), arrival('Lid', 1), arrival('Nut', 3)],
      'newer',
      null,
    );
    expect(two.bodies.map((b) => [b.name, b.mesh])).toEqual([
      ['Lid', hash(1)],
      ['Pin', hash(2)],
      ['Nut', hash(3)],
    ]);
    expect(cavities(two).length).toBe(2);
  });
});

describe('axis traces', () => {
  it('taking a bend out joins its neighbours, taking an end out shortens', () => {
    const node = (x: number) => ({ position: [x, 0, 0] as Vec3, diameter: 0.008 });
    const axis = {
      id: 'A1',
      name: 'Line',
      body: 'B1',
      nodes: [node(0), node(1), node(2)],
      segments: [
        [0, 1],
        [1, 2],
      ] as [number, number][],
    };
    expect(withoutNode(axis, 1)).toMatchObject({ nodes: [node(0), node(2)], segments: [[0, 1]] });
    expect(withoutNode(axis, 0)).toMatchObject({ nodes: [node(1), node(2)], segments: [[0, 1]] });
  });
});
