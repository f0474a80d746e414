import type { TriangleMesh } from '../geometry/mesh';

const MAGIC = 0x314d4c42; // "BLM1"

/** Our own storage of a mesh: magic, counts, Float64 positions [m], Uint32 triangles; little endian. */
export function packMesh(mesh: TriangleMesh): Uint8Array {
  const bytes = new Uint8Array(16 + mesh.positions.byteLength + mesh.triangles.byteLength);
  const head = new Uint32Array(bytes.buffer, 0, 4);
  head[0] = MAGIC;
  head[1] = mesh.positions.length / 3;
  head[2] = mesh.triangles.length / 3;
  bytes.set(new Uint8Array(mesh.positions.buffer, mesh.positions.byteOffset, mesh.positions.byteLength), 16);
  const triangles = new Uint8Array(mesh.triangles.buffer, mesh.triangles.byteOffset, mesh.triangles.byteLength);
  bytes.set(triangles, 16 + mesh.positions.byteLength);
  return bytes;
}

export function unpackMesh(bytes: Uint8Array): TriangleMesh {
  // A copy: the source may start at an address that is no multiple of 8. Not `slice`, which on a
  // Node Buffer is a view of the shared pool.
  const buffer = new Uint8Array(bytes).buffer;
  const head = new Uint32Array(buffer, 0, 4);
  if (head[0] !== MAGIC) throw new Error('not a stored mesh');
  const positions = new Float64Array(buffer, 16, 3 * head[1]);
  return { positions, triangles: new Uint32Array(buffer, 16 + positions.byteLength, 3 * head[2]) };
}
