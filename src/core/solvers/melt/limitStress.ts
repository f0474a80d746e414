import type { PressureGrid } from '../../grid/pressureGrid';
import type { Columns } from './columns';
import type { FlowSolver } from './pressure';

/**
 * Keeps the stress that heats the melt of node i such that it gives no more heat than the pressure gives work, half of
 * q |dp| of every link. The stress of the flow before, in melt that has cooled since, would heat a way that is closing
 * without bound; and melt that is sheared harder flows more easily, so that the heat is that of its own layers, not of the
 * fluidity there was. Lays the flow of the node out anew.
 */
export function limitStress(i: number, grid: PressureGrid, solver: FlowSolver, columns: Columns): void {
  const { pressure, linkFlow, fluidity } = solver;
  const { nLayers, shearHeat, wallStress } = columns;
  let work = 0;
  for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++)
    work += 0.5 * Math.abs(linkFlow[grid.rowLink[k]] * (pressure[i] - pressure[grid.rowNode[k]]));
  const s = grid.shape[i];
  const perStress = (grid.volume[i] * fluidity[i] * (s - 1)) / (s + 1);
  wallStress[i] = Math.min(wallStress[i], Math.sqrt(work / perStress));
  columns.layFlow(i);
  let heat = 0;
  for (let t = 0; t < nLayers; t++) heat += shearHeat[i * nLayers + t];
  heat *= grid.volume[i] * wallStress[i] ** 2;
  // Heat grows with the square of the stress at least.
  if (heat > work) wallStress[i] *= Math.sqrt(work / heat);
}
