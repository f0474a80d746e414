import * as THREE from 'three';
import { fitDistance } from './camera';
import type { DrawMesh } from './surfaceGeometry';

/** Pixels a pixel of the page: sharp on fine screens, too. */
const SCALE = 2;
/** Facets that turn by less, degrees, are one face. */
const CREASE = 32;

/** One for all pictures: a browser gives few of them. */
let renderer: THREE.WebGLRenderer | null = null;

/** Small picture of bodies seen obliquely from above, framed, on nothing, as a data URL of a PNG. Size in px of the page. */
export function partPicture(
  bodies: readonly { mesh: DrawMesh; colour: string }[],
  edge: string,
  width: number,
  height: number,
): string {
  renderer ??= new THREE.WebGLRenderer({ antialias: true, alpha: true, preserveDrawingBuffer: true });
  renderer.setPixelRatio(1);
  renderer.setSize(SCALE * width, SCALE * height, false);
  renderer.outputColorSpace = THREE.ColorManagement.enabled ? THREE.SRGBColorSpace : THREE.LinearSRGBColorSpace;
  const scene = new THREE.Scene();
  const box = new THREE.Box3();
  const made: { dispose(): void }[] = [];
  for (const { mesh, colour } of bodies) {
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute('position', new THREE.BufferAttribute(Float32Array.from(mesh.positions), 3));
    geometry.setIndex(new THREE.BufferAttribute(mesh.triangles.slice(), 1));
    geometry.computeBoundingBox();
    box.union(geometry.boundingBox!);
    const clay = new THREE.MeshLambertMaterial({
      color: colour,
      flatShading: true,
      side: THREE.DoubleSide,
      polygonOffset: true,
      polygonOffsetFactor: 1,
      polygonOffsetUnits: 1,
    });
    const creases = new THREE.EdgesGeometry(geometry, CREASE);
    const line = new THREE.LineBasicMaterial({ color: edge, transparent: true, opacity: 0.55 });
    scene.add(new THREE.Mesh(geometry, clay), new THREE.LineSegments(creases, line));
    made.push(geometry, clay, creases, line);
  }
  scene.add(new THREE.HemisphereLight('#ffffff', '#8a8175', 2.2));
  const sun = new THREE.DirectionalLight('#ffffff', 1.6);
  sun.position.set(-0.4, -1, 1.6);
  scene.add(sun);
  const camera = new THREE.PerspectiveCamera(24, width / height);
  camera.up.set(0, 0, 1);
  const from = new THREE.Vector3(0.72, -1, 0.86).normalize();
  const centre = box.getCenter(new THREE.Vector3());
  const size = box.getSize(new THREE.Vector3()).length();
  camera.position.copy(centre).addScaledVector(from, fitDistance(camera, box, from));
  camera.near = size / 100;
  camera.far = size * 40;
  camera.lookAt(centre);
  camera.updateProjectionMatrix();
  renderer.setClearColor(0x000000, 0);
  renderer.render(scene, camera);
  made.forEach((thing) => thing.dispose());
  return renderer.domElement.toDataURL('image/png');
}
