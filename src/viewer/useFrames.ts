import { useThree } from '@react-three/fiber';
import { useEffect, useLayoutEffect, useMemo, useRef } from 'react';
import type * as THREE from 'three';
import { FrameTexture, stillFrames, type Head, type ValueFrames } from './frames';
import { inPauses } from './idle';
import { canMakeLayers, makeLayers } from './layers';
import { surfaceMaterial, type Drawn, type FieldUniforms } from './material';
import { NO_VALUE } from './results';

/** Values as a texture that stands at the moment drawn. Those of another surface (a run just switched) are not drawn. */
export function useFrames(values: ValueFrames | null, n: number, head: Head): FrameTexture {
  const frames = useMemo(
    () => new FrameTexture(values?.n === n ? values : stillFrames(new Float32Array(n).fill(NO_VALUE))),
    [values, n],
  );
  const elsewhere = values?.n === n && values.of !== undefined && values.times.length > 1 && canMakeLayers();
  useEffect(() => {
    if (!elsewhere || !values?.of) return;
    return makeLayers(values.of, n, {
      next: () => frames.missing(),
      take: (frame, layer) => frames.take(frame, layer),
    });
  }, [elsewhere, values, n, frames]);
  const ahead = useRef<(() => void) | null>(null);
  useHead(
    head,
    (time) => {
      frames.show(time);
      if (elsewhere) return;
      ahead.current?.();
      ahead.current = inPauses(() => frames.writeAhead());
    },
    frames,
  );
  useEffect(
    () => () => {
      ahead.current?.();
      frames.dispose();
    },
    [frames],
  );
  return frames;
}

/** Material of what is drawn with these values; it stays when they change, for its program takes long to make. */
export function useFieldMaterial(uniforms: FieldUniforms, frames: FrameTexture, drawn: Drawn): THREE.ShaderMaterial {
  const material = useMemo(() => surfaceMaterial(uniforms, drawn), [uniforms, drawn]);
  useLayoutEffect(() => void Object.assign(material.uniforms, frames.uniforms), [material, frames]);
  useEffect(() => () => material.dispose(), [material]);
  return material;
}

/** Calls `show` now and whenever the moment drawn changes, then draws; `of` is what it is shown on. */
export function useHead(head: Head, show: (time: number) => void, of: unknown): void {
  const invalidate = useThree((s) => s.invalidate);
  const latest = useRef(show);
  latest.current = show;
  useLayoutEffect(() => {
    const draw = (time: number) => {
      latest.current(time);
      invalidate();
    };
    draw(head.now());
    return head.follow(draw);
  }, [head, of, invalidate]);
}
