import occt from 'occt-import-js';
import { FormatError } from '../core/formats/formatError';
import type { RawBody } from './rawBody';

export type CadKind = 'step' | 'iges' | 'brep';

interface OcctMesh {
  name: string;
  color?: [number, number, number];
  attributes: { position: { array: number[] } };
  index: { array: number[] };
}
interface OcctNode {
  name: string;
  meshes: number[];
  children: OcctNode[];
}
interface OcctResult {
  success: boolean;
  meshes: OcctMesh[];
  root: OcctNode;
}
interface OcctModule {
  ReadStepFile(bytes: Uint8Array, parameters: object | null): OcctResult;
  ReadIgesFile(bytes: Uint8Array, parameters: object | null): OcctResult;
  ReadBrepFile(bytes: Uint8Array, parameters: object | null): OcctResult;
}

let loading: Promise<OcctModule> | null = null;

/** Chords off curved faces by at most this share of a body's size, and this angle: fine enough for thin walls. */
const TESSELLATION = {
  linearUnit: 'millimeter',
  linearDeflectionType: 'bounding_box_ratio',
  linearDeflection: 0.0005,
  angularDeflection: 0.2,
};

/** Bodies of a STEP, IGES or BREP file. STEP and IGES carry their unit and come in millimetres; BREP has none. */
export async function readCad(
  kind: CadKind,
  bytes: Uint8Array,
): Promise<{ bodies: RawBody[]; metresPerUnit: number | null }> {
  const name = kind.toUpperCase();
  const head = new TextDecoder('latin1').decode(bytes.subarray(0, 4096));
  const plausible = { step: /ISO-10303-21/, iges: /^[^\n\r]{72}[SBC ]/m, brep: /CASCADE Topology|DBRep_DrawableShape/ }[
    kind
  ];
  if (!plausible.test(head)) throw new FormatError(`This is not a ${name} file.`, `Choose a ${name} file of the part.`);
  // The reader prints its own complaints; ours are enough.
  loading ??= (occt as (o: object) => Promise<OcctModule>)({ print: () => {}, printErr: () => {} });
  const reader = await loading;
  let result: OcctResult;
  try {
    const read = { step: reader.ReadStepFile, iges: reader.ReadIgesFile, brep: reader.ReadBrepFile }[kind];
    result = read(bytes, TESSELLATION);
  } catch {
    // The reader's memory is in an unknown state after it has thrown.
    loading = null;
    throw new FormatError(`The ${name} file is damaged.`, 'Export the part again.');
  }
  if (!result.success || !result.meshes.length)
    throw new FormatError(
      `The ${name} file holds no solid that can be read.`,
      'Export a solid body, as AP214 or AP242.',
    );
  const named = namesOf(result.root);
  return {
    bodies: result.meshes.map((mesh, i) => ({
      name: mesh.name || named.get(i) || '',
      colour: mesh.color ? hex(mesh.color) : null,
      soup: soupOf(mesh),
    })),
    metresPerUnit: kind === 'brep' ? null : 1e-3,
  };
}

/** Name of the nearest named node above each mesh. */
function namesOf(root: OcctNode): Map<number, string> {
  const names = new Map<number, string>();
  const visit = (node: OcctNode, above: string) => {
    const name = node.name || above;
    for (const i of node.meshes ?? []) names.set(i, name);
    for (const child of node.children ?? []) visit(child, name);
  };
  visit(root, '');
  return names;
}

const hex = (rgb: number[]) =>
  `#${rgb
    .map((c) =>
      Math.round(255 * Math.min(1, Math.max(0, c)))
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;

function soupOf({ attributes, index }: OcctMesh): Float64Array {
  const p = attributes.position.array;
  const soup = new Float64Array(3 * index.array.length);
  for (let c = 0; c < index.array.length; c++) for (let d = 0; d < 3; d++) soup[3 * c + d] = p[3 * index.array[c] + d];
  return soup;
}
