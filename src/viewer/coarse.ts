import { useFrame, useThree } from '@react-three/fiber';
import { useEffect, useRef } from 'react';
import * as THREE from 'three';

/** What the worker gets: mm, 3 a vertex; corners, 3 a triangle; how many triangles are wanted. */
export interface CoarseTask {
  positions: Float32Array;
  triangles: Uint32Array;
  target: number;
}

/** Surfaces of more triangles are drawn with fewer while the eye moves. */
const LARGE = 400_000;
const WHILE_MOVING = 120_000;
/** The eye rests when it has not moved for so long, ms. */
const REST = 160;

/**
 * The index of a geometry with a coarse one behind it: what is drawn is a range of it, and whatever reads the fine one,
 * picking above all, finds it where it was.
 */
export function withCoarse(geometry: THREE.BufferGeometry, coarse: Uint32Array): Ranges {
  const fine = geometry.index!.array as Uint32Array;
  const both = new Uint32Array(fine.length + coarse.length);
  both.set(fine);
  both.set(coarse, fine.length);
  geometry.setIndex(new THREE.BufferAttribute(both, 1));
  geometry.setDrawRange(0, fine.length);
  return (geometry.userData.ranges = { fine: fine.length, coarse: coarse.length });
}

/** Lengths of the two parts of an index, the fine one first. */
interface Ranges {
  fine: number;
  coarse: number;
}

const rangesOf = (geometry: THREE.BufferGeometry) => geometry.userData.ranges as Ranges | undefined;

/** Corners of the fine triangles of a surface, whatever is drawn of it just now. */
export const fineTriangles = (geometry: THREE.BufferGeometry): Uint32Array =>
  (geometry.index!.array as Uint32Array).subarray(0, rangesOf(geometry)?.fine);

/** Whether the eye stands where it stood at the frame before; keeps where it stands now. */
export function hasMoved(camera: THREE.Camera, before: THREE.Matrix4): boolean {
  const moved = !camera.matrixWorld.equals(before);
  before.copy(camera.matrixWorld);
  return moved;
}

/** Draws a large surface with fewer triangles while the eye moves, and whole where it rests. */
export function useCoarseWhileMoving(geometry: THREE.BufferGeometry): void {
  const invalidate = useThree((s) => s.invalidate);
  const before = useRef(new THREE.Matrix4());
  const rest = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => {
    const fine = geometry.index?.array as Uint32Array | undefined;
    // A surface may be put back as it was left, its coarse triangles with it.
    if (!fine || fine.length / 3 < LARGE || rangesOf(geometry)) return;
    const worker = new Worker(new URL('./coarse.worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<Uint32Array>) => {
      worker.terminate();
      // A surface that can not be made simpler is drawn as it is.
      if (data.length < fine.length / 2) withCoarse(geometry, data);
    };
    const positions = (geometry.getAttribute('position').array as Float32Array).slice();
    const task: CoarseTask = { positions, triangles: fine.slice(), target: WHILE_MOVING };
    worker.postMessage(task, [task.positions.buffer, task.triangles.buffer]);
    return () => {
      worker.terminate();
      clearTimeout(rest.current);
    };
  }, [geometry]);
  useFrame(({ camera }) => {
    const moved = hasMoved(camera, before.current);
    const known = rangesOf(geometry);
    if (!known || !moved) return;
    geometry.setDrawRange(known.fine, known.coarse);
    clearTimeout(rest.current);
    rest.current = setTimeout(() => {
      geometry.setDrawRange(0, known.fine);
      invalidate();
    }, REST);
  });
}
