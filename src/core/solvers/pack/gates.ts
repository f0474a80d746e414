import type { PressureGrid } from '../../grid/pressureGrid';
import type { Inlet } from '../fill/inlet';

/** Nodes of the part just behind each gate: as long as one of them can be fed, the gate is open. */
export function gateRims(grid: PressureGrid, inlet: Inlet): number[][] {
  const rims: number[][] = [];
  const add = (gate: number, node: number) => (rims[gate] ??= []).push(node);
  if (inlet.gateNode) {
    inlet.gateNode.forEach((_, g) => (rims[g] ??= []));
    inlet.rims?.forEach(({ gate, outer }) => add(gate, outer));
    return rims;
  }
  for (let l = 0; l < grid.linkFrom.length; l++) {
    const [a, b] = [grid.linkFrom[l], grid.linkTo[l]];
    const [ga, gb] = [inlet.gateOfNode[a], inlet.gateOfNode[b]];
    if (ga >= 0 && gb < 0) add(ga, b);
    if (gb >= 0 && ga < 0) add(gb, a);
  }
  inlet.attached.forEach(({ gate, node }) => add(gate, node));
  // A gate whose disc lies wholly under another's has no node of its own.
  return Array.from(rims, (rim) => rim ?? []);
}
