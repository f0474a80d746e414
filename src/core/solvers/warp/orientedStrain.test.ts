import { describe, expect, it } from 'vitest';
import { box } from '../../../../verification/shapes';
import { TURNS } from '../../../../verification/solids';
import { mapVertices, type Vec3 } from '../../geometry/mesh';
import { SYMMETRIC } from '../../geometry/vec';
import { acrossNodes } from '../../grid/acrossNodes';
import { buildFineGrid } from '../../grid/grid';
import { latticeFor } from '../../grid/lattice';
import { buildPressureGrid } from '../../grid/pressureGrid';
import { sideOfNormal } from '../../grid/wallSides';
import { HALF_LAYERS } from '../melt/layers';
import { perNode } from '../shot/located';
import { orientedWalls } from '../fibres/orientedWalls';
import { fibreStrains, onFibres } from './orientedStrain';
import { LANES, lanesTogether } from './solid';
import { wallStrains } from './stage';
import type { FibreSettings } from '../../setup/fibres';

const SETTINGS: FibreSettings = {
  model: { aspect: 22, interaction: { by: 'even', CI: 0.01 }, slowing: 0.1 },
  closure: 'orthotropic-wide',
  mechanics: 'mori-tanaka',
  aligned: {
    fibre: { young: 72e9, poisson: 0.22, expansion: 5e-6 },
    matrix: { young: 2.8e9, poisson: 0.39, expansion: 8e-5 },
    share: 0.16,
    aspect: 22,
  },
  diameter: 11e-6,
  lengths: null,
  migration: null,
  coupling: null,
};
/** Strain of a layer that is alike in all directions, and the loss of volume. */
const ALONG = -0.005;
const VOLUMETRIC = 0.02;
/** Most along x of the drawing, little across its wall. */
const OWN = [0.7, 0.25, 0.05];

describe.each(Object.entries(TURNS))('strain of a plate with fibres, %s', (_, turn) => {
  const part = mapVertices(box(0.04, 0.03, 0.002), turn);
  const fine = buildFineGrid(part, latticeFor(part, 'quick'));
  const grid = buildPressureGrid(fine);
  const axes = ([0, 1, 2] as const).map((m) => turn([0, 1, 2].map((d) => Number(d === m)) as Vec3));
  const across = acrossNodes(part, fine, grid);
  const orientation = perNode(grid.n, 6 * HALF_LAYERS, 0);
  for (let k = 0; k < grid.n * HALF_LAYERS; k++)
    SYMMETRIC.forEach(([p, q], c) => {
      orientation[6 * k + c] = OWN.reduce((s, a, m) => s + a * axes[m][p] * axes[m][q], 0);
    });
  const found = { nLayers: HALF_LAYERS, orientation, across: perNode(grid.n, 3, 0) };
  found.across.set(across);
  const oriented = orientedWalls(found, SETTINGS);
  const frozen = {
    nLayers: HALF_LAYERS,
    inPlane: new Float32Array(grid.n * HALF_LAYERS).fill(ALONG),
    mean: new Float32Array(grid.n).fill(ALONG),
    uneven: new Float32Array(0),
    heldAlong: new Float32Array(0),
  };
  const volumetric = new Float32Array(grid.n).fill(VOLUMETRIC);
  const walls = wallStrains({ part, fine, grid, frozen, volumetric, inserts: [], oriented });
  /** Component of a tensor of six along axes of the drawing. */
  const along = (t: ArrayLike<number>, m: number, n: number) =>
    SYMMETRIC.reduce(
      (s, [p, q], c) => s + t[c] * (axes[m][p] * axes[n][q] + (p === q ? 0 : axes[m][q] * axes[n][p])),
      0,
    );

  it('directions across lead from the first side to the second', () => {
    for (let i = 0; i < grid.n; i++) {
      const n: Vec3 = [across[3 * i], across[3 * i + 1], across[3 * i + 2]];
      expect(sideOfNormal(-n[0], -n[1], -n[2])).toBe(0);
      expect(Math.abs(n[0] * axes[2][0] + n[1] * axes[2][1] + n[2] * axes[2][2])).toBeGreaterThan(0.99);
    }
  });

  it('is that of the layer shared out as its expansion, and the mass is what it was', () => {
    const stretch = [0, 1, 2].map((m) => along(oriented.stretch, m, m));
    expect(stretch[0] + stretch[1] + stretch[2]).toBeCloseTo(3, 5);
    expect(stretch[0]).toBeLessThan(stretch[1]);
    const out = new Float64Array(6 * LANES);
    walls.at(...turn([0.02, 0, 0.0003]), 0, out);
    const strain = Array.from({ length: 6 }, (_v, k) => lanesTogether(out, k));
    for (const m of [0, 1]) expect(along(strain, m, m) / (ALONG * stretch[m])).toBeCloseTo(1, 2);
    expect(Math.abs(along(strain, 0, 1))).toBeLessThan(1e-5);
    const volume = (1 + along(strain, 0, 0)) * (1 + along(strain, 1, 1)) * (1 + along(strain, 2, 2));
    expect(volume).toBeCloseTo(1 - VOLUMETRIC, 4);
    // Along and square to the fibres, as they are told.
    const [least, most] = fibreStrains(walls.shrinkage, grid.nodeOfCell[0]);
    expect(least / (ALONG * stretch[0])).toBeCloseTo(1, 2);
    expect(most / (ALONG * stretch[1])).toBeCloseTo(1, 2);
    expect(onFibres(grid, walls.shrinkage)!.along).toBeCloseTo(-ALONG * stretch[0], 4);
  });
});
