import { useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';

const FONT = "600 24px 'Inter Variable', Inter, sans-serif";
const HEIGHT = 40;

interface Props {
  /** mm */
  position: [number, number, number];
  text: string;
  ink: string;
  ground: string;
  /** Height on the screen, px. */
  size?: number;
  /** Where the anchor lies in the label: 0.5, 0 stands on its point. */
  anchor?: [number, number];
}

/** A small plate with text that always faces the eye and keeps its size on the screen. */
export function Label({ position, text, ink, ground, size = 19, anchor = [0.5, -0.35] }: Props) {
  const viewHeight = useThree((s) => s.size.height);
  const camera = useThree((s) => s.camera) as THREE.PerspectiveCamera;
  const invalidate = useThree((s) => s.invalidate);
  const { material, ratio } = useMemo(() => plate(text, ink, ground), [text, ink, ground]);
  useEffect(() => {
    invalidate();
    return () => {
      material.map?.dispose();
      material.dispose();
    };
  }, [material, invalidate]);
  const height = (size / viewHeight) * 2 * Math.tan((camera.fov * Math.PI) / 360);
  return (
    <sprite
      position={position}
      material={material}
      scale={[height * ratio, height, 1]}
      center={new THREE.Vector2(...anchor)}
      renderOrder={20}
      raycast={() => null}
    />
  );
}

function plate(text: string, ink: string, ground: string): { material: THREE.SpriteMaterial; ratio: number } {
  const canvas = document.createElement('canvas');
  const context = canvas.getContext('2d') as CanvasRenderingContext2D;
  context.font = FONT;
  canvas.width = Math.ceil(context.measureText(text).width) + 22;
  canvas.height = HEIGHT;
  context.font = FONT;
  context.fillStyle = ground;
  context.beginPath();
  context.roundRect(0, 0, canvas.width, HEIGHT, 7);
  context.fill();
  context.fillStyle = ink;
  context.textBaseline = 'middle';
  context.fillText(text, 11, HEIGHT / 2 + 1);
  const map = new THREE.CanvasTexture(canvas);
  map.minFilter = THREE.LinearFilter;
  map.generateMipmaps = false;
  return {
    material: new THREE.SpriteMaterial({ map, sizeAttenuation: false, depthTest: false, transparent: true }),
    ratio: canvas.width / HEIGHT,
  };
}
