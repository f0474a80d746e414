import type { Field } from '../fields/field';
import type { FineGrid } from '../grid/grid';
import type { PressureGrid } from '../grid/pressureGrid';

/**
 * The fine cells as VTK voxels with cell data, in the XML format for unstructured grids, binary
 * inline. Metres and SI. Cells that hold less than 2 % are left out. Of a field with several frames
 * the last is written.
 */
export function writeVtu(fine: FineGrid, grid: PressureGrid, all: Field[]): string {
  // Runners and the drawn surface are no cells of the grid.
  const fields = all.filter((f) => f.location === 'cell' || f.location === 'wall');
  const { lattice, cells } = fine;
  const { nx, ny, spacing, origin } = lattice;
  const kept: number[] = [];
  for (let c = 0; c < cells.n; c++) if (cells.volume[c] > 0.02 * spacing ** 3) kept.push(c);
  const pointOf = new Map<number, number>();
  const points: number[] = [];
  const connectivity = new Int32Array(8 * kept.length);
  const point = (i: number, j: number, k: number): number => {
    const key = i + (nx + 1) * (j + (ny + 1) * k);
    let p = pointOf.get(key);
    if (p === undefined) {
      p = points.length / 3;
      pointOf.set(key, p);
      points.push(origin[0] + i * spacing, origin[1] + j * spacing, origin[2] + k * spacing);
    }
    return p;
  };
  kept.forEach((c, s) => {
    const at = cells.index[c];
    const [i, j, k] = [at % nx, Math.floor(at / nx) % ny, Math.floor(at / (nx * ny))];
    for (let m = 0; m < 8; m++) connectivity[8 * s + m] = point(i + (m & 1), j + ((m >> 1) & 1), k + (m >> 2));
  });
  const cellData: VtkArray[] = fields.map((field) => {
    // Both sides of a wall are two components.
    const m = field.location === 'wall' ? 2 : field.components;
    const frame = field.data.subarray((field.frames - 1) * grid.n * m);
    const values = new Float32Array(kept.length * m);
    kept.forEach((c, s) => {
      for (let d = 0; d < m; d++) values[s * m + d] = frame[grid.nodeOfCell[c] * m + d];
    });
    return { name: field.unit ? `${field.id}_${unitName(field.unit)}` : field.id, values, components: m };
  });
  cellData.push({
    name: 'volumeShare',
    values: Float32Array.from(kept, (c) => cells.volume[c] / spacing ** 3),
    components: 1,
  });
  return writeUnstructured({ points: Float32Array.from(points), connectivity, perCell: 8, type: 11, cellData });
}

/** Values of a point or a cell: `components` numbers each. */
export interface VtkArray {
  name: string;
  values: Float32Array | Int32Array | Uint8Array;
  components: number;
}

/** Cells of one type in the XML format for unstructured grids, binary inline; points in m. */
export function writeUnstructured(grid: {
  points: Float32Array;
  connectivity: Int32Array;
  perCell: number;
  /** Cell type by its VTK number: 11 voxel, 24 quadratic tetrahedron. */
  type: number;
  pointData?: readonly VtkArray[];
  cellData?: readonly VtkArray[];
  /** Numbers that hold for the whole. */
  fieldData?: readonly VtkArray[];
}): string {
  const n = grid.connectivity.length / grid.perCell;
  const offsets = Int32Array.from({ length: n }, (_, s) => grid.perCell * (s + 1));
  const types = new Uint8Array(n).fill(grid.type);
  const arrays = (list: readonly VtkArray[] = []) =>
    list.map((a) => dataArray(typeOf(a.values), a.name, a.values, a.components)).join('\n');
  const whole = (grid.fieldData ?? []).map(({ name, values }) =>
    dataArray(typeOf(values), name, values).replace('NumberOfComponents="1"', `NumberOfTuples="${values.length}"`),
  );
  return [
    '<?xml version="1.0"?>',
    '<VTKFile type="UnstructuredGrid" version="1.0" byte_order="LittleEndian" header_type="UInt32">',
    '<UnstructuredGrid>',
    ...(whole.length ? [`<FieldData>${whole.join('\n')}</FieldData>`] : []),
    `<Piece NumberOfPoints="${grid.points.length / 3}" NumberOfCells="${n}">`,
    `<Points>${dataArray('Float32', 'Points', grid.points, 3)}</Points>`,
    `<Cells>${dataArray('Int32', 'connectivity', grid.connectivity)}${dataArray('Int32', 'offsets', offsets)}${dataArray('UInt8', 'types', types)}</Cells>`,
    ...(grid.pointData ? [`<PointData>${arrays(grid.pointData)}</PointData>`] : []),
    ...(grid.cellData ? [`<CellData>${arrays(grid.cellData)}</CellData>`] : []),
    '</Piece></UnstructuredGrid></VTKFile>',
    '',
  ].join('\n');
}

const typeOf = (values: VtkArray['values']) =>
  values instanceof Float32Array ? 'Float32' : values instanceof Int32Array ? 'Int32' : 'UInt8';

const unitName = (unit: string) => ({ '1/s': 'per_s', 'm/s': 'm_s' })[unit] ?? unit;

function dataArray(type: string, name: string, values: VtkArray['values'], components = 1): string {
  const bytes = new Uint8Array(4 + values.byteLength);
  new DataView(bytes.buffer).setUint32(0, values.byteLength, true);
  bytes.set(new Uint8Array(values.buffer, values.byteOffset, values.byteLength), 4);
  return `<DataArray type="${type}" Name="${name}" NumberOfComponents="${components}" format="binary">${base64(bytes)}</DataArray>`;
}

/** In pieces of a multiple of 3 bytes, so that the pieces join without padding. */
export function base64(bytes: Uint8Array): string {
  const parts: string[] = [];
  for (let at = 0; at < bytes.length; at += 30_000) {
    let text = '';
    for (const byte of bytes.subarray(at, at + 30_000)) text += String.fromCharCode(byte);
    parts.push(btoa(text));
  }
  return parts.join('');
}
