import type { Vec3 } from '../geometry/mesh';
import { buildFineGrid } from '../grid/grid';
import { latticeFor } from '../grid/lattice';
import { buildPressureGrid } from '../grid/pressureGrid';
import { freezeTime } from '../material/cooling';
import { meltThermal } from '../material/properties';
import { A_DAY } from '../model/wayNumbers';
import { USUAL } from '../model/parameters';
import type { Resin } from '../model/resin';
import { standInMesh } from '../model/standIn';
import { noGating } from '../solvers/melt/gating';
import { thermalTables } from '../solvers/melt/thermalTables';
import { constantPressure } from '../solvers/pack/control';
import { freezingOf } from '../solvers/pack/freeStrain';
import { ROOM_AIR } from '../solvers/pack/inAir';
import type { ValvePin } from '../solvers/melt/pins';
import { runPack } from '../solvers/pack/stage';
import { Cavity } from '../solvers/shot/cavity';
import { emptyState } from '../solvers/shot/state';
import type { StageContext } from '../stage/context';

/** How a plate for measuring shrinkage is moulded. SI; what is null is what the resin recommends. */
export interface PlateMoulding {
  thickness: number;
  /** Held until the gate has frozen, Pa. */
  pressure: number;
  melt: number | null;
  mould: number | null;
  /** After which it is measured, s since the opening. */
  after?: number;
}

/** What becomes of it: linear shrinkage along the wall, and what volume and thickness have lost; positive, shares. */
export interface PlateShrinkage {
  along: number;
  volume: number;
  thickness: number;
  /** When the plate let go of the steel, and when it was ejected, s. */
  slidesAt: number;
  openedAt: number;
}

const AXES: [Vec3, Vec3, Vec3] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];
/** Length and width of the piece of the plate that is followed, over its thickness. */
const PIECE = 8;
/** A gate as thick as the plate, but no thicker than this, m: it shuts when so thick a wall has frozen in the middle. */
const THICKEST_GATE = 0.002;
/** The machine holds over this many times of freezing: it is the gate that ends it. */
const HELD = 3;
/** Time in which the gate shuts, over that of freezing. */
const SHUTTING = 0.05;

/**
 * The plate of shrinkage measurements, gated over all of one edge, as it comes out of the packing stage: filled with
 * melt of one temperature under pressure, held until the gate has frozen, ejected when it can be.
 */
export async function shrinkagePlate(
  resin: Resin,
  moulding: PlateMoulding,
  ctx: StageContext,
): Promise<PlateShrinkage> {
  const { thickness, pressure, after = A_DAY } = moulding;
  const melt = moulding.melt ?? resin.melt.recommended;
  const mould = moulding.mould ?? resin.mould.recommended;
  const length = PIECE * thickness;
  const mesh = standInMesh({ shape: 'box', centre: [0, 0, 0], size: [length, length, thickness], axes: AXES });
  const grid = buildPressureGrid(buildFineGrid(mesh, latticeFor(mesh, 'quick')));
  const edge = Math.min(...Array.from({ length: grid.n }, (_, i) => grid.position[3 * i]));
  const gating = {
    ...noGating(grid),
    gateOfNode: Int16Array.from({ length: grid.n }, (_, i) =>
      grid.position[3 * i] < edge + 0.5 * grid.spacing ? 0 : -1,
    ),
  };
  const thermal = meltThermal(resin, melt);
  const { wallTransfer, detachedTransfer, solidShare } = USUAL;
  const heat = {
    ...thermal,
    tables: thermalTables(resin.specificHeat, resin.conductivity, thermal),
    sides: [{ temperature: mould, transfer: wallTransfer }],
    sideOf: new Uint8Array(2 * grid.n),
    noFlowTemperature: resin.noFlowTemperature,
    transitionTemperature: resin.transitionTemperature,
  };
  const freezing = (wall: number) => freezeTime(wall, thermal, melt, mould, resin.noFlowTemperature);
  const freeze = freezing(thickness);
  const shut = thickness > THICKEST_GATE ? freezing(THICKEST_GATE) : null;
  const pins: ValvePin[] = [...grid.linkFrom.keys()].flatMap((link) => {
    const under = [grid.linkFrom[link], grid.linkTo[link]].map((i) => gating.gateOfNode[i] >= 0);
    if (shut === null || under[0] === under[1]) return [];
    return [{ gate: 0, link, moves: [{ by: 'start' }, { by: 'time', time: shut }], over: SHUTTING * freeze }];
  });
  const spec = { grid, gating, viscosity: resin.viscosity, meltTemperature: melt, heat, pins };
  const state = new Cavity(spec, emptyState(grid, gating)).state(0);
  state.node.full.fill(1);
  state.node.fillTime.fill(0);
  state.node.pressure.fill(pressure);
  state.node.fluidity.fill(1e-3);
  const outcome = await runPack(
    state,
    {
      ...spec,
      nGates: 1,
      switchedAt: 0,
      density: resin.pvt,
      control: constantPressure(pressure, HELD * freeze),
      detachedTransfer,
      ejectionTemperature: resin.ejectionTemperature,
      transitionTemperature: resin.transitionTemperature,
      noFlowTemperature: resin.noFlowTemperature,
      solidShare,
      coolingTime: null,
      freezeTime: freeze,
      projectedArea: null,
      freezing: freezingOf(resin),
      outside: { ...ROOM_AIR, until: after },
    },
    ctx,
  );
  if (outcome.status === 'failed') throw new Error(outcome.message);
  const { result } = outcome;
  if (!result.frozen) throw new Error('a plate of which the layers were not followed');
  const { mean } = result.frozen.node;
  // Inside the half that lies away from the gate, by volume: edges have their own.
  const inside = [...mean.keys()].filter((i) => {
    const [x, y] = grid.position.subarray(3 * i, 3 * i + 2);
    return x > 0 && x < length / 4 && Math.abs(y) < length / 4;
  });
  const over = (values: ArrayLike<number>) =>
    inside.reduce((s, i) => s + grid.volume[i] * values[i], 0) / inside.reduce((s, i) => s + grid.volume[i], 0);
  const along = -over(mean);
  const volume = over(result.node.shrinkage);
  return {
    along,
    volume,
    thickness: 1 - (1 - volume) / (1 - along) ** 2,
    slidesAt: over(result.node.releasedAt),
    openedAt: result.openTime,
  };
}
