import { box, disc } from '../verification/shapes';
import { prepare, at, relative } from '../verification/run';
import { random } from '../verification/random';
import type { Vec3 } from '../src/core/geometry/mesh';
const spin = (angle: number, i: number, j: number) => (v: Vec3) => {
  const o: Vec3 = [...v];
  o[i] = Math.cos(angle) * v[i] - Math.sin(angle) * v[j];
  o[j] = Math.sin(angle) * v[i] + Math.cos(angle) * v[j];
  return o;
};
const next = random(11);
const turns = Array.from({ length: 10 }, (_, k) => {
  const [a, b, c, x, y, z] = [next(), next(), next(), next(), next(), next()];
  return (v: Vec3): Vec3 => {
    let w = k === 0 ? v : spin(3 * c, 0, 1)(spin(3 * b, 1, 2)(spin(3 * a, 0, 1)(v)));
    return [w[0] + x * 0.001, w[1] + y * 0.001, w[2] + z * 0.001];
  };
});
const detail = (process.argv[2] ?? 'normal') as 'normal';
async function cases(
  name: string,
  mesh: any,
  gate: any,
  visc: any,
  Q: number,
  expected: (share: number, V: number) => number,
) {
  for (const share of [0.3, 0.6, 0.9]) void 0;
  const rows: number[][] = [];
  for (const turn of turns) {
    const { fill, grid } = prepare({ mesh, gates: [gate], turn, detail });
    const { history } = await fill(visc, Q);
    const V = grid.volume.reduce((s: number, v: number) => s + v, 0);
    rows.push([0.3, 0.6, 0.9].map((s) => relative(at(history.shareFilled, history.pressure, s), expected(s, V))));
  }
  const m = [0, 1, 2].map((k) => rows.reduce((s, r) => s + r[k], 0) / rows.length);
  const sd = [0, 1, 2].map((k) => Math.sqrt(rows.reduce((s, r) => s + (r[k] - m[k]) ** 2, 0) / rows.length));
  console.log(
    name,
    detail,
    'mean %',
    m.map((x) => (100 * x).toFixed(2)).join(' '),
    ' sd %',
    sd.map((x) => (100 * x).toFixed(2)).join(' '),
    'range',
    [0, 1, 2]
      .map((k) => (100 * (Math.max(...rows.map((r) => r[k])) - Math.min(...rows.map((r) => r[k])))).toFixed(2))
      .join(' '),
  );
}
const eta = 300;
const wall = (H: number, a: number, Q: number) => (share: number, V: number) => {
  const r = Math.sqrt((share * V) / (Math.PI * 2 * H));
  return eta * Q * (1.5 / a ** 3 + 0.15 / (a * H * H) + (3 / (4 * Math.PI * H ** 3)) * Math.log(r / a));
};
const N = { kind: 'newtonian', eta } as const;
await cases(
  'disc 2mm, gate 2mm',
  disc(0.03, 0.002),
  { at: [0, 0, 0.001], diameter: 0.002 },
  N,
  1e-5,
  wall(0.001, 0.001, 1e-5),
);
await cases(
  'disc 2mm, gate 1mm',
  disc(0.03, 0.002),
  { at: [0, 0, 0.001], diameter: 0.001 },
  N,
  1e-5,
  wall(0.001, 0.0005, 1e-5),
);
await cases(
  'disc 2mm, gate 6mm',
  disc(0.03, 0.002),
  { at: [0, 0, 0.001], diameter: 0.006 },
  N,
  1e-5,
  wall(0.001, 0.003, 1e-5),
);
await cases(
  'disc 4mm, gate 4mm',
  disc(0.04, 0.004),
  { at: [0, 0, 0.002], diameter: 0.004 },
  N,
  1e-5,
  wall(0.002, 0.002, 1e-5),
);
// hemisphere of melt in a thick block: orifice + sphere spreading; pressure dominated by the entry
await cases(
  'cube 20mm gate 4mm',
  box(0.02, 0.02, 0.02),
  { at: [0.01, 0, 0.01], diameter: 0.004 },
  N,
  1e-5,
  () =>
    eta *
    1e-5 *
    (1.5 / 0.002 ** 3 + 0.15 / (0.002 * 0.01 ** 2) + (3 / (4 * Math.PI * 0.01 ** 3)) * Math.log(0.01 / 0.002)),
);
await cases(
  'plate edge gate',
  box(0.06, 0.04, 0.002),
  { at: [0, 0, 0], diameter: 0.0016 },
  N,
  1e-5,
  (s, V) =>
    eta *
    1e-5 *
    (1.5 / 0.0008 ** 3 +
      0.15 / (0.0008 * 0.001 ** 2) +
      ((2 * 3) / (4 * Math.PI * 0.001 ** 3)) * Math.log(Math.sqrt((2 * s * V) / (Math.PI * 0.002)) / 0.0008)),
);
await cases(
  'plate near edge 3mm',
  box(0.06, 0.04, 0.002),
  { at: [0.003, 0, 0.001], diameter: 0.0016 },
  N,
  1e-5,
  (s, V) =>
    eta *
    1e-5 *
    (1.5 / 0.0008 ** 3 +
      0.15 / (0.0008 * 0.001 ** 2) +
      ((2 * 3) / (4 * Math.PI * 0.001 ** 3)) * Math.log(Math.sqrt((2 * s * V) / (Math.PI * 0.002)) / 0.0008)),
);
