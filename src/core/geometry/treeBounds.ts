/** Levels above the leaves that know the front of their triangles. */
const FRONT_LEVELS = 6;

/** 4 numbers a node from node `first` on: mean normal, and the least distance of its corners along it. */
export interface Fronts {
  first: number;
  front: Float64Array;
}

/**
 * For the lowest levels of the tree: the mean normal of a node's triangles and how far along it they all
 * lie at least. A ball within the body that touches a curved wall is told apart from it by this, not by
 * boxes, whose corners reach into the body.
 */
export function nodeFronts(corners: Float64Array, planes: Float64Array, leafStart: Uint32Array): Fronts {
  const nLeaves = leafStart.length - 1;
  const depth = Math.min(FRONT_LEVELS, Math.round(Math.log2(nLeaves)));
  const first = nLeaves / 2 ** depth - 1;
  const front = new Float64Array(4 * (2 * nLeaves - 1 - first));
  for (let level = 0; level <= depth; level++) {
    const size = 2 ** level;
    const from = nLeaves / size - 1;
    for (let k = 0; k < nLeaves / size; k++) {
      const a = leafStart[k * size];
      const b = leafStart[(k + 1) * size];
      let [x, y, z] = [0, 0, 0];
      for (let i = 4 * a; i < 4 * b; i += 4) {
        x += planes[i];
        y += planes[i + 1];
        z += planes[i + 2];
      }
      const length = Math.sqrt(x * x + y * y + z * z) || 1;
      x /= length;
      y /= length;
      z /= length;
      let least = Infinity;
      for (let c = 9 * a; c < 9 * b; c += 3) {
        const d = x * corners[c] + y * corners[c + 1] + z * corners[c + 2];
        if (d < least) least = d;
      }
      front.set([x, y, z, least], 4 * (from + k - first));
    }
  }
  return { first, front };
}

/** Whether two boxes (min xyz, max xyz, at i and j) touch. */
export function overlap(b: Float64Array, i: number, j: number): boolean {
  return (
    b[i] <= b[j + 3] &&
    b[j] <= b[i + 3] &&
    b[i + 1] <= b[j + 4] &&
    b[j + 1] <= b[i + 4] &&
    b[i + 2] <= b[j + 5] &&
    b[j + 2] <= b[i + 5]
  );
}

/** Unit normal and offset of the plane of each triangle: 4 numbers for every 9 coordinates. */
export function trianglePlanes(corners: Float64Array): Float64Array {
  const planes = new Float64Array((corners.length / 9) * 4);
  for (let i = 0, at = 0; i < corners.length; i += 9, at += 4) {
    const ux = corners[i + 3] - corners[i];
    const uy = corners[i + 4] - corners[i + 1];
    const uz = corners[i + 5] - corners[i + 2];
    const vx = corners[i + 6] - corners[i];
    const vy = corners[i + 7] - corners[i + 1];
    const vz = corners[i + 8] - corners[i + 2];
    const nx = uy * vz - uz * vy;
    const ny = uz * vx - ux * vz;
    const nz = ux * vy - uy * vx;
    const length = Math.sqrt(nx * nx + ny * ny + nz * nz) || 1;
    planes[at] = nx / length;
    planes[at + 1] = ny / length;
    planes[at + 2] = nz / length;
    planes[at + 3] = (nx * corners[i] + ny * corners[i + 1] + nz * corners[i + 2]) / length;
  }
  return planes;
}

/** min xyz, max xyz of each triangle. */
export function triangleBoxes(corners: Float64Array): Float64Array {
  const boxes = new Float64Array((corners.length / 9) * 6);
  for (let i = 0, at = 0; i < corners.length; i += 9, at += 6) {
    for (let d = 0; d < 3; d++) {
      boxes[at + d] = Math.min(corners[i + d], corners[i + 3 + d], corners[i + 6 + d]);
      boxes[at + 3 + d] = Math.max(corners[i + d], corners[i + 3 + d], corners[i + 6 + d]);
    }
  }
  return boxes;
}
