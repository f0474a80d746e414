import { blockOf } from '../cooling/block';
import { metalsOnGrid } from '../cooling/metals';
import { cutSegments } from '../feed/network';
import { boundsOf, type Bounds, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { BlockError, buildMouldGrid } from '../grid/mouldGrid';
import { wallSides } from '../grid/wallSides';
import { meltThermal } from '../material/properties';
import { ATMOSPHERE, specificVolume } from '../material/pvt';
import { stressForm } from '../material/stressForm';
import type { Cooling } from '../model/cooling';
import type { Inputs } from '../model/study';
import { circuitOf, type Circuit } from '../solvers/cool/circuit';
import { facetsOf, type FaceContact } from '../solvers/cool/mouldField';
import { PartSource, type FeedPiece } from '../solvers/cool/partSource';
import { runCool, surfaceRange, type CoolInput, type CoolResult } from '../solvers/cool/stage';
import { thermalTables } from '../solvers/melt/thermalTables';
import type { LaidFeed } from '../feed/layout';
import { feedOf } from './feedOf';
import type { GridResult } from './grids';
import type { Resolved } from './resolve';
import type { StageContext } from '../stage/context';

/** The settled mould of a run. */
export interface Mould {
  /** Settles anew with when places could be ejected in a shot; returns by how much the surface has moved on average, K. */
  resettle(ejectableAt: ArrayLike<number>, ctx: StageContext): Promise<number>;
  cooling: Cooling;
  block: Bounds;
  circuit: Circuit;
  result: CoolResult;
  source: PartSource;
}

export type MouldOutcome = { status: 'settled'; mould: Mould } | { status: 'failed'; message: string; likely: string };

/** Places of the feed that have to lie in the block. */
export function feedPlaces(inputs: Inputs): Vec3[] {
  const { feed, gates } = inputs;
  if (!feed || !gates.length || (feed.layout === 'drawn' && !feed.lines?.length)) return [];
  return placesIn(feedOf(inputs, 0));
}

/** The sprue goes up to the nozzle, which is not in the block. */
const placesIn = ({ points, segments }: LaidFeed): Vec3[] =>
  segments.filter((s) => !s.id.startsWith('S')).flatMap((s) => [points[s.from], points[s.to]]);

const LEAST_START = 5;

/** Mould, coolant and part brought into balance over the cycle; the inputs must have a cooling. */
export async function settleMould(
  { mesh, inputs, settings, feed }: Resolved,
  { fine, grid }: GridResult,
  bodies: ReadonlyMap<string, TriangleMesh>,
  ctx: StageContext,
): Promise<MouldOutcome> {
  const cooling = inputs.cooling as Cooling;
  const part = boundsOf(mesh.positions);
  const block = blockOf(cooling, part, inputs.feed && feed ? placesIn(feed) : []);
  const ends = cooling.lines.filter((l) => l.kind.as !== 'hose').flatMap((l) => [l.from, l.to]);
  ctx.report({ stage: 'cool', fraction: 0, message: 'Cutting the mould block into cells' });
  await ctx.checkpoint();
  let mould;
  try {
    mould = buildMouldGrid(fine, block, part, ends.length ? boundsOf(ends.flat()) : null);
  } catch (error) {
    if (error instanceof BlockError) return { status: 'failed', message: error.message, likely: error.remedy };
    throw error;
  }
  await ctx.checkpoint();
  const sides = wallSides(mesh, fine, grid);
  await ctx.checkpoint();
  const coolest = Math.min(...cooling.supplies.map((s) => s.temperature));
  // Packing fills what the melt loses in volume until it freezes: that much plastic is there to be cooled.
  const { resin } = settings;
  const density = 1 / specificVolume(resin.pvt, resin.transitionTemperature, ATMOSPHERE);
  const thermal = { ...meltThermal(resin, settings.meltTemperature), density };
  const source = new PartSource({
    grid,
    sides,
    thermal: { ...thermal, tables: thermalTables(resin.specificHeat, resin.conductivity, thermal) },
    form: stressForm(resin.viscosity, resin.noFlowTemperature),
    meltTemperature: settings.meltTemperature,
    transfer: settings.wallTransfer,
    detachedTransfer: settings.detachedTransfer,
    ejectionTemperature: resin.ejectionTemperature,
    solidShare: settings.solidShare,
    injectionTime: settings.injectionTime,
    packingEnd: settings.injectionTime + settings.packing.end,
    coolingTime: settings.coolingTime,
    openTime: settings.openTime,
    feed: inputs.feed && feed ? coldFeed(feed) : [],
    start: coolest + LEAST_START,
  });
  const circuit = circuitOf(cooling);
  const input: CoolInput = {
    mould,
    metals: metalsOnGrid(mould, cooling, bodies),
    contacts: contactsOf(cooling),
    facets: facetsOf(sides.surface),
    source,
    circuit,
    friction: cooling.friction,
    start: coolest + LEAST_START,
    startUp: cooling.startUp,
    coldStart: cooling.ambient.temperature,
  };
  const outcome = await runCool(input, ctx);
  if (outcome.status === 'failed') return outcome;
  const settled: Mould = {
    cooling,
    block,
    circuit,
    result: outcome.result,
    source,
    async resettle(ejectableAt, again) {
      const before = settled.result;
      source.correct(ejectableAt);
      const next = await runCool({ ...input, start: before.field.temperature, startUp: null }, again);
      if (next.status === 'failed') return 0;
      settled.result = { ...next.result, startUp: before.startUp };
      return surfaceRange(next.result.field)[0] - surfaceRange(before.field)[0];
    },
  };
  return { status: 'settled', mould: settled };
}

function contactsOf({ ambient, platens }: Cooling): FaceContact[] {
  return [0, 1, 2, 3, 4, 5].map((side) => (side >= 4 ? platens : ambient));
}

function coldFeed(feed: LaidFeed): FeedPiece[] {
  return cutSegments(feed)
    .flat()
    .filter((cell) => cell.hot === null)
    .map(({ position, length, duct }) => ({
      at: position,
      volume: duct.area * length,
      // A round section: its hydraulic gap is half its radius.
      reach: (2 * duct.area) / duct.perimeter,
      shape: 3,
    }));
}
