import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import { NO_VALUE } from './results';
import { fineTriangles } from './coarse';
import type { FrameTexture, Head } from './frames';
import { closingMaterial, type FieldUniforms } from './material';
import { facesAt, type Faces } from './pieces';
import { useHead } from './useFrames';

/** What closes the pieces that a range of values leaves of a part. */
export interface Pieces {
  /** Wall behind each vertex, mm. */
  walls: Float32Array;
  /** Least and largest value that is drawn. */
  brush: readonly [number, number];
}

interface Props {
  geometry: THREE.BufferGeometry;
  frames: FrameTexture;
  /** When the front passed each vertex, s. */
  times: Float32Array;
  /** Offsets of the vertices, m, 3 each; null: they are where they were drawn. */
  offset: Float32Array | null;
  uniforms: FieldUniforms;
  head: Head;
  pieces: Pieces;
}

/** Faces that close the pieces of the part that a range of its field leaves, as they are at the play head. */
export function PieceFaces({ geometry, frames, times, offset, uniforms, head, pieces }: Props) {
  const material = useMemo(() => closingMaterial(uniforms), [uniforms]);
  const mesh = useMemo(() => {
    const made = new THREE.Mesh(new THREE.BufferGeometry(), material);
    made.renderOrder = 3;
    made.frustumCulled = false;
    made.raycast = () => {};
    return made;
  }, [material]);
  useEffect(
    () => () => {
      material.dispose();
      mesh.geometry.dispose();
    },
    [material, mesh],
  );
  const surface = useMemo(() => {
    const positions = geometry.getAttribute('position').array;
    const offsets = offset?.length === positions.length ? offset.map((u) => (u === u ? 1000 * u : 0)) : null;
    return { positions, triangles: fineTriangles(geometry), offsets: offsets ?? new Float32Array(positions.length) };
  }, [geometry, offset]);
  const show = (time: number) => {
    frames.show(time);
    const values = frames.now();
    for (let v = 0; v < values.length; v++) if (!(times[v] <= time)) values[v] = NO_VALUE;
    const made = pieces.brush
      .filter((level) => Math.abs(level) < NO_VALUE / 2)
      .map((level) => ({ level, ...facesAt({ ...surface, values, walls: pieces.walls }, level) }));
    mesh.geometry.dispose();
    mesh.geometry = facesOf(made);
  };
  useHead(
    head,
    show,
    useMemo(() => [surface, frames, times, pieces], [surface, frames, times, pieces]),
  );
  return <primitive object={mesh} />;
}

function facesOf(made: readonly ({ level: number } & Faces)[]): THREE.BufferGeometry {
  const count = made.reduce((sum, { positions }) => sum + positions.length / 3, 0);
  const [positions, offsets, levels] = [3, 3, 1].map((size) => new Float32Array(size * count));
  let at = 0;
  for (const faces of made) {
    const n = faces.positions.length / 3;
    positions.set(faces.positions, 3 * at);
    offsets.set(faces.offsets, 3 * at);
    levels.fill(faces.level, at, at + n);
    at += n;
  }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.BufferAttribute(positions, 3));
  geometry.setAttribute('aOffset', new THREE.BufferAttribute(offsets, 3));
  geometry.setAttribute('aLevel', new THREE.BufferAttribute(levels, 1));
  return geometry;
}
