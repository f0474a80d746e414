import type { BufferGeometry, Mesh, MeshPhongMaterial } from 'three';
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';
import { FormatError } from '../core/formats/formatError';
import type { RawBody } from './rawBody';

/** Bodies of a Wavefront OBJ file, one an object or group. Throws FormatError on a foreign or broken file. */
export function readObj(bytes: Uint8Array): RawBody[] {
  const text = new TextDecoder('utf-8').decode(bytes);
  if (!/^\s*v\s/m.test(text) || !/^\s*f\s/m.test(text))
    throw new FormatError('This is not an OBJ file with faces.', 'Choose an OBJ file of a solid part.');
  checkCorners(text);
  let root;
  // The loader tells the console of every line it does not know; what matters shows in the check.
  const { warn, error: complain } = console;
  console.warn = console.error = () => {};
  try {
    root = new OBJLoader().parse(text);
  } catch {
    throw new FormatError('The OBJ file is broken.', 'Export the part again.');
  } finally {
    console.warn = warn;
    console.error = complain;
  }
  const bodies: RawBody[] = [];
  root.traverse((node) => {
    const mesh = node as Mesh<BufferGeometry, MeshPhongMaterial | MeshPhongMaterial[]>;
    if (!mesh.isMesh) return;
    const position = mesh.geometry.getAttribute('position');
    if (position.count < 3) return;
    // Coordinates of one line too many would shift everything after it.
    bodies.push({ name: mesh.name, colour: null, soup: position.array.slice(0, 9 * Math.floor(position.count / 3)) });
  });
  return bodies;
}

/** Whether faces name corners that are there: counted from 1, or backwards from the last one. @throws FormatError */
function checkCorners(text: string): void {
  let nCorners = 0;
  let line = 0;
  for (let at = 0; at < text.length; line++) {
    const next = text.indexOf('\n', at);
    const end = next < 0 ? text.length : next;
    if (text.startsWith('v ', at)) nCorners++;
    else if (text.startsWith('f ', at))
      for (const word of text
        .slice(at + 2, end)
        .trim()
        .split(/\s+/)) {
        const corner = Number.parseInt(word, 10);
        if (corner >= 1 ? corner <= nCorners : -corner >= 1 && -corner <= nCorners) continue;
        throw new FormatError(
          `Line ${line + 1} of the OBJ file names corner ${word.slice(0, 20)} of ${nCorners}.`,
          'Export the part again: the file is damaged or was put together from two.',
        );
      }
    at = end + 1;
  }
}
