import { closestPoint } from '../geometry/closestPoint';
import { boundsOf, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { joined } from '../geometry/shells';
import { SurfaceTree } from '../geometry/surfaceTree';
import { add, cross, dot, scale, sub, vertexAt } from '../geometry/vec';
import type { Detail } from '../grid/lattice';
import { nominalWall } from '../grid/lattice';
import { PointMapper } from '../grid/surfaceMap';
import type { InsertLoad } from '../results/holdTogether';
import type { Behinds, LaidInsert } from '../setup/behind';
import type { GridResult } from '../setup/grids';
import type { PointForce } from '../solvers/warp/elastic';
import { bend, pointsOfFaces, pointsOutside, type Bent } from '../solvers/warp/bentInsert';
import type { ShotFrames } from '../solvers/shot/frames';
import type { StageContext } from '../stage/context';

/** Loads on the inserts of a shot, and what they do to the walls beside them. */
export interface InsertLoads {
  loads: InsertLoad[];
  /** By how much the wall grows on either side of a node, m, length 2n; NaN beside no insert that is held. Empty: none is. */
  wallChange: Float32Array;
  /** Surfaces of the inserts that are held in one, and how far each vertex moves, 3 each, m; null: none is. */
  moved: Bent | null;
}

/** An insert reaches out of the plastic where its surface is farther from it than this share of its wall. */
const OUT = 0.02;
/** Once so much of its face has a wall frozen by this share before it, plastic holds the insert, not melt. */
const HOLDS_IT = 0.1;
const SKIN = 0.5;
/** Places that hold lie so many to the insert's own wall. */
const PER_WALL = 4;

/**
 * The melt's pressure on every insert, frame by frame until the plastic around it is solid; and, at the moment at which it pushes hardest to one side, how far
 * it bends between the faces that hold it: those that are picked, or where it reaches into the mould or into plastic
 * that is solid.
 */
export async function insertLoads(
  { walls, inserts }: Behinds,
  mesh: TriangleMesh,
  { fine, grid }: GridResult,
  frames: ShotFrames,
  detail: Detail,
  ctx: StageContext,
): Promise<InsertLoads> {
  const { surface } = walls.walls;
  const mapper = new PointMapper(fine, grid);
  const facetsOf = inserts.map((_, b) =>
    Array.from({ length: surface.n }, (_, f) => f).filter((f) => walls.bodyOf[f] === b),
  );
  const nodeUnder = (f: number) =>
    mapper.nodeAt(...add(vertexAt(surface.centroids, f), vertexAt(surface.normals, f), -0.25 * grid.spacing));
  const change = new Map<number, number>();
  const loads: InsertLoad[] = [];
  const moved: Bent[] = [];
  for (const [b, insert] of inserts.entries()) {
    const facets = facetsOf[b];
    if (!facets.length) continue;
    const nodes = facets.map(nodeUnder);
    const { min, max } = boundsOf(insert.mesh.positions);
    const middle = scale(add(min, max), 0.5);
    const size = Math.hypot(...sub(max, min));
    const areas = facets.map((f) => surface.areas[f]);
    const solidShare = (t: number): number =>
      facets.reduce((s, _, k) => s + (frames.node.frozen[t][nodes[k]] > SKIN ? areas[k] : 0), 0) /
      areas.reduce((s, a) => s + a, 0);
    const forcesAt = (t: number): PointForce[] =>
      facets.flatMap((f, k) => {
        const p = nodes[k] < 0 ? NaN : frames.node.pressure[t][nodes[k]];
        if (!(p > 0)) return [];
        return [
          {
            position: vertexAt(surface.centroids, f),
            force: scale(vertexAt(surface.normals, f), p * surface.areas[f]),
          },
        ];
      });
    const course = frames.times
      .map((time, t) => ({ time, ...resultant(forcesAt(t), middle) }))
      .filter((_, t) => solidShare(t) < HOLDS_IT);
    if (!course.length) continue;
    const hardest = course.reduce((most, c, t) => (push(c, size) > push(course[most], size) ? t : most), 0);
    const { force, moment, time } = course[hardest];
    await ctx.checkpoint();
    const held = heldPoints(insert, mesh);
    const bent = held.length ? await bentBy(insert, held, forcesAt(hardest), detail, ctx) : null;
    if (bent) moved.push(bent);
    if (bent)
      for (const f of facets)
        change.set(f, alongWall(bent, vertexAt(surface.centroids, f), vertexAt(surface.normals, f)));
    const thinned = facets.reduce((worst, f) => Math.min(worst, change.get(f) ?? 0), 0);
    loads.push({
      id: insert.id,
      name: insert.name,
      material: insert.material.name,
      contact: insert.contact,
      time_s: time,
      force_N: force,
      moment_Nm: moment,
      area_m2: facets.reduce((s, f) => s + surface.areas[f], 0),
      held: insert.held.length ? 'faces' : held.length ? 'outside' : 'nothing',
      moved_m: bent && largest(bent).value,
      place_m: bent && largest(bent).place,
      thinner_m: bent && -thinned,
      wall_m: meanWall(grid.thickness, nodes),
      course: course.map((c) => ({ time_s: c.time, force_N: Math.hypot(...c.force) })),
    });
  }
  return {
    loads,
    wallChange: change.size ? ofSides(change, walls.walls, grid.n) : new Float32Array(0),
    moved: moved.length
      ? {
          surface: joined(moved.map((b) => b.surface)),
          displacement: Float32Array.from(moved.flatMap((b) => [...b.displacement])),
        }
      : null,
  };
}

interface Resultant {
  force: Vec3;
  moment: Vec3;
}

function resultant(forces: readonly PointForce[], middle: Vec3): Resultant {
  let force: Vec3 = [0, 0, 0];
  let moment: Vec3 = [0, 0, 0];
  for (const { position, force: f } of forces) {
    force = add(force, f);
    moment = add(moment, cross(sub(position, middle), f));
  }
  return { force, moment };
}

/** How hard it is pushed and turned together, N. */
const push = ({ force, moment }: Resultant, size: number): number =>
  Math.hypot(...force) + Math.hypot(...moment) / size;

/** Where an insert is held: its picked faces, or whatever of it the melt of this shot does not touch. */
function heldPoints({ mesh, held }: LaidInsert, plastic: TriangleMesh): Vec3[] {
  const wall = nominalWall(mesh);
  if (held.length)
    return pointsOfFaces(
      mesh,
      held.map((p) => [...p] as Vec3),
      wall / PER_WALL,
    );
  const tree = new SurfaceTree(plastic);
  return pointsOutside(mesh, (p) => tree.closest(...p, OUT * wall) < 0, wall / PER_WALL);
}

async function bentBy(
  { mesh, material: { solid } }: LaidInsert,
  held: Vec3[],
  forces: PointForce[],
  detail: Detail,
  ctx: StageContext,
): Promise<Bent> {
  // Forces are those on the part's facets: a hair inside the insert's own surface they surely act on it.
  const inside = 1e-3 * nominalWall(mesh);
  const onto = forces.map(({ position, force }) => ({
    position: add(closestPoint(mesh, position).point as Vec3, force, inside / (Math.hypot(...force) || 1)),
    force,
  }));
  return bend({ mesh, solid, detail, held, forces: onto }, ctx);
}

/** By how much a face of an insert moves away from the wall before it, m: the wall grows by that. */
function alongWall({ surface, displacement }: Bent, at: Vec3, outward: Vec3): number {
  const { positions } = surface;
  let [best, vertex] = [Infinity, 0];
  for (let v = 0; v < positions.length; v += 3) {
    const d = (positions[v] - at[0]) ** 2 + (positions[v + 1] - at[1]) ** 2 + (positions[v + 2] - at[2]) ** 2;
    if (d < best) [best, vertex] = [d, v / 3];
  }
  return dot(vertexAt(displacement, vertex), outward);
}

function largest({ surface, displacement }: Bent): { value: number; place: Vec3 } {
  let [value, vertex] = [0, 0];
  for (let v = 0; v < displacement.length / 3; v++) {
    const size = Math.hypot(...vertexAt(displacement, v));
    if (size > value) [value, vertex] = [size, v];
  }
  return { value, place: vertexAt(surface.positions, vertex) };
}

function meanWall(thickness: ArrayLike<number>, nodes: readonly number[]): number {
  const there = nodes.filter((i) => i >= 0);
  return there.reduce((s, i) => s + thickness[i], 0) / Math.max(1, there.length);
}

/** Values of facets as means of the sides of nodes that look at them; NaN where none has one. */
function ofSides(
  values: ReadonlyMap<number, number>,
  { start, facet, weight }: Behinds['walls']['walls'],
  n: number,
): Float32Array {
  return Float32Array.from({ length: 2 * n }, (_, k) => {
    let [sum, share] = [0, 0];
    for (let i = start[k]; i < start[k + 1]; i++) {
      const value = values.get(facet[i]);
      if (value === undefined || value !== value) continue;
      sum += weight[i] * value;
      share += weight[i];
    }
    return share > 0.5 ? sum / share : NaN;
  });
}
