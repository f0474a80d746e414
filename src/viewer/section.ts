import * as THREE from 'three';
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
  const half = box.getSize(new THREE.Vector3()).multiplyScalar(0.5);
  const reach = Math.abs(normal.x) * half.x + Math.abs(normal.y) * half.y + Math.abs(normal.z) * half.z;
  // Never exactly on an end face: the cut would flicker between all and nothing.
  const at = normal.dot(centre) + reach * (2 * Math.min(0.999, Math.max(0.001, section.at)) - 1);
  const sign = section.flipped ? -1 : 1;
  return new THREE.Vector4(sign * normal.x, sign * normal.y, sign * normal.z, -sign * at);
}
