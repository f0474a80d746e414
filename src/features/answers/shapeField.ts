import type { Vec3 } from '@/core/geometry/mesh';
import { evenGrowth, threePointMotion, vertexAreas, without, type Motion } from '@/core/results/alignment';
import { deviation } from '@/core/results/shape';
import { vertexNormals, type SurfaceMap } from '@/core/results/surfaceMap';
import type { ShapeLook } from '../study/viewStore';

/** Areas of the vertices of a drawn surface, worked out once. */
const known = new WeakMap<SurfaceMap, Float64Array>();
export function areasOf(surface: SurfaceMap): Float64Array {
  let areas = known.get(surface);
  if (!areas) known.set(surface, (areas = vertexAreas(surface.positions, surface.triangles)));
  return areas;
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

/** One number a vertex of a deviation: its length, a component, or what it is along the outward normal. */
export function alongOf(surface: SurfaceMap, offset: Float32Array, along: ShapeLook['along']): Float32Array {
  const n = offset.length / 3;
  const normals = along === 'normal' ? vertexNormals(surface) : null;
  const axis = { x: 0, y: 1, z: 2, total: -1, normal: -1 }[along];
  return Float32Array.from({ length: n }, (_, v) => {
    const [x, y, z] = [offset[3 * v], offset[3 * v + 1], offset[3 * v + 2]];
    if (axis >= 0) return offset[3 * v + axis];
    if (normals) return x * normals[3 * v] + y * normals[3 * v + 1] + z * normals[3 * v + 2];
    return Math.hypot(x, y, z);
  });
}
