/** A structure as an input deck; lengths in m, stresses in Pa, written in mm and MPa. */
export interface Deck {
  /** Lines of explanation at the head. */
  about: readonly string[];
  /** 3 coordinates a node. */
  positions: ArrayLike<number>;
  /** 10 nodes an element: corners, then middles of edges. */
  nodes: ArrayLike<number>;
  /** Material of every element, by number. */
  material: ArrayLike<number>;
  materials: readonly DeckMaterial[];
  /** Four points an element, xx yy zz xy yz xz each: stress while nothing has moved yet. */
  initialStress: ArrayLike<number>;
  /** Directions (1 to 3) that nodes are kept from moving in. */
  held: readonly { node: number; direction: number }[];
}

/** Alike in all directions, or 6 x 6 of pairs xx yy zz xy yz xz (shear entries C_xyxy), Pa. */
export type DeckMaterial = { name: string } & ({ young: number; poisson: number } | { stiffness: ArrayLike<number> });

const MM = 1000;
const MPA = 1e-6;

/**
 * Keyword deck in the form that CalculiX reads: quadratic tetrahedra (C3D10), one linear elastic material a body or a place, the
 * stress that is frozen in as initial stress at the integration points, one static step in which it lets the part
 * take its shape.
 */
export function writeInp({ about, positions, nodes, material, materials, initialStress, held }: Deck): string {
  const out: string[] = about.map((line) => `** ${line}`);
  out.push('** Lengths in mm, stresses in MPa.', '*NODE, NSET=ALL');
  for (let n = 0; n < positions.length / 3; n++)
    out.push(`${n + 1},${[0, 1, 2].map((d) => digits(MM * positions[3 * n + d], 9)).join()}`);
  const members: number[][] = materials.map(() => []);
  for (let e = 0; e < nodes.length / 10; e++) members[material[e]].push(e);
  materials.forEach(({ name }, m) => {
    if (!members[m].length) return;
    out.push(`*ELEMENT, TYPE=C3D10, ELSET=${setName(name, m)}`);
    for (const e of members[m])
      out.push(`${e + 1},${Array.from({ length: 10 }, (_, k) => nodes[10 * e + k] + 1).join()}`);
  });
  materials.forEach((own, m) => {
    if (!members[m].length) return;
    const set = setName(own.name, m);
    out.push(`*MATERIAL, NAME=${set}`);
    if ('young' in own) out.push('*ELASTIC', `${digits(MPA * own.young, 9)},${own.poisson}`);
    else {
      const D = ANISOTROPIC.map((k) => digits(MPA * own.stiffness[k], 6));
      // Eight to a line.
      out.push('*ELASTIC, TYPE=ANISO', `${D.slice(0, 8).join()},`, `${D.slice(8, 16).join()},`, D.slice(16).join());
    }
    out.push(`*SOLID SECTION, ELSET=${set}, MATERIAL=${set}`);
  });
  out.push('*BOUNDARY');
  for (const { node, direction } of held) out.push(`${node + 1},${direction},${direction}`);
  out.push('** Element, point, xx, yy, zz, xy, xz, yz', '*INITIAL CONDITIONS, TYPE=STRESS');
  for (let e = 0; e < nodes.length / 10; e++)
    for (let p = 0; p < 4; p++) {
      const at = 24 * e + 6 * p;
      const s = [0, 1, 2, 3, 5, 4].map((k) => digits(MPA * initialStress[at + k], 6));
      out.push(`${e + 1},${p + 1},${s.join()}`);
    }
  out.push('*STEP', '*STATIC', '*NODE FILE', 'U', '*EL FILE', 'S', '*END STEP', '');
  return out.join('\n');
}

/**
 * Places of D1111, D1122, D2222, D1133, D2233, D3333, D1112, D2212, D3312, D1212, D1113, D2213, D3313, D1213, D1313, D1123, D2223, D3323,
 * D1223, D1323, D2323 in 6 x 6 numbers of pairs xx yy zz xy yz xz.
 */
const ANISOTROPIC = [
  [0, 0],
  [0, 1],
  [1, 1],
  [0, 2],
  [1, 2],
  [2, 2],
  [0, 3],
  [1, 3],
  [2, 3],
  [3, 3],
  [0, 5],
  [1, 5],
  [2, 5],
  [3, 5],
  [5, 5],
  [0, 4],
  [1, 4],
  [2, 4],
  [3, 4],
  [5, 4],
  [4, 4],
].map(([i, j]) => 6 * i + j);

/** Set and material names: letters, digits and underscores, at most 40, told apart by their number. */
const setName = (name: string, number: number) =>
  `${name.toUpperCase().replace(/[^A-Z0-9]+/g, '_')}`.slice(0, 36) + (number ? `_${number}` : '');

const digits = (x: number, n: number) => String(Number(x.toPrecision(n)));
