import type { TriangleMesh } from './mesh';

/** Triangles ordered so that the leaves of every subtree lie together: medians of the box centres. */
export function medianOrder(mesh: TriangleMesh, leafStart: Uint32Array): Uint32Array {
  const { positions: p, triangles: t } = mesh;
  const n = t.length / 3;
  const centres = [0, 1, 2].map((d) => {
    const key = new Float32Array(n);
    for (let i = 0; i < n; i++) {
      const [a, b, c] = [p[3 * t[3 * i] + d], p[3 * t[3 * i + 1] + d], p[3 * t[3 * i + 2] + d]];
      key[i] = Math.min(a, b, c) + Math.max(a, b, c);
    }
    return key;
  });
  const order = Uint32Array.from({ length: n }, (_, i) => i);
  const halve = (firstLeaf: number, nLeaves: number): void => {
    if (nLeaves < 2) return;
    const from = leafStart[firstLeaf];
    const to = leafStart[firstLeaf + nLeaves];
    const spans = centres.map((key) => {
      let low = Infinity;
      let high = -Infinity;
      for (let i = from; i < to; i++) {
        const v = key[order[i]];
        if (v < low) low = v;
        if (v > high) high = v;
      }
      return high - low;
    });
    const axis = spans.indexOf(Math.max(...spans));
    select(order, centres[axis], from, to - 1, leafStart[firstLeaf + nLeaves / 2]);
    halve(firstLeaf, nLeaves / 2);
    halve(firstLeaf + nLeaves / 2, nLeaves / 2);
  };
  halve(0, leafStart.length - 1);
  return order;
}

/** Rearranges order[left..right] so that everything before place k has a key no larger (Hoare 1961). */
function select(order: Uint32Array, key: Float32Array, left: number, right: number, k: number): void {
  while (left < right) {
    const pivot = key[order[(left + right) >> 1]];
    let i = left;
    let j = right;
    while (i <= j) {
      while (key[order[i]] < pivot) i++;
      while (key[order[j]] > pivot) j--;
      if (i <= j) {
        const swap = order[i];
        order[i++] = order[j];
        order[j--] = swap;
      }
    }
    if (k <= j) right = j;
    else if (k >= i) left = i;
    else return;
  }
}
