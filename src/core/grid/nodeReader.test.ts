import { describe, expect, it } from 'vitest';
import { box } from '../../../verification/shapes';
import { openBox, TURNS } from '../../../verification/solids';
import { mapVertices, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { dot, vertexAt } from '../geometry/vec';
import { buildFineGrid } from './grid';
import { latticeFor, type Detail } from './lattice';
import { NodeReader, type ReadableGrid } from './nodeReader';
import { buildPressureGrid } from './pressureGrid';
import { PointMapper, surfaceMap, vertexNormals } from './surfaceMap';

function gridOf(mesh: TriangleMesh, detail: Detail) {
  const fine = buildFineGrid(mesh, latticeFor(mesh, detail));
  const grid = buildPressureGrid(fine);
  const readable: ReadableGrid = { nNodes: grid.n, mapper: new PointMapper(fine, grid), centroid: grid.centroid };
  return { fine, grid, readable };
}

const linear = (direction: Vec3) => (p: Vec3) => 3 + 40 * dot(direction, p);
const atNodes = (grid: ReadableGrid, of: (p: Vec3) => number) =>
  Float32Array.from({ length: grid.nNodes }, (_, i) => of(vertexAt(grid.centroid, i)));

describe('values of one grid at places of another', () => {
  it.each(Object.entries(TURNS))('are exact for fields linear along a plate, quick onto normal, %s', (_name, turn) => {
    const plate = mapVertices(box(0.09, 0.05, 0.002), turn);
    const [coarse, fine] = [gridOf(plate, 'quick'), gridOf(plate, 'normal')];
    const reader = NodeReader.on(coarse.readable, fine.readable.centroid);
    for (const along of [
      [1, 0, 0],
      [0, 1, 0],
      [0.6, -0.8, 0],
    ] as Vec3[]) {
      const of = linear(turn(along));
      const read = reader.read(atNodes(coarse.readable, of));
      const span = 40 * 0.09;
      for (let i = 0; i < reader.n; i++)
        expect(Math.abs(read[i] - of(vertexAt(fine.readable.centroid, i)))).toBeLessThan(1e-3 * span);
    }
  });

  it('follow a field that bends, on a box: at its own nodes, and from quick at those of normal', () => {
    const mesh = openBox(0.06, 0.04, 0.015, 0.002);
    const [quick, normal] = [gridOf(mesh, 'quick').readable, gridOf(mesh, 'normal').readable];
    const wavy = ([x, y, z]: Vec3) => Math.sin(60 * x) * Math.cos(80 * y) + 10 * z;
    const offBy = (places: ArrayLike<number>) => {
      const read = NodeReader.on(quick, places).read(atNodes(quick, wavy));
      const errors = Array.from(read, (v, i) => Math.abs(v - wavy(vertexAt(places, i)))).sort((a, b) => a - b);
      return errors[Math.floor(0.95 * errors.length)];
    };
    expect(offBy(quick.centroid)).toBeLessThan(0.02);
    expect(offBy(normal.centroid)).toBeLessThan(0.03);
  });

  it('are none off the part, and none where the nodes around have none', () => {
    const { readable } = gridOf(box(0.05, 0.03, 0.002), 'quick');
    const values = atNodes(readable, ([x]) => (x > 0.025 ? NaN : 1));
    const read = NodeReader.on(readable, [0.01, 0, 0, 0.045, 0, 0, 0.3, 0, 0, 0.01, 0, 0.02]).read(values);
    expect(read[0]).toBe(1);
    expect([...read.slice(1)].every(Number.isNaN)).toBe(true);
  });

  it('on the drawn surface too, read a little inwards', () => {
    const plate = box(0.05, 0.03, 0.002);
    const { fine, grid, readable } = gridOf(plate, 'normal');
    const surface = surfaceMap(plate, fine, grid);
    const normals = vertexNormals(surface);
    const reader = NodeReader.on(
      readable,
      surface.positions,
      normals.map((x) => -3e-4 * x),
    );
    const of = linear([1, 0, 0]);
    const read = reader.read(atNodes(readable, of));
    for (let v = 0; v < reader.n; v++) expect(read[v]).toBeCloseTo(of(vertexAt(surface.positions, v)), 3);
  });
});
