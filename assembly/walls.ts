// AssemblyScript, compiled by scripts/kernels.mjs with SIMD: stress of layers whose solid relaxes, a column at a time
// (src/core/solvers/pack/relaxingLayers.ts, where the model is told). Terms of a layer lie side by side, four a vector.

import { get, set } from './memory';

const LN10: f64 = 2.302585092994046;
/** Most that the decades of relaxation may move within one part of a step, and most parts. */
const DECADES_PER_PART: f64 = 0.3;
const MOST_PARTS: f64 = 100;
/** The same where there are many to go, as at a cold wall in the first moment. */
const DECADES_PER_LONG_PART: f64 = 0.4;
const LONG_WAY: f64 = 1.2;
/** Free strain and decades go straight over so many kelvin. */
const KELVIN_PER_PIECE: f64 = 8;
const MOST_PIECES: f64 = 10;
/** Reduced time over a term's own from which on nothing of it is left, and below which nothing is lost. */
const GONE: f64 = 40;
const LASTING: f64 = 1e-4;
/** Decades that times are stretched by at most and at least: see material/relaxation. */
const MOST_DECADES: f64 = 40;
const LEAST_DECADES: f64 = -20;

// Numbers of the resin, f64 each, in the order of LAW in relaxingLayers.ts.
let law: usize = 0;
let tables: usize = 0;
let tableSize: i32 = 0;
let shares: usize = 0;
let rates: usize = 0;
let vectors: i32 = 0;
let nLayers: i32 = 0;
let terms: usize = 0;
let fresh: usize = 0;
let unitTerms: usize = 0;
let unitFresh: usize = 0;
let rest: usize = 0;
let stretched: usize = 0;
let past: usize = 0;
/** What walls that are held more one way than the other have more along it than square to it. */
let apart: usize = 0;
let freshApart: usize = 0;
let restApart: usize = 0;

// @ts-ignore: decorator
@inline
function num(i: i32): f64 {
  return load<f64>(law + (<usize>i << 3));
}

export function start(): usize {
  return __heap_base;
}

/** Addresses: numbers of the resin, its tables, shares and rates of the terms; then what each layer has. */
export function lay(words: usize): void {
  law = load<u32>(words);
  tables = load<u32>(words, 4);
  tableSize = load<i32>(words, 8);
  shares = load<u32>(words, 12);
  rates = load<u32>(words, 16);
  vectors = load<i32>(words, 20);
  nLayers = load<i32>(words, 24);
  terms = load<u32>(words, 28);
  fresh = load<u32>(words, 32);
  unitTerms = load<u32>(words, 36);
  unitFresh = load<u32>(words, 40);
  rest = load<u32>(words, 44);
  stretched = load<u32>(words, 48);
  past = load<u32>(words, 52);
  apart = load<u32>(words, 56);
  freshApart = load<u32>(words, 60);
  restApart = load<u32>(words, 64);
}

const RELAXES = 0;
const REFERENCE = 1;
const C1 = 2;
const C2 = 3;
const ARRHENIUS = 4;
const RISE = 5;
const SHORTEST = 6;
const LONGEST = 7;
const PVT = 8;
const EXPANSION = 9;
const TRANSITION = 10;
const PER_PRESSURE = 11;
const DECAY = 12;
const CRYSTALS = 13;
const FACTOR = 14;
const TAIT = 15;
const T_MIN = 16;
const T_STEP = 17;
const ATMOSPHERE = 18;
const QUENCH = 19;
const RATE = 20;
/** A layer leaves out at most so much of its crystals, and has at most so much more than usual. */
const MOST_LEFT_OUT: f64 = 0.6;
const MOST_MORE: f64 = 0.2;
/** Bytes that are kept of the last step of a layer: free strain, decades, rate, share of crystals left out. */
const PAST: usize = 32;

/** Natural logarithm of x > 0, 1e-9: the exponent by its bits, the rest by the series of the area tangent. */
// @ts-ignore: decorator
@inline
function logarithm(x: f64): f64 {
  const bits = reinterpret<i64>(x);
  let e = <f64>((bits >> 52) - 1023);
  let m = reinterpret<f64>((bits & 0x000fffffffffffff) | 0x3ff0000000000000);
  if (m > 1.4142135623730951) {
    m *= 0.5;
    e += 1;
  }
  const s = (m - 1) / (m + 1);
  const q = s * s;
  return e * 0.6931471805599453 + 2 * s * (1 + q * (1 / 3.0 + q * (0.2 + q * (1 / 7.0 + q / 9.0))));
}

/** exp(x), 1e-8 of itself: 2^n by its bits, the rest by its series. */
// @ts-ignore: decorator
@inline
function exponential(x: f64): f64 {
  const n = nearest(max(-1000.0, min(1000.0, x)) * 1.4426950408889634);
  const r = max(-1000.0, min(1000.0, x)) - n * 0.6931471805599453;
  const series =
    1 + r * (1 + r * (0.5 + r * (1 / 6.0 + r * (1 / 24.0 + r * (1 / 120.0 + r * (1 / 720.0 + r / 5040.0))))));
  return series * reinterpret<f64>((<i64>n + 1023) << 52);
}

/** Decades by which times at T [K] are longer than at the reference. */
function decadesAt(T: f64): f64 {
  const above = T - num(REFERENCE);
  if (above >= 0) return max(LEAST_DECADES, (-num(C1) * above) / (num(C2) + above));
  return min(MOST_DECADES, num(ARRHENIUS) * (1 / T - 1 / num(REFERENCE)));
}

function solidAt(p: f64): f64 {
  return num(TRANSITION) + num(PER_PRESSURE) * (p + num(ATMOSPHERE));
}

function read(table: i32, T: f64): f64 {
  const place = min(<f64>tableSize - 1.001, max(0.0, (T - num(T_MIN)) / num(T_STEP)));
  const k = <i32>place;
  const at = tables + (<usize>(table * tableSize + k) << 3);
  const a = load<f64>(at);
  return a + (place - <f64>k) * (load<f64>(at, 8) - a);
}

/** Logarithm of what pressure p leaves of a volume of Tait's B. */
function squeezed(p: f64, B: f64): f64 {
  return logarithm(1 - num(TAIT) * logarithm(1 + p / B));
}

function solidStrain(T: f64, p: f64): f64 {
  if (!(p > 0)) return read(5, T);
  const plain = read(0, T) + squeezed(p, read(1, T));
  const share = num(CRYSTALS);
  if (!(share > 0)) return plain / 3;
  const left = read(4, T) * exponential(-num(DECAY) * p);
  return (plain + share * logarithm(1 + left)) / 3;
}

/** Linear strain along the wall of plastic that nothing holds, at T [K] and p [Pa]. */
export function freeStrain(T: f64, p: f64): f64 {
  if (num(PVT) == 0) return num(FACTOR) * num(EXPANSION) * (T - num(TRANSITION));
  const solid = solidAt(p);
  if (T <= solid) return num(FACTOR) * solidStrain(T, p);
  const melt =
    read(2, T) - read(2, solid) + (p > 0 ? squeezed(p, read(3, T)) - squeezed(p, read(3, solid)) : 0);
  return num(FACTOR) * (solidStrain(solid, p) + melt / 3);
}

/** What crystals that have not grown yet still have to contribute to that. */
function crystalsLeft(T: f64, p: f64): f64 {
  const left = read(4, T) * (p > 0 ? exponential(-num(DECAY) * p) : 1);
  return logarithm(1 + num(CRYSTALS) * left) / 3;
}

/** The same for layer l, some of whose crystals did not grow since it was cooled fast. */
function layerStrain(l: i32, T: f64, p: f64): f64 {
  const strain = freeStrain(T, p);
  const leftOut = load<f64>(pastOf(l), 24);
  if (leftOut == 0) return strain;
  const solid = solidAt(p);
  if (T >= solid) return strain;
  return strain + num(FACTOR) * leftOut * (crystalsLeft(solid, p) - crystalsLeft(T, p));
}

/** Notes how fast layer l turns solid, where it does in this step: from it follows what it leaves out of its crystals. */
function passing(l: i32, dt: f64, from: f64, to: f64, p0: f64, p1: f64): void {
  if (num(QUENCH) == 0 || from <= solidAt(p0) || to > solidAt(p1)) return;
  const decades = logarithm((from - to) / (dt * num(RATE))) / LN10;
  store<f64>(pastOf(l), max(-MOST_MORE, min(MOST_LEFT_OUT, num(QUENCH) * decades)), 24);
}

/** exp(-x) of four x >= 0: 2^n of the whole part by its bits, the rest by a polynomial, 2e-7. */
// @ts-ignore: decorator
@inline
function fading(x: v128): v128 {
  const t = f32x4.mul(f32x4.pmin(x, f32x4.splat(60)), f32x4.splat(-1.44269504));
  const whole = f32x4.floor(t);
  const f = f32x4.sub(t, whole);
  let y = f32x4.splat(1.8775767e-3);
  y = f32x4.add(f32x4.mul(y, f), f32x4.splat(8.9893397e-3));
  y = f32x4.add(f32x4.mul(y, f), f32x4.splat(5.5826318e-2));
  y = f32x4.add(f32x4.mul(y, f), f32x4.splat(2.4015361e-1));
  y = f32x4.add(f32x4.mul(y, f), f32x4.splat(6.9315308e-1));
  y = f32x4.add(f32x4.mul(y, f), f32x4.splat(9.9999994e-1));
  const power = i32x4.shl(i32x4.add(i32x4.trunc_sat_f32x4_s(whole), i32x4.splat(127)), 23);
  // Nothing is nothing: what is next to it would be slow to reckon with.
  return v128.and(f32x4.mul(y, power), f32x4.lt(x, f32x4.splat(50)));
}

// @ts-ignore: decorator
@inline
function sumOf(v: v128): f64 {
  return (
    <f64>f32x4.extract_lane(v, 0) +
    <f64>f32x4.extract_lane(v, 1) +
    <f64>f32x4.extract_lane(v, 2) +
    <f64>f32x4.extract_lane(v, 3)
  );
}

function stressOf(l: i32, held: usize, come: usize): f64 {
  let sum = <f64>load<f32>(come + (<usize>l << 2));
  const at = held + <usize>(l * vectors * 16);
  for (let v = 0; v < vectors; v++) sum += sumOf(v128.load(at + <usize>(v << 4)));
  return sum;
}

/** Sets out[t] to the stress over the modulus of every layer of a column; what it has apart where that is asked. */
export function stresses(column: i32, isApart: i32, out: usize): void {
  for (let t = 0; t < nLayers; t++)
    set(out, t, stressOf(column * nLayers + t, isApart ? apart : terms, isApart ? freshApart : fresh));
}

/** Address of what layer l came to in its last step: free strain, decades, rate 10^-decades, crystals left out. */
// @ts-ignore: decorator
@inline
function pastOf(l: i32): usize {
  return past + PAST * <usize>l;
}

/** Melt of T [K] under p [Pa] in every layer of a column: where its path begins. */
export function begin(column: i32, T: f64, p: f64): void {
  for (let t = 0; t < nLayers; t++) {
    const was = pastOf(column * nLayers + t);
    const decades = decadesAt(T - num(RISE) * p);
    store<f64>(was, freeStrain(T, p));
    store<f64>(was, decades, 8);
    store<f64>(was, exponential(-LN10 * decades), 16);
    store<f64>(was, 0, 24);
  }
}

/**
 * Step of every layer of a column from temperatures T0[t] to T1[t], pressures p0 to p1, while the wall keeps its length.
 * `second`: where it has its difference between two directions, -1 where it has none.
 */
export function step(column: i32, second: i32, dt: f64, T0: usize, T1: usize, p0: f64, p1: f64): void {
  // Decades from which on nothing is left after so long a time, and below which nothing is lost.
  const gone = logarithm(dt / (GONE * num(LONGEST))) / LN10;
  const lasting = logarithm(dt / (LASTING * num(SHORTEST))) / LN10;
  for (let t = 0; t < nLayers; t++) {
    const l = column * nLayers + t;
    const from = get(T0, t);
    const to = get(T1, t);
    passing(l, dt, from, to, p0, p1);
    if (num(RELAXES) == 0) {
      elastic(l, t, second, from, to, p0, p1);
      continue;
    }
    const was = pastOf(l);
    const first = load<f64>(was, 8);
    const last = decadesAt(to - num(RISE) * p1);
    if (max(first, last) < gone) {
      setLiquid(l, t, second);
      store<f64>(was, layerStrain(l, to, p1));
      store<f64>(was, last, 8);
      store<f64>(was, exponential(-LN10 * last), 16);
    } else if (min(first, last) > lasting) {
      const now = layerStrain(l, to, p1);
      const change = now - load<f64>(was);
      store<f64>(was, now);
      store<f64>(was, last, 8);
      store<f64>(was, exponential(-LN10 * last), 16);
      const at = fresh + (<usize>l << 2);
      store<f32>(at, <f32>(<f64>load<f32>(at) - change));
      set(unitFresh, t, 1);
      clear(unitTerms + <usize>(t * vectors * 16));
      set(stretched, t, 1);
      set(rest, t, stressOf(l, terms, fresh));
      if (second >= 0) set(restApart, t, stressOf(second * nLayers + t, apart, freshApart));
    } else relax(l, t, second, dt, from, to, p0, p1, last);
  }
}

// @ts-ignore: decorator
@inline
function clear(at: usize): void {
  for (let v = 0; v < vectors; v++) v128.store(at + <usize>(v << 4), f32x4.splat(0));
}

function setLiquid(l: i32, t: i32, second: i32): void {
  if (second >= 0) {
    clear(apart + <usize>((second * nLayers + t) * vectors * 16));
    store<f32>(freshApart + (<usize>(second * nLayers + t) << 2), 0);
    set(restApart, t, 0);
  }
  clear(terms + <usize>(l * vectors * 16));
  clear(unitTerms + <usize>(t * vectors * 16));
  store<f32>(fresh + (<usize>l << 2), 0);
  set(unitFresh, t, 0);
  set(rest, t, 0);
  set(stretched, t, 0);
}

/** Elastic below the transition, from the moment in the step at which it is passed. */
function elastic(l: i32, t: i32, second: i32, from: f64, to: f64, p0: f64, p1: f64): void {
  const above0 = from - solidAt(p0);
  const above1 = to - solidAt(p1);
  if (above1 >= 0) {
    setLiquid(l, t, second);
    return;
  }
  const w = above0 > 0 ? above0 / (above0 - above1) : 0;
  const at = fresh + (<usize>l << 2);
  const before = w > 0 ? 0 : <f64>load<f32>(at);
  const now = before - (layerStrain(l, to, p1) - layerStrain(l, from + w * (to - from), p0 + w * (p1 - p0)));
  store<f32>(at, <f32>now);
  set(unitFresh, t, 1 - w);
  set(stretched, t, 1 - w);
  set(rest, t, now);
  if (second < 0) return;
  const own = freshApart + (<usize>(second * nLayers + t) << 2);
  if (w > 0) store<f32>(own, 0);
  set(restApart, t, <f64>load<f32>(own));
}

/**
 * Terms over a time in which free strain and decades go straight; what is taken of a strain of 1 is `even`. From the
 * rate at its start to that at its end.
 */
function fade(at: usize, unit: usize, beside: usize, dt: f64, change: f64, even: f64, first: f64, last: f64, start: f64): f64 {
  const way = Math.abs(last - first);
  const parts = min(MOST_PARTS, max(1.0, Math.ceil(way / (way > LONG_WAY ? DECADES_PER_LONG_PART : DECADES_PER_PART))));
  const x = (LN10 * (last - first)) / parts;
  const ratio = exponential(-x);
  // Mean of the rate over a part that it falls through by this ratio, over that at its start.
  const mean = Math.abs(x) < 1e-4 ? 0.5 * (1 + ratio) : (1 - ratio) / x;
  const scale = (dt / parts) * mean;
  let rate = start;
  const one = f32x4.splat(1);
  const own = f32x4.splat(<f32>(change / parts));
  const ofUnit = f32x4.splat(<f32>(even / parts));
  for (let part: f64 = 0; part < parts; part++) {
    const x0 = f32x4.splat(<f32>min(1e30, max(1e-30, rate * scale)));
    for (let v = 0; v < vectors; v++) {
      const k = <usize>(v << 4);
      const share = v128.load(shares + k);
      const x = f32x4.pmin(f32x4.splat(1e30), f32x4.mul(x0, v128.load(rates + k)));
      const left = fading(x);
      // Mean of what is left over the part; by its series where the difference to 1 would be lost.
      const small = f32x4.sub(one, f32x4.mul(x, f32x4.sub(f32x4.splat(0.5), f32x4.mul(x, f32x4.splat(0.16666667)))));
      const kept = v128.bitselect(small, f32x4.div(f32x4.sub(one, left), x), f32x4.lt(x, f32x4.splat(0.01)));
      const taken = f32x4.mul(kept, share);
      v128.store(at + k, f32x4.sub(f32x4.mul(left, v128.load(at + k)), f32x4.mul(taken, own)));
      v128.store(unit + k, f32x4.add(f32x4.mul(left, v128.load(unit + k)), f32x4.mul(taken, ofUnit)));
      if (beside) v128.store(beside + k, f32x4.mul(left, v128.load(beside + k)));
    }
    rate *= ratio;
  }
  return rate;
}

function relax(l: i32, t: i32, second: i32, dt: f64, from: f64, to: f64, p0: f64, p1: f64, last: f64): void {
  const at = terms + <usize>(l * vectors * 16);
  const unit = unitTerms + <usize>(t * vectors * 16);
  const own = fresh + (<usize>l << 2);
  const come = f32x4.splat(load<f32>(own));
  for (let v = 0; v < vectors; v++) {
    const k = <usize>(v << 4);
    v128.store(at + k, f32x4.add(v128.load(at + k), f32x4.mul(come, v128.load(shares + k))));
    v128.store(unit + k, f32x4.splat(0));
  }
  store<f32>(own, 0);
  set(unitFresh, t, 0);
  const m = second * nLayers + t;
  const beside = second < 0 ? 0 : apart + <usize>(m * vectors * 16);
  if (second >= 0) {
    const ownApart = freshApart + (<usize>m << 2);
    const comeApart = f32x4.splat(load<f32>(ownApart));
    for (let v = 0; v < vectors; v++) {
      const k = <usize>(v << 4);
      v128.store(beside + k, f32x4.add(v128.load(beside + k), f32x4.mul(comeApart, v128.load(shares + k))));
    }
    store<f32>(ownApart, 0);
  }
  const was = pastOf(l);
  let strain = load<f64>(was);
  let decades = load<f64>(was, 8);
  let rate = load<f64>(was, 16);
  const pieces = min(MOST_PIECES, max(1.0, Math.ceil(Math.abs(to - from) / KELVIN_PER_PIECE)));
  for (let piece: f64 = 1; piece <= pieces; piece++) {
    const w = piece / pieces;
    const T = from + w * (to - from);
    const p = p0 + w * (p1 - p0);
    const nextStrain = layerStrain(l, T, p);
    const nextDecades = piece == pieces ? last : decadesAt(T - num(RISE) * p);
    rate = fade(at, unit, beside, dt / pieces, nextStrain - strain, 1 / pieces, decades, nextDecades, rate);
    strain = nextStrain;
    decades = nextDecades;
  }
  store<f64>(was, strain);
  store<f64>(was, decades, 8);
  store<f64>(was, rate, 16);
  let sum: f64 = 0;
  let ofUnit: f64 = 0;
  for (let v = 0; v < vectors; v++) {
    const k = <usize>(v << 4);
    sum += sumOf(v128.load(at + k));
    ofUnit += sumOf(v128.load(unit + k));
  }
  set(rest, t, sum);
  set(stretched, t, ofUnit);
  if (second >= 0) set(restApart, t, stressOf(m, apart, freshApart));
}

/**
 * Adds a strain, and one that goes with the place through the wall, that were spread evenly over the last step of a
 * column; to its difference between directions where `isApart`.
 */
export function stretch(column: i32, isApart: i32, strain: f64, bend: f64, places: usize): void {
  const held = isApart ? apart : terms;
  const come = isApart ? freshApart : fresh;
  for (let t = 0; t < nLayers; t++) {
    const l = column * nLayers + t;
    const e = <f32>(strain + bend * get(places, t));
    const own = come + (<usize>l << 2);
    store<f32>(own, load<f32>(own) + e * <f32>get(unitFresh, t));
    const at = held + <usize>(l * vectors * 16);
    const unit = unitTerms + <usize>(t * vectors * 16);
    const ee = f32x4.splat(e);
    for (let v = 0; v < vectors; v++) {
      const k = <usize>(v << 4);
      v128.store(at + k, f32x4.add(v128.load(at + k), f32x4.mul(ee, v128.load(unit + k))));
    }
  }
}
