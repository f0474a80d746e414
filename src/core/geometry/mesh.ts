/**
 * Closed triangle surface. Lengths in metres.
 * `positions`: 3 coordinates per vertex; `triangles`: 3 vertex numbers per triangle, anticlockwise
 * seen from outside.
 */
export interface TriangleMesh {
  positions: Float64Array;
  triangles: Uint32Array;
}

export type Vec3 = [number, number, number];

export interface Bounds {
  min: Vec3;
  max: Vec3;
}

export function boundsOf(positions: ArrayLike<number>): Bounds {
  const min: Vec3 = [Infinity, Infinity, Infinity];
  const max: Vec3 = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < positions.length; i++) {
    const axis = i % 3;
    if (positions[i] < min[axis]) min[axis] = positions[i];
    if (positions[i] > max[axis]) max[axis] = positions[i];
  }
  return { min, max };
}

/** Enclosed volume [m3] (divergence theorem; negative when the faces point inwards) and area [m2]. */
export function measure(mesh: TriangleMesh): { volume: number; area: number } {
  const { positions: p, triangles: t } = mesh;
  let volume = 0;
  let area = 0;
  // Relative to the first vertex: far from the origin the signed tetrahedra would cancel badly.
  const [ox, oy, oz] = [p[0] ?? 0, p[1] ?? 0, p[2] ?? 0];
  for (let i = 0; i < t.length; i += 3) {
    const a = 3 * t[i];
    const b = 3 * t[i + 1];
    const c = 3 * t[i + 2];
    const ux = p[b] - p[a];
    const uy = p[b + 1] - p[a + 1];
    const uz = p[b + 2] - p[a + 2];
    const vx = p[c] - p[a];
    const vy = p[c + 1] - p[a + 1];
    const vz = p[c + 2] - p[a + 2];
    const nx = uy * vz - uz * vy;
    const ny = uz * vx - ux * vz;
    const nz = ux * vy - uy * vx;
    volume += (p[a] - ox) * nx + (p[a + 1] - oy) * ny + (p[a + 2] - oz) * nz;
    area += Math.sqrt(nx * nx + ny * ny + nz * nz);
  }
  return { volume: volume / 6, area: area / 2 };
}

/** The mesh with every triangle turned round. */
export function flipped(mesh: TriangleMesh): TriangleMesh {
  const triangles = mesh.triangles.slice();
  for (let i = 0; i < triangles.length; i += 3) {
    const second = triangles[i + 1];
    triangles[i + 1] = triangles[i + 2];
    triangles[i + 2] = second;
  }
  return { positions: mesh.positions, triangles };
}

/** A copy with `map` applied to every vertex; used to scale, turn and move. */
export function mapVertices(mesh: TriangleMesh, map: (v: Vec3) => Vec3): TriangleMesh {
  const positions = new Float64Array(mesh.positions.length);
  for (let i = 0; i < positions.length; i += 3) {
    positions.set(map([mesh.positions[i], mesh.positions[i + 1], mesh.positions[i + 2]]), i);
  }
  return { positions, triangles: mesh.triangles };
}

/**
 * Triangle soup (9 numbers per triangle) to a mesh with shared vertices. Vertices are joined when
 * their coordinates are equal; triangles that collapse to a line or point are dropped and counted.
 */
export function weld(soup: ArrayLike<number>): { mesh: TriangleMesh; nDropped: number } {
  const nCorners = Math.floor(soup.length / 3);
  const size = 1 << Math.ceil(Math.log2(Math.max(16, nCorners * 2)));
  const slots = new Int32Array(size).fill(-1);
  const positions = new Float64Array(nCorners * 3);
  const corner = new Uint32Array(nCorners);
  const bits = new Float64Array(3);
  const words = new Uint32Array(bits.buffer);
  let nVertices = 0;
  for (let c = 0; c < nCorners; c++) {
    // + 0 turns -0 into 0, which would otherwise be another vertex.
    for (let d = 0; d < 3; d++) bits[d] = soup[3 * c + d] + 0;
    let hash = 2166136261;
    for (let w = 0; w < 6; w++) hash = Math.imul(hash ^ words[w], 16777619) ^ (hash >>> 15);
    let slot = (hash >>> 0) & (size - 1);
    for (;;) {
      const v = slots[slot];
      if (v < 0) {
        slots[slot] = nVertices;
        positions.set(bits, 3 * nVertices);
        corner[c] = nVertices++;
        break;
      }
      if (positions[3 * v] === bits[0] && positions[3 * v + 1] === bits[1] && positions[3 * v + 2] === bits[2]) {
        corner[c] = v;
        break;
      }
      slot = (slot + 1) & (size - 1);
    }
  }
  const triangles = new Uint32Array(nCorners);
  let n = 0;
  for (let c = 0; c + 2 < nCorners; c += 3) {
    const [i, j, k] = [corner[c], corner[c + 1], corner[c + 2]];
    if (i === j || j === k || k === i) continue;
    triangles[n++] = i;
    triangles[n++] = j;
    triangles[n++] = k;
  }
  return {
    mesh: { positions: positions.slice(0, 3 * nVertices), triangles: triangles.slice(0, n) },
    nDropped: (nCorners - n) / 3,
  };
}
