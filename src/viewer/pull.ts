import { useThree, type ThreeEvent } from '@react-three/fiber';
import * as THREE from 'three';

/** A line that a thing in the view is pulled along: mm, the direction of length 1. */
export interface PullLine {
  origin: THREE.Vector3;
  direction: THREE.Vector3;
}

/**
 * Function that begins pulling along a line: `onMove` gets how far from the start, mm, with every movement of the pointer,
 * `onDrop` comes once at the end. The eye stands still meanwhile.
 */
export function usePull() {
  const camera = useThree((s) => s.camera);
  const canvas = useThree((s) => s.gl.domElement);
  const controls = useThree((s) => s.controls) as { enabled: boolean } | null;
  return (
    event: ThreeEvent<PointerEvent>,
    { origin, direction }: PullLine,
    onMove: (by: number) => void,
    onDrop: () => void = () => {},
  ): void => {
    event.stopPropagation();
    const place = (e: PointerEvent): number => {
      const box = canvas.getBoundingClientRect();
      const pointer = new THREE.Vector2(
        (2 * (e.clientX - box.left)) / box.width - 1,
        1 - (2 * (e.clientY - box.top)) / box.height,
      );
      const ray = new THREE.Raycaster();
      ray.setFromCamera(pointer, camera);
      return alongLine(origin, direction, ray.ray);
    };
    const start = place(event.nativeEvent);
    if (controls) controls.enabled = false;
    const move = (e: PointerEvent) => onMove(place(e) - start);
    const drop = () => {
      window.removeEventListener('pointermove', move);
      window.removeEventListener('pointerup', drop);
      if (controls) controls.enabled = true;
      onDrop();
    };
    window.addEventListener('pointermove', move);
    window.addEventListener('pointerup', drop);
  };
}

/** Place along a line (unit direction) nearest to a ray. */
export function alongLine(origin: THREE.Vector3, direction: THREE.Vector3, ray: THREE.Ray): number {
  const w = origin.clone().sub(ray.origin);
  const b = direction.dot(ray.direction);
  const denominator = 1 - b * b;
  if (Math.abs(denominator) < 1e-9) return 0;
  return (b * ray.direction.dot(w) - direction.dot(w)) / denominator;
}

/** Radius of a dot for each unit of distance from the eye: some 8 pixels, for a screw and for a housing. */
export const DOT_SIZE = 0.006;
