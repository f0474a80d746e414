// AssemblyScript, compiled by scripts/kernels.mjs: second and fourth moments of the directions of fibres, and how they follow a
// flow (src/core/material/fibres/orientation.ts and closure.ts, where the models are told). Symmetric tensors are six numbers: 11,
// 22, 33, 12, 23, 13; a skew one is 12, 13, 23.

import { BETA3, BETA4, BETA6, ORTHOTROPIC, ORTHOTROPIC_WIDE } from './closures';
import { get, set } from './memory';

// Closures, in the order of CLOSURES in closure.ts; interactions in that of INTERACTIONS in orientation.ts.
const QUADRATIC = 0;
const HYBRID = 1;
const NARROW = 2;
const WIDE = 3;
const EVEN = 0;
const FIVE = 1;

/**
 * Error of a step that is let be, root of the sum of its squares; first step and longest one, as strain. What would change by less in all
 * the strain that is left has come to rest.
 */
const FIRST_STEP: f64 = 1;
const LONGEST_STEP: f64 = 4;
const LEAST_STEP: f64 = 1e-3;
/** Share of the tolerance that counts as rest. */
const AT_REST: f64 = 1 / 3;
/** How a step follows from the error of the one before. */
const SAFETY: f64 = 0.8;
const MOST_GROWTH: f64 = 3;
const LEAST_GROWTH: f64 = 0.25;
/** Eigenvalues stay above this. */
const LEAST: f64 = 1e-9;
/** Difference of eigenvalues that counts as none. */
const ALIKE: f64 = 1e-4;
const SWEEPS = 12;
/** Off the diagonal this much of the trace is nothing. */
const NOTHING: f64 = 1e-10;

// What the host writes and reads: a tensor, velocity gradient or rate of deformation, result; layers of a node (six numbers each), with
// shear [1/s], speed over the mean, and how long the melt stays [s], and how their fibres resist the flow; gradient of the mean velocity,
// direction of flow, across the wall.
const A = memory.data(48, 16);
const L = memory.data(72, 16);
const OUT = memory.data(48, 16);
const MOST_LAYERS = 64;
const LAYERS = memory.data(8 * 6 * 64, 16);
const SHEAR = memory.data(8 * 64, 16);
const FASTER = memory.data(8 * 64, 16);
const STAY = memory.data(8 * 64, 16);
const RESIST = memory.data(8 * 64, 16);
const MEAN = memory.data(72, 16);
const ALONG = memory.data(24, 16);
const ACROSS = memory.data(24, 16);
const WORDS = memory.data(4 * 16, 16);

const D = memory.data(48, 16);
const W = memory.data(24, 16);
const OWN_D = memory.data(48, 16);
const OWN_W = memory.data(24, 16);
const OWN_A = memory.data(48, 16);
/** Eigenvectors as columns, row major. */
const V = memory.data(72, 16);
const FOURTH = memory.data(48, 16);
const PRODUCT = memory.data(48, 16);
const SQUARE = memory.data(48, 16);
const DIFFUSION = memory.data(48, 16);
const SHAPE = memory.data(48, 16);
const WORK = memory.data(48, 16);
const FULL = memory.data(72, 16);
const K1 = memory.data(48, 16);
const K2 = memory.data(48, 16);
const K3 = memory.data(48, 16);
const NEXT = memory.data(48, 16);
const B = memory.data(40, 16);

let closure: i32 = 0;
let interaction: i32 = 0;
let xi: f64 = 1;
let slowing: f64 = 1;
let tolerance: f64 = 1e-4;
let rates: i32 = 0;

/** Addresses of what the host writes and reads: tensor, gradient, result, layers, shear, speed, stay, mean gradient, along, across, resistance. */
export function places(): usize {
  place(0, A);
  place(1, L);
  place(2, OUT);
  place(3, LAYERS);
  place(4, SHEAR);
  place(5, FASTER);
  place(6, STAY);
  place(7, MEAN);
  place(8, ALONG);
  place(9, ACROSS);
  place(10, RESIST);
  return WORDS;
}

function place(k: usize, at: usize): void {
  store<u32>(WORDS + (k << 2), <u32>at);
}

/** Where memory is free. */
export function start(): usize {
  return __heap_base;
}

export function mostLayers(): i32 {
  return MOST_LAYERS;
}

/** Closure; interaction and its numbers (C_I, C_M or five); slenderness; slowing; error of a step. */
export function model(
  closureNumber: i32,
  interactionNumber: i32,
  b1: f64,
  b2: f64,
  b3: f64,
  b4: f64,
  b5: f64,
  slenderness: f64,
  slow: f64,
  error: f64,
): void {
  closure = closureNumber;
  interaction = interactionNumber;
  set(B, 0, b1);
  set(B, 1, b2);
  set(B, 2, b3);
  set(B, 3, b4);
  set(B, 4, b5);
  xi = slenderness;
  slowing = slow;
  tolerance = error;
}

/** Rates that were asked for since it was made. */
export function asked(): i32 {
  return rates;
}

// @ts-ignore: decorator
@inline
function double(a: usize, b: usize): f64 {
  return (
    get(a, 0) * get(b, 0) +
    get(a, 1) * get(b, 1) +
    get(a, 2) * get(b, 2) +
    2 * (get(a, 3) * get(b, 3) + get(a, 4) * get(b, 4) + get(a, 5) * get(b, 5))
  );
}

// @ts-ignore: decorator
@inline
function trace(a: usize): f64 {
  return get(a, 0) + get(a, 1) + get(a, 2);
}

// @ts-ignore: decorator
@inline
function determinant(a: usize): f64 {
  const a3 = get(a, 3);
  const a4 = get(a, 4);
  const a5 = get(a, 5);
  const a2 = get(a, 2);
  const a1 = get(a, 1);
  return get(a, 0) * (a1 * a2 - a4 * a4) - a3 * (a3 * a2 - a4 * a5) + a5 * (a3 * a4 - a1 * a5);
}

/** (a b + b a) / 2. */
// @ts-ignore: decorator
@inline
function symProduct(a: usize, b: usize, out: usize): void {
  const a0 = get(a, 0);
  const a1 = get(a, 1);
  const a2 = get(a, 2);
  const a3 = get(a, 3);
  const a4 = get(a, 4);
  const a5 = get(a, 5);
  const b0 = get(b, 0);
  const b1 = get(b, 1);
  const b2 = get(b, 2);
  const b3 = get(b, 3);
  const b4 = get(b, 4);
  const b5 = get(b, 5);
  set(out, 0, a0 * b0 + a3 * b3 + a5 * b5);
  set(out, 1, a3 * b3 + a1 * b1 + a4 * b4);
  set(out, 2, a5 * b5 + a4 * b4 + a2 * b2);
  set(out, 3, 0.5 * (a0 * b3 + a3 * b1 + a5 * b4 + b0 * a3 + b3 * a1 + b5 * a4));
  set(out, 4, 0.5 * (a3 * b5 + a1 * b4 + a4 * b2 + b3 * a5 + b1 * a4 + b4 * a2));
  set(out, 5, 0.5 * (a0 * b5 + a3 * b4 + a5 * b2 + b0 * a5 + b3 * a4 + b5 * a2));
}

/** a d, 3 x 3. */
function product(a: usize, d: usize): void {
  const d0 = get(d, 0);
  const d1 = get(d, 1);
  const d2 = get(d, 2);
  const d3 = get(d, 3);
  const d4 = get(d, 4);
  const d5 = get(d, 5);
  for (let i: i32 = 0; i < 3; i++) {
    const x = get(a, i == 0 ? 0 : i == 1 ? 3 : 5);
    const y = get(a, i == 0 ? 3 : i == 1 ? 1 : 4);
    const z = get(a, i == 0 ? 5 : i == 1 ? 4 : 2);
    set(FULL, 3 * i, x * d0 + y * d3 + z * d5);
    set(FULL, 3 * i + 1, x * d3 + y * d1 + z * d4);
    set(FULL, 3 * i + 2, x * d5 + y * d4 + z * d2);
  }
}

/** (a d b + b d a) / 2. */
function symTriple(a: usize, d: usize, b: usize, out: usize): void {
  product(a, d);
  const b0 = get(b, 0);
  const b1 = get(b, 1);
  const b2 = get(b, 2);
  const b3 = get(b, 3);
  const b4 = get(b, 4);
  const b5 = get(b, 5);
  const m0 = get(FULL, 0);
  const m1 = get(FULL, 1);
  const m2 = get(FULL, 2);
  const m3 = get(FULL, 3);
  const m4 = get(FULL, 4);
  const m5 = get(FULL, 5);
  const m6 = get(FULL, 6);
  const m7 = get(FULL, 7);
  const m8 = get(FULL, 8);
  set(out, 0, m0 * b0 + m1 * b3 + m2 * b5);
  set(out, 1, m3 * b3 + m4 * b1 + m5 * b4);
  set(out, 2, m6 * b5 + m7 * b4 + m8 * b2);
  set(out, 3, 0.5 * (m0 * b3 + m1 * b1 + m2 * b4 + m3 * b0 + m4 * b3 + m5 * b5));
  set(out, 4, 0.5 * (m3 * b5 + m4 * b4 + m5 * b2 + m6 * b3 + m7 * b1 + m8 * b4));
  set(out, 5, 0.5 * (m0 * b5 + m1 * b4 + m2 * b2 + m6 * b0 + m7 * b3 + m8 * b5));
}

/** Components in the frame of V (`into`), or back. */
// @ts-ignore: decorator
@inline
function turn(a: usize, out: usize, into: bool): void {
  const a0 = get(a, 0);
  const a1 = get(a, 1);
  const a2 = get(a, 2);
  const a3 = get(a, 3);
  const a4 = get(a, 4);
  const a5 = get(a, 5);
  // Written out: a rate in a frame of its own asks for it four times, and loops over memory are slower.
  const x0 = get(V, 0);
  const y0 = get(V, into ? 3 : 1);
  const z0 = get(V, into ? 6 : 2);
  const x1 = get(V, into ? 1 : 3);
  const y1 = get(V, 4);
  const z1 = get(V, into ? 7 : 5);
  const x2 = get(V, into ? 2 : 6);
  const y2 = get(V, into ? 5 : 7);
  const z2 = get(V, 8);
  const p1 = a0 * x1 + a3 * y1 + a5 * z1;
  const q1 = a3 * x1 + a1 * y1 + a4 * z1;
  const r1 = a5 * x1 + a4 * y1 + a2 * z1;
  const p2 = a0 * x2 + a3 * y2 + a5 * z2;
  const q2 = a3 * x2 + a1 * y2 + a4 * z2;
  const r2 = a5 * x2 + a4 * y2 + a2 * z2;
  const p0 = a0 * x0 + a3 * y0 + a5 * z0;
  const q0 = a3 * x0 + a1 * y0 + a4 * z0;
  const r0 = a5 * x0 + a4 * y0 + a2 * z0;
  set(out, 0, x0 * p0 + y0 * q0 + z0 * r0);
  set(out, 1, x1 * p1 + y1 * q1 + z1 * r1);
  set(out, 2, x2 * p2 + y2 * q2 + z2 * r2);
  set(out, 3, x0 * p1 + y0 * q1 + z0 * r1);
  set(out, 4, x1 * p2 + y1 * q2 + z1 * r2);
  set(out, 5, x0 * p2 + y0 * q2 + z0 * r2);
}

/** Components of a skew tensor w in the frame of V: its axis turns, and V is a rotation. */
function turnSkew(w: usize, out: usize): void {
  const x = -get(w, 2);
  const y = get(w, 1);
  const z = -get(w, 0);
  const p = get(V, 0) * x + get(V, 3) * y + get(V, 6) * z;
  const q = get(V, 1) * x + get(V, 4) * y + get(V, 7) * z;
  const r = get(V, 2) * x + get(V, 5) * y + get(V, 8) * z;
  set(out, 0, -r);
  set(out, 1, q);
  set(out, 2, -p);
}

/**
 * Eigenvalues of a, falling, into the diagonal of `out` (nothing else in it), vectors into V, by Jacobi's rotations from
 * the frame that V holds: what is asked for one after the other lies alike.
 */
function eigen(a: usize, out: usize): void {
  turn(a, out, true);
  let m0 = get(out, 0);
  let m1 = get(out, 1);
  let m2 = get(out, 2);
  let m3 = get(out, 3);
  let m4 = get(out, 4);
  let m5 = get(out, 5);
  const least = NOTHING * (abs(m0) + abs(m1) + abs(m2));
  for (let sweep = 0; sweep < SWEEPS; sweep++) {
    if (!(abs(m3) + abs(m4) + abs(m5) > least)) break;
    if (abs(m3) > 0.1 * least) {
      const theta = (m1 - m0) / (2 * m3);
      const t = (theta >= 0 ? 1.0 : -1.0) / (abs(theta) + sqrt(theta * theta + 1));
      const c = 1 / sqrt(t * t + 1);
      const s = t * c;
      m0 -= t * m3;
      m1 += t * m3;
      m3 = 0;
      const x = m5;
      m5 = c * x - s * m4;
      m4 = s * x + c * m4;
      rotate(0, 1, c, s);
    }
    if (abs(m5) > 0.1 * least) {
      const theta = (m2 - m0) / (2 * m5);
      const t = (theta >= 0 ? 1.0 : -1.0) / (abs(theta) + sqrt(theta * theta + 1));
      const c = 1 / sqrt(t * t + 1);
      const s = t * c;
      m0 -= t * m5;
      m2 += t * m5;
      m5 = 0;
      const x = m3;
      m3 = c * x - s * m4;
      m4 = s * x + c * m4;
      rotate(0, 2, c, s);
    }
    if (abs(m4) > 0.1 * least) {
      const theta = (m2 - m1) / (2 * m4);
      const t = (theta >= 0 ? 1.0 : -1.0) / (abs(theta) + sqrt(theta * theta + 1));
      const c = 1 / sqrt(t * t + 1);
      const s = t * c;
      m1 -= t * m4;
      m2 += t * m4;
      m4 = 0;
      const x = m3;
      m3 = c * x - s * m5;
      m5 = s * x + c * m5;
      rotate(1, 2, c, s);
    }
  }
  // Falling; vectors change places with one sign turned, so that they stay a rotation.
  if (m0 < m1) {
    const x = m0;
    m0 = m1;
    m1 = x;
    swap(0, 1);
  }
  if (m1 < m2) {
    const x = m1;
    m1 = m2;
    m2 = x;
    swap(1, 2);
  }
  if (m0 < m1) {
    const x = m0;
    m0 = m1;
    m1 = x;
    swap(0, 1);
  }
  set(out, 0, m0);
  set(out, 1, m1);
  set(out, 2, m2);
  set(out, 3, 0);
  set(out, 4, 0);
  set(out, 5, 0);
}

// @ts-ignore: decorator
@inline
function rotate(p: i32, q: i32, c: f64, s: f64): void {
  for (let k: i32 = 0; k < 9; k += 3) {
    const x = get(V, k + p);
    const y = get(V, k + q);
    set(V, k + p, c * x - s * y);
    set(V, k + q, s * x + c * y);
  }
}

function swap(p: i32, q: i32): void {
  for (let k: i32 = 0; k < 9; k += 3) {
    const x = get(V, k + p);
    set(V, k + p, get(V, k + q));
    set(V, k + q, -x);
  }
}

function isOrthotropic(): bool {
  return closure == NARROW || closure == WIDE;
}

/**
 * A : d of the fourth moment that the closure has for a, and (a d + d a) / 2 into PRODUCT; orthotropic closures take a in its own
 * frame, diagonal and falling.
 */
function moment(a: usize, d: usize, out: usize): void {
  symProduct(a, d, PRODUCT);
  if (closure == QUADRATIC) {
    const ad = double(a, d);
    for (let k: i32 = 0; k < 6; k++) set(out, k, get(a, k) * ad);
  } else if (closure == HYBRID) hybrid(a, d, out);
  else if (isOrthotropic()) orthotropic(a, d, out);
  else invariant(a, d, out);
}

function hybrid(a: usize, d: usize, out: usize): void {
  const f = 1 - 27 * determinant(a);
  const ad = double(a, d);
  const dd = trace(d);
  for (let k: i32 = 0; k < 6; k++) {
    const unit: f64 = k < 3 ? 1 : 0;
    const ak = get(a, k);
    // Linear closure: -1/35 of the units, 1/7 of the pairs of units and a.
    const l = -(unit * dd + 2 * get(d, k)) / 35 + (unit * ad + ak * dd + 4 * get(PRODUCT, k)) / 7;
    set(out, k, (1 - f) * l + f * ak * ad);
  }
}

function diagonalOf(c: StaticArray<f64>, row: i32, x: f64, y: f64): f64 {
  const k = 6 * row;
  return (
    unchecked(c[k]) +
    unchecked(c[k + 1]) * x +
    unchecked(c[k + 2]) * x * x +
    unchecked(c[k + 3]) * y +
    unchecked(c[k + 4]) * y * y +
    unchecked(c[k + 5]) * x * y
  );
}

function orthotropic(a: usize, d: usize, out: usize): void {
  const l1 = get(a, 0);
  const l2 = get(a, 1);
  const l3 = get(a, 2);
  const c = closure == WIDE ? ORTHOTROPIC_WIDE : ORTHOTROPIC;
  const A11 = diagonalOf(c, 0, l1, l2);
  const A22 = diagonalOf(c, 1, l1, l2);
  const A33 = diagonalOf(c, 2, l1, l2);
  // What is left of every eigenvalue is shared by the two others.
  const p = l1 - A11;
  const q = l2 - A22;
  const r = l3 - A33;
  const A12 = (p + q - r) / 2;
  const A23 = (q + r - p) / 2;
  const A13 = (p + r - q) / 2;
  const x = get(d, 0);
  const y = get(d, 1);
  const z = get(d, 2);
  set(out, 0, A11 * x + A12 * y + A13 * z);
  set(out, 1, A12 * x + A22 * y + A23 * z);
  set(out, 2, A13 * x + A23 * y + A33 * z);
  set(out, 3, 2 * A12 * get(d, 3));
  set(out, 4, 2 * A23 * get(d, 4));
  set(out, 5, 2 * A13 * get(d, 5));
}

function polynomial(c: StaticArray<f64>, x: f64, y: f64): f64 {
  const y2 = y * y;
  const y3 = y2 * y;
  const y4 = y2 * y2;
  const byY0 =
    unchecked(c[0]) +
    x * (unchecked(c[1]) + x * (unchecked(c[2]) + x * (unchecked(c[8]) + x * (unchecked(c[13]) + x * unchecked(c[19])))));
  const byY1 = unchecked(c[3]) + x * (unchecked(c[5]) + x * (unchecked(c[6]) + x * (unchecked(c[10]) + x * unchecked(c[15]))));
  const byY2 = unchecked(c[4]) + x * (unchecked(c[7]) + x * (unchecked(c[11]) + x * unchecked(c[16])));
  const byY3 = unchecked(c[9]) + x * (unchecked(c[12]) + x * unchecked(c[17]));
  const byY4 = unchecked(c[14]) + x * unchecked(c[18]);
  return byY0 + y * byY1 + y2 * byY2 + y3 * byY3 + y4 * byY4 + y4 * y * unchecked(c[20]);
}

function invariant(a: usize, d: usize, out: usize): void {
  const II = 0.5 * (1 - double(a, a));
  const III = determinant(a);
  const b3 = polynomial(BETA3, II, III);
  const b4 = polynomial(BETA4, II, III);
  const b6 = polynomial(BETA6, II, III);
  // The three that are not fitted follow from A : 1 = a.
  const t = 1 - 2 * II;
  const b5 = -(6.0 / 5) * ((2.0 / 3) * b3 + (7.0 / 6) * b4 + (b6 * (t + 2 * (1 - II))) / 3);
  const b2 = (6.0 / 7) * (1 - b3 / 3 - (b5 * (t - 4 * II)) / 6 - (2 * b6 * (III - II)) / 3);
  const b1 = -(3.0 / 5) * (b2 / 6 + (b4 * t) / 6 + (2 * b5 * III) / 3 + (2 * b6 * III) / 3);
  symProduct(a, a, SQUARE);
  const dd = trace(d);
  const ad = double(a, d);
  const sd = double(SQUARE, d);
  const onUnit = (b1 * dd) / 3 + (b2 * ad) / 6 + (b4 * sd) / 6;
  const onA = (b2 / 6) * dd + (b3 / 3) * ad + (b5 / 6) * sd;
  const onSquare = (b4 / 6) * dd + (b5 / 6) * ad + (b6 / 3) * sd;
  for (let k: i32 = 0; k < 6; k++)
    set(out, k, (k < 3 ? onUnit : 0) + (2.0 / 3) * (b1 * get(d, k) + b2 * get(PRODUCT, k)) + onA * get(a, k) + onSquare * get(SQUARE, k));
  symProduct(SQUARE, d, WORK);
  add(out, (2.0 / 3) * b4);
  symTriple(a, d, a, WORK);
  add(out, (2.0 / 3) * b3);
  symTriple(a, d, SQUARE, WORK);
  add(out, (2.0 / 3) * b5);
  symTriple(SQUARE, d, SQUARE, WORK);
  add(out, (2.0 / 3) * b6);
}

function add(out: usize, w: f64): void {
  for (let k: i32 = 0; k < 6; k++) set(out, k, get(out, k) + w * get(WORK, k));
}

/** A : d for the tensor and the symmetric one that lie at A and L, into OUT. */
export function contract(): void {
  if (!isOrthotropic()) return moment(A, L, OUT);
  straighten();
  eigen(A, OWN_A);
  turn(L, OWN_D, true);
  moment(OWN_A, OWN_D, FOURTH);
  turn(FOURTH, OUT, false);
}

/** What fibres at `a` have against the flow at L, d : A : d over d : d; -1 where nothing flows. */
function resist(a: usize): f64 {
  split();
  const size = double(D, D);
  if (!(size > 0)) return -1;
  if (!isOrthotropic()) {
    moment(a, D, FOURTH);
    return double(FOURTH, D) / size;
  }
  eigen(a, OWN_A);
  turn(D, OWN_D, true);
  moment(OWN_A, OWN_D, FOURTH);
  return double(FOURTH, OWN_D) / size;
}

/** The same of the tensor at A. */
export function resistance(): f64 {
  straighten();
  return resist(A);
}

/** Rate of deformation and spin of the gradient at L; returns the shear rate sqrt(2 d : d). */
function split(): f64 {
  set(D, 0, get(L, 0));
  set(D, 1, get(L, 4));
  set(D, 2, get(L, 8));
  set(D, 3, 0.5 * (get(L, 1) + get(L, 3)));
  set(D, 4, 0.5 * (get(L, 5) + get(L, 7)));
  set(D, 5, 0.5 * (get(L, 2) + get(L, 6)));
  set(W, 0, 0.5 * (get(L, 1) - get(L, 3)));
  set(W, 1, 0.5 * (get(L, 2) - get(L, 6)));
  set(W, 2, 0.5 * (get(L, 5) - get(L, 7)));
  return sqrt(2 * double(D, D));
}

/** da/dt, into `out`. What needs a frame of its own is worked out in that. */
function rateOf(given: usize, shearRate: f64, out: usize): void {
  rates++;
  const framed = isOrthotropic() || slowing < 1;
  if (framed) {
    eigen(given, OWN_A);
    turn(D, OWN_D, true);
    turnSkew(W, OWN_W);
  }
  const a = framed ? OWN_A : given;
  const d = framed ? OWN_D : D;
  const w = framed ? OWN_W : W;
  moment(a, d, FOURTH);
  // Spin: W a - a W.
  const p = get(w, 0);
  const q = get(w, 1);
  const r = get(w, 2);
  const a0 = get(a, 0);
  const a1 = get(a, 1);
  const a2 = get(a, 2);
  const a3 = get(a, 3);
  const a4 = get(a, 4);
  const a5 = get(a, 5);
  set(out, 0, 2 * (p * a3 + q * a5));
  set(out, 1, 2 * (r * a4 - p * a3));
  set(out, 2, -2 * (q * a5 + r * a4));
  set(out, 3, p * (a1 - a0) + q * a4 + r * a5);
  set(out, 4, r * (a2 - a1) - p * a5 - q * a3);
  set(out, 5, q * (a2 - a0) + p * a4 - r * a3);
  for (let k: i32 = 0; k < 6; k++) set(out, k, get(out, k) + 2 * xi * (get(PRODUCT, k) - get(FOURTH, k)));
  spread(a, d, shearRate, out);
  if (!framed) return;
  for (let k: i32 = 0; k < 3; k++) set(out, k, get(out, k) * slowing);
  // Values that are alike have no axes to turn: what pulls them apart is slowed as well.
  set(out, 3, get(out, 3) * turning(a0 - a1));
  set(out, 4, get(out, 4) * turning(a1 - a2));
  set(out, 5, get(out, 5) * turning(a0 - a2));
  turn(out, out, false);
}

// @ts-ignore: decorator
@inline
function turning(gap: f64): f64 {
  const square = gap * gap;
  return (square + slowing * ALIKE * ALIKE) / (square + ALIKE * ALIKE);
}

function spread(a: usize, d: usize, shearRate: f64, out: usize): void {
  if (interaction == EVEN) {
    const c = 2 * get(B, 0) * shearRate;
    for (let k: i32 = 0; k < 6; k++) set(out, k, get(out, k) + c * ((k < 3 ? 1.0 : 0.0) - 3 * get(a, k)));
    return;
  }
  if (!(shearRate > 0)) return;
  // Over the shear rate: squares of what hardly flows would be nothing.
  for (let k: i32 = 0; k < 6; k++) set(SHAPE, k, get(d, k) / shearRate);
  symProduct(SHAPE, SHAPE, WORK);
  if (interaction == FIVE) {
    symProduct(a, a, SQUARE);
    for (let k: i32 = 0; k < 6; k++) {
      const unit = k < 3 ? get(B, 0) : 0;
      const own = unit + get(B, 1) * get(a, k) + get(B, 2) * get(SQUARE, k);
      set(DIFFUSION, k, own + get(B, 3) * get(SHAPE, k) + get(B, 4) * get(WORK, k));
    }
  } else {
    const size = sqrt(double(WORK, WORK));
    for (let k: i32 = 0; k < 6; k++)
      set(DIFFUSION, k, get(B, 0) * ((k < 3 ? 1.0 : 0.0) - (get(B, 1) * get(WORK, k)) / size));
  }
  moment(a, DIFFUSION, FOURTH);
  const t = trace(DIFFUSION);
  for (let k: i32 = 0; k < 6; k++) {
    const by = 2 * get(DIFFUSION, k) - 2 * t * get(a, k) - 10 * get(PRODUCT, k) + 10 * get(FOURTH, k);
    set(out, k, get(out, k) + shearRate * by);
  }
}

/** Trace 1 and no eigenvalue below 0. */
function keep(a: usize): void {
  const t = 1 / trace(a);
  for (let k: i32 = 0; k < 6; k++) set(a, k, get(a, k) * t);
  const a0 = get(a, 0);
  const a1 = get(a, 1);
  const a2 = get(a, 2);
  const a3 = get(a, 3);
  const a4 = get(a, 4);
  const a5 = get(a, 5);
  if (a0 >= 0 && a1 >= 0 && a2 >= 0)
    if (a0 * a1 - a3 * a3 >= 0 && a1 * a2 - a4 * a4 >= 0 && a0 * a2 - a5 * a5 >= 0 && determinant(a) >= 0) return;
  eigen(a, OWN_A);
  let sum: f64 = 0;
  for (let k: i32 = 0; k < 3; k++) {
    set(OWN_A, k, max(LEAST, get(OWN_A, k)));
    sum += get(OWN_A, k);
  }
  for (let k: i32 = 0; k < 3; k++) set(OWN_A, k, get(OWN_A, k) / sum);
  turn(OWN_A, a, false);
}

/** Rotations of rotations: they are made orthogonal anew before they could drift, at the start of every way. */
function straighten(): void {
  for (let k: i32 = 0; k < 9; k++) set(V, k, k % 4 == 0 ? 1 : 0);
}

/** Moves the tensor at `a` on by `dt` s in the gradient at L. */
function follow(a: usize, dt: f64): void {
  const shearRate = split();
  const w0 = get(W, 0);
  const w1 = get(W, 1);
  const w2 = get(W, 2);
  const speed = max(shearRate, sqrt(w0 * w0 + w1 * w1 + w2 * w2));
  if (!(speed * dt > 0)) return;
  straighten();
  let left = dt;
  let h = min(left, FIRST_STEP / speed);
  rateOf(a, shearRate, K1);
  while (left > 1e-12 * dt) {
    if (sqrt(double(K1, K1)) * left < AT_REST * tolerance) {
      for (let k: i32 = 0; k < 6; k++) set(a, k, get(a, k) + left * get(K1, k));
      return keep(a);
    }
    for (let k: i32 = 0; k < 6; k++) set(NEXT, k, get(a, k) + 0.5 * h * get(K1, k));
    rateOf(NEXT, shearRate, K2);
    for (let k: i32 = 0; k < 6; k++) set(NEXT, k, get(a, k) + 0.75 * h * get(K2, k));
    rateOf(NEXT, shearRate, K3);
    // Beside the midpoint rule, whose error is taken for that of the step.
    let error: f64 = 0;
    for (let k: i32 = 0; k < 6; k++) {
      const e = (h / 9) * (2 * get(K1, k) - 6 * get(K2, k) + 4 * get(K3, k));
      error += (k < 3 ? 1 : 2) * e * e;
    }
    error = sqrt(error);
    // No number: it is told as one.
    if (error != error) {
      set(a, 0, NaN);
      return;
    }
    const taken = error < tolerance || h * speed <= LEAST_STEP;
    const grown = SAFETY * Math.cbrt(tolerance / max(error, 1e-12));
    const wanted = h * min(MOST_GROWTH, max(LEAST_GROWTH, grown));
    if (taken) {
      for (let k: i32 = 0; k < 6; k++)
        set(a, k, get(a, k) + (h / 9) * (2 * get(K1, k) + 3 * get(K2, k) + 4 * get(K3, k)));
      keep(a);
      left -= h;
      if (left > 1e-12 * dt) rateOf(a, shearRate, K1);
    }
    h = min(left, min(LONGEST_STEP / speed, max(LEAST_STEP / speed, wanted)));
  }
}

/** Moves the tensor at A on by `dt` s in the gradient at L. */
export function advance(dt: f64): void {
  follow(A, dt);
}

/** How far what comes into a layer and what it goes through may differ from last time for the same to come of it. */
const SAME_TENSOR: f64 = 5e-3;
const SAME_STRAIN: f64 = 0.05;
const LEAST_STRAIN: f64 = 5e-3;
/** f32 that are kept of a layer: what came in (6), what it went through (9), what that changed (6). */
const KEPT = 21;

export function bytesKept(): i32 {
  return 4 * KEPT;
}

/**
 * Moves `n` layers of a node on: each in the gradient of the mean velocity times its own speed over the mean, and in its shear across
 * the wall, for as long as its melt stays. `resisting`: it is told how the fibres then resist, -1 where that has not changed. `kept` is what the kernel remembers of the node (0 at first): where melt comes in as it did and
 * goes through what it did, as it does behind the front for most of the time, the same comes of it.
 */
export function advanceLayers(n: i32, kept: usize, resisting: bool): void {
  for (let t: i32 = 0; t < n; t++) {
    set(RESIST, t, -1);
    const faster = get(FASTER, t);
    const shear = get(SHEAR, t);
    const stay = get(STAY, t);
    const a = LAYERS + <usize>(48 * t);
    const own = kept + <usize>(4 * KEPT * t);
    let size: f64 = 0;
    let apart: f64 = 0;
    for (let i: i32 = 0; i < 3; i++)
      for (let j: i32 = 0; j < 3; j++) {
        const l = faster * get(MEAN, 3 * i + j) + shear * get(ALONG, i) * get(ACROSS, j);
        set(L, 3 * i + j, l);
        const strain = l * stay;
        const off = strain - single(own, 6 + 3 * i + j);
        size += strain * strain;
        apart += off * off;
      }
    if (!(size > 0)) continue;
    let moved: f64 = 0;
    for (let k: i32 = 0; k < 6; k++) {
      const off = get(a, k) - single(own, k);
      moved += off * off;
    }
    const allowed = SAME_STRAIN * sqrt(size) + LEAST_STRAIN;
    if (moved < SAME_TENSOR * SAME_TENSOR && apart < allowed * allowed) {
      for (let k: i32 = 0; k < 6; k++) set(a, k, get(a, k) + single(own, 15 + k));
      keep(a);
      continue;
    }
    for (let k: i32 = 0; k < 6; k++) keepSingle(own, k, get(a, k));
    for (let k: i32 = 0; k < 9; k++) keepSingle(own, 6 + k, get(L, k) * stay);
    follow(a, stay);
    for (let k: i32 = 0; k < 6; k++) keepSingle(own, 15 + k, get(a, k) - single(own, k));
    if (resisting) set(RESIST, t, resist(a));
  }
}

// @ts-ignore: decorator
@inline
function single(p: usize, i: i32): f64 {
  return <f64>load<f32>(p + (<usize>i << 2));
}
// @ts-ignore: decorator
@inline
function keepSingle(p: usize, i: i32, v: f64): void {
  store<f32>(p + (<usize>i << 2), <f32>v);
}
