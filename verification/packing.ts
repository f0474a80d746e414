import { mapVertices, type TriangleMesh, type Vec3 } from '../src/core/geometry/mesh';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor, type Detail } from '../src/core/grid/lattice';
import { buildPressureGrid, type PressureGrid } from '../src/core/grid/pressureGrid';
import type { DensityModel } from '../src/core/material/pvt';
import type { ViscosityModel } from '../src/core/material/viscosity';
import { box } from './shapes';
import type { Thermal, WallSide } from '../src/core/solvers/melt/columns';
import { noGating, type Gating } from '../src/core/solvers/melt/gating';
import { constantPressure } from '../src/core/solvers/pack/control';
import type { PackInput, PackResult } from '../src/core/solvers/pack/outcome';
import { Cavity, type CavitySpec } from '../src/core/solvers/shot/cavity';
import { emptyState, type ShotState } from '../src/core/solvers/shot/state';
import { runPack } from '../src/core/solvers/pack/stage';
import { plainContext } from '../src/core/stage/context';

export interface PackCase {
  mesh: TriangleMesh;
  turn?: (v: Vec3) => Vec3;
  detail?: Detail;
  viscosity: ViscosityModel;
  noFlow: number;
  thermal: Thermal;
  walls: WallSide[];
  melt: number;
  /** Pressure in the cavity before packing, Pa. */
  before: number;
  /** Nodes that are the inlet, by their position in the body's own axes. */
  inletAt: (position: Vec3) => boolean;
  density: DensityModel;
}

export interface FilledCavity {
  grid: PressureGrid;
  spec: CavitySpec;
  state: ShotState;
  place: (i: number) => Vec3;
}

/** A cavity that is full of melt of one temperature and pressure: where the packing stage begins. */
export function filledCavity(c: PackCase): FilledCavity {
  const turn = c.turn ?? ((v: Vec3) => v);
  const mesh = mapVertices(c.mesh, turn);
  const grid = buildPressureGrid(buildFineGrid(mesh, latticeFor(mesh, c.detail ?? 'normal')));
  const axes = ([0, 1, 2] as const).map((d) => turn([d === 0 ? 1 : 0, d === 1 ? 1 : 0, d === 2 ? 1 : 0]));
  const place = (i: number): Vec3 =>
    axes.map((e) => e.reduce((s, x, d) => s + x * grid.position[3 * i + d], 0)) as Vec3;
  const gating: Gating = {
    ...noGating(grid),
    gateOfNode: Int16Array.from({ length: grid.n }, (_, i) => (c.inletAt(place(i)) ? 0 : -1)),
  };
  const sideOf = new Uint8Array(2 * grid.n);
  for (let i = 0; i < grid.n; i++) sideOf[2 * i + 1] = c.walls.length - 1;
  const heat = { ...c.thermal, sides: c.walls, sideOf, noFlowTemperature: c.noFlow, transitionTemperature: 0 };
  const spec = { grid, gating, viscosity: c.viscosity, meltTemperature: c.melt, heat };
  // Melt of the initial temperature in every layer, and with it all that a state holds of the columns.
  const state = new Cavity(spec, emptyState(grid, gating)).state(0);
  state.node.full.fill(1);
  state.node.fillTime.fill(0);
  state.node.pressure.fill(c.before);
  state.node.fluidity.fill(1e-3);
  return { grid, spec, state, place };
}

/** Packs a case; everything that is not given is plain: held to the end, contact as before. */
export async function pack(
  { spec, state }: FilledCavity,
  density: DensityModel,
  own: Partial<PackInput> & Pick<PackInput, 'control' | 'freezeTime'>,
): Promise<{ result: PackResult; state: ShotState }> {
  const outcome = await runPack(
    state,
    {
      ...spec,
      nGates: 1,
      switchedAt: 0,
      density,
      detachedTransfer: null,
      ejectionTemperature: 0,
      transitionTemperature: 0,
      noFlowTemperature: 0,
      solidShare: 1,
      coolingTime: null,
      projectedArea: null,
      ...own,
    },
    plainContext(),
  );
  if (outcome.status === 'failed') throw new Error(outcome.message);
  return outcome;
}

/** Melt of which density and viscosity do not depend on temperature, in a slit that is closed at its end. SI. */
export interface ClosedSlit {
  length: number;
  gap: number;
  viscosity: number;
  compressibility: number;
  density0: number;
  /** Pressure before, and at the inlet from then on. */
  before: number;
  inlet: number;
}

const WIDTH = 0.02;

/**
 * The slit of the reference, closed at its end, at the time of a row: what the stage makes of it. A bar has
 * sides that brake: it carries 1 - 0.630 h/w of what a slit does (White, Viscous Fluid Flow, 3rd ed.,
 * eq. 3-48 for h << w), so its melt is made as much thinner.
 */
export async function packSlit(slit: ClosedSlit, turn: (v: Vec3) => Vec3, time: number, nSteps: number) {
  const density = { density0: slit.density0, compressibility: slit.compressibility };
  const cavity = (length: number) =>
    filledCavity({
      mesh: box(length, WIDTH, slit.gap),
      turn,
      viscosity: { kind: 'newtonian', eta: slit.viscosity * (1 - (0.63 * slit.gap) / WIDTH) },
      noFlow: 0,
      // Walls as warm as the melt, and hardly any contact: nothing cools.
      thermal: { conductivity: 0.2, density: 800, specificHeat: 2000 },
      walls: [{ temperature: 500, transfer: 1e-6 }],
      melt: 500,
      before: slit.before,
      inletAt: ([x]) => x < 1.6 * slit.gap,
      density,
    });
  // The pressure is set in the middle of the inlet's last nodes: there the slit begins.
  const first = cavity(slit.length);
  const filled = cavity(slit.length + startOf(first));
  const { grid, place } = filled;
  const { gating } = filled.spec;
  const { result, state } = await pack(filled, density, {
    control: constantPressure(slit.inlet, time),
    freezeTime: 1,
    stepsPerFreeze: nSteps / time,
    firstStep: 0.02,
    coolingTime: 0,
    ejectionTemperature: 1000,
    part: Uint8Array.from(gating.gateOfNode, (g) => (g < 0 ? 1 : 0)),
  });
  const x = Float64Array.from({ length: grid.n }, (_, i) => place(i)[0]);
  const start = startOf(filled);
  const free = [...x.keys()].filter((i) => gating.gateOfNode[i] < 0);
  const at = (from: number) => {
    let [sum, weight] = [0, 0];
    for (const i of free) {
      const w = Math.max(0, 1 - Math.abs(x[i] - from) / grid.spacing) * grid.volume[i];
      sum += w * state.node.pressure[i];
      weight += w;
    }
    return sum / weight;
  };
  // What fills the way from the place of the set pressure to the rest has its pressure.
  const volume = free.reduce((s, i) => s + grid.volume[i], 0);
  const extra = slit.length * WIDTH * slit.gap - volume;
  const inside = slit.density0 * Math.exp(slit.compressibility * slit.inlet);
  return {
    result,
    end: at(free.reduce((m, i) => Math.max(m, x[i]), -Infinity)),
    middle: at(start + slit.length / 2),
    mass: (result.mass + extra * inside) / WIDTH,
    inflow: (result.history.gateFlow[result.history.gateFlow.length - 1][0] * inside) / WIDTH,
  };
}

/** Mean place of the inlet's nodes on the links that leave it, by what the links carry. */
function startOf({ grid, spec, place }: FilledCavity): number {
  const { gateOfNode } = spec.gating;
  let [sum, weight] = [0, 0];
  for (let l = 0; l < grid.linkFrom.length; l++) {
    const [a, b] = [grid.linkFrom[l], grid.linkTo[l]];
    if (gateOfNode[a] >= 0 === gateOfNode[b] >= 0) continue;
    // What a link carries of a flow along the body.
    const [from, to] = gateOfNode[a] >= 0 ? [a, b] : [b, a];
    const w = grid.transmissibility[l] * Math.max(0, place(to)[0] - place(from)[0]);
    sum += w * place(from)[0];
    weight += w;
  }
  return sum / weight;
}
