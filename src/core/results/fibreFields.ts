import { makeField, type Field } from '../fields/field';
import { FIELD_TABLE, type KnownField } from '../fields/table';
import type { Vec3 } from '../geometry/mesh';
import { cross, normalised } from '../geometry/vec';
import { weightShare } from '../material/fibres/defaults';
import type { Resin } from '../model/resin';
import { eigenOf, frame } from '../numerics/eigen';
import { layerStiffness, UPPER, type OrientedWalls } from '../solvers/fibres/orientedWalls';
import { layerShares } from '../solvers/melt/layers';
import { profileOf } from '../solvers/shot/profile';
import { PAIRS } from '../solvers/warp/solid';
import { youngAlong } from '../solvers/warp/stress';
import type { GridResult } from '../setup/grids';
import type { FibresFound } from './shotFound';

const SIX = 6;

/** Stiffness of the wall of every node, 6 x 6 each [Pa], and what it does along its own directions. */
export interface WallFibres {
  /** In the plane of the wall: the way most fibres lie, and square to it; 3 a node. */
  along: Float32Array;
  square: Float32Array;
  stiffness: Float32Array;
  /** Young's modulus along both, Pa. */
  most: Float32Array;
  least: Float32Array;
}

export function wallFibres({ orientation, across, nLayers }: FibresFound, walls: OrientedWalls): WallFibres {
  const n = across.length / 3;
  const share = layerShares(nLayers);
  const out: WallFibres = {
    along: new Float32Array(3 * n),
    square: new Float32Array(3 * n),
    stiffness: new Float32Array(PAIRS * n),
    most: new Float32Array(n),
    least: new Float32Array(n),
  };
  const mean = new Float64Array(SIX);
  const own = new Float64Array(PAIRS);
  const sum = new Float64Array(PAIRS);
  for (let i = 0; i < n; i++) {
    mean.fill(0);
    sum.fill(0);
    for (let t = 0; t < nLayers; t++) {
      const layer = i * nLayers + t;
      for (let c = 0; c < SIX; c++) mean[c] += share[t] * orientation[SIX * layer + c];
      layerStiffness(walls, layer, own);
      for (let k = 0; k < PAIRS; k++) sum[k] += share[t] * own[k];
    }
    const normal: Vec3 = [across[3 * i], across[3 * i + 1], across[3 * i + 2]];
    const along = mainInPlane(mean, normal);
    const square = cross(normal, along);
    out.along.set(along, 3 * i);
    out.square.set(square, 3 * i);
    out.stiffness.set(sum, PAIRS * i);
    out.most[i] = youngAlong(sum, along);
    out.least[i] = youngAlong(sum, square);
  }
  return out;
}

/** Direction in the plane across n in which a tensor has most. */
function mainInPlane(a: ArrayLike<number>, n: Vec3): Vec3 {
  // Take the part across the plane away, and more: what is left of it comes last.
  const less = 10;
  const { vectors } = eigenOf(
    [
      a[0] - less * n[0] * n[0],
      a[1] - less * n[1] * n[1],
      a[2] - less * n[2] * n[2],
      a[3] - less * n[0] * n[1],
      a[4] - less * n[1] * n[2],
      a[5] - less * n[0] * n[2],
    ],
    frame(),
  );
  const v: Vec3 = [vectors[0], vectors[3], vectors[6]];
  const off = v[0] * n[0] + v[1] * n[1] + v[2] * n[2];
  return normalised([v[0] - off * n[0], v[1] - off * n[1], v[2] - off * n[2]]);
}

/** Component of a symmetric tensor along a direction, v a v. */
const component = (a: ArrayLike<number>, at: number, v: ArrayLike<number>, from: number): number => {
  const [x, y, z] = [v[from], v[from + 1], v[from + 2]];
  return (
    a[at] * x * x +
    a[at + 1] * y * y +
    a[at + 2] * z * z +
    2 * (a[at + 3] * x * y + a[at + 4] * y * z + a[at + 5] * x * z)
  );
};

/** What is shown of the fibres; `load`: the direction that a modulus is wanted along. */
export function fibreFields(
  { grid, gridKey }: GridResult,
  found: FibresFound,
  own: WallFibres,
  load: Vec3,
  resin: Resin,
): Field[] {
  const { orientation, across, nLayers, share, lengths } = found;
  const one = (id: KnownField, values: Float32Array) => {
    const components = values.length / grid.n;
    return makeField(id, { ...FIELD_TABLE[id], components }, gridKey, [values]);
  };
  const n = grid.n * nLayers;
  const through = (value: (layer: number, node: number) => number) =>
    profileOf(
      Float32Array.from({ length: n }, (_, k) => value(k, Math.floor(k / nLayers))),
      nLayers,
      1,
    );
  const spectrum = frame();
  const tensors = Array.from({ length: SIX }, (_, c) => through((k) => orientation[SIX * k + c]));
  const places = tensors[0].length;
  const stiffness = new Float64Array(PAIRS);
  const along = Float32Array.from({ length: grid.n }, (_, i) => {
    stiffness.set(own.stiffness.subarray(PAIRS * i, PAIRS * i + PAIRS));
    return youngAlong(stiffness, load);
  });
  return [
    one(
      'fibreDegree',
      through((k) => eigenOf(orientation.subarray(SIX * k, SIX * k + SIX), spectrum).values[0]),
    ),
    one(
      'fibreOn',
      through((k, i) => component(orientation, SIX * k, own.along, 3 * i)),
    ),
    one(
      'fibreSquare',
      through((k, i) => component(orientation, SIX * k, own.square, 3 * i)),
    ),
    one(
      'fibreThrough',
      through((k, i) => component(orientation, SIX * k, across, 3 * i)),
    ),
    one(
      'fibreTensor',
      Float32Array.from({ length: SIX * places }, (_, k) => tensors[k % SIX][Math.floor(k / SIX)]),
    ),
    one(
      'fibreOnLoad',
      through((k) => component(orientation, SIX * k, load, 0)),
    ),
    ...(share
      ? [
          one(
            'fibreVolume',
            through((k) => share[k]),
          ),
          one(
            'fibreWeight',
            through((k) => weightShare(share[k], resin)),
          ),
        ]
      : []),
    ...(lengths ? [one('fibreLength', lengths.byWeight), one('fibreLengthNumber', lengths.byNumber)] : []),
    one('fibreModulus', own.most),
    one('fibreModulusLeast', own.least),
    one('fibreModulusAlong', along),
    one('wallAcross', Float32Array.from(across)),
    one('wallStiffness', upperOf(own.stiffness, grid.n)),
  ];
}

function upperOf(stiffness: Float32Array, n: number): Float32Array {
  const out = new Float32Array(UPPER * n);
  for (let i = 0, at = 0; i < n; i++)
    for (let p = 0; p < SIX; p++) for (let q = p; q < SIX; q++) out[at++] = stiffness[PAIRS * i + SIX * p + q];
  return out;
}

/** Fields that the file of the fibres is made of. */
export const OF_FIBRES_CSV = ['thickness', 'wallAcross', 'fibreTensor', 'wallStiffness'] as const;
/** Columns that stand in it where fibres break or move: names, and the scale from SI. */
const ALSO: Readonly<Record<string, readonly [name: string, scale: number]>> = {
  fibreLength: ['length_mm', 1000],
  fibreLengthNumber: ['numberMeanLength_mm', 1000],
  fibreVolume: ['shareByVolume', 1],
  fibreWeight: ['shareByWeight', 1],
};
/** Fields that go into it of a run that has them. */
export const ALSO_IN_FIBRES_CSV: readonly string[] = Object.keys(ALSO);

/**
 * Directions of the fibres and stiffness of the walls as text for other programs: a line a node, at its middle [mm], with the second
 * moments at places a1, a2 … through the wall, from its middle to its face, or from face to face, and the mean stiffness [MPa]. Shear
 * entries of the stiffness are C_xyxy and so on. Where fibres break or move, also their lengths (weight and number mean) and
 * shares; what is known through the wall is numbered like the moments. null where a run has none.
 */
export function fibresCsv(centroid: ArrayLike<number>, fields: ReadonlyMap<string, Float32Array>): string | null {
  const [wall, across, tensors, stiffness] = OF_FIBRES_CSV.map((id) => fields.get(id));
  if (!wall || !across || !tensors || !stiffness) return null;
  const n = wall.length;
  const pairs = ['xx', 'yy', 'zz', 'xy', 'yz', 'xz'];
  const nPlaces = tensors.length / n / SIX;
  const also = Object.entries(ALSO).flatMap(([id, [name, scale]]) => {
    const values = fields.get(id);
    return values?.length ? [{ name, scale, values, width: values.length / n }] : [];
  });
  const head = [
    'x_mm,y_mm,z_mm,wall_mm,acrossX,acrossY,acrossZ',
    ...Array.from({ length: nPlaces }, (_, k) => pairs.map((p) => `a${k + 1}_${p}`).join()),
    pairs.flatMap((p, i) => pairs.slice(i).map((q) => `C_${p}_${q}_MPa`)).join(),
    ...also.flatMap(({ name, width }) =>
      width === 1 ? [name] : Array.from({ length: width }, (_, k) => `${name}_${k + 1}`),
    ),
  ].join();
  const text = (x: number, digits: number) => (x === x ? String(Number(x.toPrecision(digits))) : '');
  const row = (values: Float32Array, i: number, width: number, digits: number, scale = 1) =>
    Array.from(values.subarray(i * width, (i + 1) * width), (v) => text(scale * v, digits));
  const lines = Array.from({ length: n }, (_, i) =>
    [
      ...[0, 1, 2].map((d) => text(1000 * centroid[3 * i + d], 6)),
      text(1000 * wall[i], 4),
      ...row(across, i, 3, 4),
      ...row(tensors, i, SIX * nPlaces, 4),
      ...row(stiffness, i, UPPER, 5, 1e-6),
      ...also.flatMap(({ values, width, scale }) => row(values, i, width, 4, scale)),
    ].join(),
  );
  return `${[head, ...lines].join('\n')}\n`;
}
