import { distance, vertexAt } from '../geometry/vec';
import { diffusivity, meltThermal } from '../material/properties';
import { plasticSolid } from '../material/solid';
import { faceFacts, type HoldFacts } from '../results/holdTogether';
import { LARGEST_SHARE, upper } from '../results/shape';
import { vertexAreas } from '../geometry/alignment';
import type { BehindMemory } from '../solvers/melt/behind';
import { bodyBehind, wallArea, type Behinds } from '../setup/behind';
import { format } from '../units/reader';
import type { PlasticResult } from '../solvers/warp/stage';
import type { TriangleMesh } from '../geometry/mesh';
import type { ShotRun } from './shotRun';

/** Faces, loads and bonds of a shot with what lies behind its walls; `shape` null where none was calculated. */
export function holdFacts(
  { run, gridResult: { grid }, loads }: ShotRun,
  behind: Behinds,
  memory: BehindMemory,
  shape: { result: Pick<PlasticResult, 'bond'>; surface: TriangleMesh } | null,
): HoldFacts {
  const { resin } = run.settings;
  const softest = Math.min(plasticSolid(resin).young, ...behind.before.map((b) => b.young));
  return {
    faces: faceFacts({
      behind,
      memory,
      areaOf: (side) => wallArea(grid, side),
      placeOf: (side) => vertexAt(grid.centroid, side >> 1),
      family: resin.family,
    }),
    loads: loads.loads,
    ...(shape?.result.bond.length
      ? bondOf(shape.result.bond, shape.surface)
      : { bondPull_Pa: null, bondShear_Pa: null }),
    young_Pa: softest,
  };
}

function bondOf(bond: Float32Array, { positions, triangles }: TriangleMesh) {
  const areas = vertexAreas(positions, triangles);
  const of = (k: 0 | 1) =>
    upper(
      bond.filter((_, i) => i % 2 === k),
      areas,
      5 * LARGEST_SHARE.stress,
    ).value;
  return { bondPull_Pa: of(0), bondShear_Pa: of(1) };
}

/**
 * What the slowest place to cool lies over, and how soon it would be ready between steel: a plate of its wall from melt to
 * ejection (one term of its series, to the mean of the wall). null where it lies between steel.
 */
export function slowestOver(
  { run: { settings }, gridResult: { grid }, shot, found: { answers } }: ShotRun,
  { walls, inserts, before }: Behinds,
): string | null {
  const place = answers.find((a) => a.id === 'how-long-to-cool')?.where?.position;
  if (!place || !shot.pack) return null;
  let [node, nearest] = [0, Infinity];
  for (let i = 0; i < grid.n; i++) {
    const away = distance(place, vertexAt(grid.centroid, i));
    if (away < nearest) [node, nearest] = [i, away];
  }
  const stack = Math.max(walls.of[2 * node], walls.of[2 * node + 1]);
  const ready = shot.pack.node.ejectableAt[node];
  if (stack < 0 || ready !== ready) return null;
  const what = bodyBehind({ inserts, before }, walls.list[stack].passages[0].body);
  const { resin, meltTemperature: melt, mouldTemperature: mould } = settings;
  const thermal = meltThermal(resin, melt);
  const alone =
    (grid.thickness[node] ** 2 / (Math.PI ** 2 * diffusivity(thermal))) *
    Math.log(((8 / Math.PI ** 2) * (melt - mould)) / (resin.ejectionTemperature - mould));
  const over = what.insert ? `“${what.insert.name}”` : `shot ${what.before!.number}`;
  return (
    `It lies over ${over} and needs ${format(ready, 's', 2)}; with steel all round it a wall of ` +
    `${format(grid.thickness[node], 'mm', 2)} would need about ${format(alone, 's', 2)}.`
  );
}
