import { cutSegments, type FeedCell, type FeedNetwork } from '../../feed/network';
import type { Vec3 } from '../../geometry/mesh';
import type { PressureGrid } from '../../grid/pressureGrid';
import type { Gating, Rim } from './gating';

/**
 * Part and feed as one grid: every cell of a runner is a node with a column of its own, so pressure,
 * heat, front and frozen skin need no second solver. Every gate is a node at the end of the feed, from which the links
 * of its near field lead into the part.
 */
export interface JoinedFeed {
  grid: PressureGrid;
  gating: Gating;
  /** Node of the joined grid that each node of the part has become. Length of the part's n. */
  nodeOf: Int32Array;
  /** Node of every cell of the feed, segment by segment. */
  cells: { node: number; cell: FeedCell }[];
  /** Link through which each segment is entered; -1 from the nozzle. */
  entryLinks: Int32Array;
}

/** Axis of links that lie along no axis of the lattice. */
export const NO_AXIS = 3;
/** A joint of segments holds next to nothing: this share of a cell beside it. */
const JOINT_VOLUME = 1e-3;

interface Link {
  from: number;
  to: number;
  axis: number;
  transmissibility: number;
  /** Share of the resistance that belongs to `from`. */
  share: number;
}

/**
 * Joins the part with a feed, or with none: the melt then comes straight to the gates.
 * @throws RangeError when a gate of the inlet has no point in the network, or a segment no length.
 */
export function joinFeed(grid: PressureGrid, gating: Gating, network: FeedNetwork | null): JoinedFeed {
  if (!network) {
    const nodeOf = Int32Array.from({ length: grid.n }, (_, i) => i);
    return { grid, gating, nodeOf, cells: [], entryLinks: new Int32Array(0) };
  }
  if (gating.stars.some(({ gate }) => gate >= network.gatePoints.length))
    throw new RangeError(`Gate ${network.gatePoints.length + 1} has no place in the feed.`);
  // The part's nodes keep their numbers.
  const nodeOf = Int32Array.from({ length: grid.n }, (_, i) => i);
  let n = grid.n;
  const segments = cutSegments(network);
  const cellNodes = segments.map((cells) => cells.map(() => n++));
  // The nozzle is the inlet itself.
  const pointNode = network.points.map((_, p) => (p === network.nozzle ? -1 : n++));
  const links: Link[] = Array.from(grid.linkFrom, (from, l) => ({
    from,
    to: grid.linkTo[l],
    axis: grid.linkAxis[l],
    transmissibility: grid.transmissibility[l],
    share: 0.5,
  }));
  const rims: Rim[] = [];
  for (const { gate, node, conductance, star } of gating.attached) {
    rims.push({ link: links.length, gate, outer: node, star });
    const from = pointNode[network.gatePoints[gate]];
    links.push({ from, to: node, axis: NO_AXIS, transmissibility: conductance, share: 0.5 });
  }
  const entryLinks = new Int32Array(segments.length);
  const attached: Gating['attached'] = [];
  segments.forEach((cells, k) => {
    const { from, to } = network.segments[k];
    const half = (c: FeedCell) => c.length / (2 * c.duct.mobility * c.duct.area);
    const nodes = cellNodes[k];
    const push = (a: number, b: number, before: number, after: number) =>
      links.push({
        from: a,
        to: b,
        axis: NO_AXIS,
        transmissibility: 1 / (before + after),
        share: before / (before + after),
      });
    if (to === network.nozzle) throw new RangeError(`Feed section ${network.segments[k].id} leads back to the nozzle.`);
    entryLinks[k] = from === network.nozzle ? -1 : links.length;
    if (from === network.nozzle) attached.push({ gate: 0, node: nodes[0], conductance: 1 / half(cells[0]), star: -1 });
    else push(pointNode[from], nodes[0], 0, half(cells[0]));
    for (let i = 1; i < cells.length; i++) push(nodes[i - 1], nodes[i], half(cells[i - 1]), half(cells[i]));
    push(nodes[cells.length - 1], pointNode[to], half(cells[cells.length - 1]), 0);
  });
  const joined = nodesOf(grid, network, segments, { n, cellNodes, pointNode });
  return {
    grid: { ...joined, ...rowsOf(links, n) },
    gating: {
      gateOfNode: new Int16Array(n).fill(-1),
      linkFactor: new Float32Array(links.length).fill(1),
      stars: gating.stars,
      attached,
      rims,
      gateNode: Int32Array.from(network.gatePoints, (p) => pointNode[p]),
    },
    nodeOf,
    cells: segments.flatMap((cells, k) => cells.map((cell, i) => ({ node: cellNodes[k][i], cell }))),
    entryLinks,
  };
}

function nodesOf(
  grid: PressureGrid,
  network: FeedNetwork,
  segments: FeedCell[][],
  { n, cellNodes, pointNode }: { n: number; cellNodes: number[][]; pointNode: number[] },
) {
  const longer = <T extends Float32Array | Float64Array>(values: T, width = 1): T => {
    const out = new (values.constructor as new (length: number) => T)(width * n);
    out.set(values);
    return out;
  };
  const position = longer(grid.position, 3);
  const centroid = longer(grid.centroid, 3);
  const volume = longer(grid.volume);
  const wallGap = longer(grid.wallGap);
  const thickness = longer(grid.thickness);
  const shape = longer(grid.shape);
  const rate = new Float64Array(n);
  const joint = new Uint8Array(n);
  const place = (j: number, at: Vec3, cell: FeedCell) => {
    const { duct } = cell;
    position.set(at, 3 * j);
    centroid.set(at, 3 * j);
    wallGap[j] = duct.wallGap;
    shape[j] = duct.shape;
    thickness[j] = 2 * duct.wallGap * (duct.shape - 1);
    rate[j] = duct.wallGap / (duct.mobility * duct.area);
  };
  network.points.forEach((point, p) => {
    const around = network.segments.flatMap((s, k) => {
      if (s.to === p) return [segments[k][segments[k].length - 1]];
      return s.from === p ? [segments[k][0]] : [];
    });
    if (p === network.nozzle) return;
    if (!around.length) throw new RangeError(`Point ${p + 1} of the feed has no section.`);
    place(pointNode[p], point, around[0]);
    joint[pointNode[p]] = 1;
    const own = Math.min(...around.map((c) => c.duct.area * c.length));
    volume[pointNode[p]] = JOINT_VOLUME * own;
  });
  segments.forEach((cells, k) =>
    cells.forEach((cell, i) => {
      place(cellNodes[k][i], cell.position, cell);
      volume[cellNodes[k][i]] = cell.duct.area * cell.length;
    }),
  );
  return {
    n,
    spacing: grid.spacing,
    nodeOfCell: grid.nodeOfCell,
    position,
    centroid,
    volume,
    wallGap,
    thickness,
    shape,
    ducts: { rate, joint },
  };
}

function rowsOf(links: Link[], n: number) {
  const rowStart = new Int32Array(n + 1);
  for (const { from, to } of links) {
    rowStart[from + 1]++;
    rowStart[to + 1]++;
  }
  for (let i = 0; i < n; i++) rowStart[i + 1] += rowStart[i];
  const at = rowStart.slice(0, n);
  const rowNode = new Int32Array(rowStart[n]);
  const rowLink = new Int32Array(rowStart[n]);
  links.forEach(({ from, to }, l) => {
    rowNode[at[from]] = to;
    rowLink[at[from]++] = l;
    rowNode[at[to]] = from;
    rowLink[at[to]++] = l;
  });
  // The solver's rows must ascend.
  for (let i = 0; i < n; i++) {
    const [start, end] = [rowStart[i], rowStart[i + 1]];
    const order = Array.from({ length: end - start }, (_, k) => start + k).sort((a, b) => rowNode[a] - rowNode[b]);
    const [nodes, own] = [order.map((k) => rowNode[k]), order.map((k) => rowLink[k])];
    rowNode.set(nodes, start);
    rowLink.set(own, start);
  }
  return {
    linkFrom: Int32Array.from(links, (l) => l.from),
    linkTo: Int32Array.from(links, (l) => l.to),
    linkAxis: Uint8Array.from(links, (l) => l.axis),
    transmissibility: Float64Array.from(links, (l) => l.transmissibility),
    linkShare: Float32Array.from(links, (l) => l.share),
    rowStart,
    rowNode,
    rowLink,
  };
}

/** Per-node inputs of the part on the joined grid; nodes of the feed take `inFeed`, gates the sum of theirs. */
export function onJoined(values: Float64Array, { grid, nodeOf }: JoinedFeed, inFeed = 0): Float64Array {
  const out = new Float64Array(grid.n).fill(inFeed);
  for (let i = 0; i < nodeOf.length; i++) out[nodeOf[i]] = 0;
  for (let i = 0; i < nodeOf.length; i++) out[nodeOf[i]] += values[i];
  return out;
}
