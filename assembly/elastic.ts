// AssemblyScript, compiled by scripts/kernels.mjs with SIMD: the dense and sparse loops of the structural
// solve (src/core/solvers/warp). Four load cases ("lanes") lie side by side: a vector has 4 f64 a degree of
// freedom, so one pass over a matrix serves all of them.

import { get, int, set } from './memory';

const N: i32 = 60;

/** Address in word i. */
// @ts-ignore: decorator
@inline
function address(p: usize, i: i32): usize {
  return <usize>load<u32>(p + (<usize>i << 2));
}
// @ts-ignore: decorator
@inline
function fma2(acc: v128, a: v128, b: v128): v128 {
  return f64x2.add(acc, f64x2.mul(a, b));
}
// @ts-ignore: decorator
@inline
function fma4(acc: v128, a: v128, b: v128): v128 {
  return f32x4.add(acc, f32x4.mul(a, b));
}
// @ts-ignore: decorator
@inline
function less4(acc: v128, a: v128, b: v128): v128 {
  return f32x4.sub(acc, f32x4.mul(a, b));
}
// @ts-ignore: decorator
@inline
function less2(acc: v128, a: v128, b: v128): v128 {
  return f64x2.sub(acc, f64x2.mul(a, b));
}
// @ts-ignore: decorator
@inline
function sign(bit: i32): f64 {
  return bit ? 1 : -1;
}

/** Gradients of the 20 serendipity functions at n points (3 local coordinates each, -1..1), times a scale along each axis: out[60 p + 3 a + i]. */
export function gradients(local: usize, n: i32, sx: f64, sy: f64, sz: f64, out: usize): void {
  for (let p = 0; p < n; p++) {
    const x = get(local, 3 * p);
    const y = get(local, 3 * p + 1);
    const z = get(local, 3 * p + 2);
    const g = out + <usize>(p * N * 8);
    for (let a = 0; a < 8; a++) {
      const xa = sign(a & 1);
      const ya = sign(a & 2);
      const za = sign(a & 4);
      const u = 1 + x * xa;
      const v = 1 + y * ya;
      const w = 1 + z * za;
      const t = x * xa + y * ya + z * za;
      set(g, 3 * a, 0.125 * sx * xa * v * w * (t + x * xa - 1));
      set(g, 3 * a + 1, 0.125 * sy * ya * u * w * (t + y * ya - 1));
      set(g, 3 * a + 2, 0.125 * sz * za * u * v * (t + z * za - 1));
    }
    for (let e = 0; e < 4; e++) {
      const first = sign(e & 1);
      const second = sign(e & 2);
      edge(g, 8 + e, 0, 1, 2, x, y, z, first, second, sx, sy, sz);
      edge(g, 12 + e, 1, 0, 2, y, x, z, first, second, sy, sx, sz);
      edge(g, 16 + e, 2, 0, 1, z, x, y, first, second, sz, sx, sy);
    }
  }
}

/** The node in the middle of an edge along axis d: 1/4 (1 - t^2)(1 + u first)(1 + v second). */
// @ts-ignore: decorator
@inline
function edge(
  g: usize, a: i32, d: i32, du: i32, dv: i32, t: f64, u: f64, v: f64, first: f64, second: f64,
  st: f64, su: f64, sv: f64,
): void {
  const along = 0.25 * (1 - t * t);
  set(g, 3 * a + d, -0.5 * st * t * (1 + u * first) * (1 + v * second));
  set(g, 3 * a + du, along * su * first * (1 + v * second));
  set(g, 3 * a + dv, along * sv * (1 + u * first) * second);
}

/**
 * Matrices and loads of n elements of one material each, added to a system. `batch` holds the addresses of: four
 * words an element (its number, its first point, its points, 1 where every point has a stiffness of its own), Lame's
 * constants (2 f64 an element), and of all points local coordinates, weights, stress-free strains, stiffnesses. `system` those of: nodes of the elements, rows, columns,
 * values, matrices on the corners, loads, of whole matrices where these are kept instead (else 0), and room for 6 x 60 numbers. `scratch`
 * holds two 60 x 60 matrices, 60 x 4 loads and the gradients of the points of one element.
 */
export function makeElements(
  n: i32, batch: usize, system: usize, scratch: usize, marker: usize, sx: f64, sy: f64, sz: f64,
): void {
  const G = scratch;
  const f = G + 2 * N * N * 8;
  const g = f + N * 4 * 8;
  const whole = address(system, 6);
  const T = address(system, 7);
  for (let i = 0; i < n; i++) {
    const e = int(address(batch, 0), 4 * i);
    const first = <usize>int(address(batch, 0), 4 * i + 1);
    const points = int(address(batch, 0), 4 * i + 2);
    const lambda = get(address(batch, 1), 2 * i);
    const mu = get(address(batch, 1), 2 * i + 1);
    const weights = address(batch, 3) + 8 * first;
    const K = whole ? whole + <usize>e * (N * N * 8) : G + N * N * 8;
    memory.fill(G, 0, N * N * 8);
    memory.fill(K, 0, N * N * 8);
    memory.fill(f, 0, N * 4 * 8);
    gradients(address(batch, 2) + 24 * first, points, sx, sy, sz, g);
    const strains = address(batch, 4) + 192 * first;
    if (int(address(batch, 0), 4 * i + 3)) {
      const own = address(batch, 5) + 288 * first;
      fullStiffness(K, G, T, g, weights, own, points);
      fullLoads(f, T, g, weights, strains, own, points);
    } else {
      rankUpdate(G, g, weights, points);
      stiffness(K, G, lambda, mu);
      loads(f, g, weights, strains, points, lambda, mu);
    }
    // The gradients are done with: their room is more than 24 x 60 numbers.
    addElement(e, K, f, system, g, marker);
  }
}

/** Adds one element's matrix and its loads to a system, or keeps the matrix. `scratch` holds 24 x 60 numbers. */
export function addElement(e: i32, K: usize, f: usize, system: usize, scratch: usize, marker: usize): void {
  const nodes = address(system, 0) + <usize>e * 80;
  const whole = address(system, 6);
  if (whole) {
    const kept = whole + <usize>e * (N * N * 8);
    if (kept != K) memory.copy(kept, K, N * N * 8);
  } else {
    assemble(K, nodes, address(system, 1), address(system, 2), address(system, 3), marker);
    onCorners(K, address(system, 4) + <usize>e * (24 * 24 * 8), scratch);
  }
  for (let a = 0; a < 20; a++) {
    const to = address(system, 5) + <usize>int(nodes, a) * 96;
    const from = f + <usize>(96 * a);
    for (let k: usize = 0; k < 96; k += 16) v128.store(to + k, f64x2.add(v128.load(to + k), v128.load(from + k)));
  }
}

/** Upper half of G += sum over points of w g gT; n is a multiple of 4 (the rest has w = 0). */
export function rankUpdate(G: usize, g: usize, weights: usize, n: i32): void {
  for (let p = 0; p < n; p += 4) {
    const g0 = g + <usize>(p * N * 8);
    const g1 = g0 + N * 8;
    const g2 = g1 + N * 8;
    const g3 = g2 + N * 8;
    for (let r = 0; r < N; r++) {
      const s0 = f64x2.splat(get(weights, p) * get(g0, r));
      const s1 = f64x2.splat(get(weights, p + 1) * get(g1, r));
      const s2 = f64x2.splat(get(weights, p + 2) * get(g2, r));
      const s3 = f64x2.splat(get(weights, p + 3) * get(g3, r));
      const row = G + <usize>(r * N * 8);
      for (let c = r & ~1; c < N; c += 2) {
        const at = <usize>c << 3;
        let acc = v128.load(row + at);
        acc = fma2(acc, s0, v128.load(g0 + at));
        acc = fma2(acc, s1, v128.load(g1 + at));
        acc = fma2(acc, s2, v128.load(g2 + at));
        acc = fma2(acc, s3, v128.load(g3 + at));
        v128.store(row + at, acc);
      }
    }
  }
}

/** K += lambda g_i g_j + mu (g_j g_i + delta_ij g.g) of an isotropic solid, from the upper half of G, which is completed. */
export function stiffness(K: usize, G: usize, lambda: f64, mu: f64): void {
  for (let r = 1; r < N; r++) for (let c = 0; c < r; c++) set(G, r * N + c, get(G, c * N + r));
  for (let a = 0; a < N; a += 3)
    for (let b = 0; b < N; b += 3) {
      const at = a * N + b;
      const trace = mu * (get(G, at) + get(G, at + N + 1) + get(G, at + 2 * N + 2));
      for (let i = 0; i < 3; i++)
        for (let j = 0; j < 3; j++) {
          const k = at + i * N + j;
          const v = get(K, k) + lambda * get(G, k) + mu * get(G, at + j * N + i);
          set(K, k, i == j ? v + trace : v);
        }
    }
}

/**
 * K += sum of w BT C B, with a stiffness C of every point: 6 x 6 of pairs xx yy zz xy yz xz, shear entries C_xyxy and so on. G, which is
 * nothing at first, is left with what was added, its upper half. `T` has room for 6 x 60: stress of unit displacements of every node.
 */
export function fullStiffness(K: usize, G: usize, T: usize, g: usize, weights: usize, C: usize, n: i32): void {
  const row: usize = N * 8;
  for (let p = 0; p < n; p++) {
    const w = get(weights, p);
    if (w == 0) continue;
    const gp = g + <usize>(p * N * 8);
    const c = C + <usize>(288 * p);
    for (let a = 0; a < 20; a++) {
      const gx = w * get(gp, 3 * a);
      const gy = w * get(gp, 3 * a + 1);
      const gz = w * get(gp, 3 * a + 2);
      for (let k = 0; k < 6; k++) {
        const xx = get(c, 6 * k);
        const yy = get(c, 6 * k + 1);
        const zz = get(c, 6 * k + 2);
        const xy = get(c, 6 * k + 3);
        const yz = get(c, 6 * k + 4);
        const xz = get(c, 6 * k + 5);
        set(T, N * k + 3 * a, gx * xx + gy * xy + gz * xz);
        set(T, N * k + 3 * a + 1, gy * yy + gx * xy + gz * yz);
        set(T, N * k + 3 * a + 2, gz * zz + gy * yz + gx * xz);
      }
    }
    for (let a = 0; a < 20; a++) {
      const gx = v128.load64_splat(gp + <usize>(24 * a));
      const gy = v128.load64_splat(gp + <usize>(24 * a), 8);
      const gz = v128.load64_splat(gp + <usize>(24 * a), 16);
      const to = G + <usize>(3 * a) * row;
      for (let j = (3 * a) & ~1; j < N; j += 2) {
        const at = T + (<usize>j << 3);
        const xy = v128.load(at + 3 * row);
        const yz = v128.load(at + 4 * row);
        const xz = v128.load(at + 5 * row);
        const own = to + (<usize>j << 3);
        v128.store(own, fma2(fma2(fma2(v128.load(own), gx, v128.load(at)), gy, xy), gz, xz));
        const second = own + row;
        v128.store(second, fma2(fma2(fma2(v128.load(second), gy, v128.load(at + row)), gx, xy), gz, yz));
        const third = second + row;
        v128.store(third, fma2(fma2(fma2(v128.load(third), gz, v128.load(at + 2 * row)), gy, yz), gx, xz));
      }
    }
  }
  for (let r = 0; r < N; r++)
    for (let k = 0; k < N; k++) set(K, r * N + k, get(K, r * N + k) + (r < k ? get(G, r * N + k) : get(G, k * N + r)));
}

/** f (60 x 4) += sum of w BT C e, as `loads` has it of one solid. */
export function fullLoads(f: usize, T: usize, g: usize, weights: usize, strain: usize, C: usize, n: i32): void {
  for (let p = 0; p < n; p++) {
    const w = get(weights, p);
    if (w == 0) continue;
    const e = strain + <usize>(p * 192);
    const c = C + <usize>(288 * p);
    for (let lane = 0; lane < 4; lane++) {
      const at = e + <usize>(8 * lane);
      const xx = w * load<f64>(at);
      const yy = w * load<f64>(at, 32);
      const zz = w * load<f64>(at, 64);
      const xy = 2 * w * load<f64>(at, 96);
      const yz = 2 * w * load<f64>(at, 128);
      const xz = 2 * w * load<f64>(at, 160);
      if (xx == 0 && yy == 0 && zz == 0 && xy == 0 && yz == 0 && xz == 0) continue;
      for (let k = 0; k < 6; k++)
        set(
          T,
          k,
          get(c, 6 * k) * xx +
            get(c, 6 * k + 1) * yy +
            get(c, 6 * k + 2) * zz +
            get(c, 6 * k + 3) * xy +
            get(c, 6 * k + 4) * yz +
            get(c, 6 * k + 5) * xz,
        );
      const sx = get(T, 0);
      const sy = get(T, 1);
      const sz = get(T, 2);
      const sxy = get(T, 3);
      const syz = get(T, 4);
      const sxz = get(T, 5);
      for (let a = 0; a < 20; a++) {
        const gx = get(g, p * N + 3 * a);
        const gy = get(g, p * N + 3 * a + 1);
        const gz = get(g, p * N + 3 * a + 2);
        const to = f + <usize>(96 * a + 8 * lane);
        store<f64>(to, load<f64>(to) + sx * gx + sxy * gy + sxz * gz);
        store<f64>(to, load<f64>(to, 32) + sxy * gx + sy * gy + syz * gz, 32);
        store<f64>(to, load<f64>(to, 64) + sxz * gx + syz * gy + sz * gz, 64);
      }
    }
  }
}

/** f (60 x 4) += sum of w BT D e for stress-free strains e (6 x 4 a point: xx yy zz xy yz xz, tensor shear). */
export function loads(f: usize, g: usize, weights: usize, strain: usize, n: i32, lambda: f64, mu: f64): void {
  for (let p = 0; p < n; p++) {
    const w = get(weights, p);
    const e = strain + <usize>(p * 24 * 8);
    for (let half = 0; half < 2; half++) {
      const at = e + <usize>(16 * half);
      const xx = v128.load(at);
      const yy = v128.load(at + 32);
      const zz = v128.load(at + 64);
      const two = f64x2.splat(2 * mu * w);
      const volume = f64x2.mul(f64x2.splat(lambda * w), f64x2.add(xx, f64x2.add(yy, zz)));
      const sx = fma2(volume, two, xx);
      const sy = fma2(volume, two, yy);
      const sz = fma2(volume, two, zz);
      const sxy = f64x2.mul(two, v128.load(at + 96));
      const syz = f64x2.mul(two, v128.load(at + 128));
      const sxz = f64x2.mul(two, v128.load(at + 160));
      for (let a = 0; a < 20; a++) {
        const ga = g + <usize>((p * N + 3 * a) * 8);
        const gx = v128.load64_splat(ga);
        const gy = v128.load64_splat(ga + 8);
        const gz = v128.load64_splat(ga + 16);
        const to = f + <usize>(a * 96 + 16 * half);
        v128.store(to, fma2(fma2(fma2(v128.load(to), sx, gx), sxy, gy), sxz, gz));
        v128.store(to + 32, fma2(fma2(fma2(v128.load(to + 32), sxy, gx), sy, gy), syz, gz));
        v128.store(to + 64, fma2(fma2(fma2(v128.load(to + 64), sxz, gx), syz, gy), sz, gz));
      }
    }
  }
}

/**
 * Adds an element's matrix to the rows of its nodes: 3 x 3 blocks of a symmetric block-compressed matrix, those on
 * and right of the diagonal. `marker` has one i32 a node.
 */
function assemble(K: usize, nodes: usize, rowStart: usize, columns: usize, values: usize, marker: usize): void {
  for (let a = 0; a < 20; a++) {
    const row = markRow(int(nodes, a), rowStart, columns, marker);
    for (let b = 0; b < 20; b++) {
      if (int(nodes, b) < row) continue;
      const block = values + <usize>int(marker, int(nodes, b)) * 72;
      for (let i = 0; i < 3; i++)
        for (let j = 0; j < 3; j++) set(block, 3 * i + j, get(block, 3 * i + j) + get(K, (3 * a + i) * N + 3 * b + j));
    }
  }
}

/** Notes where the blocks of a row are, at their columns. Returns the row. */
// @ts-ignore: decorator
@inline
function markRow(row: i32, rowStart: usize, columns: usize, marker: usize): i32 {
  for (let k = int(rowStart, row); k < int(rowStart, row + 1); k++)
    store<i32>(marker + (<usize>int(columns, k) << 2), k);
  return row;
}

/** The 24 x 24 matrix of an element on its corners alone: middles of edges follow their ends. `rows` holds 24 x 60 numbers. */
function onCorners(K: usize, C: usize, rows: usize): void {
  memory.fill(rows, 0, 24 * N * 8);
  for (let a = 0; a < 20; a++)
    for (let end = 0; end < 2; end++) {
      const from = K + <usize>(3 * a * N * 8);
      const to = rows + <usize>(3 * corner(a, end) * N * 8);
      for (let k: usize = 0; k < 3 * N * 8; k += 16) v128.store(to + k, f64x2.add(v128.load(to + k), v128.load(from + k)));
    }
  memory.fill(C, 0, 24 * 24 * 8);
  for (let a = 0; a < 20; a++)
    for (let end = 0; end < 2; end++) {
      const c = 3 * corner(a, end);
      for (let r = 0; r < 24; r++)
        for (let i = 0; i < 3; i++) {
          const k = r * 24 + c + i;
          set(C, k, get(C, k) + 0.25 * get(rows, r * N + 3 * a + i));
        }
    }
}

/** Either end of the edge that node a sits on; a corner is both of its own. */
function corner(a: i32, end: i32): i32 {
  if (a < 8) return a;
  const e = a & 3;
  if (a < 12) return end + ((e & 1) << 1) + ((e >> 1) << 2);
  if (a < 16) return (e & 1) + (end << 1) + ((e >> 1) << 2);
  return (e & 1) + ((e >> 1) << 1) + (end << 2);
}

/** Factors of the blocks of elements from .. to - 1 (7320 bytes each). Returns the first that is not positive, else -1. */
export function factorBlocks(
  from: i32, to: i32, nodes: usize, rowStart: usize, columns: usize, values: usize, marker: usize, scratch: usize,
  factors: usize,
): i32 {
  for (let e = from; e < to; e++) {
    const own = nodes + <usize>e * 80;
    if (!factorBlock(own, rowStart, columns, values, marker, scratch, factors + <usize>e * 7320)) return e;
  }
  return -1;
}

/**
 * Cholesky factor of the assembled matrix over the nodes of one element, packed by rows in f32 with the
 * inverse of the diagonal. `scratch` holds 60 x 60 f64 and 60 f64 more. Returns false where it is not positive.
 */
function factorBlock(
  nodes: usize, rowStart: usize, columns: usize, values: usize, marker: usize, scratch: usize, factor: usize,
): bool {
  const scale = scratch + N * N * 8;
  for (let a = 0; a < 20; a++) {
    const row = markRow(int(nodes, a), rowStart, columns, marker);
    for (let b = 0; b < 20; b++) {
      if (int(nodes, b) < row) continue;
      const block = values + <usize>int(marker, int(nodes, b)) * 72;
      for (let i = 0; i < 3; i++)
        for (let j = 0; j < 3; j++) {
          const r = 3 * a + i;
          const c = 3 * b + j;
          set(scratch, b <= a ? r * N + c : c * N + r, get(block, 3 * i + j));
        }
    }
  }
  for (let i = 0; i < N; i++) set(scale, i, Math.sqrt(get(scratch, i * N + i)));
  let to = factor;
  for (let i = 0; i < N; i++) {
    const ri = scratch + <usize>(i * N * 8);
    const si = get(scale, i);
    for (let j = 0; j <= i; j++) {
      const rj = scratch + <usize>(j * N * 8);
      let acc = f64x2.splat(0);
      let k = 0;
      for (; k + 1 < j; k += 2) acc = fma2(acc, v128.load(ri + (<usize>k << 3)), v128.load(rj + (<usize>k << 3)));
      let sum = f64x2.extract_lane(acc, 0) + f64x2.extract_lane(acc, 1);
      if (k < j) sum += get(ri, k) * get(rj, k);
      const v = get(ri, j) / (si * get(scale, j)) - sum;
      if (j < i) {
        const l = v * get(rj, j);
        set(ri, j, l);
        store<f32>(to, <f32>(l * si));
      } else {
        // A shift of 1e-6 keeps what rounding could make indefinite; it only weakens the smoother there.
        const pivot = v + 1e-6;
        if (!(pivot > 0)) return false;
        const inverse = 1 / Math.sqrt(pivot);
        set(ri, i, inverse);
        store<f32>(to, <f32>(inverse / si));
      }
      to += 4;
    }
  }
  return true;
}

/**
 * z += sum over elements from .. to - 1 of their block's inverse times r: additive Schwarz over cells. Vectors of
 * f32, four lanes a degree of freedom. `work` holds 60 x 4 f32.
 */
export function schwarz(from: i32, to: i32, nodes: usize, factors: usize, r: usize, z: usize, work: usize): void {
  for (let e = from; e < to; e++) {
    const own = nodes + <usize>e * 80;
    const L = factors + <usize>e * 7320;
    for (let a = 0; a < 20; a++) {
      const source = r + <usize>int(own, a) * 48;
      const local = work + <usize>(48 * a);
      v128.store(local, v128.load(source));
      v128.store(local + 16, v128.load(source + 16));
      v128.store(local + 32, v128.load(source + 32));
    }
    // Four rows at a time, so that every value is loaded once for all of them.
    for (let i = 0; i < N; i += 4) {
      const row0 = L + <usize>(2 * i * (i + 1));
      const row1 = row0 + <usize>(4 * (i + 1));
      const row2 = row1 + <usize>(4 * (i + 2));
      const row3 = row2 + <usize>(4 * (i + 3));
      const own0 = work + (<usize>i << 4);
      let a = v128.load(own0);
      let b = v128.load(own0, 16);
      let c = v128.load(own0, 32);
      let d = v128.load(own0, 48);
      for (let j = 0; j < i; j++) {
        const at = <usize>j << 2;
        const y = v128.load(work + (<usize>j << 4));
        a = less4(a, v128.load32_splat(row0 + at), y);
        b = less4(b, v128.load32_splat(row1 + at), y);
        c = less4(c, v128.load32_splat(row2 + at), y);
        d = less4(d, v128.load32_splat(row3 + at), y);
      }
      const at = <usize>i << 2;
      a = f32x4.mul(a, v128.load32_splat(row0 + at));
      b = f32x4.mul(less4(b, v128.load32_splat(row1 + at), a), v128.load32_splat(row1 + at, 4));
      c = less4(less4(c, v128.load32_splat(row2 + at), a), v128.load32_splat(row2 + at, 4), b);
      c = f32x4.mul(c, v128.load32_splat(row2 + at, 8));
      d = less4(less4(d, v128.load32_splat(row3 + at), a), v128.load32_splat(row3 + at, 4), b);
      d = f32x4.mul(less4(d, v128.load32_splat(row3 + at, 8), c), v128.load32_splat(row3 + at, 12));
      v128.store(own0, a);
      v128.store(own0, b, 16);
      v128.store(own0, c, 32);
      v128.store(own0, d, 48);
    }
    for (let i = N - 4; i >= 0; i -= 4) {
      const row0 = L + <usize>(2 * i * (i + 1));
      const row1 = row0 + <usize>(4 * (i + 1));
      const row2 = row1 + <usize>(4 * (i + 2));
      const row3 = row2 + <usize>(4 * (i + 3));
      const own0 = work + (<usize>i << 4);
      const at = <usize>i << 2;
      const d = f32x4.mul(v128.load(own0, 48), v128.load32_splat(row3 + at, 12));
      let c = less4(v128.load(own0, 32), v128.load32_splat(row3 + at, 8), d);
      c = f32x4.mul(c, v128.load32_splat(row2 + at, 8));
      let b = less4(less4(v128.load(own0, 16), v128.load32_splat(row3 + at, 4), d), v128.load32_splat(row2 + at, 4), c);
      b = f32x4.mul(b, v128.load32_splat(row1 + at, 4));
      let a = less4(less4(v128.load(own0), v128.load32_splat(row3 + at), d), v128.load32_splat(row2 + at), c);
      a = f32x4.mul(less4(a, v128.load32_splat(row1 + at), b), v128.load32_splat(row0 + at));
      v128.store(own0, a);
      v128.store(own0, b, 16);
      v128.store(own0, c, 32);
      v128.store(own0, d, 48);
      for (let j = 0; j < i; j++) {
        const column = <usize>j << 2;
        const above = work + (<usize>j << 4);
        let y = less4(v128.load(above), v128.load32_splat(row0 + column), a);
        y = less4(y, v128.load32_splat(row1 + column), b);
        let z2 = f32x4.mul(v128.load32_splat(row2 + column), c);
        z2 = fma4(z2, v128.load32_splat(row3 + column), d);
        v128.store(above, f32x4.sub(y, z2));
      }
    }
    for (let a = 0; a < 20; a++) {
      const sum = z + <usize>int(own, a) * 48;
      const local = work + <usize>(48 * a);
      v128.store(sum, f32x4.add(v128.load(sum), v128.load(local)));
      v128.store(sum + 16, f32x4.add(v128.load(sum + 16), v128.load(local + 16)));
      v128.store(sum + 32, f32x4.add(v128.load(sum + 32), v128.load(local + 32)));
    }
  }
}

/** The product below with matrix and vectors in f32, for the preconditioner: half of what has to be read. */
export function multiplySingle(
  from: i32, to: i32, rowStart: usize, columns: usize, values: usize, x: usize, y: usize, beyond: usize, end: i32,
): void {
  memory.fill(y + <usize>from * 48, 0, <usize>(to - from) * 48);
  if (end > to) memory.fill(beyond + <usize>to * 48, 0, <usize>(end - to) * 48);
  let k = int(rowStart, from);
  let block = values + <usize>k * 36;
  for (let row = from; row < to; row++) {
    const own = x + <usize>row * 48;
    const o0 = v128.load(own);
    const o1 = v128.load(own, 16);
    const o2 = v128.load(own, 32);
    const out = y + <usize>row * 48;
    let a = v128.load(out);
    let b = v128.load(out, 16);
    let c = v128.load(out, 32);
    // The diagonal block comes first: it is met once.
    a = fma4(fma4(fma4(a, v128.load32_splat(block), o0), v128.load32_splat(block, 4), o1), v128.load32_splat(block, 8), o2);
    b = fma4(fma4(fma4(b, v128.load32_splat(block, 12), o0), v128.load32_splat(block, 16), o1), v128.load32_splat(block, 20), o2);
    c = fma4(fma4(fma4(c, v128.load32_splat(block, 24), o0), v128.load32_splat(block, 28), o1), v128.load32_splat(block, 32), o2);
    block += 36;
    k++;
    for (const last = int(rowStart, row + 1); k < last; k++) {
      const column = int(columns, k);
      const other = x + <usize>column * 48;
      const x0 = v128.load(other);
      const x1 = v128.load(other, 16);
      const x2 = v128.load(other, 32);
      const sum = (column < to ? y : beyond) + <usize>column * 48;
      let s0 = v128.load(sum);
      let s1 = v128.load(sum, 16);
      let s2 = v128.load(sum, 32);
      let m = v128.load32_splat(block);
      a = fma4(a, m, x0);
      s0 = fma4(s0, m, o0);
      m = v128.load32_splat(block, 4);
      a = fma4(a, m, x1);
      s1 = fma4(s1, m, o0);
      m = v128.load32_splat(block, 8);
      a = fma4(a, m, x2);
      s2 = fma4(s2, m, o0);
      m = v128.load32_splat(block, 12);
      b = fma4(b, m, x0);
      s0 = fma4(s0, m, o1);
      m = v128.load32_splat(block, 16);
      b = fma4(b, m, x1);
      s1 = fma4(s1, m, o1);
      m = v128.load32_splat(block, 20);
      b = fma4(b, m, x2);
      s2 = fma4(s2, m, o1);
      m = v128.load32_splat(block, 24);
      c = fma4(c, m, x0);
      s0 = fma4(s0, m, o2);
      m = v128.load32_splat(block, 28);
      c = fma4(c, m, x1);
      s1 = fma4(s1, m, o2);
      m = v128.load32_splat(block, 32);
      c = fma4(c, m, x2);
      s2 = fma4(s2, m, o2);
      v128.store(sum, s0);
      v128.store(sum, s1, 16);
      v128.store(sum, s2, 32);
      block += 36;
    }
    v128.store(out, a);
    v128.store(out, b, 16);
    v128.store(out, c, 32);
  }
}

/** y = p x + q y in f32. */
export function combineSingle(y: usize, x: usize, p: f32, q: f32, n: i32): void {
  const vp = f32x4.splat(p);
  const vq = f32x4.splat(q);
  for (let i = 0; i < n; i++) {
    const at = <usize>i << 4;
    v128.store(y + at, fma4(f32x4.mul(vq, v128.load(y + at)), vp, v128.load(x + at)));
  }
}

/** n numbers from f64 to f32, n a multiple of 4. */
export function demote(from: usize, to: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    const low = f32x4.demote_f64x2_zero(v128.load(from + (<usize>i << 3)));
    const high = f32x4.demote_f64x2_zero(v128.load(from + (<usize>i << 3) + 16));
    v128.store(to + (<usize>i << 2), v128.shuffle<i32>(low, high, 0, 1, 4, 5));
  }
}

/** n numbers from f32 to f64, n a multiple of 4. */
export function promote(from: usize, to: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    const x = v128.load(from + (<usize>i << 2));
    v128.store(to + (<usize>i << 3), f64x2.promote_low_f32x4(x));
    v128.store(to + (<usize>i << 3) + 16, f64x2.promote_low_f32x4(v128.shuffle<i32>(x, x, 2, 3, 2, 3)));
  }
}

/**
 * y = A x by rows from .. to - 1 of a symmetric block-compressed matrix (3 x 3 blocks on and right of the diagonal):
 * what these rows add to rows to .. end - 1 goes to `beyond`, which is addressed like y.
 */
export function multiply(
  from: i32, to: i32, rowStart: usize, columns: usize, values: usize, x: usize, y: usize, beyond: usize, end: i32,
): void {
  memory.fill(y + <usize>from * 96, 0, <usize>(to - from) * 96);
  if (end > to) memory.fill(beyond + <usize>to * 96, 0, <usize>(end - to) * 96);
  for (let row = from; row < to; row++) {
    const own = x + <usize>row * 96;
    const out = y + <usize>row * 96;
    for (let k = int(rowStart, row); k < int(rowStart, row + 1); k++) {
      const column = int(columns, k);
      const block = values + <usize>k * 72;
      const other = x + <usize>column * 96;
      const sum = (column < to ? y : beyond) + <usize>column * 96;
      for (let half: usize = 0; half < 32; half += 16) {
        const x0 = v128.load(other + half);
        const x1 = v128.load(other + half, 32);
        const x2 = v128.load(other + half, 64);
        const m0 = v128.load64_splat(block);
        const m1 = v128.load64_splat(block, 8);
        const m2 = v128.load64_splat(block, 16);
        let a = v128.load(out + half);
        a = fma2(fma2(fma2(a, m0, x0), m1, x1), m2, x2);
        v128.store(out + half, a);
        const n0 = v128.load64_splat(block, 24);
        const n1 = v128.load64_splat(block, 32);
        const n2 = v128.load64_splat(block, 40);
        a = v128.load(out + half, 32);
        a = fma2(fma2(fma2(a, n0, x0), n1, x1), n2, x2);
        v128.store(out + half, a, 32);
        const p0 = v128.load64_splat(block, 48);
        const p1 = v128.load64_splat(block, 56);
        const p2 = v128.load64_splat(block, 64);
        a = v128.load(out + half, 64);
        a = fma2(fma2(fma2(a, p0, x0), p1, x1), p2, x2);
        v128.store(out + half, a, 64);
        if (column === row) continue;
        const o0 = v128.load(own + half);
        const o1 = v128.load(own + half, 32);
        const o2 = v128.load(own + half, 64);
        v128.store(sum + half, fma2(fma2(fma2(v128.load(sum + half), m0, o0), n0, o1), p0, o2));
        v128.store(sum + half, fma2(fma2(fma2(v128.load(sum + half, 32), m1, o0), n1, o1), p1, o2), 32);
        v128.store(sum + half, fma2(fma2(fma2(v128.load(sum + half, 64), m2, o0), n2, o1), p2, o2), 64);
      }
    }
  }
}

/** out (4) = a . b lane by lane, n degrees of freedom. */
export function dot(a: usize, b: usize, n: i32, out: usize): void {
  let s0 = f64x2.splat(0);
  let s1 = s0;
  for (let i = 0; i < n; i++) {
    const at = <usize>i << 5;
    s0 = fma2(s0, v128.load(a + at), v128.load(b + at));
    s1 = fma2(s1, v128.load(a + at + 16), v128.load(b + at + 16));
  }
  v128.store(out, s0);
  v128.store(out + 16, s1);
}

/** y = p x + q y lane by lane; p and q are 4 f64 each. */
export function combine(y: usize, x: usize, p: usize, q: usize, n: i32): void {
  const p0 = v128.load(p);
  const p1 = v128.load(p + 16);
  const q0 = v128.load(q);
  const q1 = v128.load(q + 16);
  for (let i = 0; i < n; i++) {
    const at = <usize>i << 5;
    v128.store(y + at, fma2(f64x2.mul(q0, v128.load(y + at)), p0, v128.load(x + at)));
    v128.store(y + at + 16, fma2(f64x2.mul(q1, v128.load(y + at + 16)), p1, v128.load(x + at + 16)));
  }
}

/** coarse (f64) += PT fine (f32), where every node follows its two parents half and half. */
export function restrict(n: i32, parents: usize, fine: usize, coarse: usize): void {
  const half = f64x2.splat(0.5);
  for (let i = 0; i < n; i++)
    for (let d: usize = 0; d < 3; d++) {
      const x = v128.load(fine + <usize>i * 48 + 16 * d);
      const low = f64x2.mul(half, f64x2.promote_low_f32x4(x));
      const high = f64x2.mul(half, f64x2.promote_low_f32x4(v128.shuffle<i32>(x, x, 2, 3, 2, 3)));
      for (let end = 0; end < 2; end++) {
        const to = coarse + <usize>int(parents, 2 * i + end) * 96 + 32 * d;
        v128.store(to, f64x2.add(v128.load(to), low));
        v128.store(to + 16, f64x2.add(v128.load(to + 16), high));
      }
    }
}

/** fine (f32) = P coarse (f64). */
export function prolong(n: i32, parents: usize, coarse: usize, fine: usize): void {
  const half = f64x2.splat(0.5);
  for (let i = 0; i < n; i++) {
    const a = coarse + <usize>int(parents, 2 * i) * 96;
    const b = coarse + <usize>int(parents, 2 * i + 1) * 96;
    for (let d: usize = 0; d < 3; d++) {
      const low = f64x2.mul(half, f64x2.add(v128.load(a + 32 * d), v128.load(b + 32 * d)));
      const high = f64x2.mul(half, f64x2.add(v128.load(a + 32 * d + 16), v128.load(b + 32 * d + 16)));
      v128.store(
        fine + <usize>i * 48 + 16 * d,
        v128.shuffle<i32>(f32x4.demote_f64x2_zero(low), f32x4.demote_f64x2_zero(high), 0, 1, 4, 5),
      );
    }
  }
}

/** Takes three sums off a row at column j; `last` is a column that their pairs have left out, -1 for none. */
// @ts-ignore: decorator
@inline
function lessen(row: usize, j: i32, a: v128, b: v128, c: v128, last: i32, rj: usize, sj: usize, tj: usize): void {
  let x = f64x2.extract_lane(a, 0) + f64x2.extract_lane(a, 1);
  let y = f64x2.extract_lane(b, 0) + f64x2.extract_lane(b, 1);
  let z = f64x2.extract_lane(c, 0) + f64x2.extract_lane(c, 1);
  if (last >= 0) {
    const own = get(row, last);
    x += own * get(rj, last);
    y += own * get(sj, last);
    z += own * get(tj, last);
  }
  set(row, j, get(row, j) - x);
  set(row, j + 1, get(row, j + 1) - y);
  set(row, j + 2, get(row, j + 2) - z);
}

/** Words of a front in a table of fronts. */
const FRONT: i32 = 10;

/**
 * Factors of fronts from .. to - 1 (children first). Ten words a front: its nodes (their number, how many are its
 * own, their address), its panel, the places of its unknowns, the elements of a leaf (address, number) or its
 * two children (-1: none), and where its Schur complement goes, which may be where those of its children lie.
 * `F` holds the largest front, `index` its unknowns, `place` one word a node. `matrices` are those of all elements.
 * Returns the first front that is not positive, else -1.
 */
export function factorFronts(
  table: usize, from: i32, to: i32, F: usize, index: usize, place: usize, nodes: usize, perElement: i32,
  matrices: usize,
): i32 {
  for (let f = from; f < to; f++) {
    const own = table + <usize>(FRONT * f) * 4;
    const m = 3 * int(own, 0);
    const k = 3 * int(own, 1);
    memory.fill(F, 0, <usize>m * <usize>m * 8);
    for (let i = 0; i < int(own, 0); i++)
      store<i32>(place + (<usize>int(address(own, 2), i) << 2), 3 * i);
    for (let i = 0; i < int(own, 6); i++) {
      const e = <usize>int(address(own, 5), i);
      const side = 3 * perElement;
      spread(nodes + e * <usize>(4 * perElement), perElement, place, index);
      addFront(F, m, matrices + e * <usize>(side * side * 8), side, side, index);
    }
    for (let c = 8; c >= 7; c--) {
      if (int(own, c) < 0) continue;
      const child = table + <usize>(FRONT * int(own, c)) * 4;
      const n = int(child, 0) - int(child, 1);
      spread(address(child, 2) + (<usize>int(child, 1) << 2), n, place, index);
      addFront(F, m, address(child, 9), 3 * n, 3 * n, index);
    }
    if (factorFront(F, m, k) >= 0) return f;
    const panel = address(own, 3);
    const schur = address(own, 9);
    for (let i: usize = 0; i < <usize>m; i++) memory.copy(panel + 8 * i * k, F + 8 * i * m, 8 * k);
    for (let i: usize = k; i < <usize>m; i++)
      memory.copy(schur + 8 * (i - k) * (m - k), F + 8 * (i * m + k), 8 * (m - k));
  }
  return -1;
}

/** Places of the three unknowns of each of n nodes. */
function spread(nodes: usize, n: i32, place: usize, index: usize): void {
  for (let i = 0; i < n; i++) {
    const first = int(place, int(nodes, i));
    for (let d = 0; d < 3; d++) store<i32>(index + (<usize>(3 * i + d) << 2), first + d);
  }
}

/** Forward steps of fronts from .. to - 1, then backward steps from the last to the first. */
export function forwardFronts(table: usize, from: i32, to: i32, x: usize, work: usize): void {
  for (let f = from; f < to; f++) {
    const own = table + <usize>(FRONT * f) * 4;
    frontForward(address(own, 3), 3 * int(own, 0), 3 * int(own, 1), address(own, 4), x, work);
  }
}
export function backwardFronts(table: usize, from: i32, to: i32, x: usize, work: usize): void {
  for (let f = to - 1; f >= from; f--) {
    const own = table + <usize>(FRONT * f) * 4;
    frontBackward(address(own, 3), 3 * int(own, 0), 3 * int(own, 1), address(own, 4), x, work);
  }
}

/** Sum of products of two rows over columns from .. to - 1. */
// @ts-ignore: decorator
@inline
function rowProduct(ri: usize, rj: usize, from: i32, to: i32): f64 {
  let acc = f64x2.splat(0);
  let p = from;
  for (; p + 1 < to; p += 2) acc = fma2(acc, v128.load(ri + (<usize>p << 3)), v128.load(rj + (<usize>p << 3)));
  const sum = f64x2.extract_lane(acc, 0) + f64x2.extract_lane(acc, 1);
  return p < to ? sum + get(ri, p) * get(rj, p) : sum;
}

/** Column j of a row: less the pairs summed up and the product of column p with `last`, times the inverse diagonal. */
// @ts-ignore: decorator
@inline
function finish(row: usize, j: i32, sum: v128, last: f64, p: i32, inverse: f64): void {
  const products = f64x2.extract_lane(sum, 0) + f64x2.extract_lane(sum, 1) + last * get(row, p);
  set(row, j, (get(row, j) - products) * inverse);
}

/**
 * Cholesky of the first k columns of a front F (m x m by rows, lower half) and the Schur complement of the
 * rest, in place. The diagonal holds inverses afterwards. Returns the column where it fails, or -1.
 */
function factorFront(F: usize, m: i32, k: i32): i32 {
  const BLOCK = 48;
  const stride = <usize>m << 3;
  for (let from = 0; from < k; from += BLOCK) {
    const to = min(from + BLOCK, k);
    for (let j = from; j < to; j++) {
      const rj = F + <usize>j * stride;
      const diagonal = get(rj, j);
      const v = diagonal - rowProduct(rj, rj, from, j);
      if (!(v > 1e-12 * diagonal)) return j;
      const inverse = 1 / Math.sqrt(v);
      set(rj, j, inverse);
      // Four rows at once: one sum alone would wait for itself.
      let i = j + 1;
      for (; i + 3 < m; i += 4) {
        const ri = F + <usize>i * stride;
        const si = ri + stride;
        const ti = si + stride;
        const ui = ti + stride;
        let r = f64x2.splat(0);
        let s = r;
        let t = r;
        let u = r;
        let p = from;
        for (; p + 1 < j; p += 2) {
          const at = <usize>p << 3;
          const w = v128.load(rj + at);
          r = fma2(r, v128.load(ri + at), w);
          s = fma2(s, v128.load(si + at), w);
          t = fma2(t, v128.load(ti + at), w);
          u = fma2(u, v128.load(ui + at), w);
        }
        const last = p < j ? get(rj, p) : 0;
        finish(ri, j, r, last, p, inverse);
        finish(si, j, s, last, p, inverse);
        finish(ti, j, t, last, p, inverse);
        finish(ui, j, u, last, p, inverse);
      }
      for (; i < m; i++) {
        const ri = F + <usize>i * stride;
        set(ri, j, (get(ri, j) - rowProduct(ri, rj, from, j)) * inverse);
      }
    }
    // Three rows by three: nine sums fill the registers.
    let i = to;
    for (; i + 2 < m; i += 3) {
      const ri = F + <usize>i * stride;
      const si = ri + stride;
      const ti = si + stride;
      for (let j = to; j <= i; j += 3) {
        const rj = F + <usize>j * stride;
        const sj = rj + stride;
        const tj = sj + stride;
        let rr = f64x2.splat(0);
        let rs = rr;
        let rt = rr;
        let sr = rr;
        let ss = rr;
        let st = rr;
        let tr = rr;
        let ts = rr;
        let tt = rr;
        let p = from;
        for (; p + 1 < to; p += 2) {
          const at = <usize>p << 3;
          const u = v128.load(rj + at);
          const v = v128.load(sj + at);
          const w = v128.load(tj + at);
          const x = v128.load(ri + at);
          rr = fma2(rr, x, u);
          rs = fma2(rs, x, v);
          rt = fma2(rt, x, w);
          const y = v128.load(si + at);
          sr = fma2(sr, y, u);
          ss = fma2(ss, y, v);
          st = fma2(st, y, w);
          const z = v128.load(ti + at);
          tr = fma2(tr, z, u);
          ts = fma2(ts, z, v);
          tt = fma2(tt, z, w);
        }
        lessen(ri, j, rr, rs, rt, p < to ? p : -1, rj, sj, tj);
        lessen(si, j, sr, ss, st, p < to ? p : -1, rj, sj, tj);
        lessen(ti, j, tr, ts, tt, p < to ? p : -1, rj, sj, tj);
      }
    }
    for (; i < m; i++) {
      const ri = F + <usize>i * stride;
      for (let j = to; j <= i; j++) {
        const rj = F + <usize>j * stride;
        let sum: f64 = 0;
        for (let p = from; p < to; p++) sum += get(ri, p) * get(rj, p);
        set(ri, j, get(ri, j) - sum);
      }
    }
  }
  return -1;
}

/** F[at[i]][at[j]] += S[i][j] over the lower half of S (n x n by rows, `stride` apart); `at` may be in any order. */
function addFront(F: usize, m: i32, S: usize, stride: i32, n: i32, at: usize): void {
  for (let i = 0; i < n; i++) {
    const row = int(at, i);
    for (let j = 0; j <= i; j++) {
      const column = int(at, j);
      const k = row > column ? row * m + column : column * m + row;
      set(F, k, get(F, k) + get(S, i * stride + j));
    }
  }
}

/** Forward step of one front: panel (m x k by rows), x at the places `index`. `work` holds k x 4 f64. */
function frontForward(panel: usize, m: i32, k: i32, index: usize, x: usize, work: usize): void {
  const stride = <usize>k << 3;
  let at = panel;
  for (let i = 0; i < k; i++) {
    const to = x + (<usize>int(index, i) << 5);
    let s0 = v128.load(to);
    let s1 = v128.load(to, 16);
    for (let j = 0; j < i; j++) {
      const l = v128.load64_splat(at + (<usize>j << 3));
      const y = work + (<usize>j << 5);
      s0 = less2(s0, l, v128.load(y));
      s1 = less2(s1, l, v128.load(y, 16));
    }
    const inverse = v128.load64_splat(at + (<usize>i << 3));
    s0 = f64x2.mul(s0, inverse);
    s1 = f64x2.mul(s1, inverse);
    const y = work + (<usize>i << 5);
    v128.store(y, s0);
    v128.store(y, s1, 16);
    v128.store(to, s0);
    v128.store(to, s1, 16);
    at += stride;
  }
  // Nodes come whole: three rows at a time.
  for (let i = k; i < m; i += 3) {
    const toA = x + (<usize>int(index, i) << 5);
    const toB = x + (<usize>int(index, i + 1) << 5);
    const toC = x + (<usize>int(index, i + 2) << 5);
    let a0 = v128.load(toA);
    let a1 = v128.load(toA, 16);
    let b0 = v128.load(toB);
    let b1 = v128.load(toB, 16);
    let c0 = v128.load(toC);
    let c1 = v128.load(toC, 16);
    for (let j = 0; j < k; j++) {
      const l = at + (<usize>j << 3);
      const y = work + (<usize>j << 5);
      const y0 = v128.load(y);
      const y1 = v128.load(y, 16);
      const la = v128.load64_splat(l);
      const lb = v128.load64_splat(l + stride);
      const lc = v128.load64_splat(l + 2 * stride);
      a0 = less2(a0, la, y0);
      a1 = less2(a1, la, y1);
      b0 = less2(b0, lb, y0);
      b1 = less2(b1, lb, y1);
      c0 = less2(c0, lc, y0);
      c1 = less2(c1, lc, y1);
    }
    v128.store(toA, a0);
    v128.store(toA, a1, 16);
    v128.store(toB, b0);
    v128.store(toB, b1, 16);
    v128.store(toC, c0);
    v128.store(toC, c1, 16);
    at += 3 * stride;
  }
}

/** Backward step of one front. */
function frontBackward(panel: usize, m: i32, k: i32, index: usize, x: usize, work: usize): void {
  const stride = <usize>k << 3;
  for (let i = 0; i < k; i++) {
    const from = x + (<usize>int(index, i) << 5);
    const y = work + (<usize>i << 5);
    v128.store(y, v128.load(from));
    v128.store(y, v128.load(from, 16), 16);
  }
  let row = panel + <usize>k * stride;
  for (let i = k; i < m; i += 3) {
    const fromA = x + (<usize>int(index, i) << 5);
    const fromB = x + (<usize>int(index, i + 1) << 5);
    const fromC = x + (<usize>int(index, i + 2) << 5);
    const a0 = v128.load(fromA);
    const a1 = v128.load(fromA, 16);
    const b0 = v128.load(fromB);
    const b1 = v128.load(fromB, 16);
    const c0 = v128.load(fromC);
    const c1 = v128.load(fromC, 16);
    for (let j = 0; j < k; j++) {
      const l = row + (<usize>j << 3);
      const la = v128.load64_splat(l);
      const lb = v128.load64_splat(l + stride);
      const lc = v128.load64_splat(l + 2 * stride);
      const y = work + (<usize>j << 5);
      v128.store(y, less2(less2(less2(v128.load(y), la, a0), lb, b0), lc, c0));
      v128.store(y, less2(less2(less2(v128.load(y, 16), la, a1), lb, b1), lc, c1), 16);
    }
    row += 3 * stride;
  }
  for (let i = k - 1; i >= 0; i--) {
    const own = panel + <usize>i * stride;
    const inverse = v128.load64_splat(own + (<usize>i << 3));
    const y = work + (<usize>i << 5);
    const x0 = f64x2.mul(v128.load(y), inverse);
    const x1 = f64x2.mul(v128.load(y, 16), inverse);
    const to = x + (<usize>int(index, i) << 5);
    v128.store(to, x0);
    v128.store(to, x1, 16);
    for (let j = 0; j < i; j++) {
      const l = v128.load64_splat(own + (<usize>j << 3));
      const z = work + (<usize>j << 5);
      v128.store(z, less2(v128.load(z), l, x0));
      v128.store(z, less2(v128.load(z, 16), l, x1), 16);
    }
  }
}

/** Terms of a full quadratic in three coordinates, and components of a strain. */
const TERMS: i32 = 10;
const STRAINS: i32 = 6;

/**
 * Quadratics through the strains of samples around cells: weighted least squares about the middle of elements
 * from .. to - 1, with weights (1 - r2)2 within `reach` (in cells). `given` holds the addresses of: nodes of the
 * elements, where each node's elements start, these elements, where each element's samples start, places (3 f64 a
 * sample, in cells), strains (6), corners of the elements' cells (3 f64), fits. A fit has 10 numbers a component; they are NaN where there is
 * no sample around. `scratch` holds 176 f64, `seen` a word an element, -1 at first.
 */
export function fitStrains(from: i32, to: i32, given: usize, reach: f64, scratch: usize, seen: usize): void {
  const A = scratch;
  const b = A + TERMS * TERMS * 8;
  const terms = b + TERMS * STRAINS * 8;
  for (let e = from; e < to; e++) {
    memory.fill(A, 0, TERMS * (TERMS + STRAINS) * 8);
    const middle = address(given, 6) + <usize>e * 24;
    const total = gather(e, given, reach, middle, A, b, terms, seen);
    const fit = address(given, 7) + <usize>e * (TERMS * STRAINS * 8);
    if (!(total > 0)) {
      for (let k = 0; k < TERMS * STRAINS; k++) set(fit, k, NaN);
      continue;
    }
    // Where points lie in a plane or on a line the higher terms are left at rest.
    for (let i = 1; i < TERMS; i++) set(A, 11 * i, get(A, 11 * i) + (i < 4 ? 1e-9 : 1e-5) * total);
    solveFit(A, b);
    for (let k = 0; k < STRAINS; k++) for (let t = 0; t < TERMS; t++) set(fit, TERMS * k + t, get(b, STRAINS * t + k));
  }
}

/** Adds up the normal equations of one fit: A (lower half) and b (6 a term). Returns the sum of weights. */
function gather(
  e: i32, given: usize, reach: f64, middle: usize, A: usize, b: usize, terms: usize, seen: usize,
): f64 {
  let total: f64 = 0;
  for (let a = 0; a < 20; a++) {
    const node = int(address(given, 0), 20 * e + a);
    for (let o = int(address(given, 1), node); o < int(address(given, 1), node + 1); o++) {
      const other = int(address(given, 2), o);
      const mark = seen + (<usize>other << 2);
      if (load<i32>(mark) == e) continue;
      store<i32>(mark, e);
      for (let s = int(address(given, 3), other); s < int(address(given, 3), other + 1); s++) {
        const place = address(given, 4) + <usize>s * 24;
        const u = get(place, 0) - get(middle, 0) - 0.5;
        const v = get(place, 1) - get(middle, 1) - 0.5;
        const w = get(place, 2) - get(middle, 2) - 0.5;
        const r2 = (u * u + v * v + w * w) / (reach * reach);
        if (r2 >= 1) continue;
        const weight = (1 - r2) * (1 - r2);
        total += weight;
        quadratic(u, v, w, terms);
        const strain = address(given, 5) + <usize>s * 48;
        const s0 = v128.load(strain);
        const s1 = v128.load(strain, 16);
        const s2 = v128.load(strain, 32);
        for (let i = 0; i < TERMS; i++) {
          const wi = f64x2.splat(weight * get(terms, i));
          const row = A + <usize>(TERMS * i * 8);
          for (let j: usize = 0; j <= <usize>i; j += 2)
            v128.store(row + 8 * j, fma2(v128.load(row + 8 * j), wi, v128.load(terms + 8 * j)));
          const right = b + <usize>(STRAINS * i * 8);
          v128.store(right, fma2(v128.load(right), wi, s0));
          v128.store(right, fma2(v128.load(right, 16), wi, s1), 16);
          v128.store(right, fma2(v128.load(right, 32), wi, s2), 32);
        }
      }
    }
  }
  return total;
}

function quadratic(u: f64, v: f64, w: f64, out: usize): void {
  set(out, 0, 1);
  set(out, 1, u);
  set(out, 2, v);
  set(out, 3, w);
  set(out, 4, u * u);
  set(out, 5, v * v);
  set(out, 6, w * w);
  set(out, 7, u * v);
  set(out, 8, v * w);
  set(out, 9, u * w);
}

/** x of A x = b (10 x 10, 6 right sides beside each other) by Cholesky, in place; the lower half of A is overwritten. */
function solveFit(A: usize, b: usize): void {
  for (let j = 0; j < TERMS; j++)
    for (let i = j; i < TERMS; i++) {
      let sum = get(A, TERMS * i + j);
      for (let k = 0; k < j; k++) sum -= get(A, TERMS * i + k) * get(A, TERMS * j + k);
      set(A, TERMS * i + j, i == j ? Math.sqrt(sum) : sum / get(A, TERMS * j + j));
    }
  for (let i = 0; i < TERMS; i++) {
    for (let k = 0; k < i; k++) takeOff(b, i, k, get(A, TERMS * i + k));
    scaleRow(b, i, 1 / get(A, TERMS * i + i));
  }
  for (let i = TERMS - 1; i >= 0; i--) {
    for (let k = i + 1; k < TERMS; k++) takeOff(b, i, k, get(A, TERMS * k + i));
    scaleRow(b, i, 1 / get(A, TERMS * i + i));
  }
}

/** Row i of the right sides less `times` row k. */
// @ts-ignore: decorator
@inline
function takeOff(b: usize, i: i32, k: i32, times: f64): void {
  for (let c = 0; c < STRAINS; c++)
    set(b, STRAINS * i + c, get(b, STRAINS * i + c) - times * get(b, STRAINS * k + c));
}
// @ts-ignore: decorator
@inline
function scaleRow(b: usize, i: i32, by: f64): void {
  for (let c = 0; c < STRAINS; c++) set(b, STRAINS * i + c, by * get(b, STRAINS * i + c));
}
