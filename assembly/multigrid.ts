// AssemblyScript, compiled by scripts/kernels.mjs: the solve phase of src/core/numerics/multigrid.ts,
// line by line. Without bounds checks the sparse loops run about four times as fast as in JavaScript.
//
// A level is a record of 16 i32 words: n, nCoarse, rowStart, rowSplit, columns, values, diagonal,
// 1/diagonal, aggregate, rc, xc, c1, v1, c2, v2, factor (0 but on a coarsest level solved directly).

import { get, int, set } from './memory';

const RECORD: usize = 64;
let base: usize = 0;
let nLevels: i32 = 0;

// @ts-ignore: decorator
@inline
function word(record: usize, i: usize): usize {
  return <usize>load<i32>(record + (i << 2));
}

function multiply(A: usize, x: usize, y: usize): void {
  const n = <i32>word(A, 0);
  const rowStart = word(A, 2);
  const columns = word(A, 4);
  const values = word(A, 5);
  const diagonal = word(A, 6);
  let k = 0;
  for (let i = 0; i < n; i++) {
    let sum = get(diagonal, i) * get(x, i);
    for (const end = int(rowStart, i + 1); k < end; k++) sum += get(values, k) * get(x, int(columns, k));
    set(y, i, sum);
  }
}

function dot(a: usize, b: usize, n: i32): f64 {
  let sum: f64 = 0;
  for (let i = 0; i < n; i++) sum += get(a, i) * get(b, i);
  return sum;
}

function forwardFromZero(L: usize, b: usize, x: usize): void {
  const n = <i32>word(L, 0);
  const rowStart = word(L, 2);
  const rowSplit = word(L, 3);
  const columns = word(L, 4);
  const values = word(L, 5);
  const inverse = word(L, 7);
  for (let i = 0; i < n; i++) {
    let sum = get(b, i);
    for (let k = int(rowStart, i), end = int(rowSplit, i); k < end; k++) sum -= get(values, k) * get(x, int(columns, k));
    set(x, i, sum * get(inverse, i));
  }
}

function restrictUpper(L: usize, x: usize): void {
  const n = <i32>word(L, 0);
  const rowStart = word(L, 2);
  const rowSplit = word(L, 3);
  const columns = word(L, 4);
  const values = word(L, 5);
  const aggregate = word(L, 8);
  const rc = word(L, 9);
  memory.fill(rc, 0, word(L, 1) << 3);
  for (let i = 0; i < n; i++) {
    const I = int(aggregate, i);
    if (I < 0) continue;
    let sum: f64 = 0;
    for (let k = int(rowSplit, i), end = int(rowStart, i + 1); k < end; k++) sum += get(values, k) * get(x, int(columns, k));
    set(rc, I, get(rc, I) - sum);
  }
}

function sweep(L: usize, b: usize, x: usize, forward: bool): void {
  const n = <i32>word(L, 0);
  const rowStart = word(L, 2);
  const columns = word(L, 4);
  const values = word(L, 5);
  const inverse = word(L, 7);
  for (let s = 0; s < n; s++) {
    const i = forward ? s : n - 1 - s;
    let sum = get(b, i);
    for (let k = int(rowStart, i), end = int(rowStart, i + 1); k < end; k++) sum -= get(values, k) * get(x, int(columns, k));
    set(x, i, sum * get(inverse, i));
  }
}

function direct(factor: usize, n: i32, b: usize, x: usize): void {
  for (let i = 0; i < n; i++) {
    let sum = get(b, i);
    for (let k = 0; k < i; k++) sum -= get(factor, i * n + k) * get(x, k);
    set(x, i, sum / get(factor, i * n + i));
  }
  for (let i = n - 1; i >= 0; i--) {
    let sum = get(x, i);
    for (let k = i + 1; k < n; k++) sum -= get(factor, k * n + i) * get(x, k);
    set(x, i, sum / get(factor, i * n + i));
  }
}

function cycle(l: i32, b: usize, x: usize): void {
  const L = base + <usize>l * RECORD;
  const n = <i32>word(L, 0);
  if (l == nLevels - 1) {
    const factor = word(L, 15);
    if (factor) direct(factor, n, b, x);
    else {
      memory.fill(x, 0, <usize>n << 3);
      for (let s = 0; s < 8; s++) {
        sweep(L, b, x, true);
        sweep(L, b, x, false);
      }
    }
    return;
  }
  forwardFromZero(L, b, x);
  restrictUpper(L, x);
  coarseSolve(l);
  const aggregate = word(L, 8);
  const xc = word(L, 10);
  for (let i = 0; i < n; i++) {
    const I = int(aggregate, i);
    if (I >= 0) set(x, i, get(x, i) + get(xc, I));
  }
  sweep(L, b, x, false);
}

function coarseSolve(l: i32): void {
  const L = base + <usize>l * RECORD;
  const n = <i32>word(L, 1);
  const rc = word(L, 9);
  const xc = word(L, 10);
  if (l + 1 == nLevels - 1) {
    cycle(l + 1, rc, xc);
    return;
  }
  const c1 = word(L, 11);
  const v1 = word(L, 12);
  const c2 = word(L, 13);
  const v2 = word(L, 14);
  const coarse = L + RECORD;
  const norm0 = dot(rc, rc, n);
  cycle(l + 1, rc, c1);
  multiply(coarse, c1, v1);
  const rho1 = dot(c1, v1, n);
  if (!(rho1 > 0)) {
    memory.copy(xc, c1, <usize>n << 3);
    return;
  }
  const alpha1 = dot(c1, rc, n) / rho1;
  for (let i = 0; i < n; i++) set(rc, i, get(rc, i) - alpha1 * get(v1, i));
  if (dot(rc, rc, n) <= 0.0625 * norm0) {
    for (let i = 0; i < n; i++) set(xc, i, alpha1 * get(c1, i));
    return;
  }
  cycle(l + 1, rc, c2);
  multiply(coarse, c2, v2);
  const gamma = dot(c2, v1, n);
  const rho2 = dot(c2, v2, n) - (gamma * gamma) / rho1;
  const alpha2 = rho2 > 0 ? dot(c2, rc, n) / rho2 : 0;
  const first = alpha1 - (gamma * alpha2) / rho1;
  for (let i = 0; i < n; i++) set(xc, i, first * get(c1, i) + alpha2 * get(c2, i));
}

/**
 * Flexible CG on the matrix record A with the hierarchy at `levels`. Vectors b, x, r, z, p, q of A's
 * length. Returns the iterations; |r| / |b| goes to `out`.
 */
export function solve(
  levels: usize,
  count: i32,
  A: usize,
  b: usize,
  x: usize,
  r: usize,
  z: usize,
  p: usize,
  q: usize,
  tolerance: f64,
  maxIterations: i32,
  out: usize,
): i32 {
  base = levels;
  nLevels = count;
  const n = <i32>word(A, 0);
  multiply(A, x, r);
  for (let i = 0; i < n; i++) {
    set(r, i, get(b, i) - get(r, i));
    set(p, i, 0);
  }
  let bNorm = Math.sqrt(dot(b, b, n));
  if (bNorm == 0) bNorm = 1;
  let rNorm = Math.sqrt(dot(r, r, n));
  let iterations = 0;
  let pq: f64 = 0;
  while (rNorm > tolerance * bNorm && iterations < maxIterations) {
    cycle(0, r, z);
    const beta = iterations == 0 ? 0 : dot(z, q, n) / pq;
    for (let i = 0; i < n; i++) set(p, i, get(z, i) - beta * get(p, i));
    multiply(A, p, q);
    pq = dot(p, q, n);
    if (!(pq > 0)) break;
    const alpha = dot(p, r, n) / pq;
    for (let i = 0; i < n; i++) {
      set(x, i, get(x, i) + alpha * get(p, i));
      set(r, i, get(r, i) - alpha * get(q, i));
    }
    rNorm = Math.sqrt(dot(r, r, n));
    iterations++;
  }
  store<f64>(out, rNorm / bNorm);
  return iterations;
}
