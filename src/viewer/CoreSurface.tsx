import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import type { CoreDraw } from './fieldView';
import { stillFrames, type Head } from './frames';
import type { FieldUniforms } from './material';
import { PartSurface, type SurfaceHit } from './PartSurface';
import { useGeometryOf } from './surfaceGeometry';

/** Of the fluid where no field colours it. */
const FLUID = '#7d66a3';

interface Props {
  core: CoreDraw;
  uniforms: FieldUniforms;
  head: Head;
  onHover: (hit: SurfaceHit | null) => void;
  onPick: (hit: SurfaceHit, event: { add: boolean }) => void;
}

/** The fluid in the core as a body: as far as it has come. */
export function CoreSurface({ core, uniforms, head, onHover, onPick }: Props) {
  const geometry = useGeometryOf(core.mesh);
  const values = useMemo(
    () => stillFrames(core.values ?? new Float32Array(core.times.length)),
    [core.values, core.times],
  );
  const plain = core.values === null;
  const own = useMemo((): FieldUniforms => {
    const bare = { ...uniforms, uBare: { value: true }, uFront: { value: false }, uIso: { value: 0 } };
    return plain ? { ...bare, uField: { value: true }, uMap: { value: colourMap(FLUID) } } : bare;
  }, [uniforms, plain]);
  useEffect(() => () => void (plain && own.uMap.value.dispose()), [own, plain]);
  return (
    <PartSurface
      geometry={geometry}
      uniforms={own}
      values={values}
      times={core.times}
      head={head}
      deformed={null}
      section={false}
      onHover={onHover}
      onPick={onPick}
    />
  );
}

/** A map of one colour. */
function colourMap(colour: string): THREE.Texture {
  const c = new THREE.Color(colour);
  const texel = Uint8Array.from([255 * c.r, 255 * c.g, 255 * c.b, 255]);
  const map = new THREE.DataTexture(texel, 1, 1);
  map.needsUpdate = true;
  return map;
}
