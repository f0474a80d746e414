import * as THREE from 'three';
import { inverse, placed, turned } from '../core/geometry/placement';
import type { Eye, Pose } from './camera';

/** A part beside another one that leads: eye and section stand at the same places of both, however they are drawn. */
export interface Lying {
  /** Rows of the 3 x 4 matrix that brings places of the part that leads to those of this one, mm. */
  matrix: readonly number[];
  /** What is framed of the part that leads, m. */
  frame: { min: readonly number[]; max: readonly number[] };
}

/** A motion in m as one in mm. */
export const inMillimetres = (m: readonly number[]): number[] => m.map((x, k) => (k % 4 === 3 ? 1000 * x : x));

/** The eye on a part that lies so, told and followed in the places of the one that leads. */
export function eyeThrough(eye: Eye, matrix: readonly number[]): Eye {
  const back = inverse(matrix);
  // Who hears of a move of its own gets the very pose that it told of.
  let told: { here: Pose; there: Pose } | null = null;
  const here = (pose: Pose): Pose => (pose === told?.there ? told.here : poseMoved(pose, matrix));
  return {
    ...eye,
    now: () => {
      const pose = eye.now();
      return pose && here(pose);
    },
    moved: (pose) => {
      told = { here: pose, there: poseMoved(pose, back) };
      eye.moved(told.there);
    },
    follow: (moved) => eye.follow((pose) => moved(here(pose))),
  };
}

const poseMoved = (pose: Pose, matrix: readonly number[]): Pose => ({
  ...pose,
  position: placed(matrix, [...pose.position]),
  target: placed(matrix, [...pose.target]),
});

/** The same plane n.x + w = 0 of a part that lies so. */
export function planeMoved(plane: THREE.Vector4, matrix: readonly number[]): THREE.Vector4 {
  const [x, y, z] = turned(matrix, [plane.x, plane.y, plane.z]);
  return new THREE.Vector4(x, y, z, plane.w - (x * matrix[3] + y * matrix[7] + z * matrix[11]));
}
