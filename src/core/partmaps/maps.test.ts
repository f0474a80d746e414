import { describe, expect, it } from 'vitest';
import { random } from '../../../verification/random';
import { mapVertices, measure, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { closestPoint } from '../geometry/closestPoint';
import { SurfaceTree } from '../geometry/surfaceTree';
import { flowRatio } from './flowLength';
import { drawable } from './drawable';
import { MAP_IDS } from './mapKinds';
import { partMaps } from './maps';
import { moulding, openingChoices, SIDE } from './moulding';
import { ribFeet } from './ribs';
import { DESIGN_RULES, RULE_IDS, ruleChangesSchema, rulesWith } from './rules';
import { mapSurface } from './surface';
import { ball, prismOf, revolve, slab, TURNS } from '../../../verification/solids';
import { wallThickness } from './thickness';

const UP: Vec3 = [0, 0, 1];
const shareOf = (mesh: TriangleMesh, side: number, height: number | null = null) => {
  const surface = mapSurface(mesh, 0.004);
  const { side: sides } = moulding(surface, UP, height);
  const total = surface.areas.reduce((s, a) => s + a, 0);
  return surface.areas.reduce((s, a, i) => s + (sides[i] === side ? a : 0), 0) / total;
};

/** T profile: wall of 3 mm with a rib of `rib` standing on it, 40 mm long along y. */
const ribbed = (rib: number, wall = 0.003, height = 0.01): TriangleMesh =>
  prismOf(
    [
      [-0.02, 0],
      [0.02, 0],
      [0.02, wall],
      [rib / 2, wall],
      [rib / 2, wall + height],
      [-rib / 2, wall + height],
      [-rib / 2, wall],
      [-0.02, wall],
    ],
    0.04,
  );

describe('which half forms what', () => {
  it('a frustum lies in one half but for its base', () => {
    const frustum = revolve([
      [0, 0],
      [0.02, 0],
      [0.015, 0.01],
      [0, 0.01],
    ]);
    const base = (Math.PI * 0.02 ** 2) / measure(frustum).area;
    expect(shareOf(frustum, SIDE.lower)).toBeCloseTo(base, 2);
    expect(shareOf(frustum, SIDE.upper)).toBeCloseTo(1 - base, 2);
    expect(shareOf(frustum, SIDE.undercut)).toBe(0);
  });

  it('upright walls go to the half their height is in', () => {
    const block = slab(0.03, 0.02, () => 0.01);
    // The walls are cut into facets of at most 4 mm: the line between the halves follows them.
    const at = (h: number) => shareOf(block, SIDE.upper, h);
    expect(at(-0.01)).toBeGreaterThan(at(0));
    expect(at(0)).toBeGreaterThan(at(0.01));
    expect(at(0.01)).toBeCloseTo((0.03 * 0.02) / measure(block).area, 6);
  });

  it('the inside of a sideways groove is an undercut, of its own area', () => {
    const spool = revolve([
      [0, 0],
      [0.02, 0],
      [0.02, 0.004],
      [0.012, 0.004],
      [0.012, 0.008],
      [0.02, 0.008],
      [0.02, 0.012],
      [0, 0.012],
    ]);
    const groove = 2 * Math.PI * (0.02 ** 2 - 0.012 ** 2) + 2 * Math.PI * 0.012 * 0.004;
    const surface = mapSurface(spool, 0.003);
    const { undercutArea } = moulding(surface, UP, null);
    // Facets at the rim of the groove are counted whole.
    expect(Math.abs(undercutArea / groove - 1)).toBeLessThan(0.08);
    // Along its axis it needs slides; across it, it opens.
    const [best] = openingChoices(surface);
    expect(Math.abs(best.direction[2])).toBeLessThan(0.1);
  });

  it.each(Object.entries(TURNS))('the best opening direction follows the part, %s', (_, turn) => {
    const cup = revolve([
      [0, 0],
      [0.02, 0],
      [0.024, 0.03],
      [0.022, 0.03],
      [0.018, 0.002],
      [0, 0.002],
    ]);
    const [best] = openingChoices(mapSurface(mapVertices(cup, turn), 0.01));
    const axis = turn(UP);
    expect(Math.abs(best.direction.reduce((s, x, d) => s + x * axis[d], 0))).toBeCloseTo(1, 6);
    expect(best.undercutArea).toBe(0);
  });

  it('draft is the angle to the opening direction', () => {
    const cone = revolve([
      [0, 0],
      [0.02, 0],
      [0.02 - 0.03 * Math.tan((3 * Math.PI) / 180), 0.03],
      [0, 0.03],
    ]);
    const surface = mapSurface(cone, 0.005);
    const { draft } = moulding(surface, UP, null);
    for (let i = 0; i < surface.n; i++)
      if (Math.abs(surface.normals[3 * i + 2]) < 0.5)
        // Facets of a 48-sided cone lean a little more than the cone: cos of half a step.
        expect((draft[i] * 180) / Math.PI).toBeCloseTo(3, 1);
  });
});

describe('ribs', () => {
  it.each([
    [0.0012, 0.4],
    [0.0018, 0.6],
    [0.003, 1],
  ])('a rib of %s m on a wall of 3 mm', (rib, ratio) => {
    for (const turn of Object.values(TURNS)) {
      const feet = ribFeet(mapSurface(mapVertices(ribbed(rib), turn), 0.003), 0.003);
      expect(feet.length).toBeGreaterThan(4);
      for (const foot of feet) expect(foot.ratio).toBeCloseTo(ratio, 6);
    }
  });

  it('an L corner has none', () => {
    const corner = prismOf(
      [
        [0, 0],
        [0.03, 0],
        [0.03, 0.003],
        [0.003, 0.003],
        [0.003, 0.03],
        [0, 0.03],
      ],
      0.04,
    );
    expect(ribFeet(mapSurface(corner, 0.003), 0.003)).toEqual([]);
  });
});

describe('flow length', () => {
  it('along a strip is distance over thickness, on both sides of the wall', () => {
    const [length, wall] = [0.12, 0.002];
    const surface = mapSurface(
      slab(length, 0.02, () => wall),
      0.002,
    );
    const ratio = flowRatio(surface, wallThickness(surface), [[0, 0, wall / 2]]);
    const farthest = [...ratio].reduce((a, b) => Math.max(a, b));
    // To the far corner; ways over facet centres are up to 8 % longer than straight.
    const straight = Math.hypot(length, 0.01) / wall;
    expect(farthest / straight).toBeGreaterThan(0.97);
    expect(farthest / straight).toBeLessThan(1.08);
    let [top, bottom] = [0, 0];
    for (let i = 0; i < surface.n; i++) {
      if (surface.normals[3 * i + 2] > 0.9) top = Math.max(top, ratio[i]);
      if (surface.normals[3 * i + 2] < -0.9) bottom = Math.max(bottom, ratio[i]);
    }
    expect(Math.abs(top / bottom - 1)).toBeLessThan(0.02);
  });
});

describe('all maps of a part', () => {
  const step = slab(0.06, 0.03, (x) => (x < 0.03 ? 0.002 : 0.002));
  const maps = partMaps({ mesh: ribbed(0.0024), opening: UP, partingHeight: null, gates: [], rules: rulesWith({}) });

  it('typical wall, ranges and what is drawn belong together', () => {
    expect(maps.typicalWall).toBeCloseTo(0.003, 5);
    expect(maps.ranges.map((r) => r.id)).toEqual([...MAP_IDS]);
    const { positions, corner } = drawable(maps);
    expect(positions.length).toBe(9 * maps.surface.n);
    for (const id of MAP_IDS) expect(corner(id).length).toBe(3 * maps.surface.n);
  });

  it('broken rules are told with places on the part; changing the rule clears them', () => {
    const rib = maps.warnings.find((w) => w.rule === 'ribToWall');
    expect(rib?.message).toContain('80');
    for (const { position } of rib?.places ?? [])
      expect(closestPoint(ribbed(0.0024), position).distance).toBeLessThan(1e-9);
    const eased = partMaps({
      mesh: ribbed(0.0024),
      opening: UP,
      partingHeight: null,
      gates: [],
      rules: rulesWith({ ribToWall: 0.9, draft: 0 }),
    });
    expect(eased.warnings.map((w) => w.rule)).not.toContain('ribToWall');
    expect(eased.warnings.map((w) => w.rule)).not.toContain('draft');
  });

  it('an abrupt change of wall is seen, a plate has none', () => {
    const stepped = prismOf(
      [
        [0, 0],
        [0.05, 0],
        [0.05, 0.002],
        [0.025, 0.002],
        [0.025, 0.005],
        [0, 0.005],
      ],
      0.03,
    );
    const all = (mesh: TriangleMesh) =>
      partMaps({ mesh, opening: UP, partingHeight: null, gates: [], rules: rulesWith({}) }).warnings.map((w) => w.rule);
    expect(all(stepped)).toContain('thicknessStep');
    expect(all(step)).not.toContain('thicknessStep');
  });
});

describe('design rules', () => {
  it('usual values lie within their own limits and each says why', () => {
    for (const id of RULE_IDS) {
      const { usual, min, max, why } = DESIGN_RULES[id];
      expect(usual).toBeGreaterThanOrEqual(min);
      expect(usual).toBeLessThanOrEqual(max);
      expect(why.length).toBeGreaterThan(30);
    }
    expect(ruleChangesSchema.safeParse({ draft: 9 }).success).toBe(false);
    expect(ruleChangesSchema.parse({})).toEqual({});
    expect(rulesWith({ draft: 0.1 })).toMatchObject({ draft: 0.1, ribToWall: DESIGN_RULES.ribToWall.usual });
  });
});

describe('the tree of a surface', () => {
  const mesh = ball(0.01, 24);
  const tree = new SurfaceTree(mesh);
  const next = random(7);
  const point = (): Vec3 => [0, 1, 2].map(() => 0.03 * (next() - 0.5)) as Vec3;

  it('finds the nearest point as a search over all triangles does', () => {
    for (let i = 0; i < 200; i++) {
      const p = point();
      const naive = closestPoint(mesh, p);
      tree.closest(...p);
      expect(tree.distance).toBeCloseTo(naive.distance, 12);
      expect(tree.closest(...p, naive.distance * 0.999)).toBe(-1);
    }
  });

  it('a ray from within meets the sphere once, from without twice or never', () => {
    for (let i = 0; i < 200; i++) {
      const p = point();
      const radius = Math.hypot(...p);
      // Between the sphere and its facets nothing is said.
      if (Math.abs(radius - 0.01) < 2e-4) continue;
      expect(tree.inside(...p)).toBe(radius < 0.01);
      const d = point();
      const length = Math.hypot(...d);
      const hit = tree.ray(...p, d[0] / length, d[1] / length, d[2] / length, 0, Infinity);
      if (radius < 0.01) {
        expect(hit).toBeGreaterThanOrEqual(0);
        const end = Math.hypot(...p.map((x, k) => x + (tree.distance * d[k]) / length));
        expect(Math.abs(end - 0.01)).toBeLessThan(2e-4);
      }
    }
  });

  it('visits every pair of touching boxes once', () => {
    const pairs = new Set<string>();
    tree.selfPairs((a, b) => {
      const key = a < b ? `${a},${b}` : `${b},${a}`;
      expect(pairs.has(key)).toBe(false);
      pairs.add(key);
      return true;
    });
    // Every triangle at least touches its three neighbours.
    expect(pairs.size).toBeGreaterThan((3 * mesh.triangles.length) / 3 / 2);
  });
});
