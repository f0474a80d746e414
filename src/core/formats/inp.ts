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
  materials: readonly { name: string; young: number; poisson: number }[];
  /** Four points an element, xx yy zz xy yz xz each: stress while nothing has moved yet. */
  initialStress: ArrayLike<number>;
  /** Directions (1 to 3) that nodes are kept from moving in. */
  held: readonly { node: number; direction: number }[];
}

const MM = 1000;
const MPA = 1e-6;

/**
 * Keyword deck in the form that CalculiX reads: quadratic tetrahedra (C3D10), one linear elastic material a body, the
 * stress that is frozen in as initial stress at the integration points, one static step in which it lets the part
 * take its shape.
 */
export function writeInp({ about, positions, nodes, material, materials, initialStress, held }: Deck): string {
  const out: string[] = about.map((line) => `** ${line}`);
  out.push('** Lengths in mm, stresses in MPa.', '*NODE, NSET=ALL');
  for (let n = 0; n < positions.length / 3; n++)
    out.push(`${n + 1},${[0, 1, 2].map((d) => digits(MM * positions[3 * n + d], 9)).join()}`);
  materials.forEach(({ name }, m) => {
    out.push(`*ELEMENT, TYPE=C3D10, ELSET=${setName(name, m)}`);
    for (let e = 0; e < nodes.length / 10; e++)
      if (material[e] === m) out.push(`${e + 1},${Array.from({ length: 10 }, (_, k) => nodes[10 * e + k] + 1).join()}`);
  });
  materials.forEach(({ name, young, poisson }, m) => {
    const set = setName(name, m);
    out.push(`*MATERIAL, NAME=${set}`, '*ELASTIC', `${digits(MPA * young, 9)},${poisson}`);
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

/** Set and material names: letters, digits and underscores, at most 40, told apart by their number. */
const setName = (name: string, number: number) =>
  `${name.toUpperCase().replace(/[^A-Z0-9]+/g, '_')}`.slice(0, 36) + (number ? `_${number}` : '');

const digits = (x: number, n: number) => String(Number(x.toPrecision(n)));
