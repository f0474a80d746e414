import { strFromU8, unzipSync } from 'fflate';
import { SaxesParser, type SaxesTagPlain } from 'saxes';
import { FormatError } from '../core/formats/formatError';
import type { RawBody } from './rawBody';

/** 3MF core specification 1.3: unit attribute of the model element. */
const UNITS: Record<string, number> = {
  micron: 1e-6,
  millimeter: 1e-3,
  centimeter: 1e-2,
  inch: 0.0254,
  foot: 0.3048,
  meter: 1,
};

interface Component {
  object: string;
  transform: number[];
}

interface ModelObject {
  name: string;
  colour: string | null;
  vertices: number[];
  triangles: number[];
  components: Component[];
}

const IDENTITY = [1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0];
const MAX_DEPTH = 20;
/** Bounds on what a package may hold and grow to, so that a small file can not fill the memory. */
const MAX_TRIANGLES = 5e6;
const MAX_UNPACKED = 256 * 1024 * 1024;
const MAX_ENTRIES = 2000;
/** Objects set into place, with triangles or without: components of components multiply. */
const MAX_PLACED = 20_000;

/** Bodies of a 3MF package: one a built mesh, components placed. Throws FormatError on a broken package. */
export function read3mf(bytes: Uint8Array): { bodies: RawBody[]; metresPerUnit: number } {
  const broken = (why: string) => new FormatError(`The 3MF file cannot be read: ${why}.`, 'Export the part again.');
  const tooLarge = (why: string) =>
    new FormatError(`The 3MF file is too large: ${why}.`, 'Export fewer bodies, or with a coarser tolerance.');
  let files: Record<string, Uint8Array>;
  let unpacked = 0;
  let entries = 0;
  try {
    files = unzipSync(bytes, {
      filter: ({ name, originalSize }) => {
        if (++entries > MAX_ENTRIES) throw tooLarge(`it holds more than ${MAX_ENTRIES} files`);
        if (!/\.(model|rels)$/i.test(name)) return false;
        // What comes out is no longer than its entry says, whatever is packed.
        unpacked += originalSize;
        if (unpacked > MAX_UNPACKED) throw tooLarge(`it unpacks to more than ${MAX_UNPACKED >> 20} MB`);
        return true;
      },
    });
  } catch (error) {
    if (error instanceof FormatError) throw error;
    throw broken('it is no whole zip archive');
  }
  const main = mainModel(files);
  if (!main) throw broken('it holds no 3D model');
  const objects = new Map<string, ModelObject>();
  let parsed: ParsedModel | null = null;
  for (const [path, content] of Object.entries(files)) {
    if (!/\.model$/i.test(path)) continue;
    const key = normal(path);
    try {
      const model = parseModel(strFromU8(content), key, objects);
      if (key === main) parsed = model;
    } catch (error) {
      if (error instanceof FormatError) throw error;
      throw broken(`its model is damaged (${(error as Error).message.split('\n')[0].slice(0, 100)})`);
    }
  }
  if (!parsed) throw broken('it holds no 3D model');
  const bodies: RawBody[] = [];
  let total = 0;
  let nPlaced = 0;
  const place = (id: string, transform: number[], name: string, depth: number): void => {
    const object = objects.get(id);
    if (!object) throw broken(`it builds an object that is not there (${id.split('#')[1]})`);
    if (depth > MAX_DEPTH) throw broken('its components contain themselves');
    if (++nPlaced > MAX_PLACED) throw tooLarge(`it places more than ${MAX_PLACED} objects`);
    if (object.triangles.length) {
      total += object.triangles.length / 3;
      if (total > MAX_TRIANGLES) throw tooLarge('it has more than 5 million triangles');
      bodies.push({ name: object.name || name, colour: object.colour, soup: soupOf(object, transform, broken) });
    }
    for (const c of object.components) place(c.object, chain(c.transform, transform), object.name || name, depth + 1);
  };
  for (const item of parsed.items) place(item.object, item.transform, '', 0);
  if (!parsed.items.length) for (const id of objects.keys()) place(id, IDENTITY, '', 0);
  return { bodies, metresPerUnit: UNITS[parsed.unit] ?? 1e-3 };
}

const normal = (path: string) => path.replace(/^\//, '').toLowerCase();

function mainModel(files: Record<string, Uint8Array>): string | null {
  const names = Object.keys(files).map(normal);
  const rels = Object.entries(files).find(([name]) => normal(name) === '_rels/.rels');
  const target = rels && /Target="([^"]+\.model)"/i.exec(strFromU8(rels[1]))?.[1];
  if (target && names.includes(normal(target))) return normal(target);
  return names.find((n) => n.endsWith('3dmodel.model')) ?? names.find((n) => n.endsWith('.model')) ?? null;
}

interface ParsedModel {
  unit: string;
  items: Component[];
}

function parseModel(xml: string, path: string, objects: Map<string, ModelObject>): ParsedModel {
  const parser = new SaxesParser();
  const model: ParsedModel = { unit: 'millimeter', items: [] };
  const colours = new Map<string, string[]>();
  let group: string[] | null = null;
  let object: ModelObject | null = null;
  const wanted = new Map<ModelObject, { pid: string; index: number }>();
  const reference = (tag: SaxesTagPlain): Component => {
    const a = tag.attributes;
    const file = a['p:path'] ? normal(a['p:path']) : path;
    return { object: `${file}#${a.objectid}`, transform: matrix(a.transform) };
  };
  parser.on('opentag', (tag) => {
    const a = tag.attributes as Record<string, string>;
    switch (tag.name.split(':').pop()) {
      case 'model':
        model.unit = a.unit ?? 'millimeter';
        break;
      case 'basematerials':
      case 'colorgroup':
        group = [];
        colours.set(a.id, group);
        break;
      case 'base':
        group?.push(a.displaycolor);
        break;
      case 'color':
        group?.push(a.color);
        break;
      case 'object':
        object = { name: a.name ?? '', colour: null, vertices: [], triangles: [], components: [] };
        if (a.pid !== undefined) wanted.set(object, { pid: a.pid, index: Number(a.pindex ?? 0) });
        objects.set(`${path}#${a.id}`, object);
        break;
      case 'vertex':
        object?.vertices.push(Number(a.x), Number(a.y), Number(a.z));
        break;
      case 'triangle':
        object?.triangles.push(Number(a.v1), Number(a.v2), Number(a.v3));
        break;
      case 'component':
        object?.components.push(reference(tag as SaxesTagPlain));
        break;
      case 'item':
        model.items.push(reference(tag as SaxesTagPlain));
        break;
    }
  });
  parser.on('closetag', (tag) => {
    if (tag.name.split(':').pop() === 'object') object = null;
  });
  parser.write(xml).close();
  for (const [target, { pid, index }] of wanted) {
    const colour = colours.get(pid)?.[index];
    if (colour && /^#[0-9a-f]{6}/i.test(colour)) target.colour = colour.slice(0, 7).toLowerCase();
  }
  return model;
}

/** 12 numbers: a 4 x 3 matrix by rows, points as rows on its left. */
function matrix(text: string | undefined): number[] {
  const m = text?.trim().split(/\s+/).map(Number);
  return m?.length === 12 && m.every(Number.isFinite) ? m : IDENTITY;
}

/** First a, then b. */
function chain(a: number[], b: number[]): number[] {
  const out: number[] = [];
  for (let row = 0; row < 4; row++)
    for (let col = 0; col < 3; col++)
      out.push(
        a[3 * row] * b[col] + a[3 * row + 1] * b[3 + col] + a[3 * row + 2] * b[6 + col] + (row === 3 ? b[9 + col] : 0),
      );
  return out;
}

function soupOf({ vertices, triangles }: ModelObject, m: number[], broken: (why: string) => FormatError): Float64Array {
  const soup = new Float64Array(3 * triangles.length);
  const n = vertices.length / 3;
  for (let c = 0; c < triangles.length; c++) {
    const v = triangles[c];
    if (!(v >= 0 && v < n)) throw broken(`a triangle names vertex ${v} of ${n}`);
    for (let d = 0; d < 3; d++)
      soup[3 * c + d] =
        vertices[3 * v] * m[d] + vertices[3 * v + 1] * m[3 + d] + vertices[3 * v + 2] * m[6 + d] + m[9 + d];
  }
  // A mirrored copy has its triangles the wrong way round.
  const mirrored =
    m[0] * (m[4] * m[8] - m[5] * m[7]) - m[1] * (m[3] * m[8] - m[5] * m[6]) + m[2] * (m[3] * m[7] - m[4] * m[6]) < 0;
  if (mirrored)
    for (let i = 0; i < soup.length; i += 9)
      for (let d = 3; d < 6; d++) [soup[i + d], soup[i + d + 3]] = [soup[i + d + 3], soup[i + d]];
  return soup;
}
