import { describe, expect, it } from 'vitest';
import { box } from '../../../verification/shapes';
import { revolve } from '../../../verification/solids';
import { turnOf } from '../../../verification/storm/parts';
import { mapVertices, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { emptyInputs } from '../model/study';
import { runPipeline } from '../pipeline/pipeline';
import { plainContext } from '../stage/context';

const ring = (R: number, r: number) =>
  revolve(
    Array.from({ length: 24 }, (_, k): [number, number] => {
      const angle = (2 * Math.PI * k) / 24;
      return [R + r * Math.cos(angle), r * Math.sin(angle)];
    }),
    64,
  );
const tube = (r: number, wall: number, l: number) =>
  revolve(
    [
      [r, 0],
      [r + wall, 0],
      [r + wall, l],
      [r, l],
    ],
    64,
  );
const TURNS = [(v: Vec3) => v, ...[1, 2, 3].map((seed) => turnOf(seed).apply)];

async function lines(mesh: TriangleMesh, gate: Vec3, turn: (v: Vec3) => Vec3) {
  const base = emptyInputs('part');
  const outcome = await runPipeline(
    mapVertices(mesh, turn),
    'part',
    {
      ...base,
      tool: { ...base.tool, opening: turn([0, 0, 1]) },
      gates: [{ id: 'G1', position: turn(gate), diameter: 0.0012 }],
      cycle: { ...base.cycle, venting: 'open' },
      detail: 'quick',
      upTo: 'fill',
    },
    plainContext(),
    { gridError: false },
  );
  if (outcome.status !== 'filled') throw new Error(outcome.status);
  return outcome.findings.weldLines;
}

describe.each(TURNS.map((turn, k) => ({ turn, k })))('weld lines at quick, turn $k', ({ turn }) => {
  it.each([
    ['a ring', ring(0.012, 0.002), [0.014, 0, 0], 0.012],
    ['a thin ring', ring(0.012, 0.0008), [0.0128, 0, 0], 0.012],
    ['a ring of wire', ring(0.012, 0.0005), [0.0125, 0, 0], 0.012],
    ['a wide ring', ring(0.03, 0.0008), [0.0308, 0, 0], 0.03],
    ['a nut', tube(0.004, 0.0025, 0.006), [0.0065, 0, 0.003], 0.005],
    ['a washer', tube(0.006, 0.004, 0.0015), [0.01, 0, 0.0007], 0.008],
  ] as [string, TriangleMesh, Vec3, number][])('%s has one opposite its gate', async (name, mesh, gate, R) => {
    const opposite = turn([-R, 0, gate[2]]);
    const found = await lines(mesh, gate, turn);
    if (name.includes('ring')) expect(found).toHaveLength(1);
    const away = found.map(({ points }) => {
      const middle = points[Math.floor(points.length / 2)];
      return Math.hypot(...middle.map((x, d) => x - opposite[d]));
    });
    expect(Math.min(...away)).toBeLessThan(0.45 * R);
  });

  it('a plate without a hole has none', async () => {
    expect(await lines(box(0.06, 0.04, 0.002), [0.02, 0.01, 0.001], turn)).toEqual([]);
  });
});
