/**
 * What CompiledColumns and its kernel tell each other by place: one table for both, read by the TypeScript of the host
 * and by the AssemblyScript of assembly/columns.ts.
 */

/** Whole numbers and addresses, i32. */
export enum Word {
  nLayers,
  nHalves,
  temperature,
  flowShare,
  shearHeat,
  zeroFluidity,
  relativeFluidity,
  layerRate,
  wallStress,
  peakRate,
  neutral,
  shapeOf,
  centres,
  stepsToCentre,
  layerFlow,
  stressTable,
  zeroTable,
  rowStart,
  rowNode,
  rowLink,
  linkFrom,
  linkFlow,
  pinned,
  inflow,
  inflowHeat,
  conduction,
  eliminated,
  out,
  made,
  relative,
  start,
  heatTable,
  conductTable,
}

/** Numbers, f64. */
export enum Num {
  tableEnd,
  lnStressMin,
  lnStressStep,
  zeroEnd,
  tMin,
  tStep,
  pressureSlope,
  pressureShift,
  curveEnd,
  curveMin,
  curveStep,
  inside,
}

/** Numbers of a pvT model, f64: see MeltDensity. */
export enum Tait {
  tMin,
  tStep,
  transition,
  transitionSlope,
  c,
  solidDecay,
  lnSize,
  lnPerUnit,
}

/** Record of a section shape, f64: where each of its parts begins. */
export enum Shape {
  s = 0,
  stress = 1,
  first = 19,
  one = 37,
  lever = 55,
  below = 73,
  inner = 91,
  share = 110,
  edgeFactor = 146,
  size = 183,
}
