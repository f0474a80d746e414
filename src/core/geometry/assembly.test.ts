import earcut from 'earcut';
import { describe, expect, it } from 'vitest';
import { random } from '../../../verification/random';
import { ball, revolve, slab, TURNS } from '../../../verification/solids';
import { placedMesh } from './placement';
import { traceAxis } from '../partmaps/axisTrace';
import { inspect } from './check';
import { findFeatures, removeFeatures } from './features';
import { identicalBodies } from './identical';
import { loopsOf } from './caps';
import { mapVertices, measure, weld, type TriangleMesh, type Vec3 } from './mesh';
import { fitStandIn, standInMesh, standInVolume } from '../model/standIn';
import { frameOn, normalised, scale } from './vec';

const next = random(20);

/** A random rigid move. */
function randomMove(): number[] {
  const [a, b, c] = frameOn(normalised([next() - 0.5, next() - 0.5, next() - 0.5]));
  const t: Vec3 = [next(), next(), next()];
  return [0, 1, 2].flatMap((r) => [a[r], b[r], c[r], t[r]]);
}

const mirrored = (mesh: TriangleMesh): TriangleMesh => {
  const { positions, triangles } = mapVertices(mesh, ([x, y, z]) => [-x, y, z]);
  const turned = triangles.slice();
  for (let i = 0; i < turned.length; i += 3) [turned[i + 1], turned[i + 2]] = [turned[i + 2], turned[i + 1]];
  return { positions, triangles: turned };
};

/** A body with no symmetry at all. */
const lump = (k: number): TriangleMesh =>
  mapVertices(
    slab(0.02, 0.012, (x) => 0.004 + 0.1 * x),
    ([x, y, z]) => [x + 0.1 * k * y * z, y * (1 + 20 * x), z + 0.3 * x * y],
  );

describe('identical bodies', () => {
  it('finds all and only the copies among sixty', () => {
    const kinds: TriangleMesh[] = [
      slab(0.02, 0.01, () => 0.003),
      slab(0.02, 0.01, () => 0.00302),
      revolve([
        [0, 0],
        [0.004, 0],
        [0.004, 0.01],
        [0, 0.01],
      ]),
      revolve([
        [0, 0],
        [0.004, 0],
        [0.0038, 0.01],
        [0, 0.01],
      ]),
      slab(0.01, 0.01, () => 0.01),
      ball(0.005, 16),
      lump(0),
      mirrored(lump(0)),
      revolve([
        [0.002, 0],
        [0.004, 0],
        [0.004, 0.01],
        [0.002, 0.01],
      ]),
      slab(0.02, 0.01, (x) => 0.003 + 0.05 * x),
    ];
    const order = Array.from({ length: 60 }, (_, i) => (7 * i + Math.floor(i / 10)) % 10);
    const groups = identicalBodies(order.map((k) => placedMesh(kinds[k], randomMove())));
    expect(groups.map((g) => [...new Set(g.members.map((i) => order[i]))])).toEqual(
      groups.map((g) => [order[g.members[0]]]),
    );
    expect(groups.length).toBe(10);
    expect(groups.map((g) => g.members.length)).toEqual(
      groups.map((g) => order.filter((k) => k === order[g.members[0]]).length),
    );
  });

  it('gives the move from the first to each', () => {
    const move = randomMove();
    const [group] = identicalBodies([lump(0), placedMesh(lump(0), move)]);
    group.moves[1].forEach((x, i) => expect(x).toBeCloseTo(move[i], 6));
  });
});

describe('stand-ins', () => {
  it.each(Object.entries(TURNS))('fit a box, a cylinder and a sphere, %s', (_, turn) => {
    const box = fitStandIn(
      mapVertices(
        slab(0.03, 0.02, () => 0.01),
        turn,
      ),
      'box',
      null,
    );
    expect(standInVolume(box)).toBeCloseTo(6e-6, 10);
    const rod = revolve([
      [0, 0],
      [0.004, 0],
      [0.004, 0.03],
      [0, 0.03],
    ]);
    const cylinder = fitStandIn(mapVertices(rod, turn), 'cylinder', null);
    expect(cylinder).toMatchObject({ shape: 'cylinder' });
    if (cylinder.shape === 'cylinder') {
      expect(cylinder.diameter).toBeCloseTo(0.008, 7);
      expect(cylinder.length).toBeCloseTo(0.03, 7);
    }
    const sphere = fitStandIn(mapVertices(ball(0.01), turn), 'sphere', null);
    // The steps towards the farthest corner close in like 1/steps.
    expect(sphere.shape === 'sphere' && Math.abs(sphere.diameter / 0.02 - 1)).toBeLessThan(0.01);
  });

  it('are closed solids of their own volume', () => {
    for (const shape of ['box', 'cylinder', 'sphere'] as const) {
      const fit = fitStandIn(lump(1), shape, null);
      const report = inspect(standInMesh(fit));
      expect(report).toMatchObject({ watertight: true, insideOut: false });
      // 48 steps around lose less than 1 %.
      expect(Math.abs(report.volume / standInVolume(fit) - 1)).toBeLessThan(0.01);
    }
  });

  it('keep to a chosen axis', () => {
    const fit = fitStandIn(
      slab(0.03, 0.02, () => 0.01),
      'cylinder',
      [1, 0, 0],
    );
    expect(fit).toMatchObject({ axis: [1, 0, 0] });
    expect(fit.shape === 'cylinder' && fit.diameter).toBeCloseTo(Math.hypot(0.02, 0.01), 9);
  });
});

/** Round tube along straight legs and an arc: leg, quarter turn of radius R, leg. */
function bentTube(D: number, leg: number, R: number, steps = 32): { mesh: TriangleMesh; length: number } {
  const stations: { p: Vec3; t: Vec3 }[] = [];
  for (let i = 0; i <= 10; i++) stations.push({ p: [(leg * i) / 10, 0, 0], t: [1, 0, 0] });
  for (let i = 1; i <= 16; i++) {
    const a = (Math.PI / 2) * (i / 16);
    stations.push({ p: [leg + R * Math.sin(a), R - R * Math.cos(a), 0], t: [Math.cos(a), Math.sin(a), 0] });
  }
  for (let i = 1; i <= 10; i++) stations.push({ p: [leg + R, R + (leg * i) / 10, 0], t: [0, 1, 0] });
  const positions: number[] = [];
  for (const { p, t } of stations) {
    const side: Vec3 = [-t[1], t[0], 0];
    for (let k = 0; k < steps; k++) {
      const a = (2 * Math.PI * k) / steps;
      positions.push(
        ...[0, 1, 2].map((d) => p[d] + (D / 2) * (Math.cos(a) * side[d] + Math.sin(a) * (d === 2 ? 1 : 0))),
      );
    }
  }
  const triangles: number[] = [];
  for (let i = 0; i + 1 < stations.length; i++)
    for (let k = 0; k < steps; k++) {
      const [a, b, c, d] = [
        i * steps + k,
        i * steps + ((k + 1) % steps),
        (i + 1) * steps + ((k + 1) % steps),
        (i + 1) * steps + k,
      ];
      triangles.push(a, b, c, a, c, d);
    }
  const last = (stations.length - 1) * steps;
  for (let k = 1; k + 1 < steps; k++) triangles.push(0, k + 1, k, last, last + k, last + k + 1);
  return {
    mesh: { positions: Float64Array.from(positions), triangles: Uint32Array.from(triangles) },
    length: 2 * leg + (Math.PI / 2) * R,
  };
}

describe('axis trace', () => {
  it.each(Object.entries(TURNS))('of a bent tube keeps length and diameter within 2 %%, %s', (_, turn) => {
    const { mesh, length } = bentTube(0.008, 0.06, 0.02);
    expect(inspect(mesh)).toMatchObject({ watertight: true, insideOut: false });
    const axis = traceAxis(mapVertices(mesh, turn))!;
    expect(Math.abs(axis.length / length - 1)).toBeLessThan(0.02);
    for (const { diameter } of axis.nodes) expect(Math.abs(diameter / 0.008 - 1)).toBeLessThan(0.02);
    const degree = axis.nodes.map((_n, i) => axis.segments.filter((s) => s.includes(i)).length);
    expect(degree.filter((d) => d === 1).length).toBe(2);
    expect(Math.max(...degree)).toBe(2);
  });

  it('of a tapered sprue follows its diameter', () => {
    const sprue = revolve([
      [0, 0],
      [0.002, 0],
      [0.004, 0.06],
      [0, 0.06],
    ]);
    const axis = traceAxis(sprue)!;
    expect(Math.abs(axis.length / 0.06 - 1)).toBeLessThan(0.02);
    for (const { position, diameter } of axis.nodes) {
      // Away from the ends, where the trace takes the neighbour's diameter.
      if (position[2] < 0.006 || position[2] > 0.054) continue;
      expect(Math.abs(diameter / (0.004 + (0.004 * position[2]) / 0.06) - 1)).toBeLessThan(0.03);
    }
  });

  it('of a lump is none', () => {
    expect(traceAxis(slab(0.02, 0.02, () => 0.001))).toBeNull();
  });
});

describe('small features', () => {
  /** A plate whose top has a square boss and a square pocket, and a square hole through it. */
  function studded(): TriangleMesh {
    const positions: number[] = [];
    const triangles: number[] = [];
    const v = (x: number, y: number, z: number) => positions.push(x, y, z) / 3 - 1;
    const ring = (x: number, y: number, s: number, z: number) =>
      [
        [-1, -1],
        [1, -1],
        [1, 1],
        [-1, 1],
      ].map(([a, b]) => v(x + (a * s) / 2, y + (b * s) / 2, z));
    const band = (a: number[], b: number[]) =>
      a.forEach((_, i) => triangles.push(a[i], a[(i + 1) % 4], b[(i + 1) % 4], a[i], b[(i + 1) % 4], b[i]));
    const T = 0.004;
    const cells = [-0.01, 0, 0.01];
    // Three square cells in a row, each with an inner ring, top and bottom.
    const top = cells.map((x) => ({ out: ring(x, 0, 0.01, T), in: ring(x, 0, 0.004, T) }));
    const bottom = cells.map((x) => ({ out: ring(x, 0, 0.01, 0), in: ring(x, 0, 0.004, 0) }));
    top.forEach(({ out, in: inner }) => band(out, inner));
    bottom.forEach(({ out, in: inner }) => band(inner, out));
    const flat = (r: number[], up: boolean) =>
      triangles.push(...(up ? [r[0], r[1], r[2], r[0], r[2], r[3]] : [r[0], r[2], r[1], r[0], r[3], r[2]]));
    const boss = ring(cells[0], 0, 0.004, T + 0.002);
    band(top[0].in, boss);
    flat(boss, true);
    flat(bottom[0].in, false);
    const pocket = ring(cells[1], 0, 0.004, T - 0.0015);
    band(top[1].in, pocket);
    flat(pocket, true);
    flat(bottom[1].in, false);
    band(top[2].in, bottom[2].in);
    const wall = (a: number, b: number, c: number, d: number) => triangles.push(a, b, c, a, c, d);
    cells.forEach((_, i) => {
      const [t, b] = [top[i].out, bottom[i].out];
      wall(b[0], b[1], t[1], t[0]);
      wall(b[2], b[3], t[3], t[2]);
    });
    const [t0, b0, t2, b2] = [top[0].out, bottom[0].out, top[2].out, bottom[2].out];
    wall(b0[3], b0[0], t0[0], t0[3]);
    wall(b2[1], b2[2], t2[2], t2[1]);
    return joinedVertices(positions, triangles);
  }

  it('finds boss, pocket and hole, and closing them leaves the plain plate', () => {
    const plate = studded();
    expect(inspect(plate)).toMatchObject({ watertight: true, insideOut: false });
    const features = findFeatures(plate, 0.008);
    expect(features.map((f) => f.kind).sort()).toEqual(['boss', 'hole', 'pocket']);
    const change = features.reduce((s, f) => s + f.volumeChange, 0);
    const plain = removeFeatures(plate, features)!;
    expect(inspect(plain).watertight).toBe(true);
    expect(measure(plain).volume).toBeCloseTo(0.03 * 0.01 * 0.004, 15);
    expect(measure(plain).volume - measure(plate).volume).toBeCloseTo(change, 15);
  });

  /** Prism over an outline with arcs, from 0 to h. */
  function rounded(outline: [number, number][], h: number): TriangleMesh {
    const soup: number[] = [];
    const n = outline.length;
    const at = (i: number, z: number): Vec3 => [outline[i % n][0], outline[i % n][1], z];
    const ears = earcut(outline.flat());
    for (let i = 0; i < ears.length; i += 3) {
      const [a, b, c] = [ears[i], ears[i + 1], ears[i + 2]];
      const turn =
        (outline[b][0] - outline[a][0]) * (outline[c][1] - outline[a][1]) -
        (outline[b][1] - outline[a][1]) * (outline[c][0] - outline[a][0]);
      const [p, q] = turn > 0 ? [b, c] : [c, b];
      soup.push(...at(a, h), ...at(p, h), ...at(q, h), ...at(a, 0), ...at(q, 0), ...at(p, 0));
    }
    for (let i = 0; i < n; i++)
      soup.push(...at(i, 0), ...at(i + 1, 0), ...at(i + 1, h), ...at(i, 0), ...at(i + 1, h), ...at(i, h));
    return weld(soup).mesh;
  }
  const arc = (x: number, y: number, r: number, from: number, to: number): [number, number][] =>
    Array.from({ length: 9 }, (_, i) => {
      const a = ((from + ((to - from) * i) / 8) * Math.PI) / 180;
      return [x + r * Math.cos(a), y + r * Math.sin(a)];
    });

  it('takes rounds off outer edges and fillets out of inner ones', () => {
    const r = 0.002;
    // An angle profile: one round outside, one fillet in the inner corner.
    const outline: [number, number][] = [
      [0.03, 0],
      [0.03, 0.006],
      ...arc(0.006 + r, 0.006 + r, r, 270, 180),
      [0.006, 0.03],
      [0, 0.03],
      ...arc(r, r, r, 180, 270),
    ];
    const bar = rounded(outline, 0.04);
    expect(inspect(bar)).toMatchObject({ watertight: true, insideOut: false });
    const features = findFeatures(bar, 0.004);
    expect(features.map((f) => f.kind).sort()).toEqual(['fillet', 'round']);
    const sharp = removeFeatures(bar, features)!;
    expect(inspect(sharp).watertight).toBe(true);
    expect(measure(sharp).volume).toBeCloseTo((0.03 * 0.006 + 0.024 * 0.006) * 0.04, 14);
    expect(measure(sharp).volume - measure(bar).volume).toBeCloseTo(
      features.reduce((s, f) => s + f.volumeChange, 0),
      14,
    );
  });

  it('takes the rounds off all four edges of a block', () => {
    const [a, b, r] = [0.03, 0.02, 0.003];
    const outline = [
      ...arc(a - r, r, r, 270, 360),
      ...arc(a - r, b - r, r, 0, 90),
      ...arc(r, b - r, r, 90, 180),
      ...arc(r, r, r, 180, 270),
    ];
    const block = rounded(outline, 0.01);
    const features = findFeatures(block, 0.005);
    expect(features.map((f) => f.kind)).toEqual(['round', 'round', 'round', 'round']);
    expect(measure(removeFeatures(block, features)!).volume).toBeCloseTo(a * b * 0.01, 14);
    expect(measure(removeFeatures(block, features.slice(0, 1))!).volume).toBeCloseTo(
      measure(block).volume + features[0].volumeChange,
      14,
    );
  });

  it('a cylinder is no rounding', () => {
    const rod = revolve([
      [0, 0],
      [0.004, 0],
      [0.004, 0.03],
      [0, 0.03],
    ]);
    expect(findFeatures(rod, 0.01)).toEqual([]);
  });

  it('leaves what is larger than the limit', () => {
    expect(findFeatures(studded(), 0.005)).toEqual([]);
  });
});

function joinedVertices(positions: number[], triangles: number[]): TriangleMesh {
  const index = new Map<string, number>();
  const out: number[] = [];
  const number = triangles.map((v) => {
    const key = positions
      .slice(3 * v, 3 * v + 3)
      .map((x) => x.toFixed(9))
      .join();
    if (!index.has(key)) {
      index.set(key, out.length / 3);
      out.push(...positions.slice(3 * v, 3 * v + 3));
    }
    return index.get(key)!;
  });
  return { positions: Float64Array.from(out), triangles: Uint32Array.from(number) };
}

it('loops of a border come apart where they meet', () => {
  const edges = new Map([
    [0, [1, 3]],
    [1, [2]],
    [2, [0]],
    [3, [4]],
    [4, [0]],
  ]);
  expect(loopsOf(edges).map((l) => l.length)).toEqual([3, 3]);
  expect(scale([1, 0, 0], 2)).toEqual([2, 0, 0]);
});
