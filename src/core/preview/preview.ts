import { closestPoint, type SurfacePoint } from '../geometry/closestPoint';
import type { TriangleMesh, Vec3 } from '../geometry/mesh';
import { buildFineGrid, type FineGrid } from '../grid/grid';
import { latticeOver, nominalWall } from '../grid/lattice';
import { buildPressureGrid, type PressureGrid } from '../grid/pressureGrid';
import type { ViscosityModel } from '../material/viscosity';
import type { StageContext } from '../stage/context';
import { surfaceMap, type SurfaceMap } from '../grid/surfaceMap';
import { constantFlow } from '../solvers/melt/drive';
import type { GateSite } from '../solvers/melt/star';
import { placeGating } from '../solvers/melt/gating';
import { runFill } from '../solvers/fill/stage';

/** A coarse grid of a part, made once and used for every preview. */
export interface PreviewGrid {
  mesh: TriangleMesh;
  fine: FineGrid;
  grid: PressureGrid;
}

/** Fine cells across the nominal wall, and the most nodes a preview can afford. */
const CELLS_PER_WALL = 1;
const MOST_NODES = 2600;

/** Coarse enough that a whole filling takes a fraction of a second. */
export function previewGrid(mesh: TriangleMesh): PreviewGrid {
  let spacing = nominalWall(mesh) / CELLS_PER_WALL;
  for (;;) {
    const fine = buildFineGrid(mesh, latticeOver(mesh, spacing));
    const grid = buildPressureGrid(fine);
    if (grid.n <= MOST_NODES) return { mesh, fine, grid };
    spacing *= Math.max(1.15, Math.sqrt(grid.n / MOST_NODES));
  }
}

export const previewSurface = ({ mesh, fine, grid }: PreviewGrid): SurfaceMap => surfaceMap(mesh, fine, grid);

export interface PreviewMelt {
  viscosity: ViscosityModel;
  /** K */
  temperature: number;
  /** m3/s */
  flowRate: number;
}

export interface PreviewFill {
  /** s; NaN where the melt does not come. */
  fillTime: Float64Array;
  /** Pressure at the gate when nearly full, Pa. */
  pressure: number;
}

/** Longer steps than a run takes: the pattern is drawn, weld lines are not looked for. */
const STEPS = 22;
const ADVANCE = { wide: 3, end: 2, endAt: 0.9 };

/** Flow pattern on the coarse grid at one temperature. Throws AbortError when told to stop. */
export async function previewFill(
  coarse: PreviewGrid,
  gates: readonly { id: string; position: Vec3; diameter: number }[],
  melt: PreviewMelt,
  ctx: StageContext,
): Promise<PreviewFill> {
  const sites = gates.map((g) => siteOf(coarse.mesh, g));
  const fill = await fillFrom(coarse, sites, melt, ctx);
  if (!fill) throw new Error('The coarse filling has no finite solution from this gate.');
  return fill;
}

export const siteOf = (mesh: TriangleMesh, gate: { id: string; position: Vec3; diameter: number }): GateSite => ({
  id: gate.id,
  surface: closestPoint(mesh, gate.position) as SurfacePoint,
  diameter: gate.diameter,
});

export async function fillFrom(
  { fine, grid }: PreviewGrid,
  sites: GateSite[],
  melt: PreviewMelt,
  ctx: StageContext,
): Promise<PreviewFill | null> {
  const outcome = await runFill(
    {
      grid,
      gating: placeGating(fine, grid, sites),
      nGates: sites.length,
      viscosity: melt.viscosity,
      meltTemperature: melt.temperature,
      control: constantFlow(melt.flowRate),
      heat: null,
      air: null,
      projectedArea: null,
      timeLimit: Infinity,
      nSteps: STEPS,
      advance: ADVANCE,
      nFrames: 0,
      passes: 1,
      tolerance: 2e-3,
    },
    ctx,
  );
  if (outcome.status === 'failed') return null;
  const { node, history } = outcome.result;
  const nearly = history.shareFilled.findIndex((s) => s > 0.97);
  return { fillTime: node.fillTime, pressure: history.pressure[nearly < 0 ? history.pressure.length - 1 : nearly] };
}
