import { describe, expect, it } from 'vitest';
import { random } from '../../../verification/random';
import { ball, revolve, slab, TURNS } from '../../../verification/solids';
import { capOf } from './caps';
import { checkMesh } from './check';
import { acrossEdges, edgeKind, edgeTable, facets, fromVertex, toVertex } from './edges';
import { selfIntersections } from './intersections';
import { joinClose } from './joinClose';
import { mendSurface, orient } from './mend';
import { flipped, mapVertices, measure, weld, type TriangleMesh, type Vec3 } from './mesh';
import { findShells, joined, subMesh } from './shells';
import { SurfaceTree } from './surfaceTree';
import { duplicateTriangles } from './triangles';
import { cross, dot, eigen, frameOn, normalised, sub, vertexAt } from './vec';

const next = random(31);
const plate = slab(0.04, 0.03, () => 0.003);
const moved = (mesh: TriangleMesh, by: Vec3) => mapVertices(mesh, ([x, y, z]) => [x + by[0], y + by[1], z + by[2]]);

describe('edges', () => {
  const mesh = ball(0.01, 16);
  const table = edgeTable(mesh);

  it('every half-edge stands on one edge, with its partner across', () => {
    const across = acrossEdges(table);
    expect(table.nEdges).toBe(mesh.triangles.length / 2);
    for (let h = 0; h < mesh.triangles.length; h++) {
      const g = across[h];
      expect(across[g]).toBe(h);
      expect([fromVertex(mesh.triangles, g), toVertex(mesh.triangles, g)]).toEqual([
        toVertex(mesh.triangles, h),
        fromVertex(mesh.triangles, h),
      ]);
      expect(table.edgeOf[h]).toBe(table.edgeOf[g]);
    }
  });

  it('tells how triangles meet', () => {
    const open = { ...mesh, triangles: mesh.triangles.slice(3) };
    const kinds = (m: TriangleMesh) => {
      const t = edgeTable(m);
      return new Set(Array.from({ length: t.nEdges }, (_, e) => edgeKind(m.triangles, t, e)));
    };
    expect([...kinds(mesh)]).toEqual(['regular']);
    expect([...kinds(open)].sort()).toEqual(['open', 'regular']);
  });

  it('facet normals point outwards and areas add up', () => {
    const { normals, areas, centroids } = facets(mesh);
    expect(areas.reduce((s, a) => s + a, 0)).toBeCloseTo(measure(mesh).area, 14);
    for (let i = 0; i < areas.length; i++) expect(dot(vertexAt(normals, i), vertexAt(centroids, i))).toBeGreaterThan(0);
  });
});

describe('self-intersections', () => {
  /** Every edge of one triangle against the inside of the other, with no shortcuts. */
  function crossNaive(A: Vec3[], B: Vec3[]): boolean {
    const pierces = (p: Vec3, q: Vec3, T: Vec3[]): boolean => {
      const n = cross(sub(T[1], T[0]), sub(T[2], T[0]));
      const [a, b] = [dot(n, sub(p, T[0])), dot(n, sub(q, T[0]))];
      if (!(a * b < 0)) return false;
      const s = a / (a - b);
      const x = p.map((v, d) => v + s * (q[d] - v)) as Vec3;
      return T.every((c, k) => dot(n, cross(sub(T[(k + 1) % 3], c), sub(x, c))) > 0);
    };
    const edges = (T: Vec3[]) => T.map((c, k): [Vec3, Vec3] => [c, T[(k + 1) % 3]]);
    return edges(A).some(([p, q]) => pierces(p, q, B)) || edges(B).some(([p, q]) => pierces(p, q, A));
  }

  it('agree with a comparison of all pairs on random triangles (seeded)', () => {
    const soup = Array.from({ length: 9 * 150 }, () => next());
    // Small triangles here and there: most do not meet.
    for (let i = 0; i < soup.length; i += 9)
      for (let k = 3; k < 9; k++) soup[i + k] = soup[i + (k % 3)] + 0.6 * (next() - 0.5);
    const { mesh } = weld(soup);
    const corner = (i: number) => [0, 1, 2].map((c) => vertexAt(mesh.positions, mesh.triangles[3 * i + c]));
    const expected = new Set<string>();
    const n = mesh.triangles.length / 3;
    for (let i = 0; i < n; i++)
      for (let j = i + 1; j < n; j++) if (crossNaive(corner(i), corner(j))) expected.add(`${i},${j}`);
    const found = selfIntersections(mesh, new SurfaceTree(mesh));
    const pairs = new Set<string>();
    for (let k = 0; k < found.length; k += 2) pairs.add([found[k], found[k + 1]].sort((a, b) => a - b).join());
    expect(expected.size).toBeGreaterThan(20);
    expect([...pairs].sort()).toEqual([...expected].sort());
  });

  it.each(Object.entries(TURNS))('a closed body has none and two that overlap have some, %s', (_, turn) => {
    const one = mapVertices(plate, turn);
    expect(selfIntersections(one, new SurfaceTree(one)).length).toBe(0);
    const two = joined([one, mapVertices(moved(plate, [0.013, 0.007, 0.001]), turn)]);
    expect(selfIntersections(two, new SurfaceTree(two)).length).toBeGreaterThan(0);
    const apart = joined([one, mapVertices(moved(plate, [0.05, 0, 0]), turn)]);
    expect(selfIntersections(apart, new SurfaceTree(apart)).length).toBe(0);
  });

  it('stop at the limit', () => {
    const crowd = joined(Array.from({ length: 12 }, (_, i) => moved(plate, [0.001 * i, 0.0007 * i, 0.0001 * i])));
    expect(selfIntersections(crowd, new SurfaceTree(crowd), 50).length).toBe(100);
  });
});

describe('pieces', () => {
  const inner = mapVertices(ball(0.01, 12), ([x, y, z]) => [0.02 + 0.1 * x, 0.1 * y, 0.1 * z]);
  const innermost = mapVertices(inner, ([x, y, z]) => [0.02 + 0.3 * (x - 0.02), 0.3 * y, 0.3 * z]);

  it('know what encloses them', () => {
    const nest = joined([innermost, plate, flipped(inner), moved(plate, [0, 0, 0.05])]);
    const shells = findShells(nest, edgeTable(nest));
    expect(shells.map((s) => s.inside)).toEqual([2, -1, 1, -1]);
    expect(shells.map((s) => Math.sign(s.volume))).toEqual([1, 1, -1, 1]);
    expect(shells.every((s) => s.closed)).toBe(true);
  });

  it('a solid within a hollow is told as a hollow only, and mending fills it', () => {
    const nest = joined([plate, flipped(inner), innermost]);
    expect(checkMesh(nest).findings.map((f) => f.code)).toEqual(['internal-void']);
    const { mesh } = mendSurface(nest);
    expect(measure(mesh).volume).toBeCloseTo(0.04 * 0.03 * 0.003, 12);
  });

  it('taken out alone they keep their shape', () => {
    const nest = joined([plate, inner]);
    const [, ball2] = findShells(nest, edgeTable(nest));
    const alone = subMesh(nest, ball2.triangles);
    expect(measure(alone).volume).toBeCloseTo(measure(inner).volume, 15);
    expect(alone.positions.length).toBe(inner.positions.length);
  });
});

describe('mending step by step', () => {
  it('joins vertices within the tolerance and no others', () => {
    const shaken = { ...plate, positions: plate.positions.slice() };
    const soup = Array.from(shaken.triangles, (v) =>
      [...vertexAt(shaken.positions, v)].map((x) => x + 1e-9 * (next() - 0.5)),
    ).flat();
    const loose = weld(soup).mesh;
    expect(loose.positions.length / 3).toBe(36);
    expect(joinClose(loose, 1e-8).positions.length / 3).toBe(8);
    expect(joinClose(loose, 1e-11).positions.length / 3).toBe(36);
  });

  it('turns any mixture of faces the same way', () => {
    for (let trial = 0; trial < 20; trial++) {
      const mesh = ball(0.01, 12);
      const triangles = mesh.triangles.slice();
      for (let i = 0; i < triangles.length; i += 3)
        if (next() < 0.4) [triangles[i + 1], triangles[i + 2]] = [triangles[i + 2], triangles[i + 1]];
      const { mesh: result } = orient({ ...mesh, triangles });
      expect(checkMesh(result).report.nMisoriented).toBe(0);
      expect(Math.abs(measure(result).volume)).toBeCloseTo(measure(mesh).volume, 15);
    }
  });

  it('closes random holes in a ball to nearly its volume (seeded)', () => {
    const whole = measure(ball(0.01, 24)).volume;
    for (let trial = 0; trial < 15; trial++) {
      const mesh = ball(0.01, 24);
      const drop = new Set(Array.from({ length: 8 }, () => Math.floor((next() * mesh.triangles.length) / 3)));
      const open = { ...mesh, triangles: mesh.triangles.filter((_, i) => !drop.has(Math.floor(i / 3))) };
      const { mesh: closed } = mendSurface(open);
      expect(checkMesh(closed).report.watertight).toBe(true);
      expect(Math.abs(measure(closed).volume / whole - 1)).toBeLessThan(0.02);
    }
  });

  it('closes a belt of triangles taken out of a ball, and slits of few corners, in space', () => {
    const mesh = ball(0.01, 16);
    const { positions: p, triangles: t } = mesh;
    const whole = measure(mesh).volume;
    for (const turn of Object.values(TURNS)) {
      // A strip over a quarter of the ball: no plane shows its rim without overlaps.
      const strip = (i: number) => {
        const [x, y, z] = [0, 1, 2].map((d) => [0, 1, 2].reduce((s, c) => s + p[3 * t[3 * i + c] + d], 0) / 3);
        return Math.abs(z) < 0.0012 && (x > 0 || y > 0.004);
      };
      const open = mapVertices({ positions: p, triangles: t.filter((_, i) => !strip(Math.floor(i / 3))) }, turn);
      const { mesh: closed } = mendSurface(open);
      expect(checkMesh(closed).report).toMatchObject({ nOpen: 0, nNonManifold: 0, nMisoriented: 0 });
      expect(Math.abs(measure(closed).volume / whole - 1)).toBeLessThan(0.1);
    }
  });

  it('a saddle is closed by its smallest skin, and edges that are taken are left alone', () => {
    const positions = Float64Array.from([0, 0, 1, 1, 0, 0, 1, 1, 1, 0, 1, 0]);
    const area = (cap: number[]) =>
      facets({ positions, triangles: Uint32Array.from(cap) }).areas.reduce((s, a) => s + a, 0);
    const free = capOf(positions, [0, 1, 2, 3])!;
    expect(area(free)).toBeCloseTo(Math.sqrt(3), 9);
    const diagonal = (cap: number[]) =>
      [
        [0, 2],
        [1, 3],
      ].find(([a, b]) => [0, 3].every((f) => cap.slice(f, f + 3).includes(a) && cap.slice(f, f + 3).includes(b)))!;
    const [a, b] = diagonal(free);
    const other = capOf(positions, [0, 1, 2, 3], (i, j) => (i === a && j === b) || (i === b && j === a))!;
    expect(diagonal(other)).not.toEqual([a, b]);
    expect(capOf(positions, [0, 1, 2, 3], () => true)).toBeNull();
  });

  it('never leaves more faults than it found (seeded)', () => {
    const faults = (mesh: TriangleMesh) => {
      const { nOpen, nNonManifold, nMisoriented } = checkMesh(mesh).report;
      return nOpen + nNonManifold + nMisoriented;
    };
    for (let trial = 0; trial < 40; trial++) {
      const mesh = trial % 2 ? ball(0.01, 12) : joined([plate, moved(plate, [0.004, 0.002, 0.003])]);
      const triangles: number[] = [];
      const n = mesh.triangles.length / 3;
      for (let i = 0; i < n; i++) {
        const [a, b, c] = mesh.triangles.subarray(3 * i, 3 * i + 3);
        const what = next();
        if (what < 0.06) continue;
        triangles.push(...(what < 0.12 ? [a, c, b] : [a, b, c]));
        // Twice, thin, or a fin to somewhere else.
        if (what > 0.94) triangles.push(a, b, c);
        else if (what > 0.9) triangles.push(a, b, a);
        else if (what > 0.86) triangles.push(a, b, Math.floor(next() * (mesh.positions.length / 3)));
      }
      const damaged = { ...mesh, triangles: Uint32Array.from(triangles) };
      expect(faults(mendSurface(damaged).mesh)).toBeLessThanOrEqual(faults(damaged));
    }
  });

  it('caps a bent rim with triangles that all face its way', () => {
    const rim: [number, number][] = [
      [0, 0],
      [4, 0],
      [4, 1],
      [1, 1],
      [1, 3],
      [0, 3],
    ];
    for (const turn of Object.values(TURNS)) {
      const positions = Float64Array.from(rim.flatMap(([x, y]) => turn([x, y, 0])));
      const cap = capOf(positions, [0, 1, 2, 3, 4, 5])!;
      const { areas, normals } = facets({ positions, triangles: Uint32Array.from(cap) });
      expect(areas.reduce((s, a) => s + a, 0)).toBeCloseTo(6, 12);
      const up = turn([0, 0, 1]);
      for (let i = 0; i < areas.length; i++) expect(dot(vertexAt(normals, i), up)).toBeCloseTo(1, 9);
    }
  });

  it('finds triangles that are there twice, whichever way they face', () => {
    const t = plate.triangles;
    const twice = { ...plate, triangles: Uint32Array.from([...t, t[4], t[3], t[5], t[0], t[1], t[2]]) };
    expect(duplicateTriangles(twice)).toEqual([12, 13]);
    expect(duplicateTriangles(plate)).toEqual([]);
  });
});

describe('frames and axes', () => {
  it('a frame is right-handed and orthonormal about any direction (seeded)', () => {
    for (let i = 0; i < 50; i++) {
      const axis = normalised([next() - 0.5, next() - 0.5, next() - 0.5]);
      const [u, v, w] = frameOn(axis);
      expect(w).toEqual(axis);
      cross(u, v).forEach((x, d) => expect(x).toBeCloseTo(w[d], 12));
      expect(dot(u, u)).toBeCloseTo(1, 12);
    }
  });

  it('eigenvectors solve their equation, largest value first', () => {
    for (let i = 0; i < 30; i++) {
      const r = Array.from({ length: 6 }, () => next() - 0.5);
      const m = [
        [r[0], r[1], r[2]],
        [r[1], r[3], r[4]],
        [r[2], r[4], r[5]],
      ];
      const { values, vectors } = eigen(m);
      expect(values[0]).toBeGreaterThanOrEqual(values[1]);
      expect(values[1]).toBeGreaterThanOrEqual(values[2]);
      vectors.forEach((v, k) => m.forEach((row, d) => expect(dot(row as Vec3, v)).toBeCloseTo(values[k] * v[d], 10)));
    }
  });

  it('a tube keeps its check clean in every orientation', () => {
    const tube = revolve([
      [0.008, 0],
      [0.01, 0],
      [0.01, 0.02],
      [0.008, 0.02],
    ]);
    for (const turn of Object.values(TURNS)) expect(checkMesh(mapVertices(tube, turn)).findings).toEqual([]);
  });
});
