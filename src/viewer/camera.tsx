import { useThree } from '@react-three/fiber';
import { useEffect, useEffectEvent, useRef } from 'react';
import * as THREE from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import { placed, turned } from '@/core/geometry/placement';

export type NamedView = 'iso' | 'front' | 'back' | 'left' | 'right' | 'top' | 'bottom';

export interface CameraRequest {
  n: number;
  view: NamedView | 'fit' | null;
  /** mm */
  target: [number, number, number] | null;
}

/** Where the eye is and the place it turns about, mm. */
export interface Pose {
  position: readonly [number, number, number];
  target: readonly [number, number, number];
  /** What was framed then: a viewer that is made anew for the same looks from where the last one did. */
  framed?: string;
}

/** The eye as it is known outside the viewer: told of every move, and followed when it is moved there. */
export interface Eye {
  now: () => Pose | null;
  moved: (pose: Pose) => void;
  follow: (moved: (pose: Pose) => void) => () => void;
  /** A viewer that opens beside another one looks from where that does. */
  takesOver?: boolean;
}

/** Direction from the part to the eye. */
const DIRECTIONS: Record<NamedView, [number, number, number]> = {
  iso: [0.72, -1, 0.86],
  front: [0, -1, 0],
  back: [0, 1, 0],
  left: [-1, 0, 0],
  right: [1, 0, 0],
  top: [0, -1e-4, 1],
  bottom: [0, -1e-4, -1],
};

const MARGIN = 1.1;

const same = (a: readonly number[], b: readonly number[]) => a.every((x, d) => x === b[d]);

/** Nearest distance along `direction` from which the whole box is seen. */
export function fitDistance(camera: THREE.PerspectiveCamera, box: THREE.Box3, direction: THREE.Vector3): number {
  const centre = box.getCenter(new THREE.Vector3());
  const right = new THREE.Vector3().crossVectors(camera.up, direction).normalize();
  const up = new THREE.Vector3().crossVectors(direction, right);
  const vertical = Math.tan((camera.fov * Math.PI) / 360);
  const horizontal = vertical * camera.aspect;
  let distance = 0;
  for (let corner = 0; corner < 8; corner++) {
    const p = new THREE.Vector3(
      corner & 1 ? box.max.x : box.min.x,
      corner & 2 ? box.max.y : box.min.y,
      corner & 4 ? box.max.z : box.min.z,
    ).sub(centre);
    const near = p.dot(direction);
    distance = Math.max(
      distance,
      near + (MARGIN * Math.abs(p.dot(right))) / horizontal,
      near + (MARGIN * Math.abs(p.dot(up))) / vertical,
    );
  }
  return distance;
}

/** How much farther off the eye has to be, along `direction`, to see as much of the box in a window of aspect `to` as in one of `from`. */
export function refit(
  camera: THREE.PerspectiveCamera,
  box: THREE.Box3,
  direction: THREE.Vector3,
  from: number,
  to: number,
): number {
  const at = (aspect: number) => {
    const seen = camera.clone();
    seen.aspect = aspect;
    return fitDistance(seen, box, direction);
  };
  return at(to) / at(from);
}

interface RigProps {
  box: THREE.Box3;
  request: CameraRequest;
  locked: boolean;
  eye: Eye;
  /** How the part lies against the one that the requests are meant for, mm. */
  lying: readonly number[];
}

/** Orbit, pan and zoom about the part; moves the eye when a request with a new number comes in. */
export function CameraRig({ box, request, locked, eye, lying }: RigProps) {
  const camera = useThree((s) => s.camera) as THREE.PerspectiveCamera;
  const element = useThree((s) => s.gl.domElement);
  const get = useThree((s) => s.get);
  const invalidate = useThree((s) => s.invalidate);
  const set = useThree((s) => s.set);
  const controls = useRef<OrbitControls | null>(null);
  const framed = useRef<string>('');

  useEffect(() => {
    camera.up.set(...turned(lying, [0, 0, 1]));
    const orbit = new OrbitControls(camera, element);
    orbit.enableDamping = false;
    orbit.zoomToCursor = true;
    let told: Pose | null = eye.now();
    let following = false;
    // Of a part that turns out to lie otherwise than it was looked at.
    if (told && framed.current) {
      camera.position.set(...told.position);
      orbit.target.set(...told.target);
      orbit.update();
    }
    orbit.addEventListener('change', () => {
      const [position, target] = [camera.position.toArray(), orbit.target.toArray()];
      // Who follows does not lead: two viewers would push each other for ever, by rounding.
      if (!following && (!told || !same(position, told.position) || !same(target, told.target)))
        eye.moved((told = { position, target, framed: framed.current }));
      invalidate();
    });
    const stop = eye.follow((pose) => {
      if (pose === told) return;
      told = pose;
      camera.position.set(...pose.position);
      orbit.target.set(...pose.target);
      following = true;
      orbit.update();
      following = false;
      invalidate();
    });
    controls.current = orbit;
    set({ controls: orbit });
    return () => {
      stop();
      orbit.dispose();
    };
  }, [camera, element, invalidate, set, eye, lying]);

  useEffect(() => {
    if (controls.current) controls.current.enabled = !locked;
  }, [locked]);

  // With the size that the window has then: a new one must not move the eye.
  const place = useEffectEvent(() => {
    const orbit = controls.current;
    // As it is now, not as it was when the page was last drawn.
    const { size } = get();
    if (!orbit || box.isEmpty()) return;
    const key = box.min.toArray().concat(box.max.toArray()).join();
    const first = framed.current !== key;
    framed.current = key;
    const radius = box.getSize(new THREE.Vector3()).length() / 2;
    camera.near = radius / 100;
    camera.far = radius * 40;
    camera.aspect = size.width / Math.max(1, size.height);
    const direction = camera.position.clone().sub(orbit.target).normalize();
    const known = first ? eye.now() : null;
    const pose = known && (eye.takesOver || known.framed === key) ? known : null;
    if (pose) {
      orbit.target.set(...pose.target);
      camera.position.set(...pose.position);
    } else if (first || request.view) {
      const name = first ? 'iso' : request.view;
      if (name && name !== 'fit') direction.set(...turned(lying, DIRECTIONS[name])).normalize();
      orbit.target.copy(box.getCenter(new THREE.Vector3()));
      camera.position.copy(orbit.target).addScaledVector(direction, fitDistance(camera, box, direction));
    } else if (request.target) {
      const target = new THREE.Vector3(...placed(lying, request.target));
      // From outside the part, somewhat above, with what was seen before still recognisable; near enough
      // to see the place, far enough for its surroundings.
      const outward = target.clone().sub(box.getCenter(new THREE.Vector3())).divideScalar(radius);
      outward.z = Math.abs(outward.z) + 0.35;
      orbit.target.copy(target);
      camera.position.copy(target).addScaledVector(outward.add(direction).normalize(), 2.6 * radius);
    }
    camera.updateProjectionMatrix();
    orbit.update();
    invalidate();
  });
  useEffect(() => place(), [box, request.n, camera, invalidate]);

  // A window that gets narrower would cut the part off. Viewers that are linked keep the eye that they share.
  const aspect = useThree((s) => s.size.width / Math.max(1, s.size.height));
  const before = useRef(aspect);
  const keepInSight = useEffectEvent(() => {
    const orbit = controls.current;
    const from = before.current;
    before.current = aspect;
    if (!orbit || eye.takesOver || !framed.current || box.isEmpty() || !(from > 0)) return;
    const away = camera.position.clone().sub(orbit.target);
    const ratio = refit(camera, box, away.clone().normalize(), from, aspect);
    if (Math.abs(ratio - 1) < 1e-3) return;
    camera.position.copy(orbit.target).addScaledVector(away, ratio);
    orbit.update();
    invalidate();
  });
  useEffect(() => keepInSight(), [aspect]);

  return null;
}
