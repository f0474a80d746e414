import { describe, expect, it } from 'vitest';
import { readDxfLines } from '../formats/dxf';
import { linesOf, polylinesOfRows, polylinesOfTrace } from './polylines';

const round = (diameter: number) => ({ shape: 'round' as const, diameter });

describe('polylines from a table', () => {
  it('named columns, in any order, with diameters and several lines', () => {
    const rows = [
      ['line', 'z_mm', 'y_mm', 'x_mm', 'diameter_mm'],
      ['a', '0', '0', '0', '6'],
      ['a', '0', '0', '20', '4'],
      ['b', '0', '0', '20', '4'],
      ['b', '0', '10,5', '20', '4'],
    ];
    const polylines = polylinesOfRows(rows, 1e-3);
    expect(polylines).toHaveLength(2);
    expect(polylines[1].points).toEqual([
      [0.02, 0, 0],
      [0.02, 0.0105, 0],
    ]);
    const lines = linesOf(polylines, round(0.005), []);
    expect(lines.map((l) => l.id)).toEqual(['L1', 'L2']);
    expect(lines[0]).toMatchObject({ section: round(0.006), endSection: round(0.004) });
    expect(lines[1].endSection).toBeNull();
  });

  it('bare numbers; an empty row begins a new line; without diameter the given section', () => {
    const rows = ['0,0,0', '10,0,0', '', '10,0,0', '10,8,0'].map((r) => r.split(','));
    const lines = linesOf(polylinesOfRows(rows, 1e-3), round(0.005), []);
    expect(lines).toHaveLength(2);
    expect(lines.every((l) => l.section.shape === 'round' && l.section.diameter === 0.005)).toBe(true);
  });

  it('says which row is wrong', () => {
    expect(() =>
      polylinesOfRows(
        [
          ['x', 'y', 'z'],
          ['1', '2', '3'],
          ['1', 'two', '3'],
        ],
        1,
      ),
    ).toThrow(/Row 3/);
    expect(() => polylinesOfRows([['x', 'y']], 1)).toThrow(/x, y and z/);
    expect(() => polylinesOfRows([[' ']], 1)).toThrow(/empty/);
    expect(() => polylinesOfRows([['1', '2', '3']], 1)).toThrow(/one point/);
  });
});

it('a traced body becomes lines that keep its diameters', () => {
  const trace = {
    id: 'T1',
    name: 'Runner',
    body: 'B2',
    nodes: [
      { position: [0, 0, 0] as [number, number, number], diameter: 0.006 },
      { position: [0.03, 0, 0] as [number, number, number], diameter: 0.006 },
      { position: [0.03, 0.02, 0] as [number, number, number], diameter: 0.004 },
    ],
    segments: [
      [0, 1],
      [1, 2],
    ] as [number, number][],
  };
  const lines = linesOf(polylinesOfTrace(trace), round(0.005), []);
  expect(lines.map((l) => [l.section, l.endSection])).toEqual([
    [round(0.006), null],
    [round(0.006), round(0.004)],
  ]);
});

describe('polylines from a drawing', () => {
  const dxf = (entities: string[]) =>
    ['0', 'SECTION', '2', 'ENTITIES', ...entities, '0', 'ENDSEC', '0', 'EOF'].join('\n');

  it('lines and light polylines, in the unit asked for', () => {
    const line = ['0', 'LINE', '8', '0', '10', '0', '20', '0', '30', '5', '11', '12', '21', '0', '31', '5'];
    const poly = [
      '0',
      'LWPOLYLINE',
      '8',
      '0',
      '90',
      '3',
      '70',
      '0',
      '10',
      '12',
      '20',
      '0',
      '10',
      '12',
      '20',
      '9',
      '10',
      '20',
      '20',
      '9',
    ];
    const found = readDxfLines(dxf([...line, ...poly]), 1e-3);
    expect(found[0].points).toEqual([
      [0, 0, 0.005],
      [0.012, 0, 0.005],
    ]);
    expect(found[1].points).toHaveLength(3);
  });

  it('a drawing without lines is told', () => {
    expect(() => readDxfLines(dxf(['0', 'POINT', '8', '0', '10', '0', '20', '0']), 1)).toThrow(/no lines/);
    expect(() => readDxfLines('nonsense', 1)).toThrow();
  });
});
