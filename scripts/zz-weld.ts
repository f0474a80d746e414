import { revolve } from '../verification/solids';
import { turnOf } from '../verification/storm/parts';
import { combine } from '../src/cad/solids';
import { box, disc } from '../verification/shapes';
import { mapVertices } from '../src/core/geometry/mesh';
import { cavityBody, emptyInputs } from '../src/core/model/study';
import { runPipeline } from '../src/core/pipeline/pipeline';
import { plainContext } from '../src/core/pipeline/stage';
const ring = (R: number, r: number) =>
  revolve(
    Array.from({ length: 24 }, (_, k): [number, number] => {
      const a = (2 * Math.PI * k) / 24;
      return [R + r * Math.cos(a), r * Math.sin(a)];
    }),
    64,
  );
const tube = (r: number, w: number, l: number) =>
  revolve(
    [
      [r, 0],
      [r + w, 0],
      [r + w, l],
      [r, l],
    ],
    64,
  );
const plateHole = (await combine(
  box(0.06, 0.04, 0.002),
  mapVertices(disc(0.008, 0.006, 48), ([x, y, z]) => [x + 0.03, y, z]),
  'cut',
))!;
const plate = box(0.06, 0.04, 0.002);
for (const [name, mesh, gate, n] of [
  ['torus', ring(0.012, 0.002), [0.014, 0, 0], 1],
  ['thin torus', ring(0.012, 0.0008), [0.0128, 0, 0], 1],
  ['large torus', ring(0.05, 0.0008), [0.0508, 0, 0], 1],
  ['nut', tube(0.004, 0.0025, 0.006), [0.0065, 0, 0.003], 1],
  ['washer', tube(0.006, 0.004, 0.0015), [0.01, 0, 0.0007], 1],
  ['plate hole', plateHole, [0.001, 0, 0.001], 1],
  ['plate', plate, [0.001, 0, 0.001], 0],
  ['plate middle', plate, [0.02, 0.01, 0.001], 0],
] as const)
  for (const detail of ['quick', 'normal'] as const)
    for (const s of [0, 1, 2, 3]) {
      const turn = s ? turnOf(s).apply : (v: any) => v;
      const base = emptyInputs();
      const up = turn([0, 0, 1]) as any;
      const o = await runPipeline(
        mapVertices(mesh, turn),
        'x',
        {
          ...base,
          bodies: [cavityBody('x')],
          tool: { ...base.tool, opening: up },
          gates: [{ id: 'G1', position: turn(gate as any), diameter: 0.0012 }],
          detail,
          upTo: 'fill',
          cycle: { ...base.cycle, venting: 'open' },
        },
        plainContext(),
        { gridError: false },
      );
      if (o.status !== 'filled') {
        console.log(name, o.status, 'problems' in o ? o.problems : (o as any).message);
        continue;
      }
      console.log(
        name,
        detail,
        s,
        'lines',
        o.findings.weldLines
          .map((w) => `${(1e3 * w.length).toFixed(1)}mm ${(w.angle * 57.3).toFixed(0)}°`)
          .join(', ') || '-',
        'expected',
        n,
      );
    }
