import { stormPart, turnOf, mirrorOf } from '../verification/storm/parts';
import { stormInputs } from '../verification/storm/storm';
import { prepare, at } from '../verification/run';
import { flipped, mapVertices } from '../src/core/geometry/mesh';
import { closestPoint } from '../src/core/geometry/closestPoint';
import { runPipeline } from '../src/core/pipeline/pipeline';
import { plainContext } from '../src/core/pipeline/stage';
for (const seed of process.argv.slice(3).map(Number)) {
  const part = await stormPart(seed);
  const rows: string[][] = [];
  for (const t of [{ name: '', apply: (v: any) => v, mirrors: false }, turnOf(seed), mirrorOf(seed)]) {
    const { fill, grid } = prepare({
      mesh: t.mirrors ? flipped(part.mesh) : part.mesh,
      gates: [{ at: closestPoint(part.mesh, part.gate.at).point, diameter: part.gate.diameter }],
      turn: t.apply,
      detail: process.argv[2] as any,
    });
    const { history } = await fill({ kind: 'newtonian', eta: 300 }, 1e-5);
    const iso = [0.3, 0.6, 0.9, 0.95].map((s) => (at(history.shareFilled, history.pressure, s) / 1e6).toFixed(3));
    const mesh = t.mirrors ? flipped(mapVertices(part.mesh, t.apply)) : mapVertices(part.mesh, t.apply);
    const inputs = {
      ...stormInputs(part, t.apply(closestPoint(part.mesh, part.gate.at).point), t, process.argv[2] as any),
      upTo: 'fill' as const,
    };
    const o = await runPipeline(mesh, 'x', inputs, plainContext(), { gridError: false });
    if (o.status !== 'filled') continue;
    const h = o.history;
    console.log(
      seed,
      part.kind,
      t.name,
      'iso',
      iso.join(' '),
      ' heat',
      [0.1, 0.3, 0.6, 0.9, 0.95].map((s) => (at(h.shareFilled, h.pressure, s) / 1e6).toFixed(3)).join(' '),
      'steps',
      o.summary.steps,
      'cooling',
      o.summary.frontCooling_K.toFixed(1),
      'frozen',
      o.summary.frozenShareEnd.toFixed(3),
      'n',
      grid.n,
      'thick',
      (
        (2e3 * o.gridResult.grid.thickness.reduce((x, v, i) => x + v * grid.volume[i], 0)) /
        grid.volume.reduce((x, v) => x + v, 0) /
        2
      ).toFixed(3),
      'gap',
      (
        (2e3 * o.gridResult.grid.wallGap.reduce((x, v, i) => x + v * grid.volume[i], 0)) /
        grid.volume.reduce((x, v) => x + v, 0) /
        1
      ).toFixed(3),
      'shape',
      (
        o.gridResult.grid.shape.reduce((x, v, i) => x + v * grid.volume[i], 0) /
        grid.volume.reduce((x, v) => x + v, 0) /
        1
      ).toFixed(3),
      'heatErr',
      o.summary.heatError.toExponential(1),
    );
  }
}
