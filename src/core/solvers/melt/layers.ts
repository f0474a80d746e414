/**
 * Layers through the wall, from the middle (0) to the wall (1), thinner at the wall, and what
 * follows from them for a section of shape exponent s (2 slab, 3 round): the section's place
 * variable zeta has the measure zeta^(s-2) d zeta.
 */
export const HALF_LAYERS = 18;
/** Thickness of the layer at the wall, and how much thicker each next one is until they are alike. */
const FIRST = 0.006;
const GRADING = 1.35;

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
/** ln(zeta) of the layer centres: where the stress of a layer is read. */
export const LN_CENTRES = CENTRES.map(Math.log);

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
  /** Integrals over each layer of 1, zeta, zeta^(s-2), zeta^(s-1) and zeta^s. */
  one: Float64Array;
  first: Float64Array;
  below: Float64Array;
  lever: Float64Array;
  stress: Float64Array;
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
    one: moments(0),
    first: moments(1),
    below: moments(s - 2),
    lever: moments(s - 1),
    stress: moments(s),
  };
  for (let l = 1; l < n; l++)
    shape.edgeFactor[l] = ((s - 1) * Math.pow(EDGES[l], s - 2)) / (CENTRES[l] - CENTRES[l - 1]);
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

/** Share of a plane wall in each of the layers of its column, half or whole. */
export function layerShares(nLayers: number): Float64Array {
  const { half, whole } = sectionShape(2);
  return nLayers === HALF_LAYERS ? half.share : whole.share;
}

/** Integral of zeta^power over each layer. */
function moments(power: number): Float64Array {
  return Float64Array.from(
    { length: HALF_LAYERS },
    (_, l) => (Math.pow(EDGES[l + 1], power + 1) - Math.pow(EDGES[l], power + 1)) / (power + 1),
  );
}
