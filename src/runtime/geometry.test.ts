import { describe, expect, it } from 'vitest';
import { unpackArrays } from '../core/formats/arrays';
import { inspect } from '../core/geometry/check';
import { mapVertices, measure, type TriangleMesh, type Vec3 } from '../core/geometry/mesh';
import { joined } from '../core/geometry/shells';
import { geometryTaskSchema } from '../core/model/geometryTask';
import { MAP_IDS } from '../core/partmaps/mapKinds';
import { revolve, slab } from '../../verification/solids';
import { performTask, type GeometryStore } from './geometry';

const hash = (n: number) => n.toString(16).padStart(64, '0');

/** Surfaces in memory, named by number. */
class Memory implements GeometryStore {
  meshes: TriangleMesh[] = [];
  blobs: Uint8Array[] = [];
  said: string[] = [];
  load = (name: string) => this.meshes[parseInt(name, 16)];
  save = (mesh: TriangleMesh) => hash(this.meshes.push(mesh) - 1);
  keep = (_task: unknown, bytes: Uint8Array) => hash(this.blobs.push(bytes) - 1);
  report = (_fraction: number, message: string) => void this.said.push(message);
  put = (...meshes: TriangleMesh[]) => meshes.map((mesh, i) => ({ id: `B${i + 1}`, mesh: this.save(mesh) }));
}

const shifted = (mesh: TriangleMesh, by: Vec3) => mapVertices(mesh, ([x, y, z]) => [x + by[0], y + by[1], z + by[2]]);
const plate = slab(0.04, 0.03, () => 0.003);
const volumeOf = (store: Memory, name: string) => measure(store.load(name)).volume;

describe('work on surfaces', () => {
  it('mends, with volume and surface before and after', async () => {
    const store = new Memory();
    const bodies = store.put(
      { ...plate, triangles: plate.triangles.slice(3) },
      joined([plate, shifted(plate, [0.01, 0.01, 0.001])]),
    );
    const { bodies: made } = await performTask({ do: 'mend', bodies }, store);
    expect(made.map((b) => b.left)).toEqual([0, 0]);
    expect(made[0].done).toContain('1 hole closed');
    expect(volumeOf(store, made[0].mesh)).toBeCloseTo(3.6e-6, 12);
    // Two plates that share 30 x 20 x 2 mm become one skin.
    expect(volumeOf(store, made[1].mesh)).toBeCloseTo(2 * 3.6e-6 - 0.03 * 0.02 * 0.002, 11);
    expect(made[1].before.volume).toBeCloseTo(7.2e-6, 11);
  });

  it('a body of no volume is refused, not turned into nothing', async () => {
    const store = new Memory();
    const sheet = mapVertices(plate, ([x, y]) => [x, y, 0]);
    await expect(performTask({ do: 'mend', bodies: store.put(sheet) }, store)).rejects.toThrow(/Nothing would be left/);
  });

  it('turns each surface once, however many bodies share it', async () => {
    const store = new Memory();
    const [body] = store.put(plate);
    const quarter = [0, -1, 0, 0, 1, 0, 0, 0, 0, 0, 1, 0];
    const { bodies } = await performTask({ do: 'turn', bodies: [body, { ...body, id: 'B2' }], matrix: quarter }, store);
    expect(bodies[0].mesh).toBe(bodies[1].mesh);
    const { bounds, volume } = inspect(store.load(bodies[0].mesh));
    expect(bounds.max[1] - bounds.min[1]).toBeCloseTo(0.04, 12);
    expect(volume).toBeCloseTo(3.6e-6, 12);
  });

  it('fits a stand-in and makes its surface', async () => {
    const store = new Memory();
    const [body] = store.put(plate);
    const { standIn, volume } = await performTask({ do: 'fit', body, shape: 'box', axis: null }, store);
    expect(volume).toBeCloseTo(3.6e-6, 12);
    const { bodies } = await performTask({ do: 'stand-in', bodies: [{ id: 'B1', standIn }] }, store);
    expect(volumeOf(store, bodies[0].mesh)).toBeCloseTo(3.6e-6, 12);
  });

  it('finds copies and overlaps, and what cannot be looked at', async () => {
    const store = new Memory();
    const open = { ...plate, triangles: plate.triangles.slice(3) };
    const bodies = store.put(plate, shifted(plate, [0.02, 0, 0]), shifted(plate, [0.5, 0, 0]), open);
    const { groups } = await performTask({ do: 'identical', bodies: bodies.slice(0, 3) }, store);
    expect(groups.map((g) => g.ids)).toEqual([['B1', 'B2', 'B3']]);
    const { pairs, notClosed } = await performTask({ do: 'overlaps', bodies }, store);
    expect(pairs.map((p) => [p.a, p.b])).toEqual([['B1', 'B2']]);
    expect(pairs[0].volume).toBeCloseTo(1.8e-6, 11);
    expect(notClosed).toEqual(['B4']);
    const [a, b] = bodies;
    const cut = await performTask({ do: 'combine', a, b, how: 'cut' }, store);
    expect(volumeOf(store, cut.mesh)).toBeCloseTo(1.8e-6, 11);
    await expect(performTask({ do: 'combine', a, b: bodies[3], how: 'join' }, store)).rejects.toThrow(/not closed/);
  });

  it('splits pieces, a hollow staying with its piece', async () => {
    const store = new Memory();
    const inner = mapVertices(plate, ([x, y, z]) => [0.01 + 0.2 * x, 0.2 * y, 0.2 * z]);
    const hollow = { ...inner, triangles: inner.triangles.slice().reverse() };
    const [body] = store.put(joined([plate, hollow, shifted(plate, [0, 0.1, 0])]));
    const { meshes } = await performTask({ do: 'split', body }, store);
    expect(meshes.map((m) => store.load(m).triangles.length / 3)).toEqual([24, 12]);
    await expect(performTask({ do: 'split', body: { id: 'B1', mesh: meshes[1] } }, store)).rejects.toThrow(/one piece/);
  });

  it('traces a channel and refuses a plate', async () => {
    const store = new Memory();
    const rod = revolve([
      [0, 0],
      [0.004, 0],
      [0.004, 0.05],
      [0, 0.05],
    ]);
    const [channel, flat] = store.put(rod, plate);
    const axis = await performTask({ do: 'trace', body: channel }, store);
    expect(Math.abs(axis.length / 0.05 - 1)).toBeLessThan(0.02);
    await expect(performTask({ do: 'trace', body: flat }, store)).rejects.toThrow(/no centre line|No centre line/);
  });

  it('maps come with their numbers and a blob of every field', async () => {
    const store = new Memory();
    const bodies = store.put(plate);
    const maps = await performTask(
      { do: 'maps', bodies, partingHeight: null, gates: [[0.02, 0, 0.0015]], rules: {} },
      store,
    );
    expect(maps.typicalWall).toBeCloseTo(0.003, 6);
    expect(maps.projectedArea).toBeCloseTo(0.04 * 0.03, 9);
    const { arrays } = unpackArrays(store.blobs[0].slice().buffer);
    for (const id of MAP_IDS) expect(arrays[id].length).toBe(arrays.positions.length / 3);
    expect(store.said.length).toBeGreaterThan(3);
    const open = store.put({ ...plate, triangles: plate.triangles.slice(3) });
    await expect(performTask({ do: 'openings', bodies: open }, store)).rejects.toThrow(/not closed/);
  });
});

describe('requests', () => {
  it.each([
    [{ do: 'fly' }, false],
    [{ do: 'mend', bodies: [] }, false],
    [{ do: 'mend', bodies: [{ id: 'B1', mesh: '../x' }] }, false],
    [{ do: 'trace', body: { id: 'B1', mesh: hash(1) } }, true],
    [{ do: 'turn', bodies: [{ id: 'B1', mesh: hash(1) }], matrix: [1] }, false],
  ])('%j', (task, good) => expect(geometryTaskSchema.safeParse(task).success).toBe(good));
});
