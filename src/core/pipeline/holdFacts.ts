import { vertexAt } from '../geometry/vec';
import { plasticSolid } from '../material/solid';
import { faceFacts, type HoldFacts } from '../results/holdTogether';
import { LARGEST_SHARE, upper } from '../results/shape';
import { vertexAreas } from '../geometry/alignment';
import type { BehindMemory } from '../solvers/melt/behind';
import { wallArea, type Behinds } from '../setup/behind';
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
