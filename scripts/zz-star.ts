import { stormPart, turnOf, mirrorOf } from '../verification/storm/parts';
import { flipped, mapVertices } from '../src/core/geometry/mesh';
import { closestPoint } from '../src/core/geometry/closestPoint';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor } from '../src/core/grid/lattice';
import { buildPressureGrid } from '../src/core/grid/pressureGrid';
import { starOf } from '../src/core/solvers/fill/star';
for (const seed of process.argv.slice(2).map(Number)) {
  const part = await stormPart(seed);
  for (const t of [{ apply: (v: any) => v, mirrors: false }, turnOf(seed), mirrorOf(seed)]) {
    let mesh = mapVertices(part.mesh, t.apply);
    if (t.mirrors) mesh = flipped(mesh);
    const gate = t.apply(closestPoint(part.mesh, part.gate.at).point);
    const fine = buildFineGrid(mesh, latticeFor(mesh, 'quick'));
    const grid = buildPressureGrid(fine);
    const surface = closestPoint(mesh, gate);
    const s = starOf(fine, grid, { id: 'G', surface, diameter: part.gate.diameter }, 0) as any;
    const mu = s.links.reduce((x: number, l: any) => x + l.conductance, 0);
    console.log(
      seed,
      part.kind,
      'a',
      (part.gate.diameter * 500).toFixed(2),
      'wall',
      (1e3 * part.wall).toFixed(2),
      'cell',
      (1e3 * fine.lattice.spacing).toFixed(3),
      'entry',
      s.entry.toExponential(3),
      'spread/entry',
      (s.spread / s.entry).toFixed(3),
      '1/mu/(e+s)',
      (1 / mu / (s.entry + s.spread)).toFixed(3),
      s.dbg ?? '',
      'links',
      s.links.length,
      'meanH',
      (
        (1e3 * grid.thickness.reduce((x, v, i) => x + v * grid.volume[i], 0)) /
        grid.volume.reduce((x, v) => x + v, 0) /
        2
      ).toFixed(3),
      'n',
      grid.n,
      'normal',
      surface.normal.map((x) => x.toFixed(2)).join(','),
    );
  }
}
