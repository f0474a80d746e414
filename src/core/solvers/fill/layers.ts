/**
 * Layers through the wall, from the middle (0) to the wall (1), thinner at the wall, and what
 * follows from them for a section of shape exponent s (2 slab, 3 round): the section's place
 * variable zeta has the measure zeta^(s-2) d zeta.
 */
export const HALF_LAYERS = 18;
/** Thickness of the layer at the wall, and how much thicker each next one is until they are alike. */
const FIRST = 0.006;
const GRADING = 1.3;

/** Edges of `n` layers between 0 and 1: graded from the wall inwards, then of one thickness to the middle. */
export function layerEdges(n = HALF_LAYERS, first = FIRST, ratio = GRADING): Float64Array {
  const sizes = (cap: number) => Array.from({ length: n }, (_, k) => Math.min(first * Math.pow(ratio, k), cap));
  const sum = (list: number[]) => list.reduce((s, x) => s + x, 0);
  let [low, high] = [1 / n, 1];
  for (let k = 0; k < 60; k++) {
    const cap = (low + high) / 2;
    if (sum(sizes(cap)) < 1) low = cap;
    else high = cap;
  }
  const layers = sizes(high).reverse();
  const edges = new Float64Array(n + 1);
  for (let i = 0; i < n; i++) edges[i + 1] = edges[i] + layers[i];
  edges[n] = 1;
  return edges;
}

export const EDGES = layerEdges();
export const CENTRES = Float64Array.from({ length: HALF_LAYERS }, (_, l) => 0.5 * (EDGES[l] + EDGES[l + 1]));
/** Points of the stress integrals: edge, centre, edge, ... 2 n + 1 of them from the middle to the wall. */
export const POINTS = 2 * HALF_LAYERS + 1;
export const PLACES = Float64Array.from({ length: POINTS }, (_, k) => (k % 2 ? CENTRES[k >> 1] : EDGES[k >> 1]));
/** ln(zeta) of the points; the middle, where the stress vanishes, takes a small place instead of 0. */
export const LN_PLACES = PLACES.map((z) => Math.log(Math.max(z, 1e-3)));

/** The layers of a column in order: see Columns. */
export interface ColumnShape {
  share: Float64Array;
  edgeFactor: Float64Array;
}

export interface SectionShape {
  s: number;
  /** Share of the section in each layer of a half column. */
  share: Float64Array;
  /** Share of the section and conduction factor at the edges, layer by layer: half columns and whole ones. */
  half: ColumnShape;
  whole: ColumnShape;
  /** (s-1) zeta^(s-2) at the edges between layers over the distance of their centres; (s-1) at the wall. */
  edgeFactor: Float64Array;
  /** The same across the middle, for columns that go from wall to wall. */
  middleFactor: number;
  /** zeta^(s-1) at the edges. */
  inner: Float64Array;
  /** Weights of edge, centre, edge (3 per layer) in the integral over each layer of f, */
  plain: Float64Array;
  /** of zeta^(s-1) f, */
  lag: Float64Array;
  /** and of zeta^(s-2) f. */
  area: Float64Array;
  /** `lag` summed at the points and times s + 1. */
  flow: Float64Array;
}

const SHAPE_STEP = 0.05;
const SHAPE_MAX = 3.2;
const shapes: SectionShape[] = Array.from({ length: Math.round((SHAPE_MAX - 2) / SHAPE_STEP) + 1 }, (_, k) =>
  shapeOf(2 + k * SHAPE_STEP),
);

/** The section of the nearest tabulated shape exponent (steps of 0.05). */
export const sectionShape = (s: number): SectionShape =>
  shapes[Math.min(shapes.length - 1, Math.max(0, Math.round((s - 2) / SHAPE_STEP)))];

function shapeOf(s: number): SectionShape {
  const n = HALF_LAYERS;
  const inner = EDGES.map((z) => Math.pow(z, s - 1));
  const shape: SectionShape = {
    s,
    share: Float64Array.from({ length: n }, (_, l) => inner[l + 1] - inner[l]),
    half: { share: new Float64Array(0), edgeFactor: new Float64Array(0) },
    whole: { share: new Float64Array(0), edgeFactor: new Float64Array(0) },
    edgeFactor: new Float64Array(n + 1),
    middleFactor: ((s - 1) * Math.pow(CENTRES[0], s - 2)) / (2 * CENTRES[0]),
    inner,
    plain: new Float64Array(3 * n),
    lag: new Float64Array(3 * n),
    area: new Float64Array(3 * n),
    flow: new Float64Array(POINTS),
  };
  for (let l = 0; l < n; l++) {
    if (l > 0) shape.edgeFactor[l] = ((s - 1) * Math.pow(EDGES[l], s - 2)) / (CENTRES[l] - CENTRES[l - 1]);
    shape.plain.set(layerWeights(l, 0), 3 * l);
    shape.lag.set(layerWeights(l, s - 1), 3 * l);
    shape.area.set(layerWeights(l, s - 2), 3 * l);
    for (let k = 0; k < 3; k++) shape.flow[2 * l + k] += (s + 1) * shape.lag[3 * l + k];
  }
  shape.edgeFactor[n] = s - 1;
  const mirrored = (t: number) => (t < n ? n - 1 - t : t - n);
  shape.half = { share: shape.share, edgeFactor: shape.edgeFactor };
  shape.whole = {
    share: Float64Array.from({ length: 2 * n }, (_, t) => shape.share[mirrored(t)] / 2),
    edgeFactor: Float64Array.from(
      { length: 2 * n + 1 },
      (_, e) => (e === n ? shape.middleFactor : shape.edgeFactor[Math.abs(e - n)]) / 2,
    ),
  };
  return shape;
}

/** Weights at edge, centre, edge of layer l that integrate zeta^power times any parabola exactly. */
function layerWeights(l: number, power: number): [number, number, number] {
  const [a, b] = [EDGES[l], EDGES[l + 1]];
  const half = (b - a) / 2;
  const c = a + half;
  const moment = (q: number) => (Math.pow(b, power + q + 1) - Math.pow(a, power + q + 1)) / (power + q + 1);
  const [m0, m1, m2] = [moment(0), moment(1), moment(2)];
  // Moments about the middle of the layer, in units of half its thickness.
  const n1 = (m1 - c * m0) / half;
  const n2 = (m2 - 2 * c * m1 + c * c * m0) / (half * half);
  return [(n2 - n1) / 2, m0 - n2, (n2 + n1) / 2];
}
