import { strToU8, zipSync } from 'fflate';
import { writeStl } from '../src/core/formats/stl';
import { flipped, mapVertices, type TriangleMesh, type Vec3 } from '../src/core/geometry/mesh';
import { joined } from '../src/core/geometry/shells';
import { ball, revolve, slab } from './solids';
import { write3mf } from '../src/core/formats/threemf';

/** A broken or odd file and what must be said of it. */
export interface Specimen {
  name: string;
  file: string;
  bytes: Uint8Array;
  /** Codes that must be among the findings of the bodies together, or the message of the refusal. */
  expect: { codes: string[]; bodies?: number } | { refused: RegExp };
  /** Whether mending leaves a closed surface. */
  mends?: boolean;
}

const text = (lines: string) => new TextEncoder().encode(lines);
const plate = slab(0.05, 0.03, () => 0.003);
const moved = (mesh: TriangleMesh, by: Vec3) => mapVertices(mesh, ([x, y, z]) => [x + by[0], y + by[1], z + by[2]]);
const scaledBy = (mesh: TriangleMesh, s: number) => mapVertices(mesh, ([x, y, z]) => [x * s, y * s, z * s]);
const withTriangles = (mesh: TriangleMesh, triangles: ArrayLike<number>) => ({
  ...mesh,
  triangles: Uint32Array.from(triangles),
});
const without = (mesh: TriangleMesh, ...drop: number[]) =>
  withTriangles(
    mesh,
    [...mesh.triangles].filter((_, i) => !drop.includes(Math.floor(i / 3))),
  );
const turned = (mesh: TriangleMesh, ...which: number[]) => {
  const t = [...mesh.triangles];
  for (const i of which) [t[3 * i + 1], t[3 * i + 2]] = [t[3 * i + 2], t[3 * i + 1]];
  return withTriangles(mesh, t);
};
const withFin = (mesh: TriangleMesh): TriangleMesh => {
  const n = mesh.positions.length / 3;
  const positions = Float64Array.from([...mesh.positions, 0.02, 0, 0.02]);
  return { positions, triangles: Uint32Array.from([...mesh.triangles, mesh.triangles[0], mesh.triangles[1], n]) };
};
/** The top of a plate cut into two triangles on one side of a seam and one on the other. */
const tJunction = (): TriangleMesh => {
  const { positions, triangles } = plate;
  const n = positions.length / 3;
  const [a, b, c] = [triangles[0], triangles[1], triangles[2]];
  const middle = [0, 1, 2].map((d) => (positions[3 * a + d] + positions[3 * b + d]) / 2);
  return {
    positions: Float64Array.from([...positions, ...middle]),
    triangles: Uint32Array.from([a, n, c, n, b, c, ...triangles.slice(3)]),
  };
};
const gap = (): TriangleMesh => {
  const { positions, triangles } = plate;
  const n = positions.length / 3;
  const t = [...triangles];
  const copy = [0, 1, 2].map((d) => positions[3 * t[0] + d] + 4e-8);
  t[0] = n;
  return { positions: Float64Array.from([...positions, ...copy]), triangles: Uint32Array.from(t) };
};
const ascii = (
  mesh: TriangleMesh,
  { name = 'part', indent = '  ', end = '\n', number = (x: number) => x.toFixed(6) } = {},
) => {
  const lines = [`solid ${name}`];
  for (let i = 0; i < mesh.triangles.length; i += 3) {
    lines.push(`${indent}facet normal 0 0 0`, `${indent}outer loop`);
    for (const v of mesh.triangles.slice(i, i + 3))
      lines.push(
        `${indent}vertex ${[0, 1, 2].map((d) => number(1000 * mesh.positions[3 * v + d])).join(indent || ' ')}`,
      );
    lines.push(`${indent}endloop`, `${indent}endfacet`);
  }
  return `${lines.join(end)}${end}endsolid ${name}${end}`;
};
const obj = (mesh: TriangleMesh, name = 'part', first = 1) => {
  const { positions: p, triangles: t } = mesh;
  const v = Array.from({ length: p.length / 3 }, (_, i) => `v ${[0, 1, 2].map((d) => 1000 * p[3 * i + d]).join(' ')}`);
  const f = Array.from({ length: t.length / 3 }, (_, i) => `f ${[0, 1, 2].map((c) => t[3 * i + c] + first).join(' ')}`);
  return `o ${name}\n${v.join('\n')}\n${f.join('\n')}\n`;
};
const model = (unit: string, resources: string, build: string) =>
  zipSync({
    '3D/3dmodel.model': strToU8(
      `<?xml version="1.0"?><model unit="${unit}" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><resources>${resources}</resources><build>${build}</build></model>`,
    ),
  });
const object3mf = (id: number, mesh: TriangleMesh, scale: number, name = '') =>
  `<object id="${id}" type="model" name="${name}"><mesh><vertices>${Array.from(
    { length: mesh.positions.length / 3 },
    (_, v) => `<vertex ${['x', 'y', 'z'].map((a, d) => `${a}="${scale * mesh.positions[3 * v + d]}"`).join(' ')}/>`,
  ).join('')}</vertices><triangles>${Array.from(
    { length: mesh.triangles.length / 3 },
    (_, i) => `<triangle ${[1, 2, 3].map((k) => `v${k}="${mesh.triangles[3 * i + k - 1]}"`).join(' ')}/>`,
  ).join('')}</triangles></mesh></object>`;

const patched = (mesh: TriangleMesh, patch: (view: DataView, bytes: Uint8Array) => void) => {
  const bytes = writeStl(mesh);
  patch(new DataView(bytes.buffer), bytes);
  return bytes;
};

const stl = (name: string, mesh: TriangleMesh, codes: string[], mends?: boolean): Specimen => ({
  name,
  file: 'x.stl',
  bytes: writeStl(mesh),
  expect: { codes },
  mends,
});
const odd = (name: string, file: string, bytes: Uint8Array, bodies = 1): Specimen => ({
  name,
  file,
  bytes,
  expect: { codes: [], bodies },
});
const refused = (name: string, file: string, bytes: Uint8Array, message: RegExp): Specimen => ({
  name,
  file,
  bytes,
  expect: { refused: message },
});

const tube = revolve([
  [0.008, 0],
  [0.01, 0],
  [0.01, 0.02],
  [0.008, 0.02],
]);
const small = scaledBy(
  slab(0.01, 0.01, () => 0.01),
  0.2,
);
const inPlate = moved(scaledBy(ball(0.01, 16), 0.08), [0.02, 0, 0]);

/** Made by script, so that each shows one thing. */
export const CORPUS: Specimen[] = [
  stl('one triangle missing', without(plate, 0), ['open'], true),
  stl('a whole side missing', without(plate, 0, 1), ['open'], true),
  stl('two holes', without(ball(0.01, 24), 0, 100), ['open'], true),
  stl('a round end missing from a tube', without(tube, ...Array.from({ length: 96 }, (_, i) => i)), ['open']),
  stl('a gap of a few hundredths of a micrometre', gap(), ['open'], true),
  stl('a vertex on an edge', tJunction(), ['open'], true),
  stl('one face flipped', turned(plate, 0), ['misoriented'], true),
  stl('many faces flipped', turned(ball(0.01, 16), 1, 5, 9, 40, 41, 80), ['misoriented'], true),
  stl('all faces flipped', flipped(plate), ['inside-out'], true),
  stl('one of two pieces flipped', joined([plate, moved(flipped(plate), [0, 0, 0.02])]), ['misoriented'], true),
  stl('a fin', withFin(plate), ['non-manifold', 'open'], true),
  stl(
    'a triangle twice',
    withTriangles(plate, [...plate.triangles, ...plate.triangles.slice(0, 3)]),
    ['duplicate', 'non-manifold'],
    true,
  ),
  stl(
    'a triangle twice, the second flipped',
    withTriangles(plate, [...plate.triangles, plate.triangles[0], plate.triangles[2], plate.triangles[1]]),
    ['duplicate'],
    true,
  ),
  stl('collapsed triangles', withTriangles(plate, [...plate.triangles, 0, 0, 1, 3, 3, 3]), ['degenerate'], true),
  stl('a hollow inside', joined([plate, flipped(inPlate)]), ['internal-void'], true),
  stl('a ball inside', joined([plate, inPlate]), ['nested'], true),
  stl('two plates that overlap', joined([plate, moved(plate, [0.011, 0.007, 0.0013])]), ['self-intersecting'], true),
  stl(
    'two plates that overlap in one plane',
    joined([plate, moved(plate, [0.011, 0.007, 0])]),
    ['self-intersecting'],
    true,
  ),
  stl('the same plate twice', joined([plate, plate]), ['duplicate'], true),
  stl('two boxes that touch along an edge', joined([plate, moved(plate, [0.05, 0, 0.003])]), [], true),
  stl(
    'two boxes that touch at a corner',
    joined([small, moved(small, [0.002, 0.002, 0.002])]),
    ['non-manifold-vertex'],
    true,
  ),
  stl(
    'a sheet',
    mapVertices(plate, ([x, y]) => [x, y, 0]),
    ['no-volume'],
  ),
  stl('a single triangle', withTriangles(plate, plate.triangles.slice(0, 3)), ['open']),
  stl(
    'slivers',
    mapVertices(
      slab(0.05, 0.03, () => 0.003),
      ([x, y, z]) => [x, y * 1e-4, z],
    ),
    ['sliver'],
    true,
  ),
  stl('a part of a hundredth of a millimetre', scaledBy(plate, 2e-4), [], true),
  stl('a part of a hundred metres', scaledBy(plate, 2e3), [], true),
  stl('a part a kilometre from the origin', moved(plate, [1, 1, 1]), [], true),
  odd(
    'a header that starts with the word solid',
    'x.stl',
    patched(plate, (_v, b) => b.set(text('solid model'), 0)),
  ),
  odd('bytes after the last triangle', 'x.stl', Uint8Array.from([...writeStl(plate), 0, 0, 0])),
  odd('ASCII with tabs and returns', 'x.stl', text(ascii(plate, { indent: '\t', end: '\r\n' }))),
  odd('ASCII in capitals', 'x.STL', text(ascii(plate).toUpperCase())),
  odd('ASCII with exponents', 'x.stl', text(ascii(plate, { number: (x) => x.toExponential(9) }))),
  odd(
    'ASCII with two solids',
    'x.stl',
    text(ascii(plate, { name: 'one' }) + ascii(moved(plate, [0, 0.1, 0]), { name: 'two' })),
    2,
  ),
  refused('an empty file', 'x.stl', new Uint8Array(0), /empty/),
  refused('a name without a known ending', 'x.dwg', writeStl(plate), /cannot be read/),
  refused('a file cut short', 'x.stl', writeStl(plate).slice(0, 400), /cut short/),
  refused(
    'a header that counts too many',
    'x.stl',
    patched(plate, (v) => v.setUint32(80, 99999, true)),
    /cut short/,
  ),
  refused(
    'a coordinate that is no number',
    'x.stl',
    patched(plate, (v) => v.setFloat32(84 + 12, NaN, true)),
    /not a number/,
  ),
  refused(
    'a coordinate without end',
    'x.stl',
    patched(plate, (v) => v.setFloat32(84 + 16, Infinity, true)),
    /not a number/,
  ),
  refused(
    'a coordinate light-years away',
    'x.stl',
    patched(plate, (v) => v.setFloat32(84 + 16, 1e30, true)),
    /from the origin/,
  ),
  refused('a text that is no STL', 'x.stl', text('a shopping list'), /not an STL/),
  refused('an ASCII file cut in a facet', 'x.stl', text(ascii(plate).slice(0, 500)), /cut short/),
  refused('a header and nothing else', 'x.stl', new Uint8Array(84), /no triangles/),
  odd('OBJ', 'x.obj', text(obj(plate))),
  odd(
    'OBJ with two objects',
    'x.obj',
    text(obj(plate, 'one') + obj(moved(plate, [0, 0.1, 0]), 'two', 1 + plate.positions.length / 3)),
    2,
  ),
  odd(
    'OBJ with quads, textures and comments',
    'x.obj',
    text(
      '# a box\nv 0 0 0\nv 9 0 0\nv 9 9 0\nv 0 9 0\nv 0 0 9\nv 9 0 9\nv 9 9 9\nv 0 9 9\nvt 0 0\nf 1/1 4/1 3/1 2/1\nf 5 6 7 8\nf 1 2 6 5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n',
    ),
  ),
  odd(
    'OBJ with negative numbers',
    'x.obj',
    text('v 0 0 0\nv 9 0 0\nv 0 9 0\nv 0 0 9\nf -4 -2 -3\nf -4 -3 -1\nf -3 -2 -1\nf -2 -4 -1\n'),
  ),
  refused(
    'OBJ that names a vertex it has not',
    'x.obj',
    text('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n'),
    /names corner 9 of 3/,
  ),
  refused('OBJ without faces', 'x.obj', text('v 0 0 0\nv 1 0 0\n'), /not an OBJ/),
  odd(
    '3MF of two bodies',
    'x.3mf',
    write3mf([
      { name: 'A', colour: '#112233', mesh: plate },
      { name: 'B', colour: null, mesh: moved(plate, [0, 0.1, 0]) },
    ]),
    2,
  ),
  odd('3MF in inches', 'x.3mf', model('inch', object3mf(1, plate, 1 / 0.0254), '<item objectid="1"/>')),
  odd(
    '3MF in micrometres with nested, moved and mirrored components',
    'x.3mf',
    model(
      'micron',
      `${object3mf(1, plate, 1e6, 'leaf')}<object id="2"><components><component objectid="1"/><component objectid="1" transform="-1 0 0 0 1 0 0 0 1 0 60000 0"/></components></object><object id="3"><components><component objectid="2" transform="1 0 0 0 1 0 0 0 1 0 0 9000"/></components></object>`,
      '<item objectid="3"/><item objectid="1" transform="1 0 0 0 1 0 0 0 1 0 0 -9000"/>',
    ),
    3,
  ),
  refused(
    '3MF whose components contain themselves',
    'x.3mf',
    model(
      'millimeter',
      '<object id="1"><components><component objectid="1"/></components></object>',
      '<item objectid="1"/>',
    ),
    /contain themselves/,
  ),
  refused(
    '3MF that builds what is not there',
    'x.3mf',
    model('millimeter', object3mf(1, plate, 1000), '<item objectid="7"/>'),
    /not there/,
  ),
  refused(
    '3MF with broken XML',
    'x.3mf',
    zipSync({ '3D/3dmodel.model': strToU8('<model><resources></model>') }),
    /damaged/,
  ),
  refused('3MF that is no zip', 'x.3mf', text('PK but not really'), /zip/),
  refused(
    '3MF that names a vertex it has not',
    'x.3mf',
    model(
      'millimeter',
      '<object id="1"><mesh><vertices><vertex x="0" y="0" z="0"/></vertices><triangles><triangle v1="0" v2="1" v3="2"/></triangles></mesh></object>',
      '<item objectid="1"/>',
    ),
    /vertex/,
  ),
  refused('a text that is no STEP', 'x.step', text('no exchange structure'), /not a STEP/),
  refused(
    'STEP without a solid',
    'x.stp',
    text(
      "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('','',(''),(''),'','','');\nFILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n",
    ),
    /no solid/,
  ),
  refused('a text that is no IGES', 'x.igs', text('start'), /not a IGES|not an IGES/),
  refused('a text that is no BREP', 'x.brep', text('start'), /BREP/),
];
