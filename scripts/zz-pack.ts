import { stormPart, turnOf, mirrorOf } from '../verification/storm/parts';
import { stormInputs } from '../verification/storm/storm';
import { flipped, mapVertices } from '../src/core/geometry/mesh';
import { closestPoint } from '../src/core/geometry/closestPoint';
import { runPipeline } from '../src/core/pipeline/pipeline';
import { plainContext } from '../src/core/pipeline/stage';
const [seedText, which] = process.argv.slice(2);
const seed = Number(seedText);
const part = await stormPart(seed);
const t = [{ name: '', apply: (v: any) => v, mirrors: false }, turnOf(seed), mirrorOf(seed)][Number(which)];
const mesh = t.mirrors ? flipped(mapVertices(part.mesh, t.apply)) : mapVertices(part.mesh, t.apply);
const inputs = stormInputs(part, t.apply(closestPoint(part.mesh, part.gate.at).point), t, 'quick');
(globalThis as any).DBG = true;
const o = await runPipeline(mesh, 'x', inputs, plainContext(), { gridError: false });
if (o.status === 'filled') {
  console.log(o.breaches.map((b) => b.message));
  const c = o.course!;
  console.log(c.time.map((x, i) => `${x.toFixed(2)}:${(c.highestPressure[i] / 1e6).toFixed(2)}`).join(' '));
  console.log(
    'steps',
    o.pack!.steps,
    'solves',
    o.pack!.solves,
    'massErr',
    o.pack!.massError,
    'heat',
    o.pack!.heatError,
    'mass',
    o.pack!.mass,
  );
}
