import { describe, expect, it } from 'vitest';
import { box } from '../../../verification/shapes';
import { mapVertices, type TriangleMesh } from '../geometry/mesh';
import { joined } from '../geometry/shells';
import { emptyInputs, type Inputs } from '../model/study';
import { checkRun } from './checkRun';

const plate = box(0.08, 0.03, 0.002);
const inputs: Inputs = {
  ...emptyInputs('plate'),
  gates: [{ id: 'G1', position: [0.004, 0, 0.001], diameter: 0.002 }],
};
const moved = (mesh: TriangleMesh, x: number, z = 0) => mapVertices(mesh, ([a, b, c]) => [a + x, b, c + z]);
const scaled = (mesh: TriangleMesh, s: number) => mapVertices(mesh, ([a, b, c]) => [s * a, s * b, s * c]);
const messages = (mesh: TriangleMesh, patch: Partial<Inputs> = {}) =>
  checkRun({ ...inputs, ...patch }, mesh).problems.map((p) => p.message);

describe('what is told before a run', () => {
  it('a plain plate: nothing', () => expect(messages(plate)).toEqual([]));

  it('bodies that overlap, with how much and where', () => {
    const { problems } = checkRun(inputs, joined([plate, moved(plate, 0.06)]));
    expect(problems[0].message).toMatch(/overlap: at least (0.[6-9]|1)\d* cm³ is enclosed twice/);
    const [x] = problems[0].place!;
    expect(x).toBeGreaterThan(0.058);
    expect(x).toBeLessThan(0.082);
  });

  it('bodies that only touch or lie apart are no overlap', () => {
    expect(messages(joined([plate, moved(plate, 0.2)]))).toEqual([]);
    expect(messages(joined([plate, moved(plate, 0, 0.03)]))).toEqual([]);
  });

  it('a gate on a loose piece, with the share of that piece', () => {
    const loose = moved(box(0.01, 0.01, 0.002), 0, 0.05);
    const gates = [{ id: 'G1', position: [0.005, 0, 0.051] as [number, number, number], diameter: 0.002 }];
    expect(messages(joined([plate, loose]), { gates })[0]).toMatch(/2 pieces, and gate G1 sits on one of 4 %/);
    // On the plate itself it may stay.
    expect(messages(joined([plate, loose]))).toEqual([]);
  });

  it('a unit that is likely wrong', () => {
    const gates = (s: number) => [
      { ...inputs.gates[0], position: [0.004 * s, 0, 0.001 * s] as [number, number, number] },
    ];
    expect(messages(scaled(plate, 1000), { gates: gates(1000) })[0]).toMatch(/unit is probably wrong/);
    expect(messages(scaled(plate, 1e-3), { gates: gates(1e-3) })[0]).toMatch(/smaller than what is moulded/);
  });

  it('a block of cooling in a tool that does not open along z', () => {
    const cooling = { ...inputs, tool: { ...inputs.tool, opening: [1, 0, 0] as [number, number, number] } };
    expect(checkRun(cooling, plate).problems).toEqual([]);
  });
});
