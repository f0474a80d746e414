// AssemblyScript, compiled by scripts/kernels.mjs with SIMD: the dense and sparse loops of the structural
// solve (src/core/solvers/warp). Four load cases ("lanes") lie side by side: a vector has 4 f64 a degree of
// freedom, so one pass over a matrix serves all of them.

const N: i32 = 60;

// @ts-ignore: decorator
@inline
function int(p: usize, i: i32): i32 {
  return load<i32>(p + (<usize>i << 2));
}
// @ts-ignore: decorator
@inline
function get(p: usize, i: i32): f64 {
  return load<f64>(p + (<usize>i << 3));
}
// @ts-ignore: decorator
@inline
function set(p: usize, i: i32, v: f64): void {
  store<f64>(p + (<usize>i << 3), v);
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

/** Adds an element's matrix to the rows of its nodes: 3 x 3 blocks of a block-compressed matrix. `marker` has one i32 a node. */
export function assemble(K: usize, nodes: usize, rowStart: usize, columns: usize, values: usize, marker: usize): void {
  for (let a = 0; a < 20; a++) {
    const row = int(nodes, a);
    for (let k = int(rowStart, row); k < int(rowStart, row + 1); k++)
      store<i32>(marker + (<usize>int(columns, k) << 2), k);
    for (let b = 0; b < 20; b++) {
      const block = values + <usize>int(marker, int(nodes, b)) * 72;
      for (let i = 0; i < 3; i++)
        for (let j = 0; j < 3; j++) set(block, 3 * i + j, get(block, 3 * i + j) + get(K, (3 * a + i) * N + 3 * b + j));
    }
  }
}

/** The 24 x 24 matrix of an element on its corners alone: middles of edges follow their ends. */
export function onCorners(K: usize, C: usize): void {
  memory.fill(C, 0, 24 * 24 * 8);
  for (let a = 0; a < 20; a++)
    for (let b = 0; b < 20; b++)
      for (let ends = 0; ends < 4; ends++) {
        const ca = corner(a, ends & 1);
        const cb = corner(b, ends >> 1);
        for (let i = 0; i < 3; i++)
          for (let j = 0; j < 3; j++) {
            const k = (3 * ca + i) * 24 + 3 * cb + j;
            set(C, k, get(C, k) + 0.25 * get(K, (3 * a + i) * N + 3 * b + j));
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

/**
 * Cholesky factor of the assembled matrix over the nodes of one element, packed by rows in f32 with the
 * inverse of the diagonal. `scratch` holds 60 x 60 f64 and 60 f64 more. Returns false where it is not positive.
 */
export function factorBlock(
  nodes: usize, rowStart: usize, columns: usize, values: usize, marker: usize, scratch: usize, factor: usize,
): bool {
  const scale = scratch + N * N * 8;
  for (let a = 0; a < 20; a++) {
    const row = int(nodes, a);
    for (let k = int(rowStart, row); k < int(rowStart, row + 1); k++)
      store<i32>(marker + (<usize>int(columns, k) << 2), k);
    for (let b = 0; b <= a; b++) {
      const block = values + <usize>int(marker, int(nodes, b)) * 72;
      for (let i = 0; i < 3; i++)
        for (let j = 0; j < 3; j++) set(scratch, (3 * a + i) * N + 3 * b + j, get(block, 3 * i + j));
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
 * z += sum over the elements of their block's inverse times r: additive Schwarz over cells. Vectors of f32, four
 * lanes a degree of freedom. `work` holds 60 x 4 f32.
 */
export function schwarz(nElements: i32, nodes: usize, factors: usize, r: usize, z: usize, work: usize): void {
  for (let e = 0; e < nElements; e++) {
    const own = nodes + <usize>(e * 80);
    const L = factors + <usize>e * 7320;
    for (let a = 0; a < 20; a++) {
      const from = r + <usize>int(own, a) * 48;
      const to = work + <usize>(48 * a);
      v128.store(to, v128.load(from));
      v128.store(to + 16, v128.load(from + 16));
      v128.store(to + 32, v128.load(from + 32));
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
        const from = <usize>j << 2;
        const to = work + (<usize>j << 4);
        let y = less4(v128.load(to), v128.load32_splat(row0 + from), a);
        y = less4(y, v128.load32_splat(row1 + from), b);
        let z2 = f32x4.mul(v128.load32_splat(row2 + from), c);
        z2 = fma4(z2, v128.load32_splat(row3 + from), d);
        v128.store(to, f32x4.sub(y, z2));
      }
    }
    for (let a = 0; a < 20; a++) {
      const to = z + <usize>int(own, a) * 48;
      const from = work + <usize>(48 * a);
      v128.store(to, f32x4.add(v128.load(to), v128.load(from)));
      v128.store(to + 16, f32x4.add(v128.load(to + 16), v128.load(from + 16)));
      v128.store(to + 32, f32x4.add(v128.load(to + 32), v128.load(from + 32)));
    }
  }
}

/** The same matrix and vectors in f32 for the preconditioner: half of what has to be read. */
export function multiplySingle(n: i32, rowStart: usize, columns: usize, values: usize, x: usize, y: usize): void {
  let k = 0;
  let block = values;
  for (let row = 0; row < n; row++) {
    let a = f32x4.splat(0);
    let b = a;
    let c = a;
    for (const end = int(rowStart, row + 1); k < end; k++) {
      const from = x + <usize>int(columns, k) * 48;
      const x0 = v128.load(from);
      const x1 = v128.load(from + 16);
      const x2 = v128.load(from + 32);
      a = fma4(fma4(fma4(a, v128.load32_splat(block), x0), v128.load32_splat(block + 4), x1), v128.load32_splat(block + 8), x2);
      b = fma4(fma4(fma4(b, v128.load32_splat(block + 12), x0), v128.load32_splat(block + 16), x1), v128.load32_splat(block + 20), x2);
      c = fma4(fma4(fma4(c, v128.load32_splat(block + 24), x0), v128.load32_splat(block + 28), x1), v128.load32_splat(block + 32), x2);
      block += 36;
    }
    const to = y + <usize>row * 48;
    v128.store(to, a);
    v128.store(to + 16, b);
    v128.store(to + 32, c);
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

/** y = A x for a block-compressed matrix of n rows of 3 x 3 blocks. */
export function multiply(n: i32, rowStart: usize, columns: usize, values: usize, x: usize, y: usize): void {
  let k = 0;
  let block = values;
  for (let row = 0; row < n; row++) {
    let a0 = f64x2.splat(0);
    let a1 = a0;
    let b0 = a0;
    let b1 = a0;
    let c0 = a0;
    let c1 = a0;
    for (const end = int(rowStart, row + 1); k < end; k++) {
      const from = x + <usize>int(columns, k) * 96;
      for (let j = 0; j < 3; j++) {
        const x0 = v128.load(from + 32 * j);
        const x1 = v128.load(from + 32 * j + 16);
        const ma = v128.load64_splat(block + 8 * j);
        const mb = v128.load64_splat(block + 8 * j + 24);
        const mc = v128.load64_splat(block + 8 * j + 48);
        a0 = fma2(a0, ma, x0);
        a1 = fma2(a1, ma, x1);
        b0 = fma2(b0, mb, x0);
        b1 = fma2(b1, mb, x1);
        c0 = fma2(c0, mc, x0);
        c1 = fma2(c1, mc, x1);
      }
      block += 72;
    }
    const to = y + <usize>row * 96;
    v128.store(to, a0);
    v128.store(to + 16, a1);
    v128.store(to + 32, b0);
    v128.store(to + 48, b1);
    v128.store(to + 64, c0);
    v128.store(to + 80, c1);
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

/**
 * Cholesky of the first k columns of a front F (m x m by rows, lower half) and the Schur complement of the
 * rest, in place. The diagonal holds inverses afterwards. Returns the column where it fails, or -1.
 */
export function factorFront(F: usize, m: i32, k: i32): i32 {
  const BLOCK = 48;
  const stride = <usize>m << 3;
  for (let from = 0; from < k; from += BLOCK) {
    const to = min(from + BLOCK, k);
    for (let j = from; j < to; j++) {
      const rj = F + <usize>j * stride;
      for (let i = j; i < m; i++) {
        const ri = F + <usize>i * stride;
        let acc = f64x2.splat(0);
        let p = from;
        for (; p + 1 < j; p += 2) acc = fma2(acc, v128.load(ri + (<usize>p << 3)), v128.load(rj + (<usize>p << 3)));
        let sum = f64x2.extract_lane(acc, 0) + f64x2.extract_lane(acc, 1);
        if (p < j) sum += get(ri, p) * get(rj, p);
        const v = get(ri, j) - sum;
        if (i > j) set(ri, j, v * get(rj, j));
        else {
          if (!(v > 1e-12 * get(ri, j))) return j;
          set(rj, j, 1 / Math.sqrt(v));
        }
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
export function addFront(F: usize, m: i32, S: usize, stride: i32, n: i32, at: usize): void {
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
export function frontForward(panel: usize, m: i32, k: i32, index: usize, x: usize, work: usize): void {
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
export function frontBackward(panel: usize, m: i32, k: i32, index: usize, x: usize, work: usize): void {
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
