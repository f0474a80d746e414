import { isotropicStiffness } from '../material/fibres/stiffness';
import { writeInp, type DeckMaterial } from '../formats/inp';
import { writeUnstructured, type VtkArray } from '../formats/vtu';
import { cross, distance, normalised, sub, vertexAt } from '../geometry/vec';
import type { Vec3 } from '../geometry/mesh';
import { SurfaceTree } from '../geometry/surfaceTree';
import type { Detail } from '../grid/lattice';
import type { PressureGrid } from '../grid/pressureGrid';
import { locate } from '../grid/structureGrid';
import { checkTets, lostInTets, type TetCheck } from '../grid/tetCheck';
import { quadratic, stuffed, type TetGrid, type TetMesher } from '../grid/tetGrid';
import type { StageContext } from '../stage/context';
import { hooke, lame, LANES, lanesTogether, PAIRS, stressOf } from '../solvers/warp/solid';
import {
  stiffnessOfWalls,
  wallStrains,
  type WallStrains,
  type WarpInput,
  type WarpResult,
} from '../solvers/warp/stage';
import { displacementAt, planeStress, SmoothStrain } from '../solvers/warp/stress';

/** Edge of the tetrahedra over the thin walls of the part; the vertices lie half an edge apart, 0.7 on the slant. */
const EDGE_PER_WALL: Record<Detail, number> = { quick: 1.35, normal: 1.2, fine: 0.9 };
/** So much of the part is thinner than its thin walls. */
const THIN = 0.05;

/** Conforming quadratic tetrahedra of a part and its inserts: 10 nodes an element, the body of each. */
export interface StructureTets {
  positions: Float64Array;
  nodes: Int32Array;
  body: Uint8Array;
}

export type TetsOutcome =
  { status: 'meshed'; tets: StructureTets; reached: string } | { status: 'refused'; message: string; remedy: string };

/** Edges that our own mesher goes down to where walls or edges are lost, over the one it starts with. */
const FINER = [1, 0.7, 0.5];
/** Tetrahedra that a structural analysis still copes with. */
const MOST_TETS = 250_000;

/**
 * Tetrahedra of a part by the mesher that is installed, else by our own, ever finer until volume, pieces and holes of
 * the part are kept; refused where they are not. With inserts only pieces are looked at: bodies may overlap.
 */
export async function structureTets(
  input: Pick<WarpInput, 'part' | 'inserts' | 'detail' | 'grid'>,
  mesher?: TetMesher,
  ctx?: StageContext,
): Promise<TetsOutcome> {
  const { part, inserts, detail, grid } = input;
  const edge = EDGE_PER_WALL[detail] * thinWall(grid);
  const bodies = [part, ...inserts.map((i) => i.mesh)];
  const theirs = mesher && (await mesher(bodies, edge, ctx?.signal));
  if (theirs) {
    const check = checkTets(theirs, part);
    if (!lostInTets(check)) return meshedAs(theirs, check, input, 'constrained Delaunay');
  }
  let lost = '';
  for (const share of FINER) {
    await ctx?.checkpoint();
    const own = stuffed(bodies, share * edge);
    if (own.tets.length / 4 > MOST_TETS) break;
    const check = checkTets(own, part);
    lost = (inserts.length ? lostPieces(check) : lostInTets(check)) ?? '';
    if (!lost) return meshedAs(own, check, input, 'stuffed lattice');
  }
  return {
    status: 'refused',
    message: `No tetrahedra were found that keep the part: ${lost || 'it needs more of them than can be worked with'}.`,
    remedy: mesher
      ? 'Mend the part at the Part station, or hand on one body at a time.'
      : 'Install the package tetgen (Debian: apt install tetgen), which keeps sharp edges and thin walls as they are.',
  };
}

const lostPieces = (check: TetCheck): string | null =>
  check.pieces > check.wanted ? lostInTets({ ...check, volume: 1 }) : null;

/** Tetrahedra with what was reached, in words; `how` names the method. */
function meshedAs(
  tets: TetGrid,
  { volume, pieces }: TetCheck,
  input: Pick<WarpInput, 'inserts'>,
  how: string,
): TetsOutcome {
  const n = (tets.tets.length / 4).toLocaleString('en-GB');
  const loose = pieces === 1 ? 'one piece' : `${pieces} pieces`;
  const reached = `${n} tetrahedra (${how}) in ${loose}, ${(100 * volume).toFixed(2)} % of the volume of the part.`;
  return { status: 'meshed', tets: withBodies(tets, input), reached };
}

function withBodies(tets: TetGrid, { inserts }: Pick<WarpInput, 'inserts'>): StructureTets {
  const trees = inserts.map((i) => new SurfaceTree(i.mesh));
  const { positions, nodes } = quadratic(tets);
  const body = Uint8Array.from({ length: nodes.length / 10 }, (_, e) => {
    const middle = [0, 1, 2].map((d) => {
      let sum = 0;
      for (let c = 0; c < 4; c++) sum += positions[3 * nodes[10 * e + c] + d] / 4;
      return sum;
    }) as Vec3;
    return trees.findIndex((tree) => tree.inside(...middle)) + 1;
  });
  return { positions, nodes, body };
}

/** Wall that all but a twentieth of the part's volume is thicker than, m. */
function thinWall({ n, thickness, volume }: PressureGrid): number {
  const order = Array.from({ length: n }, (_, i) => i).sort((a, b) => thickness[a] - thickness[b]);
  const total = order.reduce((s, i) => s + volume[i], 0);
  let below = 0;
  return thickness[order.find((i) => (below += volume[i]) > THIN * total) ?? order[0]];
}

/** Gauss points of a quadratic tetrahedron: the k-th is nearest to corner k. */
const NEAR = 0.5854101966249685;
const FAR = 0.1381966011250105;

/** The shot as a deck for structural analysis: geometry, elastic constants, stress that is frozen in. */
export function shapeDeck(
  input: WarpInput,
  title: string,
  { tets, reached }: Extract<TetsOutcome, { status: 'meshed' }>,
): string {
  const { positions, nodes, body } = tets;
  const walls = wallStrains(input);
  const { at } = walls;
  const { material, materials } = deckMaterials(input, walls, tets);
  const solids = [input.plastic, ...input.inserts.map((i) => i.solid)];
  const initialStress = new Float64Array((24 * nodes.length) / 10);
  const free = new Float64Array(6 * LANES);
  const strain = new Float64Array(6);
  const stress = new Float64Array(6);
  const p: Vec3 = [0, 0, 0];
  for (let e = 0; e < body.length; e++) {
    const own = materials[material[e]];
    const { lambda, mu } = lame(solids[body[e]]);
    for (let point = 0; point < 4; point++) {
      for (let d = 0; d < 3; d++) {
        p[d] = 0;
        for (let c = 0; c < 4; c++) p[d] += (c === point ? NEAR : FAR) * positions[3 * nodes[10 * e + c] + d];
      }
      at(...p, body[e], free);
      for (let k = 0; k < 6; k++) strain[k] = -lanesTogether(free, k);
      if ('stiffness' in own) stressOf(own.stiffness, 0, strain, stress);
      else {
        stress.set(strain);
        hooke(stress, 0, lambda, mu, stress);
      }
      initialStress.set(stress, 24 * e + 6 * point);
    }
  }
  return writeInp({
    about: [
      title,
      reached,
      input.supports.length
        ? 'Held at the supports of the study.'
        : 'Held at three nodes only, so that it is free to take its shape.',
      'Displacements are from the cavity to the room, even shrinkage included.',
    ],
    positions,
    nodes,
    material,
    materials,
    initialStress,
    held: input.supports.length ? atSupports(input, positions) : threeNodes(positions),
  });
}

/** Stiffnesses that differ by less than this of the largest entry are one: a deck of as many materials as cells reads slowly. */
const ALIKE = 0.01;

/** Materials of the deck: one a body, and of plastic with fibres those of its cells at their middles. */
function deckMaterials(input: WarpInput, walls: WallStrains, { positions, nodes, body }: StructureTets) {
  const ofBodies: DeckMaterial[] = [
    { name: 'plastic', ...input.plastic },
    ...input.inserts.map((i) => ({ name: `insert ${i.id}`, ...i.solid })),
  ];
  const stiffnessAt = stiffnessOfWalls(input, walls);
  if (!stiffnessAt) return { material: Int32Array.from(body), materials: ofBodies };
  const C = new Float64Array(PAIRS);
  const found = new Map<string, number>();
  const materials: DeckMaterial[] = [...ofBodies];
  const material = Int32Array.from(body, (b, e) => {
    const middle = [0, 1, 2].map((d) => {
      let sum = 0;
      for (let c = 0; c < 4; c++) sum += positions[3 * nodes[10 * e + c] + d];
      return sum / 4;
    });
    if (!stiffnessAt(middle[0], middle[1], middle[2], b, C)) return b;
    const step = ALIKE * Math.max(...C);
    const key = C.map((c) => Math.round(c / step)).join();
    let number = found.get(key);
    if (number === undefined) {
      number = materials.push({ name: 'plastic', stiffness: C.slice() }) - 1;
      found.set(key, number);
    }
    return number;
  });
  return { material, materials };
}

function atSupports({ supports }: WarpInput, positions: Float64Array): { node: number; direction: number }[] {
  return supports.map(({ position, direction }) => ({
    node: farthest(positions, (p) => -distance(p, position)),
    direction: direction.findIndex((x) => x !== 0) + 1,
  }));
}

/** All of one node, two directions of a second, one of a third: six motions, no force. */
function threeNodes(positions: Float64Array): { node: number; direction: number }[] {
  const start = vertexAt(positions, 0);
  const a = farthest(positions, (p) => distance(p, start));
  const b = farthest(positions, (p) => distance(p, vertexAt(positions, a)));
  const along = normalised(sub(vertexAt(positions, b), vertexAt(positions, a)));
  const across = (p: Vec3) => cross(along, sub(p, vertexAt(positions, a)));
  const c = farthest(positions, (p) => Math.hypot(...across(p)));
  const first = mostAlong(along);
  return [
    ...[0, 1, 2].map((d) => ({ node: a, direction: d + 1 })),
    ...[0, 1, 2].filter((d) => d !== first).map((d) => ({ node: b, direction: d + 1 })),
    // What it would move by if the part turned about the line through the two others.
    { node: c, direction: mostAlong(across(vertexAt(positions, c))) + 1 },
  ];
}

const mostAlong = (v: Vec3) => v.map(Math.abs).indexOf(Math.max(...v.map(Math.abs)));

function farthest(positions: Float64Array, measure: (p: Vec3) => number): number {
  let [best, most] = [0, -Infinity];
  for (let n = 0; n < positions.length / 3; n++) {
    const m = measure(vertexAt(positions, n));
    if (m > most) [best, most] = [n, m];
  }
  return best;
}

/** Displacement, strain, stress and the local direction across the wall on the tetrahedra of the deck. SI. */
export function shapeVtu(
  input: WarpInput,
  { structure, solution }: Pick<WarpResult, 'structure' | 'solution'>,
  elastic: Record<string, number>,
  tets: StructureTets,
): string {
  const { positions, nodes, body } = tets;
  const n = positions.length / 3;
  const walls = wallStrains(input);
  const solids = [input.plastic, ...input.inserts.map((i) => i.solid)];
  const smooth = solids.map((_, b) => new SmoothStrain(structure, solution, b));
  // A node between two bodies counts to the plastic.
  const bodyOf = new Uint8Array(n).fill(255);
  for (let k = 0; k < nodes.length; k++) bodyOf[nodes[k]] = Math.min(bodyOf[nodes[k]], body[Math.floor(k / 10)]);
  const displacement = new Float32Array(3 * n);
  const total = new Float32Array(6 * n).fill(NaN);
  const stress = new Float32Array(6 * n).fill(NaN);
  const across = new Float32Array(3 * n);
  const stiffnessAt = stiffnessOfWalls(input, walls);
  const stiffness = new Float32Array(stiffnessAt ? PAIRS * n : 0).fill(NaN);
  const alike = solids.map(isotropicStiffness);
  const full = new Float64Array(PAIRS);
  const own = { strain: new Float64Array(6), stress: new Float64Array(6), free: new Float64Array(6 * LANES) };
  const local = new Float64Array(3);
  const u = new Float64Array(3 * LANES);
  for (let i = 0; i < n; i++) {
    const p = vertexAt(positions, i);
    const element = locate(structure, ...p, local);
    if (element >= 0) {
      displacementAt(structure, solution.displacement, element, local, u);
      for (let d = 0; d < 3; d++) displacement[3 * i + d] = lanesTogether(u, d);
    }
    const normal = !bodyOf[i] && walls.places.find(...p) ? walls.places.across.direction(...p) : null;
    if (normal) across.set(normal, 3 * i);
    if (!smooth[bodyOf[i]].at(p, own.strain)) continue;
    total.set(own.strain, 6 * i);
    walls.at(...p, bodyOf[i], own.free);
    for (let k = 0; k < 6; k++) own.strain[k] -= lanesTogether(own.free, k);
    const C = stiffnessAt?.(...p, bodyOf[i], full) ? full : alike[bodyOf[i]];
    if (normal) planeStress(own.strain, normal, C, own.stress);
    else stressOf(C, 0, own.strain, own.stress);
    if (C === full) stiffness.set(full, PAIRS * i);
    stress.set(own.stress, 6 * i);
  }
  const pointData: VtkArray[] = [
    { name: 'displacement_m', values: displacement, components: 3 },
    { name: 'strain', values: total, components: 6 },
    { name: 'stress_Pa', values: stress, components: 6 },
    { name: 'acrossWall', values: across, components: 3 },
    // Pairs xx yy zz xy yz xz, row by row.
    ...(stiffnessAt ? [{ name: 'stiffness_Pa', values: stiffness, components: PAIRS }] : []),
  ];
  const ofBody = (value: (s: (typeof solids)[number]) => number) => Float32Array.from(body, (b) => value(solids[b]));
  return writeUnstructured({
    points: Float32Array.from(positions),
    connectivity: nodes,
    perCell: 10,
    type: 24,
    pointData,
    cellData: [
      { name: 'body', values: body, components: 1 },
      { name: 'young_Pa', values: ofBody((s) => s.young), components: 1 },
      { name: 'poisson', values: ofBody((s) => s.poisson), components: 1 },
    ],
    fieldData: Object.entries(elastic).map(([name, value]) => ({
      name: `resin_${name}`,
      values: Float32Array.of(value),
      components: 1,
    })),
  });
}
