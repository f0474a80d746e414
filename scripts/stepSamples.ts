/** Two of the demo parts drawn as solids with curved faces and written as STEP. */
import { readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { drawRoundedRectangle, exportSTEP, makeBaseBox, makeCylinder, setOC, type Shape3D } from 'replicad';
import load from 'replicad-opencascadejs';

interface StepBody {
  name: string;
  color: string;
  shape: Shape3D;
}

const extruded = (lx: number, ly: number, r: number, h: number, z = 0): Shape3D =>
  (drawRoundedRectangle(lx, ly, r).sketchOnPlane('XY', z) as unknown as { extrude(h: number): Shape3D }).extrude(h);

const joined = (first: Shape3D, ...rest: Shape3D[]): Shape3D =>
  rest.reduce((a, b) => a.fuse(b as never) as never, first);
const cut = (first: Shape3D, ...rest: Shape3D[]): Shape3D => rest.reduce((a, b) => a.cut(b as never) as never, first);

function queenCageLid(): StepBody[] {
  const [length, width, wall] = [76, 34, 1.8];
  const rim = cut(extruded(length, width, 5, 6), extruded(length - 3, width - 3, 3.5, 8, -1));
  const holes: Shape3D[] = [];
  for (let i = -4; i <= 4; i++)
    for (let j = -1; j <= 1; j++) holes.push(makeCylinder(1.5, wall + 2, [6.5 * i, 7 * j, -1], [0, 0, 1]) as never);
  const tongue = makeBaseBox(10, 1.6, 9).translate([length / 2 - 8, 0, 0]) as never as Shape3D;
  const lid = cut(joined(extruded(length, width, 5, wall), rim, tongue), ...holes);
  return [{ name: 'Queen cage lid', color: '#c9b458', shape: lid }];
}

/** Housing, board and the larger parts on it: an assembly with names and colours. */
function hiveMonitor(): StepBody[] {
  const [length, width, height, wall] = [96, 64, 26, 2];
  const shell = cut(extruded(length, width, 6, height), extruded(length - 2 * wall, width - 2 * wall, 4, height, wall));
  const corners = [-1, 1].flatMap((i) => [-1, 1].map((j) => [(i * (length - 22)) / 2, (j * (width - 20)) / 2]));
  const posts = corners.map(([x, y]) => makeCylinder(3, 8, [x, y, wall - 0.5], [0, 0, 1]) as never as Shape3D);
  const bodies: StepBody[] = [{ name: 'Housing', color: '#cdc2b1', shape: joined(shell, ...posts) }];
  bodies.push({ name: 'Board', color: '#4f6b52', shape: extruded(84, 52, 3, 1.6, 10) });
  for (let i = 0; i < 4; i++)
    bodies.push({
      name: `Capacitor ${i + 1}`,
      color: '#6f6a76',
      shape: makeCylinder(3.15, 8, [-30 + 9 * i, 18, 11.6], [0, 0, 1]) as never,
    });
  bodies.push({ name: 'Plug', color: '#d0c8bb', shape: makeBaseBox(14, 9, 7).translate([-33, -20, 11.6]) as never });
  return bodies;
}

export async function writeStepSamples(folder: URL): Promise<void> {
  const wasm = createRequire(import.meta.url).resolve('replicad-opencascadejs/wasm');
  setOC((await (load as unknown as (o: object) => Promise<unknown>)({ wasmBinary: readFileSync(wasm) })) as never);
  for (const [name, bodies] of Object.entries({ 'queen-cage-lid': queenCageLid(), 'hive-monitor': hiveMonitor() })) {
    const blob = exportSTEP(bodies as never, { unit: 'MM', modelUnit: 'MM' });
    const text = (await blob.text()).replace(/'\\d{4}-\\d\\d-\\d\\dT[\\d:]+'/, "'2026-01-01T00:00:00'");
    writeFileSync(new URL(`${name}.step`, folder), text);
    console.log(`${name}.step: ${bodies.length} bodies, ${(text.length / 1024).toFixed(0)} kB`);
  }
}
