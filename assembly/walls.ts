// AssemblyScript, compiled by scripts/kernels.mjs with SIMD: stress of layers whose solid relaxes, a column at a time
// (src/core/solvers/pack/relaxingLayers.ts, where the model is told). Terms of a layer lie side by side, four a vector.

const LN10: f64 = 2.302585092994046;
/** Most that the decades of relaxation may move within one part of a step, and most parts. */
const DECADES_PER_PART: f64 = 0.5;
const MOST_PARTS: f64 = 100;
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

// @ts-ignore: decorator
@inline
function num(i: i32): f64 {
  return load<f64>(law + (<usize>i << 3));
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
  return p > 0 ? Math.log(1 - num(TAIT) * Math.log(1 + p / B)) : 0;
}

function solidStrain(T: f64, p: f64): f64 {
  const plain = read(0, T) + (p > 0 ? squeezed(p, read(1, T)) : 0);
  const share = num(CRYSTALS);
  if (!(share > 0)) return plain / 3;
  let left = read(4, T);
  if (p > 0) left *= Math.exp(-num(DECAY) * p);
  return (plain + share * Math.log(1 + left)) / 3;
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

/** Mean of 10^-d over a part in which d goes straight from a to b. */
function meanRate(a: f64, b: f64, rateA: f64, rateB: f64): f64 {
  const x = LN10 * (b - a);
  return Math.abs(x) < 1e-4 ? 0.5 * (rateA + rateB) : (rateA - rateB) / x;
}

/** exp(-x) of four x >= 0: 2^n of the whole part by its bits, the rest by a polynomial, 2e-7. */
// @ts-ignore: decorator
@inline
function fading(x: v128): v128 {
  const t = f32x4.mul(f32x4.min(x, f32x4.splat(85)), f32x4.splat(-1.44269504));
  const whole = f32x4.floor(t);
  const f = f32x4.sub(t, whole);
  let y = f32x4.splat(1.8775767e-3);
  y = f32x4.add(f32x4.mul(y, f), f32x4.splat(8.9893397e-3));
  y = f32x4.add(f32x4.mul(y, f), f32x4.splat(5.5826318e-2));
  y = f32x4.add(f32x4.mul(y, f), f32x4.splat(2.4015361e-1));
  y = f32x4.add(f32x4.mul(y, f), f32x4.splat(6.9315308e-1));
  y = f32x4.add(f32x4.mul(y, f), f32x4.splat(9.9999994e-1));
  const power = i32x4.shl(i32x4.add(i32x4.trunc_sat_f32x4_s(whole), i32x4.splat(127)), 23);
  return f32x4.mul(y, power);
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

function stressOf(l: i32): f64 {
  let sum = <f64>load<f32>(fresh + (<usize>l << 2));
  const at = terms + <usize>(l * vectors * 16);
  for (let v = 0; v < vectors; v++) sum += sumOf(v128.load(at + <usize>(v << 4)));
  return sum;
}

/** Sets out[t] to the stress over the modulus of every layer of a column. */
export function stresses(column: i32, out: usize): void {
  for (let t = 0; t < nLayers; t++) set(out, t, stressOf(column * nLayers + t));
}

/** Step of every layer of a column from temperatures T0[t] to T1[t], pressures p0 to p1, while the wall keeps its length. */
export function step(column: i32, dt: f64, T0: usize, T1: usize, p0: f64, p1: f64): void {
  for (let t = 0; t < nLayers; t++) {
    const l = column * nLayers + t;
    const from = get(T0, t);
    const to = get(T1, t);
    if (num(RELAXES) == 0) {
      elastic(l, t, from, to, p0, p1);
      continue;
    }
    const first = decadesAt(from - num(RISE) * p0);
    const last = decadesAt(to - num(RISE) * p1);
    if (dt * Math.exp(-LN10 * max(first, last)) > GONE * num(LONGEST)) setLiquid(l, t);
    else if (dt * Math.exp(-LN10 * min(first, last)) < LASTING * num(SHORTEST)) {
      const change = freeStrain(to, p1) - freeStrain(from, p0);
      const at = fresh + (<usize>l << 2);
      store<f32>(at, <f32>(<f64>load<f32>(at) - change));
      set(unitFresh, t, 1);
      memory.fill(unitTerms + <usize>(t * vectors * 16), 0, <usize>(vectors * 16));
      set(stretched, t, 1);
      set(rest, t, stressOf(l));
    } else relax(l, t, dt, from, to, p0, p1, first, last);
  }
}

function setLiquid(l: i32, t: i32): void {
  memory.fill(terms + <usize>(l * vectors * 16), 0, <usize>(vectors * 16));
  memory.fill(unitTerms + <usize>(t * vectors * 16), 0, <usize>(vectors * 16));
  store<f32>(fresh + (<usize>l << 2), 0);
  set(unitFresh, t, 0);
  set(rest, t, 0);
  set(stretched, t, 0);
}

/** Elastic below the transition, from the moment in the step at which it is passed. */
function elastic(l: i32, t: i32, from: f64, to: f64, p0: f64, p1: f64): void {
  const above0 = from - solidAt(p0);
  const above1 = to - solidAt(p1);
  if (above1 >= 0) {
    setLiquid(l, t);
    return;
  }
  const w = above0 > 0 ? above0 / (above0 - above1) : 0;
  const at = fresh + (<usize>l << 2);
  const before = w > 0 ? 0 : <f64>load<f32>(at);
  const now = before - (freeStrain(to, p1) - freeStrain(from + w * (to - from), p0 + w * (p1 - p0)));
  store<f32>(at, <f32>now);
  set(unitFresh, t, 1 - w);
  set(stretched, t, 1 - w);
  set(rest, t, now);
}

function relax(l: i32, t: i32, dt: f64, from: f64, to: f64, p0: f64, p1: f64, first: f64, last: f64): void {
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
  const parts = min(MOST_PARTS, max(1.0, Math.ceil(Math.abs(last - first) / DECADES_PER_PART)));
  let strain = freeStrain(from, p0);
  let decades = first;
  let rate = Math.exp(-LN10 * first);
  const one = f32x4.splat(1);
  const even = f32x4.splat(<f32>(1 / parts));
  for (let part: f64 = 1; part <= parts; part++) {
    const w = part / parts;
    const T = from + w * (to - from);
    const p = p0 + w * (p1 - p0);
    const nextStrain = freeStrain(T, p);
    const nextDecades = part == parts ? last : decadesAt(T - num(RISE) * p);
    const nextRate = Math.exp(-LN10 * nextDecades);
    const reduced = (dt / parts) * meanRate(decades, nextDecades, rate, nextRate);
    const x0 = f32x4.splat(<f32>min(1e30, max(1e-30, reduced)));
    const change = f32x4.splat(<f32>(nextStrain - strain));
    for (let v = 0; v < vectors; v++) {
      const k = <usize>(v << 4);
      const share = v128.load(shares + k);
      const x = f32x4.min(f32x4.splat(1e30), f32x4.mul(x0, v128.load(rates + k)));
      const left = fading(x);
      // Mean of what is left over the part; by its series where the difference to 1 would be lost.
      const small = f32x4.sub(one, f32x4.mul(x, f32x4.sub(f32x4.splat(0.5), f32x4.mul(x, f32x4.splat(0.16666667)))));
      const mean = v128.bitselect(small, f32x4.div(f32x4.sub(one, left), x), f32x4.lt(x, f32x4.splat(0.01)));
      const taken = f32x4.mul(mean, share);
      v128.store(at + k, f32x4.sub(f32x4.mul(left, v128.load(at + k)), f32x4.mul(taken, change)));
      v128.store(unit + k, f32x4.add(f32x4.mul(left, v128.load(unit + k)), f32x4.mul(taken, even)));
    }
    strain = nextStrain;
    decades = nextDecades;
    rate = nextRate;
  }
  let sum: f64 = 0;
  let ofUnit: f64 = 0;
  for (let v = 0; v < vectors; v++) {
    const k = <usize>(v << 4);
    sum += sumOf(v128.load(at + k));
    ofUnit += sumOf(v128.load(unit + k));
  }
  set(rest, t, sum);
  set(stretched, t, ofUnit);
}

/** Adds a strain, and one that goes with the place through the wall, that were spread evenly over the last step of a column. */
export function stretch(column: i32, strain: f64, bend: f64, places: usize): void {
  for (let t = 0; t < nLayers; t++) {
    const l = column * nLayers + t;
    const e = <f32>(strain + bend * get(places, t));
    const own = fresh + (<usize>l << 2);
    store<f32>(own, load<f32>(own) + e * <f32>get(unitFresh, t));
    const at = terms + <usize>(l * vectors * 16);
    const unit = unitTerms + <usize>(t * vectors * 16);
    const ee = f32x4.splat(e);
    for (let v = 0; v < vectors; v++) {
      const k = <usize>(v << 4);
      v128.store(at + k, f32x4.add(v128.load(at + k), f32x4.mul(ee, v128.load(unit + k))));
    }
  }
}
