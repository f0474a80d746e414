import { describe, expect, it } from 'vitest';
import { flipped, mapVertices, weld, type TriangleMesh, type Vec3 } from '../src/core/geometry/mesh';
import { at, prepare, relative } from './run';
import { box, ORIENTATIONS, prism } from './shapes';
import { few } from './extent';

/** Extruded outline in the xz plane, `width` along y: walls of any thickness joined by steps and corners. */
function profile(outline: [number, number][], triangles: [number, number, number][], width: number): TriangleMesh {
  const soup: number[] = [];
  const p = (i: number, y: number): Vec3 => [outline[i % outline.length][0], y, outline[i % outline.length][1]];
  const h = width / 2;
  for (const [a, b, c] of triangles) {
    soup.push(...p(a, -h), ...p(b, -h), ...p(c, -h));
    soup.push(...p(a, h), ...p(c, h), ...p(b, h));
  }
  for (let i = 0; i < outline.length; i++) {
    soup.push(...p(i, -h), ...p(i, h), ...p(i + 1, h), ...p(i, -h), ...p(i + 1, h), ...p(i + 1, -h));
  }
  const { mesh } = weld(soup);
  return mesh;
}

const eta = 400;
const viscosity = { kind: 'newtonian', eta } as const;
/** Gates in a row along the edge x = 0, at the height z. */
const row = (width: number, n: number, z = 0) =>
  Array.from({ length: n }, (_, i) => ({ at: [0, ((i + 0.5) / n - 0.5) * width, z] as Vec3, diameter: 0.001 }));

/** Mean pressure over the nodes within half a block of a plane x = const (untured frame). */
function pressureAt(
  prepared: ReturnType<typeof prepare>,
  frame: Float32Array,
  turn: (v: Vec3) => Vec3,
  axis: Vec3,
  place: number,
) {
  const e = turn(axis);
  const { position, spacing, n } = prepared.grid;
  let sum = 0;
  let weight = 0;
  for (let i = 0; i < n; i++) {
    const s = position[3 * i] * e[0] + position[3 * i + 1] * e[1] + position[3 * i + 2] * e[2];
    const w = Math.max(0, 1 - Math.abs(s - place) / spacing) * prepared.grid.volume[i];
    if (!(frame[i] > 0)) continue;
    sum += w * frame[i];
    weight += w;
  }
  return sum / weight;
}

describe.each(few(Object.entries(ORIENTATIONS).reverse(), 2))('a step in the wall, %s', (_name, turn) => {
  it('loses eight times the pressure where the wall is half as thick', async () => {
    const [width, thick, thin] = [0.08, 0.003, 0.0015];
    const outline: [number, number][] = [
      [0, -thick / 2],
      [0.04, -thick / 2],
      [0.04, -thin / 2],
      [0.08, -thin / 2],
      [0.08, thin / 2],
      [0.04, thin / 2],
      [0.04, thick / 2],
      [0, thick / 2],
    ];
    const faces: [number, number, number][] = [
      [0, 1, 2],
      [0, 2, 5],
      [0, 5, 6],
      [0, 6, 7],
      [2, 3, 4],
      [2, 4, 5],
    ];
    let mesh = profile(outline, faces, width);
    if (volumeOf(mesh) < 0) mesh = flipped(mesh);
    // Detail normal goes by the nominal wall, which the thick half raises: fine gives the thin one two cells.
    const prepared = prepare({ mesh, gates: row(width, 8), turn, detail: 'fine' });
    const flow = 2e-6;
    const { frames, massError } = await prepared.fill(viscosity, flow);
    const frame = frames.node.pressure[frames.node.pressure.length - 1];
    const p = (x: number) => pressureAt(prepared, frame, turn, [1, 0, 0], x);
    const exact = (h: number) => (12 * eta * flow) / (width * h ** 3);
    expect(massError).toBeLessThan(1e-6);
    // Side walls take 0.63 h / width of the flow: 2.4 % of the thick half, 1.2 % of the thin one.
    const sides = (h: number) => 1 / (1 - (0.63 * h) / width);
    expect(Math.abs(relative((p(0.014) - p(0.034)) / 0.02, exact(thick) * sides(thick)))).toBeLessThan(0.03);
    expect(Math.abs(relative((p(0.046) - p(0.066)) / 0.02, exact(thin) * sides(thin)))).toBeLessThan(0.03);
  });
});

function volumeOf(mesh: TriangleMesh): number {
  let v = 0;
  const p = (i: number) => [0, 1, 2].map((d) => mesh.positions[3 * mesh.triangles[i] + d]);
  for (let i = 0; i < mesh.triangles.length; i += 3) {
    const [a, b, c] = [p(i), p(i + 1), p(i + 2)];
    v += a[0] * (b[1] * c[2] - b[2] * c[1]) + a[1] * (b[2] * c[0] - b[0] * c[2]) + a[2] * (b[0] * c[1] - b[1] * c[0]);
  }
  return v / 6;
}

describe('what must not matter', () => {
  const plate = box(0.06, 0.03, 0.002);
  const melt = { kind: 'power-law', K: 9000, n: 0.35 } as const;
  const gate = { at: [0.012, 0.004, 0.001] as Vec3, diameter: 0.003 };
  const pressureAtShare = (h: { shareFilled: number[]; pressure: number[] }) => at(h.shareFilled, h.pressure, 0.7);

  it('a mirror image fills alike', async () => {
    const mirror = ([x, y, z]: Vec3): Vec3 => [x, -y, z];
    const one = await prepare({ mesh: plate, gates: [gate], turn: (v) => v }).fill(melt, 4e-6);
    const other = await prepare({
      mesh: flipped(mapVertices(plate, mirror)),
      gates: [{ ...gate, at: mirror(gate.at) }],
      turn: (v) => v,
    }).fill(melt, 4e-6);
    // The lattice lies differently in the mirror image: the difference is the grid error.
    expect(Math.abs(relative(pressureAtShare(other.history), pressureAtShare(one.history)))).toBeLessThan(0.02);
  });

  it('where the part sits in space', async () => {
    const shift = ([x, y, z]: Vec3): Vec3 => [x + 3.2, y - 1.7, z + 0.41];
    const one = await prepare({ mesh: plate, gates: [gate], turn: (v) => v }).fill(melt, 4e-6);
    const other = await prepare({ mesh: plate, gates: [gate], turn: shift }).fill(melt, 4e-6);
    // The lattice moves with the part: only rounding of coordinates is left.
    expect(Math.abs(relative(pressureAtShare(other.history), pressureAtShare(one.history)))).toBeLessThan(1e-6);
  });

  it('the size: a part twice as large with eight times the flow', async () => {
    const one = await prepare({ mesh: plate, gates: [gate], turn: (v) => v }).fill(melt, 4e-6);
    const double = ([x, y, z]: Vec3): Vec3 => [2 * x, 2 * y, 2 * z];
    const other = await prepare({
      mesh: mapVertices(plate, double),
      gates: [{ at: double(gate.at), diameter: 2 * gate.diameter }],
      turn: (v) => v,
    }).fill(melt, 3.2e-5);
    // Shear rates Q / (W H^2) and lengths over gaps are the same, so are pressures and times.
    expect(Math.abs(relative(pressureAtShare(other.history), pressureAtShare(one.history)))).toBeLessThan(1e-6);
    const end = (t: number[]) => t[t.length - 1];
    expect(Math.abs(relative(end(other.history.time), end(one.history.time)))).toBeLessThan(1e-6);
  });

  it('the order of the gates', async () => {
    const gates = [gate, { at: [0.05, -0.008, 0.001] as Vec3, diameter: 0.002 }];
    const one = await prepare({ mesh: plate, gates, turn: (v) => v }).fill(melt, 4e-6);
    const other = await prepare({ mesh: plate, gates: [...gates].reverse(), turn: (v) => v }).fill(melt, 4e-6);
    expect(pressureAtShare(other.history)).toBe(pressureAtShare(one.history));
    expect(other.history.gateFlow[30]).toEqual([...one.history.gateFlow[30]].reverse());
  });
});

describe('sections that are neither slab nor round', () => {
  it.each([
    [1, 0.03514],
    [2, 0.05718],
  ])('a bar %f times as wide as high', async (ratio, k) => {
    // Newtonian flow in a rectangle: Q = k w h^3 G / eta (series of Boussinesq; Shah & London 1978, ch. VII).
    const [h, length] = [0.004, 0.05];
    const w = ratio * h;
    const bar = mapVertices(
      prism(
        [
          [-w / 2, -h / 2],
          [w / 2, -h / 2],
          [w / 2, h / 2],
          [-w / 2, h / 2],
        ],
        0,
        length,
      ),
      ([x, y, z]) => [z, x, y],
    );
    const prepared = prepare({ mesh: bar, gates: [{ at: [0, 0, 0], diameter: h }], turn: (v) => v, detail: 'fine' });
    const flow = 1e-6;
    const { frames } = await prepared.fill(viscosity, flow);
    const frame = frames.node.pressure[frames.node.pressure.length - 1];
    const p = (x: number) => pressureAt(prepared, frame, (v) => v, [1, 0, 0], x);
    const exact = (eta * flow) / (k * w * h ** 3);
    expect(Math.abs(relative((p(0.015) - p(0.035)) / 0.02, exact))).toBeLessThan(0.05);
  });
});
