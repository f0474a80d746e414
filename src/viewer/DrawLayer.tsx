import { useThree } from '@react-three/fiber';
import { useEffect, useMemo, useRef, useState } from 'react';
import * as THREE from 'three';
import { Label } from './Label';

type Point = [number, number, number];

/** Lines drawn on a level plane, mm. */
export interface DrawPlan {
  height: number;
  /** Where the next line starts; null before the first point. */
  from: Point | null;
  /** Points that catch the pointer. */
  snaps: Point[];
  /** What is said beside the pointer of a line that would end there. */
  said?: (from: Point | null, at: Point) => string;
}

/** How near the pointer has to come, pixels, to be caught by a point or by the direction of an axis. */
const CATCH = 12;
/** Without a point near, places fall on whole steps of this, mm. */
const STEP = 1;

/** Follows the pointer on the plane and gives the points that are clicked. Shift leaves out all catching. */
export function DrawLayer({
  plan,
  colour,
  paper,
  size,
  onPoint,
}: {
  plan: DrawPlan;
  colour: string;
  paper: string;
  size: number;
  onPoint: (at: Point) => void;
}) {
  const { camera, gl, invalidate } = useThree();
  const [at, setAt] = useState<{ point: Point; caught: boolean } | null>(null);
  const latest = useRef({ at, onPoint });
  latest.current = { at, onPoint };
  useEffect(() => {
    const canvas = gl.domElement;
    let down: [number, number] | null = null;
    const place = (event: PointerEvent) => placeAt(event, canvas, camera, plan);
    const move = (event: PointerEvent) => {
      setAt(place(event));
      invalidate();
    };
    const press = (event: PointerEvent) => (down = [event.clientX, event.clientY]);
    const release = (event: PointerEvent) => {
      // A drag turns the view.
      if (!down || Math.hypot(event.clientX - down[0], event.clientY - down[1]) > 4 || event.button !== 0) return;
      const found = place(event);
      if (found) latest.current.onPoint(found.point);
    };
    canvas.addEventListener('pointermove', move);
    canvas.addEventListener('pointerdown', press);
    canvas.addEventListener('pointerup', release);
    return () => {
      canvas.removeEventListener('pointermove', move);
      canvas.removeEventListener('pointerdown', press);
      canvas.removeEventListener('pointerup', release);
    };
  }, [camera, gl, invalidate, plan]);
  const line = useMemo(
    () =>
      plan.from && at
        ? new THREE.BufferGeometry().setFromPoints([new THREE.Vector3(...plan.from), new THREE.Vector3(...at.point)])
        : null,
    [plan.from, at],
  );
  useEffect(() => () => line?.dispose(), [line]);
  useEffect(() => invalidate(), [plan, invalidate]);
  return (
    <>
      {line && (
        <lineSegments geometry={line} renderOrder={9} raycast={() => null}>
          <lineBasicMaterial color={colour} depthTest={false} transparent />
        </lineSegments>
      )}
      {at && (
        <mesh position={at.point} renderOrder={9} raycast={() => null}>
          <sphereGeometry args={[(at.caught ? 1.5 : 1) * size, 18, 12]} />
          <meshBasicMaterial color={colour} depthTest={false} transparent opacity={0.9} />
        </mesh>
      )}
      {at && plan.said && (
        <Label
          position={at.point}
          text={plan.said(plan.from, at.point)}
          ink={paper}
          ground={colour}
          anchor={[-0.12, 0.5]}
          rank={0}
        />
      )}
    </>
  );
}

function placeAt(
  event: PointerEvent,
  canvas: HTMLCanvasElement,
  camera: THREE.Camera,
  { height, from, snaps }: DrawPlan,
): { point: Point; caught: boolean } | null {
  const frame = canvas.getBoundingClientRect();
  const mouse = new THREE.Vector2(event.clientX - frame.left, event.clientY - frame.top);
  const pixel = ([x, y, z]: Point) => {
    const seen = new THREE.Vector3(x, y, z).project(camera);
    return new THREE.Vector2(((seen.x + 1) / 2) * frame.width, ((1 - seen.y) / 2) * frame.height);
  };
  if (!event.shiftKey)
    for (const snap of snaps) if (pixel(snap).distanceTo(mouse) < CATCH) return { point: snap, caught: true };
  const ray = new THREE.Raycaster();
  ray.setFromCamera(new THREE.Vector2((2 * mouse.x) / frame.width - 1, 1 - (2 * mouse.y) / frame.height), camera);
  const hit = ray.ray.intersectPlane(new THREE.Plane(new THREE.Vector3(0, 0, 1), -height), new THREE.Vector3());
  if (!hit) return null;
  if (event.shiftKey) return { point: [hit.x, hit.y, height], caught: false };
  const whole = (x: number) => STEP * Math.round(x / STEP);
  const point: Point = [whole(hit.x), whole(hit.y), height];
  if (!from) return { point, caught: false };
  // Along an axis from the last point, where the pointer is near it.
  const alongX: Point = [point[0], from[1], height];
  const alongY: Point = [from[0], point[1], height];
  if (pixel(alongX).distanceTo(mouse) < CATCH) return { point: alongX, caught: true };
  if (pixel(alongY).distanceTo(mouse) < CATCH) return { point: alongY, caught: true };
  return { point, caught: false };
}
