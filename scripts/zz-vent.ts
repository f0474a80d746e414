import { stormPart, turnOf, mirrorOf } from '../verification/storm/parts';
import { stormInputs } from '../verification/storm/storm';
import { flipped, mapVertices } from '../src/core/geometry/mesh';
import { closestPoint } from '../src/core/geometry/closestPoint';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor } from '../src/core/grid/lattice';
import { buildPressureGrid } from '../src/core/grid/pressureGrid';
import { toolOnGrid } from '../src/core/grid/tool';
import { openingOf } from '../src/core/model/body';
import { mapSurface } from '../src/core/partmaps/surface';
import { moulding } from '../src/core/partmaps/moulding';
for (const seed of process.argv.slice(2).map(Number)) {
  const part = await stormPart(seed);
  for (const t of [{ name: '', apply: (v: any) => v, mirrors: false }, turnOf(seed), mirrorOf(seed)]) {
    const mesh = t.mirrors ? flipped(mapVertices(part.mesh, t.apply)) : mapVertices(part.mesh, t.apply);
    const inputs = stormInputs(part, t.apply(closestPoint(part.mesh, part.gate.at).point), t, 'quick');
    const fine = buildFineGrid(mesh, latticeFor(mesh, 'quick'));
    const grid = buildPressureGrid(fine);
    const tool = toolOnGrid(mesh, fine, grid, { opening: openingOf(inputs.tool), partingHeight: null }, false);
    const s = mapSurface(mesh, 24 * grid.spacing);
    const m = moulding(s, openingOf(inputs.tool), null);
    const c = [0, 0, 0, 0];
    m.side.forEach((x, i) => (c[x] += s.areas[i] * 1e6));
    console.log(
      seed,
      part.kind,
      t.name,
      'vented',
      tool.vented.reduce((a, b) => a + b, 0),
      'of',
      grid.n,
      'length',
      (1e3 * tool.partingLength).toFixed(1),
      'parting',
      (1e3 * m.parting).toFixed(3),
      'areas',
      c.map((x) => x.toFixed(1)).join(' '),
      'shadow',
      (1e6 * tool.projectedArea.reduce((a, b) => a + b, 0)).toFixed(1),
    );
  }
}
