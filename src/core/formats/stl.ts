import { FormatError } from './formatError';
import type { TriangleMesh } from '../geometry/mesh';

const HEADER = 80;
const RECORD = 50;

/**
 * Corner coordinates of an STL file (binary or ASCII), 9 per triangle, in the file's own unit.
 * Throws FormatError on an empty, truncated or foreign file and on coordinates that are no numbers.
 */
export function readStl(bytes: Uint8Array): Float64Array {
  if (bytes.length === 0) throw new FormatError('The file is empty.', 'Export the part again and choose the new file.');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const nTriangles = bytes.length >= HEADER + 4 ? view.getUint32(HEADER, true) : -1;
  const startsSolid = /^\s*solid\b/i.test(latin(bytes, 0, 80));
  // The exact length tells binary from ASCII: many binary headers also begin with "solid".
  if (nTriangles > 0 && bytes.length === HEADER + 4 + RECORD * nTriangles) return readBinary(view, nTriangles);
  if (startsSolid && /facet|endsolid/i.test(latin(bytes, 0, 4096))) return readAscii(bytes);
  if (nTriangles === 0 && bytes.length === HEADER + 4)
    throw new FormatError('The STL file holds no triangles.', 'Export a solid body.');
  if (nTriangles > 0 && plausibleBinary(view, bytes.length)) {
    const whole = Math.floor((bytes.length - HEADER - 4) / RECORD);
    if (whole >= nTriangles) return readBinary(view, nTriangles);
    throw new FormatError(
      `The STL file is cut short: its header announces ${nTriangles} triangles, the file holds ${whole}.`,
      'Copy or export the file again.',
    );
  }
  throw new FormatError('This is not an STL file.', 'Choose a binary or ASCII STL file of the part.');
}

const latin = (bytes: Uint8Array, from: number, to: number) =>
  String.fromCharCode(...bytes.subarray(from, Math.min(to, bytes.length)));

/** A truncated binary file still shows finite, moderate coordinates in its first record. */
function plausibleBinary(view: DataView, length: number): boolean {
  if (length < HEADER + 4 + RECORD) return false;
  for (let k = 0; k < 12; k++) {
    const x = view.getFloat32(HEADER + 4 + 4 * k, true);
    if (!Number.isFinite(x) || Math.abs(x) > 1e7 || (x !== 0 && Math.abs(x) < 1e-12)) return false;
  }
  return true;
}

function readBinary(view: DataView, nTriangles: number): Float64Array {
  const soup = new Float64Array(9 * nTriangles);
  for (let i = 0; i < nTriangles; i++) {
    const at = HEADER + 4 + RECORD * i + 12;
    for (let k = 0; k < 9; k++) soup[9 * i + k] = view.getFloat32(at + 4 * k, true);
  }
  return finite(soup);
}

export interface NamedSoup {
  name: string;
  soup: Float64Array;
}

/** Solids of an STL file: an ASCII file may name several, a binary one is one. */
export function readStlSolids(bytes: Uint8Array): NamedSoup[] {
  const soup = readStl(bytes);
  if (!/^\s*solid\b/i.test(latin(bytes, 0, 80)) || soup.length === 0) return [{ name: '', soup }];
  const solids: NamedSoup[] = [];
  const text = new TextDecoder('latin1').decode(bytes.subarray(0, Math.min(bytes.length, 64 << 20)));
  let used = 0;
  let name: string | null = null;
  let n = 0;
  // Split by counting the vertices between "solid" and "endsolid", word by word: one pass, whatever the file holds.
  for (const [, word, rest] of text.matchAll(/^[ \t]*(solid|endsolid)\b[ \t]*([^\r\n]*)|\bvertex\b/gim)) {
    if (!word) n++;
    else if (word.toLowerCase() === 'solid') name ??= rest.trim();
    else {
      if (n >= 3 && name !== null) solids.push({ name, soup: soup.slice(3 * used, 3 * (used + n)) });
      used += n;
      [name, n] = [null, 0];
    }
  }
  return 3 * used === soup.length && solids.length > 0 ? solids : [{ name: '', soup }];
}

/** No vertex is written with more than this: what follows is something else, and is not carried along. */
const LONGEST_VERTEX = 2000;

function readAscii(bytes: Uint8Array): Float64Array {
  const numbers: number[] = [];
  // In pieces: a 200 MB text in one string is past what the engine allows to match at ease.
  const decoder = new TextDecoder('latin1');
  let rest = '';
  const chunk = 1 << 22;
  const vertex = /vertex\s+(\S+)\s+(\S+)\s+(\S+)\s/gi;
  for (let at = 0; at < bytes.length; at += chunk) {
    let text = rest + decoder.decode(bytes.subarray(at, at + chunk));
    const last = at + chunk >= bytes.length;
    const cut = last ? text.length : text.toLowerCase().lastIndexOf('vertex');
    rest = last || cut < 0 ? '' : text.slice(cut, cut + LONGEST_VERTEX);
    if (cut >= 0) text = text.slice(0, cut) + '\n';
    for (const m of text.matchAll(vertex)) numbers.push(Number(m[1]), Number(m[2]), Number(m[3]));
  }
  if (numbers.length === 0) throw new FormatError('The STL file holds no triangles.', 'Export a solid body.');
  const ended = /endsolid/i.test(latin(bytes, Math.max(0, bytes.length - 512), bytes.length));
  if (numbers.length % 9 !== 0 || !ended)
    throw new FormatError(
      'The STL file is cut short: it ends in the middle of the part.',
      'Copy or export the file again.',
    );
  return finite(Float64Array.from(numbers));
}

function finite(soup: Float64Array): Float64Array {
  for (let i = 0; i < soup.length; i++) {
    if (!Number.isFinite(soup[i]))
      throw new FormatError(
        `Triangle ${Math.floor(i / 9) + 1} has a coordinate that is not a number.`,
        'Export the part again; if it stays, rebuild the face in the CAD model.',
      );
  }
  return soup;
}

/** Binary STL in the given unit (`perMetre` = 1000 writes millimetres). */
export function writeStl(mesh: TriangleMesh, perMetre = 1000): Uint8Array {
  const n = mesh.triangles.length / 3;
  const bytes = new Uint8Array(HEADER + 4 + RECORD * n);
  const view = new DataView(bytes.buffer);
  bytes.set(new TextEncoder().encode('binary stl, bellows').subarray(0, HEADER));
  view.setUint32(HEADER, n, true);
  const p = mesh.positions;
  for (let i = 0; i < n; i++) {
    const [a, b, c] = [3 * mesh.triangles[3 * i], 3 * mesh.triangles[3 * i + 1], 3 * mesh.triangles[3 * i + 2]];
    const u = [0, 1, 2].map((d) => p[b + d] - p[a + d]);
    const v = [0, 1, 2].map((d) => p[c + d] - p[a + d]);
    const normal = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
    const length = Math.hypot(...normal) || 1;
    const at = HEADER + 4 + RECORD * i;
    for (let d = 0; d < 3; d++) {
      view.setFloat32(at + 4 * d, normal[d] / length, true);
      view.setFloat32(at + 12 + 4 * d, p[a + d] * perMetre, true);
      view.setFloat32(at + 24 + 4 * d, p[b + d] * perMetre, true);
      view.setFloat32(at + 36 + 4 * d, p[c + d] * perMetre, true);
    }
  }
  return bytes;
}
