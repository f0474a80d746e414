import * as THREE from 'three';
import type { Vec3 } from '@/core/geometry/mesh';
import type { SectionView } from './fieldView';

const AXIS = { x: 0, y: 1, z: 2 } as const;

/**
 * The cutting plane n.x + w = 0 (mm), n of length 1: across an axis, turned by tilt and swing, between the part's ends
 * along its normal. Where n.x + w > 0 is cut away.
 */
export function sectionPlane(section: SectionView, box: THREE.Box3): THREE.Vector4 {
  const axis = AXIS[section.axis];
  const unit = (k: number) => new THREE.Vector3().setComponent(k % 3, 1);
  const rad = Math.PI / 180;
  const normal = unit(axis)
    .applyAxisAngle(unit(axis + 1), section.tilt * rad)
    .applyAxisAngle(unit(axis + 2), section.swing * rad);
  const centre = box.getCenter(new THREE.Vector3());
  const reach = reachAlong(box, normal);
  // Never exactly on an end face: the cut would flicker between all and nothing.
  const at = normal.dot(centre) + reach * (2 * Math.min(0.999, Math.max(0.001, section.at)) - 1);
  const sign = section.flipped ? -1 : 1;
  return new THREE.Vector4(sign * normal.x, sign * normal.y, sign * normal.z, -sign * at);
}

/** Half a hundredth of a millimetre counts as on the plane. */
const ON_PLANE = 0.005;

/** Whether a section leaves a place standing, mm; without a section everything stands. */
export const leaves = (plane: THREE.Vector4 | null, [x, y, z]: readonly number[]): boolean =>
  !plane || plane.x * x + plane.y * y + plane.z * z + plane.w <= ON_PLANE;

/** Half of how far a box reaches along a direction of length 1. */
export function reachAlong(box: THREE.Box3, normal: THREE.Vector3): number {
  const half = box.getSize(new THREE.Vector3()).multiplyScalar(0.5);
  return Math.abs(normal.x) * half.x + Math.abs(normal.y) * half.y + Math.abs(normal.z) * half.z;
}

/** Place on a plane n.x + w = 0 nearest to a point. */
export const placeOnPlane = (plane: THREE.Vector4, point: THREE.Vector3): THREE.Vector3 => {
  const normal = new THREE.Vector3(plane.x, plane.y, plane.z);
  return point.clone().addScaledVector(normal, -(normal.dot(point) + plane.w));
};

/** The section through a point that is square to a direction and takes away what lies along it. */
export function sectionThrough(point: THREE.Vector3, direction: THREE.Vector3, box: THREE.Box3): SectionView {
  const n = direction.clone().normalize();
  const sizes = [n.x, n.y, n.z].map(Math.abs);
  const k = sizes.indexOf(Math.max(...sizes));
  // The plane's own normal points to higher places of its axis: else it is that of the other side.
  const flipped = n.getComponent(k) < 0;
  if (flipped) n.negate();
  const degrees = 180 / Math.PI;
  const tilt = -Math.asin(n.getComponent((k + 2) % 3)) * degrees;
  const swing = Math.atan2(n.getComponent((k + 1) % 3), n.getComponent(k)) * degrees;
  const at = 0.5 + (n.dot(point) - n.dot(box.getCenter(new THREE.Vector3()))) / (2 * reachAlong(box, n));
  return { axis: (['x', 'y', 'z'] as const)[k], at: Math.min(1, Math.max(0, at)), flipped, tilt, swing };
}

/** The section along the face of a place, `below` it; place, box and depth in m. */
export function sectionUnder(
  at: Vec3,
  normal: Vec3,
  { min, max }: { min: Vec3; max: Vec3 },
  below: number,
): SectionView {
  const corner = (p: Vec3) => new THREE.Vector3(...p).multiplyScalar(1000);
  const across = new THREE.Vector3(...normal);
  const inside = corner(at).addScaledVector(across, -1000 * below);
  return sectionThrough(inside, across, new THREE.Box3(corner(min), corner(max)));
}
