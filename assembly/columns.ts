// AssemblyScript, compiled by scripts/kernels.mjs: the hot loops of src/core/solvers/melt/columns.ts and
// heat.ts, line by line. The arrays live in this memory; the host's classes hold views of them. What lies where is
// said by one table for both sides.

import { Num, Shape, Tait, Word } from '../src/core/solvers/melt/columnsLayout';
import { get, int, set } from './memory';

const HALF: i32 = 18;
const STRESS: i32 = Shape.stress;
const FIRST: i32 = Shape.first;
const ONE: i32 = Shape.one;
const LEVER: i32 = Shape.lever;
const BELOW: i32 = Shape.below;
const INNER: i32 = Shape.inner;
const SHARE: i32 = Shape.share;
const EDGE: i32 = Shape.edgeFactor;
const NEWTON_STEP: f64 = 0.03;
const LEAST_FLUIDITY: f64 = 1e-12;
const HEAT_PASSES: i32 = 8;
const NOT_FOLLOWED: f64 = 1000;
// Change of a specific heat that is not followed by another pass.
let heatChange: f64 = 0.1;

// Columns: see `lay`.
let nLayers: i32 = 0;
let nHalves: i32 = 0;
let temperature: usize = 0;
let flowShare: usize = 0;
let shearHeat: usize = 0;
let zeroFluidity: usize = 0;
let relativeFluidity: usize = 0;
let layerRate: usize = 0;
let wallStress: usize = 0;
let peakRate: usize = 0;
let neutral: usize = 0;
let shapeOf: usize = 0;
let centres: usize = 0;
let stepsToCentre: usize = 0;
let layerFlow: usize = 0;
// Stress form.
let table: usize = 0;
let tableEnd: f64 = 0;
let lnStressMin: f64 = 0;
let lnStressStep: f64 = 0;
let zeroTable: usize = 0;
let zeroEnd: f64 = 0;
let tMin: f64 = 0;
let tStep: f64 = 0;
let pressureSlope: f64 = 0;
let pressureShift: f64 = 0;
// Grid.
let rowStart: usize = 0;
let rowNode: usize = 0;
let rowLink: usize = 0;
let linkFrom: usize = 0;
let linkFlow: usize = 0;
let pinned: usize = 0;
// Work space of one column, nLayers + 1 each.
let inflow: usize = 0;
let inflowHeat: usize = 0;
let conduction: usize = 0;
let eliminated: usize = 0;
let made: usize = 0;
let relative: usize = 0;
let start0: usize = 0;
// Specific heat and conductivity against temperature; 0 where they are constant.
let heatTable: usize = 0;
let conductTable: usize = 0;
let curveEnd: f64 = 0;
let curveMin: f64 = 0;
let curveStep: f64 = 0;
let inside: f64 = 0;
// Tait form against temperature, five tables side by side: see MeltDensity. 0 before `layDensity`.
let taitTables: usize = 0;
let taitSize: i32 = 0;
let taitMin: f64 = 0;
let taitStep: f64 = 0;
let transition: f64 = 0;
let transitionSlope: f64 = 0;
let taitC: f64 = 0;
let solidDecay: f64 = 0;
// ln(1 + y) at steps of y, behind those tables.
let lnTable: usize = 0;
let lnEnd: f64 = 0;
let lnPerUnit: f64 = 0;
// Results beside the returned value: heat made by shear, flow from gates.
let out: usize = 0;

// @ts-ignore: decorator
@inline
function place(x: f64): f64 {
  return min<f64>(tableEnd, max<f64>(0, x));
}

/** Where free memory begins, behind the tables of the exponential and the logarithm. */
export function start(): usize {
  return __heap_base;
}

/** Addresses (i32 words) and numbers (f64) as columnsLayout.ts orders them. */
export function lay(words: usize, numbers: usize): void {
  nLayers = int(words, Word.nLayers);
  nHalves = int(words, Word.nHalves);
  temperature = int(words, Word.temperature);
  flowShare = int(words, Word.flowShare);
  shearHeat = int(words, Word.shearHeat);
  zeroFluidity = int(words, Word.zeroFluidity);
  relativeFluidity = int(words, Word.relativeFluidity);
  layerRate = int(words, Word.layerRate);
  wallStress = int(words, Word.wallStress);
  peakRate = int(words, Word.peakRate);
  neutral = int(words, Word.neutral);
  shapeOf = int(words, Word.shapeOf);
  centres = int(words, Word.centres);
  stepsToCentre = int(words, Word.stepsToCentre);
  layerFlow = int(words, Word.layerFlow);
  table = int(words, Word.stressTable);
  zeroTable = int(words, Word.zeroTable);
  rowStart = int(words, Word.rowStart);
  rowNode = int(words, Word.rowNode);
  rowLink = int(words, Word.rowLink);
  linkFrom = int(words, Word.linkFrom);
  linkFlow = int(words, Word.linkFlow);
  pinned = int(words, Word.pinned);
  inflow = int(words, Word.inflow);
  inflowHeat = int(words, Word.inflowHeat);
  conduction = int(words, Word.conduction);
  eliminated = int(words, Word.eliminated);
  out = int(words, Word.out);
  made = int(words, Word.made);
  relative = int(words, Word.relative);
  start0 = int(words, Word.start);
  heatTable = int(words, Word.heatTable);
  conductTable = int(words, Word.conductTable);
  tableEnd = get(numbers, Num.tableEnd);
  lnStressMin = get(numbers, Num.lnStressMin);
  lnStressStep = get(numbers, Num.lnStressStep);
  zeroEnd = get(numbers, Num.zeroEnd);
  tMin = get(numbers, Num.tMin);
  tStep = get(numbers, Num.tStep);
  pressureSlope = get(numbers, Num.pressureSlope);
  pressureShift = get(numbers, Num.pressureShift);
  curveEnd = get(numbers, Num.curveEnd);
  curveMin = get(numbers, Num.curveMin);
  curveStep = get(numbers, Num.curveStep);
  inside = get(numbers, Num.inside);
}

export function prepare(node: i32, p: f64): void {
  const T = temperature + (<usize>(node * nLayers) << 3);
  const a = zeroFluidity + (<usize>(node * nLayers) << 3);
  const by = relativeFluidity + (<usize>(node * nLayers) << 3);
  for (let t = 0; t < nLayers; t++) {
    const x = min<f64>(zeroEnd, max<f64>(0, (get(T, t) - tMin) / tStep));
    const i = <i32>x;
    const low = get(zeroTable, i);
    let value = low + (x - <f64>i) * (get(zeroTable, i + 1) - low);
    if (pressureSlope != 0) {
      const denominator = get(T, t) + pressureShift;
      if (denominator > 1) value *= Math.exp((-pressureSlope * p) / denominator);
    }
    set(a, t, value * get(by, t));
  }
}

let sum: f64 = 0;
let slope: f64 = 0;

export function fluidityAt(node: i32, apparentShearRate: f64, start: f64): f64 {
  const rate = max<f64>(apparentShearRate, 1e-6);
  let lnStress = Math.log(rate / start);
  for (let pass = 0; pass < 4; pass++) {
    if (nHalves == 1) flowOf(node, lnStress);
    else flowOfWhole(node, lnStress);
    if (!(sum > LEAST_FLUIDITY)) return LEAST_FLUIDITY;
    const step = (Math.log(rate / sum) - lnStress) / (1 + slope / sum);
    lnStress += max<f64>(-3, min<f64>(3, step));
    if (Math.abs(step) < NEWTON_STEP) break;
  }
  const stress = Math.exp(lnStress);
  set(wallStress, node, stress);
  return rate / stress;
}

function flowOf(node: i32, lnStress: f64): void {
  const shape = <usize>int(shapeOf, node);
  const stress = shape + (STRESS << 3);
  const a = zeroFluidity + (<usize>(node * HALF) << 3);
  const offset = (lnStress - lnStressMin) / lnStressStep;
  let total: f64 = 0;
  let rise: f64 = 0;
  for (let l = 0; l < HALF; l++) {
    const x = place(offset + get(stepsToCentre, l));
    const i = <i32>x;
    const g = get(table, i);
    const dg = get(table, i + 1) - g;
    const w = get(stress, l) * get(a, l);
    total += w * (g + (x - <f64>i) * dg);
    rise += w * dg;
  }
  const s = get(shape, 0);
  sum = (s + 1) * total;
  slope = ((s + 1) * rise) / lnStressStep;
}

// @ts-ignore: decorator
@inline
function layerAt(half: i32, l: i32): i32 {
  return nHalves == 1 ? l : half == 0 ? HALF - 1 - l : HALF + l;
}
// @ts-ignore: decorator
@inline
function lnArm(arm: f64): f64 {
  return Math.log(max<f64>(Math.abs(arm), 1e-3));
}

function flowOfWhole(node: i32, lnStress: f64): void {
  const shape = <usize>int(shapeOf, node);
  const at = node * nLayers;
  const z = get(neutral, node);
  let total: f64 = 0;
  let rise: f64 = 0;
  let moment: f64 = 0;
  let slip: f64 = 0;
  for (let h = 0; h < 2; h++) {
    const sign: f64 = h == 0 ? -1 : 1;
    for (let l = 0; l < HALF; l++) {
      const a = get(zeroFluidity, at + layerAt(h, l));
      const x = place((lnStress + lnArm(get(centres, l) - sign * z) - lnStressMin) / lnStressStep);
      const i = <i32>x;
      const low = get(table, i);
      const dg = get(table, i + 1) - low;
      const g = low + (x - <f64>i) * dg;
      const w = a * (get(shape, STRESS + l) - sign * z * get(shape, LEVER + l));
      total += w * g;
      rise += (w * dg) / lnStressStep;
      moment += sign * get(shape, FIRST + l) * a * g;
      slip += get(shape, ONE + l) * a * g;
    }
  }
  if (slip > 0) set(neutral, node, max<f64>(-0.9, min<f64>(0.9, moment / slip)));
  const s = get(shape, 0);
  sum = 0.5 * (s + 1) * total;
  slope = 0.5 * (s + 1) * rise;
}

export function layFlow(node: i32): void {
  const shape = <usize>int(shapeOf, node);
  const at = node * nLayers;
  const s = get(shape, 0);
  const lnStress = Math.log(max<f64>(get(wallStress, node), 1e-6));
  const offset = (lnStress - lnStressMin) / lnStressStep;
  let total: f64 = 0;
  let peak: f64 = 0;
  for (let h = 0; h < nHalves; h++) {
    const z: f64 = nHalves == 1 ? 0 : h == 0 ? -get(neutral, node) : get(neutral, node);
    const step = nHalves == 1 || h == 1 ? 1 : -1;
    let t = layerAt(h, HALF - 1);
    let velocity: f64 = 0;
    for (let l = HALF - 1; l >= 0; l--) {
      const arm = get(centres, l) - z;
      const steps = z == 0 ? get(stepsToCentre, l) : lnArm(arm) / lnStressStep;
      const x = place(offset + steps);
      const i = <i32>x;
      const low = get(table, i);
      const fluidity = get(zeroFluidity, at + t) * (low + (x - <f64>i) * (get(table, i + 1) - low));
      const rate = Math.abs(arm) * fluidity;
      set(layerRate, at + t, rate);
      peak = max<f64>(peak, rate);
      const stress = get(shape, STRESS + l);
      const lever = get(shape, LEVER + l);
      const gain = fluidity * (get(shape, FIRST + l) - z * get(shape, ONE + l));
      const lagged = fluidity * (stress - z * lever);
      const flow = velocity * get(shape, INNER + l + 1) - (velocity + gain) * get(shape, INNER + l) + lagged;
      velocity += gain;
      const q = flow > 0 ? flow : 0;
      set(layerFlow, t, q);
      total += q;
      set(
        shearHeat,
        at + t,
        ((s - 1) * fluidity * (stress - 2 * z * lever + z * z * get(shape, BELOW + l))) / <f64>nHalves,
      );
      t -= step;
    }
  }
  set(peakRate, node, peak * get(wallStress, node));
  if (!(total > 0)) for (let t = 0; t < nLayers; t++) set(flowShare, at + t, get(shape, SHARE + t));
  else for (let t = 0; t < nLayers; t++) set(flowShare, at + t, get(layerFlow, t) / total);
}

/** What leaves a full node and what enters it, m3/s: set by `gather`. */
let leave: f64 = 0;
let entered: f64 = 0;

/** What arrives in the layers of a full node, `attached` m3/s of it from gates; returns what flows through, m3/s. */
function gather(node: i32, heating: f64, attached: f64, melt: f64): f64 {
  const at = node * nLayers;
  let sheared: f64 = 0;
  for (let t = 0; t < nLayers; t++) {
    const heat = heating * get(shearHeat, at + t);
    set(inflow, t, 0);
    set(inflowHeat, t, 0);
    set(made, t, heat);
    sheared += heat;
  }
  let enter: f64 = 0;
  leave = attached < 0 ? -attached : 0;
  let fresh: f64 = attached > 0 ? attached : 0;
  for (let k = int(rowStart, node), end = int(rowStart, node + 1); k < end; k++) {
    const link = int(rowLink, k);
    const flow = int(linkFrom, link) == node ? -get(linkFlow, link) : get(linkFlow, link);
    if (!(flow > 0)) {
      leave -= flow;
      continue;
    }
    const j = int(rowNode, k);
    enter += flow;
    if (load<u8>(pinned + j)) {
      fresh += flow;
      continue;
    }
    const share = flowShare + (<usize>(j * nLayers) << 3);
    const T = temperature + (<usize>(j * nLayers) << 3);
    for (let t = 0; t < nLayers; t++) {
      const q = flow * get(share, t);
      set(inflow, t, get(inflow, t) + q);
      set(inflowHeat, t, get(inflowHeat, t) + q * get(T, t));
    }
  }
  if (fresh > 0) {
    if (attached > 0) enter += attached;
    for (let t = 0; t < nLayers; t++) {
      const q = fresh * get(flowShare, at + t);
      set(inflow, t, get(inflow, t) + q);
      set(inflowHeat, t, get(inflowHeat, t) + q * melt);
    }
  }
  set(out, 0, sheared);
  set(out, 1, fresh);
  entered = enter;
  return enter;
}

function setConduction(node: i32, scale: f64, first: f64, last: f64): void {
  const edge = <usize>int(shapeOf, node) + (EDGE << 3);
  for (let t = 0; t <= nLayers; t++) set(conduction, t, scale * get(edge, t));
  set(conduction, nLayers, get(conduction, nLayers) / last);
  if (nHalves == 2) set(conduction, 0, get(conduction, 0) / first);
}

// @ts-ignore: decorator
@inline
function curvePlace(T: f64): f64 {
  return min<f64>(curveEnd, max<f64>(0, (T - curveMin) / curveStep));
}
// @ts-ignore: decorator
@inline
function curveAt(p: usize, T: f64): f64 {
  const x = curvePlace(T);
  const i = <i32>x;
  return get(p, i) + (x - <f64>i) * (get(p, i + 1) - get(p, i));
}

/** How closely the specific heat follows the temperature in a step. */
export function followHeat(change: f64): void {
  heatChange = change;
}

/** Tables of the pvT model and its numbers: see MeltDensity. */
export function layDensity(tables: usize, size: i32, numbers: usize): void {
  taitTables = tables;
  taitSize = size;
  taitMin = get(numbers, Tait.tMin);
  taitStep = get(numbers, Tait.tStep);
  transition = get(numbers, Tait.transition);
  transitionSlope = get(numbers, Tait.transitionSlope);
  taitC = get(numbers, Tait.c);
  solidDecay = get(numbers, Tait.solidDecay);
  lnTable = tables + (<usize>(5 * size) << 3);
  lnEnd = get(numbers, Tait.lnSize) - 1.000001;
  lnPerUnit = get(numbers, Tait.lnPerUnit);
}

/** Mean density of a node's section at p [Pa above vacuum], kg/m3; its slope with p goes to `out`. */
export function sectionDensity(node: i32, p: f64): f64 {
  const share = <usize>int(shapeOf, node) + (SHARE << 3);
  const T = temperature + (<usize>(node * nLayers) << 3);
  const limit = transition + transitionSlope * p;
  const decay = Math.exp(-solidDecay * p);
  const end = <f64>taitSize - 1.000001;
  let density: f64 = 0;
  let rise: f64 = 0;
  for (let t = 0; t < nLayers; t++) {
    const at = get(T, t);
    const x = min<f64>(end, max<f64>(0, (at - taitMin) / taitStep));
    const i = <i32>x;
    const part = x - <f64>i;
    const melt = at >= limit;
    const base = taitTables + (<usize>((melt ? 0 : 2 * taitSize) + i) << 3);
    const v0 = get(base, 0) + part * (get(base, 1) - get(base, 0));
    const B = get(base, taitSize) + part * (get(base, taitSize + 1) - get(base, taitSize));
    const y = min<f64>(lnEnd, (p / B) * lnPerUnit);
    const k = <i32>y;
    const low = get(lnTable, k);
    let v = v0 * (1 - taitC * (low + (y - <f64>k) * (get(lnTable, k + 1) - low)));
    let slope = (-taitC * v0) / (B + p);
    if (!melt) {
      const tail = taitTables + (<usize>(4 * taitSize + i) << 3);
      const vt = decay * (get(tail, 0) + part * (get(tail, 1) - get(tail, 0)));
      v += vt;
      slope -= solidDecay * vt;
    }
    const w = get(share, t) / v;
    density += w;
    rise -= (w * slope) / v;
  }
  set(out, 0, rise);
  return density;
}

/** The same for n nodes of a list, at the pressures [Pa above vacuum] that `slopes` holds and then loses. */
export function sectionDensities(nodes: usize, n: i32, densities: usize, slopes: usize): void {
  for (let k = 0; k < n; k++) {
    const node = int(nodes, k);
    set(densities, node, sectionDensity(node, get(slopes, node)));
    set(slopes, node, get(out, 0));
  }
}

/** One implicit step of a column; `first` and `last` as in setConduction. Returns the heat lost, K/s. */
function solveColumn(
  node: i32,
  volume: f64,
  dt: f64,
  enter: f64,
  first: f64,
  last: f64,
  wall0: f64,
  wall1: f64,
  filling: f64,
  carrying: f64,
): f64 {
  if (heatTable == 0) return solveRows(node, volume, dt, enter, wall0, wall1, filling, carrying);
  const T = temperature + (<usize>(node * nLayers) << 3);
  for (let t = 0; t < nLayers; t++) {
    const start = get(T, t);
    const i = <i32>curvePlace(start);
    set(start0, t, start);
    set(relative, t, (get(heatTable, i + 1) - get(heatTable, i)) / curveStep);
  }
  let before = curveAt(conductTable, get(T, 0));
  if (nHalves == 2) set(conduction, 0, (get(conduction, 0) * first) / (inside / before + first - inside));
  for (let t = 1; t < nLayers; t++) {
    const k = curveAt(conductTable, get(T, t));
    set(conduction, t, get(conduction, t) * 0.5 * (before + k));
    before = k;
  }
  set(conduction, nLayers, (get(conduction, nLayers) * last) / (inside / before + last - inside));
  let rate = solveRows(node, volume, dt, enter, wall0, wall1, filling, carrying);
  for (let pass = 1; pass < HEAT_PASSES && heatChange < NOT_FOLLOWED; pass++) {
    let change: f64 = 0;
    for (let t = 0; t < nLayers; t++) {
      const start = get(start0, t);
      const end = get(T, t);
      if (Math.abs(end - start) > 1e-3) {
        const c = (curveAt(heatTable, end) - curveAt(heatTable, start)) / (end - start);
        change = max<f64>(change, Math.abs(c / get(relative, t) - 1));
        set(relative, t, c);
      }
    }
    if (change < heatChange) break;
    for (let t = 0; t < nLayers; t++) set(T, t, get(start0, t));
    rate = solveRows(node, volume, dt, enter, wall0, wall1, filling, carrying);
  }
  return rate;
}

/** `filling` and `carrying` are the densities of what the column holds and of what flows, over the reference. */
function solveRows(node: i32, volume: f64, dt: f64, enter: f64, wall0: f64, wall1: f64, filling: f64, carrying: f64): f64 {
  const share = <usize>int(shapeOf, node) + (SHARE << 3);
  const T = temperature + (<usize>(node * nLayers) << 3);
  const passes = flowShare + (<usize>(node * nLayers) << 3);
  const last = nLayers - 1;
  const perStep = volume / dt;
  const flows = enter > 0 || leave > 0;
  // What stays is spread over the whole section, what goes on takes the layers of the flow.
  const stays = enter - leave;
  let below = volume * get(conduction, 0);
  let value = nHalves == 2 ? below * wall0 : 0;
  let lower: f64 = 0;
  let pivot: f64 = 0;
  let across: f64 = 0;
  let arriving: f64 = 0;
  let before: f64 = 0;
  for (let t = 0; t <= last; t++) {
    const c = carrying * get(relative, t);
    const above = volume * get(conduction, t + 1);
    const storage = perStep * get(share, t) * filling * get(relative, t);
    arriving *= c;
    lower -= arriving;
    let diagonal = storage + below + above + arriving;
    let right = value + storage * get(T, t);
    let upper = -above;
    let leaving: f64 = 0;
    if (flows) {
      diagonal += c * get(inflow, t);
      right += c * get(inflowHeat, t) + get(made, t);
      across += get(inflow, t) - leave * get(passes, t) - stays * get(share, t);
      if (t < last) {
        if (across > 0) leaving = across;
        else {
          diagonal -= c * across;
          upper += c * across;
        }
      }
    }
    if (t == last) right += above * wall1;
    diagonal -= lower * pivot;
    right -= lower * before;
    const inverse = 1 / diagonal;
    pivot = upper * inverse;
    set(eliminated, t, pivot);
    before = right * inverse;
    set(T, t, before);
    lower = -above;
    arriving = leaving;
    below = above;
    value = 0;
  }
  for (let t = last - 1; t >= 0; t--) {
    before = get(T, t) - get(eliminated, t) * before;
    set(T, t, before);
  }
  let rate = get(conduction, nLayers) * (get(T, last) - wall1);
  if (nHalves == 2) rate += get(conduction, 0) * (get(T, 0) - wall0);
  return rate;
}

/**
 * Step of a full node: what flows in, conduction, heat by shear. `scale`, `first` and `last` make the
 * conductances (see Heat.setConduction). Returns the heat lost; `out` holds heat made and flow from gates.
 */
export function fullNode(
  node: i32,
  volume: f64,
  dt: f64,
  heating: f64,
  attached: f64,
  melt: f64,
  scale: f64,
  first: f64,
  last: f64,
  wall0: f64,
  wall1: f64,
  filling: f64,
  carrying: f64,
): f64 {
  const enter = gather(node, heating, attached, melt);
  setConduction(node, scale, first, last);
  return solveColumn(node, volume, dt, enter, first, last, wall0, wall1, filling, carrying);
}

/** Step of a column nothing flows through. */
export function restingNode(
  node: i32,
  volume: f64,
  dt: f64,
  scale: f64,
  first: f64,
  last: f64,
  wall0: f64,
  wall1: f64,
  filling: f64,
): f64 {
  setConduction(node, scale, first, last);
  leave = 0;
  return solveColumn(node, volume, dt, 0, first, last, wall0, wall1, filling, 1);
}

// Turning a symmetric tensor from the frame of one stream into that of another: the twin of streamFrame.ts, which tells it.
const TURNED: f64 = 0.8660254037844387;
const APART: f64 = 0.5;
const ALONG: f64 = 1 - 1e-9;
const UPSTREAM = memory.data(24, 16);
const ROTATION = memory.data(72, 16);
const FRAME_MAP = memory.data(288, 16);

/** Sets the direction of what flows into a node from its neighbours. */
function setUpstream(node: i32, stream: usize): void {
  for (let d: i32 = 0; d < 3; d++) set(UPSTREAM, d, 0);
  for (let k = int(rowStart, node), end = int(rowStart, node + 1); k < end; k++) {
    const link = int(rowLink, k);
    const flow = int(linkFrom, link) == node ? -get(linkFlow, link) : get(linkFlow, link);
    const j = int(rowNode, k);
    if (!(flow > 0) || load<u8>(pinned + j)) continue;
    const v = stream + (<usize>(3 * j) << 3);
    const speed = sqrt(get(v, 0) * get(v, 0) + get(v, 1) * get(v, 1) + get(v, 2) * get(v, 2));
    if (speed > 0) for (let d: i32 = 0; d < 3; d++) set(UPSTREAM, d, get(UPSTREAM, d) + (flow * get(v, d)) / speed);
  }
  const x = get(UPSTREAM, 0);
  const y = get(UPSTREAM, 1);
  const z = get(UPSTREAM, 2);
  const length = sqrt(x * x + y * y + z * z);
  if (length > 0) for (let d: i32 = 0; d < 3; d++) set(UPSTREAM, d, get(UPSTREAM, d) / length);
}

/** Sets the map from the frame of a stream into that of what flows in; false where it turns nothing. */
function intoStream(velocity: usize): bool {
  const u = get(velocity, 0);
  const v = get(velocity, 1);
  const w = get(velocity, 2);
  const speed = sqrt(u * u + v * v + w * w);
  if (!(speed > 0)) return false;
  const p = get(UPSTREAM, 0);
  const q = get(UPSTREAM, 1);
  const r = get(UPSTREAM, 2);
  const cos = (u * p + v * q + w * r) / speed;
  const share = min<f64>(1, (cos - APART) / (TURNED - APART));
  if (!(share > 0) || cos > ALONG) return false;
  setRotation((v * r - w * q) / speed, (w * p - u * r) / speed, (u * q - v * p) / speed, cos);
  for (let row: i32 = 0; row < 6; row++)
    for (let c: i32 = 0; c < 6; c++) {
      const k = firstOf(c);
      const l = secondOf(c);
      let turned = get(ROTATION, 3 * firstOf(row) + k) * get(ROTATION, 3 * secondOf(row) + l);
      if (k != l) turned += get(ROTATION, 3 * firstOf(row) + l) * get(ROTATION, 3 * secondOf(row) + k);
      set(FRAME_MAP, 6 * row + c, share * turned + (row == c ? 1 - share : 0));
    }
  return true;
}

/** Row and column of a component: 11, 22, 33, 12, 23, 13. */
// @ts-ignore: decorator
@inline
function firstOf(c: i32): i32 {
  return c < 3 ? c : c == 4 ? 1 : 0;
}
// @ts-ignore: decorator
@inline
function secondOf(c: i32): i32 {
  return c < 3 ? c : c == 3 ? 1 : 2;
}

function setRotation(x: f64, y: f64, z: f64, cos: f64): void {
  const f = 1 / (1 + cos);
  set(ROTATION, 0, cos + f * x * x);
  set(ROTATION, 1, f * x * y - z);
  set(ROTATION, 2, f * x * z + y);
  set(ROTATION, 3, f * x * y + z);
  set(ROTATION, 4, cos + f * y * y);
  set(ROTATION, 5, f * y * z - x);
  set(ROTATION, 6, f * x * z - y);
  set(ROTATION, 7, f * y * z + x);
  set(ROTATION, 8, cos + f * z * z);
}

// @ts-ignore: decorator
@inline
function mapped(tensor: usize, c: i32): f64 {
  let value: f64 = 0;
  for (let m: i32 = 0; m < 6; m++) value += get(FRAME_MAP, 6 * c + m) * get(tensor, m);
  return value;
}

/** What of a layer counts as still there at the end of a step, m3/s. */
function stored(perStep: f64, enters: f64, replaces: bool): f64 {
  return replaces ? max(0, perStep - enters) : perStep;
}

/**
 * Carries `components` values a layer into a full node by the flow that `gather` has just found: see Carrier.rows, of
 * which this is the twin. `perStep`: volume held over the step, m3/s of the reference density; `fresh`: what melt from
 * the inlet brings, times its flow; `right`: work space, nLayers x components; `replaces`: what comes pushes out what was there;
 * `stream`: velocities, 3 a node, where symmetric tensors are handed on in the frame of the stream, else 0.
 */
export function carryNode(
  node: i32,
  values: usize,
  components: i32,
  perStep: f64,
  carrying: f64,
  fresh: usize,
  right: usize,
  replaces: bool,
  stream: usize,
): void {
  if (stream) setUpstream(node, stream);
  const share = <usize>int(shapeOf, node) + (SHARE << 3);
  const at = node * nLayers;
  for (let t = 0; t < nLayers; t++) {
    const storage = stored(perStep * get(share, t), carrying * get(inflow, t), replaces);
    const enters = carrying * get(flowShare, at + t);
    for (let c = 0; c < components; c++)
      set(right, t * components + c, storage * get(values, (at + t) * components + c) + enters * get(fresh, c));
  }
  for (let k = int(rowStart, node), end = int(rowStart, node + 1); k < end; k++) {
    const link = int(rowLink, k);
    const flow = int(linkFrom, link) == node ? -get(linkFlow, link) : get(linkFlow, link);
    const j = int(rowNode, k);
    if (!(flow > 0) || load<u8>(pinned + j)) continue;
    const turned = stream != 0 && intoStream(stream + (<usize>(3 * j) << 3));
    for (let t = 0; t < nLayers; t++) {
      const q = carrying * flow * get(flowShare, j * nLayers + t);
      const from = values + (<usize>((j * nLayers + t) * components) << 3);
      for (let c = 0; c < components; c++) {
        const place = t * components + c;
        set(right, place, get(right, place) + q * (turned ? mapped(from, c) : get(from, c)));
      }
    }
  }
  const stays = entered - leave;
  const last = nLayers - 1;
  let pivot: f64 = 0;
  let across: f64 = 0;
  let arriving: f64 = 0;
  for (let t = 0; t <= last; t++) {
    arriving *= carrying;
    const enters = carrying * get(inflow, t);
    let diagonal = stored(perStep * get(share, t), enters, replaces) + arriving + enters;
    let upper: f64 = 0;
    let leaving: f64 = 0;
    across += get(inflow, t) - leave * get(flowShare, at + t) - stays * get(share, t);
    if (t < last) {
      if (across > 0) leaving = across;
      else {
        diagonal -= carrying * across;
        upper = carrying * across;
      }
    }
    const inverse = 1 / (diagonal + arriving * pivot);
    for (let c = 0; c < components; c++) {
      const place = t * components + c;
      const below = t > 0 ? arriving * get(right, place - components) : 0;
      set(right, place, (get(right, place) + below) * inverse);
    }
    pivot = upper * inverse;
    set(eliminated, t, pivot);
    arriving = leaving;
  }
  for (let t = last - 1; t >= 0; t--)
    for (let c = 0; c < components; c++) {
      const place = t * components + c;
      set(right, place, get(right, place) - get(eliminated, t) * get(right, place + components));
    }
  for (let k = 0; k < nLayers * components; k++) set(values, at * components + k, get(right, k));
}
