import { describe, expect, it } from 'vitest';
import { box, disc, ORIENTATIONS, rod } from '../../../verification/shapes';
import { mapVertices, measure, weld, type TriangleMesh } from '../geometry/mesh';
import { cutCells } from './cutCells';
import { buildFineGrid } from './grid';
import { latticeFor, latticeOver, nominalWall } from './lattice';
import { buildPressureGrid } from './pressureGrid';
import { lineCrossings } from './wallDistances';

const turns = Object.entries(ORIENTATIONS);
const bodies: [string, TriangleMesh][] = [
  ['plate', box(0.03, 0.02, 0.0022)],
  ['disc', disc(0.02, 0.002, 48)],
  ['rod', rod(0.004, 0.03, 32)],
];

describe.each(turns)('cut cells, %s', (_name, turn) => {
  it.each(bodies)('%s: volume is exact and every cell is closed', (_body, mesh) => {
    const turned = mapVertices(mesh, turn);
    const lattice = latticeOver(turned, 0.0011);
    const { faceX, faceY, faceZ, volume, wallArea } = cutCells(turned, lattice);
    const total = volume.reduce((s, v) => s + v, 0) * lattice.spacing ** 3;
    // Exact clipping: only rounding is left.
    expect(Math.abs(total / measure(mesh).volume - 1)).toBeLessThan(1e-10);
    const area = wallArea.reduce((s, a) => s + a, 0) * lattice.spacing ** 2;
    expect(Math.abs(area / measure(mesh).area - 1)).toBeLessThan(1e-5);
    const { nx, ny, nz } = lattice;
    for (let c = 0; c < volume.length; c++) {
      if (volume[c] <= 0 || volume[c] >= 1) continue;
      const k = Math.floor(c / (nx * ny));
      if (k + 1 >= nz) continue;
      // The wall's vector area balances the open faces; its length cannot exceed the wall's area.
      const open = Math.hypot(faceX[c] - faceX[c + 1], faceY[c] - faceY[c + nx], faceZ[c] - faceZ[c + nx * ny]);
      expect(open).toBeLessThanOrEqual(wallArea[c] + 1e-6);
    }
  });

  it('lines cross a closed surface an even number of times, in and out by turns', () => {
    const turned = mapVertices(disc(0.02, 0.002, 48), turn);
    const { start, sign } = lineCrossings(turned, latticeOver(turned, 0.001), 0);
    for (let line = 0; line + 1 < start.length; line++) {
      let winding = 0;
      for (let s = start[line]; s < start[line + 1]; s++) {
        winding -= sign[s];
        expect(winding === 0 || winding === 1).toBe(true);
      }
      expect(winding).toBe(0);
    }
  });

  it('a slab has its half thickness at every inside centre, whatever its tilt', () => {
    const h = 0.0022;
    const turned = mapVertices(box(0.04, 0.03, h), turn);
    const { cells, lattice } = buildFineGrid(turned, latticeOver(turned, h / 2));
    const back = inverse(turn);
    const middle: number[] = [];
    for (let c = 0; c < cells.n; c++) {
      if (!cells.inside[c]) continue;
      const at = cells.index[c];
      const p = back([
        lattice.origin[0] + ((at % lattice.nx) + 0.5) * lattice.spacing,
        lattice.origin[1] + ((Math.floor(at / lattice.nx) % lattice.ny) + 0.5) * lattice.spacing,
        lattice.origin[2] + (Math.floor(at / (lattice.nx * lattice.ny)) + 0.5) * lattice.spacing,
      ]);
      // Away from the plate's edges by two thicknesses the solution is that of the infinite slab.
      if (p[0] > 2 * h && p[0] < 0.04 - 2 * h && Math.abs(p[1]) < 0.015 - 2 * h) middle.push(cells.halfGap[c]);
    }
    expect(middle.length).toBeGreaterThan(100);
    // exp(-2 pi) of the edges is still felt there.
    for (const gap of middle) expect(Math.abs(gap / (h / 2) - 1)).toBeLessThan(0.004);
  });
});

/** The inverse of a rotation given as a function: its matrix transposed. */
function inverse(turn: (v: [number, number, number]) => [number, number, number]) {
  const columns = [turn([1, 0, 0]), turn([0, 1, 0]), turn([0, 0, 1])];
  return (v: [number, number, number]) => columns.map((c) => c[0] * v[0] + c[1] * v[1] + c[2] * v[2]);
}

describe('section properties', () => {
  it('a round rod is told from a slab', () => {
    const R = 0.004;
    const mesh = rod(R, 0.04, 96);
    const grid = buildPressureGrid(buildFineGrid(mesh, latticeOver(mesh, R / 4)));
    const inner = [...grid.volume.keys()].filter((i) => {
      const x = grid.position[3 * i];
      return x > 0.012 && x < 0.028 && grid.volume[i] > 0.2 * grid.spacing ** 3;
    });
    const mean = (f: (i: number) => number) =>
      inner.reduce((s, i) => s + f(i) * grid.volume[i], 0) / inner.reduce((s, i) => s + grid.volume[i], 0);
    expect(mean((i) => grid.shape[i])).toBeGreaterThan(2.85);
    // |grad kappa| at the wall of a tube is R/2.
    expect(Math.abs(mean((i) => grid.wallGap[i]) / (R / 2) - 1)).toBeLessThan(0.05);
  });

  it('two walls in one block stay two nodes', () => {
    const gap = 0.0012;
    const lower = box(0.02, 0.02, 0.001);
    const upper = mapVertices(lower, ([x, y, z]) => [x, y, z + 0.001 + gap]);
    const soup: number[] = [];
    for (const mesh of [lower, upper])
      for (const v of mesh.triangles) soup.push(...mesh.positions.slice(3 * v, 3 * v + 3));
    const both = weld(soup).mesh;
    const grid = buildPressureGrid(buildFineGrid(both, latticeOver(both, 0.0005)));
    const reached = new Set([0]);
    const queue = [0];
    for (const i of queue)
      for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++)
        if (!reached.has(grid.rowNode[k])) {
          reached.add(grid.rowNode[k]);
          queue.push(grid.rowNode[k]);
        }
    const volume = queue.reduce((s, i) => s + grid.volume[i], 0);
    expect(Math.abs(volume / measure(lower).volume - 1)).toBeLessThan(1e-6);
  });

  it('says where a feature is thinner than the grid resolves', () => {
    const mesh = box(0.02, 0.02, 0.0002);
    const coarse = buildFineGrid(mesh, latticeOver(mesh, 0.002));
    const fine = buildFineGrid(mesh, latticeFor(mesh, 'normal'));
    expect(coarse.thin.length).toBeGreaterThan(20);
    expect(fine.thin.length).toBe(0);
  });

  it('nominal wall is that of a wide plate', () => {
    // 2 V / S = h / (1 + 2 h / L): the edges take 0.4 %.
    expect(nominalWall(box(1, 1, 0.002))).toBeCloseTo(0.002 / 1.004, 9);
  });
});
