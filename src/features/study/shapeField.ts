import type { TriangleMesh, Vec3 } from '@/core/geometry/mesh';
import { cross, dot, normalised, sub } from '@/core/geometry/vec';
import { bestFit, evenGrowth, threePointMotion, vertexAreas, without, type Motion } from '@/core/geometry/alignment';
import { carriedOver } from '@/core/results/compareShapes';
import { deviation, longestSide } from '@/core/results/shape';
import { vertexNormals, type SurfaceMap } from '@/core/grid/surfaceMap';
import type { ShapeLook } from './view';

/** Areas of the vertices of a drawn surface, worked out once. */
const known = new WeakMap<SurfaceMap, Float64Array>();
export function areasOf(surface: SurfaceMap): Float64Array {
  let areas = known.get(surface);
  if (!areas) known.set(surface, (areas = vertexAreas(surface.positions, surface.triangles)));
  return areas;
}

/** A drawn surface in double precision, made once. */
const meshes = new WeakMap<SurfaceMap, TriangleMesh>();
export function meshOf(surface: SurfaceMap): TriangleMesh {
  let mesh = meshes.get(surface);
  if (!mesh) {
    mesh = { positions: Float64Array.from(surface.positions), triangles: surface.triangles };
    meshes.set(surface, mesh);
  }
  return mesh;
}

/** What is off the part by more than this share of its size is no longer the same part. */
const SAME_PART = 0.01;

/** The deviation of another run at the vertices of this surface. */
export function deviationOfOther(
  surface: SurfaceMap,
  other: { surface: SurfaceMap; displacement: Float32Array; growth: number },
  look: Pick<ShapeLook, 'cause' | 'align' | 'points'>,
): Float32Array {
  const offset = alignedShape(other.surface, other.displacement, look, other.growth);
  return carriedOver(meshOf(other.surface), offset, surface, SAME_PART * longestSide(surface.positions));
}

/**
 * Deviation from the drawing, 3 a vertex [m], laid onto it as asked. `growth` is how much larger the tool was
 * cut; it counts for the whole shape, causes have no even part.
 */
export function alignedShape(
  surface: SurfaceMap,
  displacement: Float32Array,
  look: Pick<ShapeLook, 'cause' | 'align' | 'points'>,
  growth: number,
): Float32Array {
  const larger = look.cause === 'all' ? growth : 0;
  const motion = look.align === 'three-points' ? threePoints(surface, displacement, look.points, larger) : null;
  if (!motion) return deviation(surface, displacement, larger);
  const grown = without(surface.positions, displacement, evenGrowth(surface.positions, areasOf(surface), -larger));
  return without(surface.positions, grown, motion);
}

/**
 * The deviation of other places of the same body (3 a place, m) whose displacements are `moved`: laid onto the drawing
 * by the motion of the surface.
 */
export function movedAlong(
  surface: SurfaceMap,
  displacement: Float32Array,
  look: Pick<ShapeLook, 'align' | 'points'>,
  growth: number,
  places: ArrayLike<number>,
  moved: Float32Array,
): Float32Array {
  const even = evenGrowth(surface.positions, areasOf(surface), -growth);
  const grown = without(surface.positions, displacement, even);
  const picked = look.align === 'three-points' ? threePoints(surface, displacement, look.points, growth) : null;
  const motion = picked ?? bestFit(surface.positions, grown, areasOf(surface));
  return without(places, without(places, moved, even), motion);
}

/** The motion that lays three picked places onto the drawing; null until there are three that span a plane. */
function threePoints(
  surface: SurfaceMap,
  displacement: Float32Array,
  points: readonly Vec3[],
  growth: number,
): Motion | null {
  if (points.length !== 3) return null;
  const even = evenGrowth(surface.positions, areasOf(surface), -growth);
  const grown = without(surface.positions, displacement, even);
  return threePointMotion([points[0], points[1], points[2]], (p) => {
    const v = 3 * nearestVertex(surface.positions, p);
    return [grown[v], grown[v + 1], grown[v + 2]];
  });
}

function nearestVertex(positions: ArrayLike<number>, p: Vec3): number {
  let best = 0;
  let least = Infinity;
  for (let v = 0; v < positions.length; v += 3) {
    const d = (positions[v] - p[0]) ** 2 + (positions[v + 1] - p[1]) ** 2 + (positions[v + 2] - p[2]) ** 2;
    if (d < least) {
      least = d;
      best = v / 3;
    }
  }
  return best;
}

type Looked = Pick<ShapeLook, 'along' | 'frame' | 'points'>;

/** Direction of the axis that is looked along; null for none of them. */
function axisOf({ along, frame, points }: Looked): Vec3 | null {
  const number = ['x', 'y', 'z'].indexOf(along);
  if (number < 0) return null;
  const drawing = [0, 1, 2].map((d) => (d === number ? 1 : 0)) as Vec3;
  if (frame === 'drawing' || points.length !== 3) return drawing;
  const x = normalised(sub(points[1], points[0]));
  const z = normalised(cross(x, sub(points[2], points[0])));
  return Math.hypot(...z) > 0 ? [x, cross(z, x), z][number] : drawing;
}

/** One number a vertex of a deviation: its length, a component, or what it is along the outward normal. */
export function alongOf(surface: SurfaceMap, offset: Float32Array, look: Looked): Float32Array {
  const n = offset.length / 3;
  const normals = look.along === 'normal' ? vertexNormals(surface) : null;
  const axis = axisOf(look);
  return Float32Array.from({ length: n }, (_, v) => {
    const u: Vec3 = [offset[3 * v], offset[3 * v + 1], offset[3 * v + 2]];
    if (axis) return dot(u, axis);
    if (normals) return u[0] * normals[3 * v] + u[1] * normals[3 * v + 1] + u[2] * normals[3 * v + 2];
    return Math.hypot(...u);
  });
}

/**
 * Stress (tensors xx yy zz xy yz xz, 6 a vertex) along the axis that is looked along; for none of them the mean of
 * the two principal stresses along the wall.
 */
export function stressAlong(tensors: Float32Array, look: Looked): Float32Array {
  const axis = axisOf(look);
  return Float32Array.from({ length: tensors.length / 6 }, (_, v) => {
    const [xx, yy, zz, xy, yz, xz] = tensors.subarray(6 * v, 6 * v + 6);
    if (!axis) return (xx + yy + zz) / 2;
    const [a, b, c] = axis;
    return a * a * xx + b * b * yy + c * c * zz + 2 * (a * b * xy + b * c * yz + a * c * xz);
  });
}
