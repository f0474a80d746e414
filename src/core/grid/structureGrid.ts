import type { TriangleMesh, Vec3 } from '../geometry/mesh';
import { UnionFind } from '../numerics/unionFind';
import { CellPoints } from './cellPoints';
import { nominalWall, type Detail } from './lattice';
import { inCells, structureLattice, type StructureLattice } from './structureLattice';
import { cornerOf, linkPieces, nearestPiece, type Link, type Piece } from './structurePieces';
import { carrySlivers } from './structureSlivers';

/** Edge of a structural cell over the nominal wall: one quadratic element through a wall is enough. */
export const CELL_PER_WALL: Record<Detail, number> = { quick: 1.5, normal: 1.25, fine: 1 };

export const NODES_PER_ELEMENT = 20;

/**
 * Cut cells with 20-node serendipity elements on a lattice. Elements are pieces of solid in a cell; nodes
 * are shared by elements between which there is solid. Corners are nodes 0-7 (bit 0 x, bit 1 y, bit 2 z),
 * middles of edges along x 8-11, along y 12-15, along z 16-19 (bits: the two other axes in order).
 */
export interface StructureGrid {
  lattice: StructureLattice;
  nElements: number;
  nNodes: number;
  /** Lattice cell of every element. */
  cellOf: Int32Array;
  /** 20 nodes an element. */
  nodes: Int32Array;
  /** 3 coordinates a node, m. */
  position: Float64Array;
  /** Points of element e: pointStart[e] .. pointStart[e + 1] - 1. */
  pointStart: Int32Array;
  /** 3 a point, -1..1 in the element's cell; beyond it for points taken over from slivers. */
  local: Float64Array;
  /** Volume a point stands for, m3. */
  weight: Float64Array;
  /** Body a point lies in; 0 is the plastic. */
  body: Uint8Array;
  /** Directions across the surface between two materials in elements that hold more than one body: one, or two at edges. */
  interfaces: Map<number, Vec3[]>;
  /** Pieces of each cell: element that carries them. A cell with more than one keeps their points. */
  pieces: Map<number, { element: number; points: number[] | null }[]>;
}

/**
 * `bodies[0]` is the plastic, the others are inserts bonded to it. `edge` of a cell in m. Planes of cells are laid
 * into faces of the first `nFitted` bodies.
 */
export function buildStructureGrid(
  bodies: readonly TriangleMesh[],
  edge: number,
  nFitted = bodies.length,
): StructureGrid {
  const lattice = structureLattice(bodies, edge, nFitted);
  const points = new CellPoints(...inCells(bodies, lattice));
  const pieces: Piece[] = [];
  const { nx, ny, nz } = lattice;
  const start = new Int32Array(nx * ny * nz + 1);
  for (let k = 0; k < nz; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++) {
        const cell = i + nx * (j + ny * k);
        for (const piece of points.pieces(i, j, k)) pieces.push({ ...piece, cell, host: pieces.length });
        start[cell + 1] = pieces.length;
      }
  const links = linkPieces(pieces, start, points, lattice);
  carrySlivers(pieces, links, lattice);
  return numbered(pieces, links, points, lattice);
}

/** Inserts are resolved by cells of at most this many of their own walls (2 V / S). */
const CELL_PER_INSERT = 1.25;

/** Edge [m] of structural cells for plastic (first) and inserts. */
export function structureEdge([plastic, ...inserts]: readonly TriangleMesh[], detail: Detail): number {
  const walls = [nominalWall(plastic), ...inserts.map((m) => CELL_PER_INSERT * nominalWall(m))];
  return Math.min(...walls) * CELL_PER_WALL[detail];
}

const FACES = [0, 1, 2].map((axis) => {
  const side = (wanted: number) =>
    Array.from({ length: NODES_PER_ELEMENT }, (_, a) => a).filter((a) => nodePlace(a)[axis] === wanted);
  return { low: side(-1), high: side(1) };
});

/** Local coordinates of node a of an element, -1, 0 or 1. */
export function nodePlace(a: number): Vec3 {
  const bit = (k: number) => (k ? 1 : -1);
  if (a < 8) return [bit(a & 1), bit(a & 2), bit(a & 4)];
  const [first, second] = [bit(a & 1), bit(a & 2)];
  if (a < 12) return [0, first, second];
  return a < 16 ? [first, 0, second] : [first, second, 0];
}

function numbered(
  pieces: readonly Piece[],
  links: readonly Link[],
  cells: CellPoints,
  lattice: StructureLattice,
): StructureGrid {
  const elementOf = new Int32Array(pieces.length).fill(-1);
  let nElements = 0;
  pieces.forEach((piece, p) => {
    if (piece.host === p) elementOf[p] = nElements++;
  });
  const sets = new UnionFind(NODES_PER_ELEMENT * nElements);
  for (const { a, b, axis } of links) {
    if (elementOf[a] < 0 || elementOf[b] < 0) continue;
    const { low, high } = FACES[axis];
    high.forEach((node, i) =>
      sets.union(NODES_PER_ELEMENT * elementOf[a] + node, NODES_PER_ELEMENT * elementOf[b] + low[i]),
    );
  }
  const grid = laidOut(pieces, elementOf, nElements, lattice);
  const number = new Int32Array(NODES_PER_ELEMENT * nElements).fill(-1);
  const position: number[] = [];
  for (let n = 0; n < number.length; n++) {
    const root = sets.find(n);
    if (number[root] < 0) {
      number[root] = position.length / 3;
      const [x, y, z] = nodePlace(n % NODES_PER_ELEMENT);
      const corner = cornerOf(grid.cellOf[Math.floor(n / NODES_PER_ELEMENT)], lattice);
      position.push(...[x, y, z].map((t, d) => lattice.origin[d] + lattice.edges[d] * (corner[d] + (t + 1) / 2)));
    }
    grid.nodes[n] = number[root];
  }
  const inCell = new Map<number, Piece[]>();
  for (const piece of pieces) if (piece.host >= 0) inCell.set(piece.cell, [...(inCell.get(piece.cell) ?? []), piece]);
  const found: StructureGrid['pieces'] = new Map();
  for (const [cell, own] of inCell) {
    const points = (piece: Piece) => (own.length > 1 ? piece.local : null);
    found.set(
      cell,
      own.map((piece) => ({ element: elementOf[piece.host], points: points(piece) })),
    );
  }
  const interfaces = new Map<number, Vec3[]>();
  const cellsOf: number[][] = Array.from({ length: nElements }, () => []);
  for (const piece of pieces) if (piece.host >= 0) cellsOf[elementOf[piece.host]].push(piece.cell);
  for (let e = 0; e < nElements; e++) {
    const bodies = grid.body.subarray(grid.pointStart[e], grid.pointStart[e + 1]);
    if (!bodies.some((b) => b !== bodies[0])) continue;
    interfaces.set(e, cells.interfaceNormals(cellsOf[e]));
  }
  return { ...grid, nNodes: position.length / 3, position: Float64Array.from(position), interfaces, pieces: found };
}

/** The elements of every node: those of node i are elements[start[i]] .. elements[start[i + 1] - 1]. */
export function elementsOfNodes({ nNodes, nodes }: Pick<StructureGrid, 'nNodes' | 'nodes'>): {
  start: Int32Array;
  elements: Int32Array;
} {
  const start = new Int32Array(nNodes + 1);
  for (const node of nodes) start[node + 1]++;
  for (let i = 0; i < nNodes; i++) start[i + 1] += start[i];
  const elements = new Int32Array(nodes.length);
  const next = start.slice();
  nodes.forEach((node, k) => (elements[next[node]++] = Math.floor(k / NODES_PER_ELEMENT)));
  return { start, elements };
}

/** Points of every element, those of the slivers it carries included. */
function laidOut(pieces: readonly Piece[], elementOf: Int32Array, nElements: number, lattice: StructureLattice) {
  const pointStart = new Int32Array(nElements + 1);
  for (const piece of pieces) if (piece.host >= 0) pointStart[elementOf[piece.host] + 1] += piece.weight.length;
  for (let e = 0; e < nElements; e++) pointStart[e + 1] += pointStart[e];
  const n = pointStart[nElements];
  const local = new Float64Array(3 * n);
  const weight = new Float64Array(n);
  const body = new Uint8Array(n);
  const cellOf = new Int32Array(nElements);
  const next = pointStart.slice();
  const volume = lattice.edges[0] * lattice.edges[1] * lattice.edges[2];
  for (const piece of pieces) {
    if (piece.host < 0) continue;
    const e = elementOf[piece.host];
    const [from, to] = [cornerOf(piece.cell, lattice), cornerOf(pieces[piece.host].cell, lattice)];
    for (let p = 0; p < piece.weight.length; p++) {
      const at = next[e]++;
      for (let d = 0; d < 3; d++) local[3 * at + d] = piece.local[3 * p + d] + 2 * (from[d] - to[d]);
      weight[at] = piece.weight[p] * volume;
      body[at] = piece.body[p];
    }
    cellOf[e] = pieces[piece.host].cell;
  }
  const nodes = new Int32Array(NODES_PER_ELEMENT * nElements);
  return { lattice, nElements, cellOf, nodes, pointStart, local, weight, body };
}

/**
 * The element that carries the solid at a place (m) and the place in its local coordinates; where the place
 * lies just outside, that of the nearest cell around. -1 when there is none.
 */
export function locate(grid: StructureGrid, x: number, y: number, z: number, local: Float64Array): number {
  const { lattice, pieces } = grid;
  const at = [x, y, z].map((c, d) => (c - lattice.origin[d]) / lattice.edges[d]);
  const ijk = at.map(Math.floor);
  let element = -1;
  let least = Infinity;
  for (let reach = 0; reach <= 1 && element < 0; reach++)
    for (let k = -reach; k <= reach; k++)
      for (let j = -reach; j <= reach; j++)
        for (let i = -reach; i <= reach; i++) {
          const c = [ijk[0] + i, ijk[1] + j, ijk[2] + k];
          const own = pieces.get(c[0] + lattice.nx * (c[1] + lattice.ny * c[2]));
          if (!own || c[0] < 0 || c[0] >= lattice.nx || c[1] < 0 || c[1] >= lattice.ny) continue;
          const d = Math.hypot(...at.map((t, a) => Math.max(0, c[a] - t, t - c[a] - 1)));
          if (d >= least) continue;
          least = d;
          element = pieceAt(own, c, at);
        }
  if (element < 0) return -1;
  const corner = cornerOf(grid.cellOf[element], lattice);
  for (let d = 0; d < 3; d++) local[d] = 2 * (at[d] - corner[d]) - 1;
  return element;
}

function pieceAt(
  own: readonly { element: number; points: number[] | null }[],
  cell: readonly number[],
  at: readonly number[],
): number {
  if (own.length === 1) return own[0].element;
  const local = at.map((t, d) => 2 * (t - cell[d]) - 1);
  const list = own.map((piece) => ({ local: piece.points ?? [] }));
  return own[nearestPiece(list, 0, own.length, local)].element;
}

/** Centres of all elements on the lattice, m; three an element. */
export function elementCentres(grid: StructureGrid): Float64Array {
  const centres = new Float64Array(3 * grid.nElements);
  for (let e = 0; e < grid.nElements; e++) centres.set(cornerOf(grid.cellOf[e], grid.lattice), 3 * e);
  return centres;
}
