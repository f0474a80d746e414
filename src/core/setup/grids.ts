import type { TriangleMesh } from '../geometry/mesh';
import { buildFineGrid, type FineGrid } from '../grid/grid';
import { latticeFor, MAX_DENSE_CELLS } from '../grid/lattice';
import { buildPressureGrid, type PressureGrid } from '../grid/pressureGrid';
import type { Inputs } from '../model/study';
import type { StageContext } from '../stage/context';

export interface GridResult {
  fine: FineGrid;
  grid: PressureGrid;
  gridKey: string;
}

/** Sixteen signs of the first surface and, where there is more, a checksum of all (FNV-1a). */
function shortKey(key: string): string {
  let sum = 0x811c9dc5;
  for (let i = 0; i < key.length; i++) sum = Math.imul(sum ^ key.charCodeAt(i), 0x01000193) >>> 0;
  return key.length > 64 ? `${key.slice(0, 16)}~${sum.toString(36)}` : key.slice(0, 16);
}

export async function makeGrid(
  mesh: TriangleMesh,
  geometryKey: string,
  inputs: Inputs,
  ctx: StageContext,
): Promise<GridResult | { message: string; likely: string }> {
  const report = (fraction: number, message: string) => ctx.report({ stage: 'grid', fraction, message });
  report(0, 'Cutting the part into cells');
  await ctx.checkpoint();
  const lattice = latticeFor(mesh, inputs.detail);
  const nDense = lattice.nx * lattice.ny * lattice.nz;
  if (nDense > MAX_DENSE_CELLS)
    return {
      message: `At this detail the box around the part has ${Math.round(nDense / 1e6)} million cells, more than fit.`,
      likely:
        'Choose a coarser Detail, or check the unit: a wall much thinner than the part is long suggests a wrong one.',
    };
  const fine = buildFineGrid(mesh, lattice);
  report(0.7, `${fine.cells.n.toLocaleString('en-GB')} cells; joining them into the pressure grid`);
  await ctx.checkpoint();
  const grid = buildPressureGrid(fine);
  report(1, `${fine.cells.n.toLocaleString('en-GB')} cells, ${grid.n.toLocaleString('en-GB')} pressure nodes`);
  await ctx.checkpoint();
  return { fine, grid, gridKey: `${shortKey(geometryKey)}-${inputs.detail}` };
}
