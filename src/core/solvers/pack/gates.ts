import type { PressureGrid } from '../../grid/pressureGrid';
import type { Gating } from '../melt/gating';

/** Nodes of the part just behind a gate, with their shares of what passes it; the shares sum to 1. */
export type GateRim = { node: number; share: number }[];

/** Rims of all gates: as long as enough of a rim can be fed, its gate is open. */
export function gateRims(grid: PressureGrid, gating: Gating): GateRim[] {
  const rims: GateRim[] = [];
  const add = (gate: number, node: number, share: number) => (rims[gate] ??= []).push({ node, share });
  gating.gateNode?.forEach((_, g) => (rims[g] ??= []));
  for (const { gate, links } of gating.stars) for (const { node, conductance } of links) add(gate, node, conductance);
  for (let l = 0; l < grid.linkFrom.length; l++) {
    const [a, b] = [grid.linkFrom[l], grid.linkTo[l]];
    const [ga, gb] = [gating.gateOfNode[a], gating.gateOfNode[b]];
    if (ga >= 0 && gb < 0) add(ga, b, 1);
    if (gb >= 0 && ga < 0) add(gb, a, 1);
  }
  return Array.from(rims, (rim = []) => {
    const sum = rim.reduce((s, r) => s + r.share, 0);
    return rim.map(({ node, share }) => ({ node, share: share / sum }));
  });
}
