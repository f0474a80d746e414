import { blockOf } from '../cooling/block';
import { metalsOnGrid } from '../cooling/metals';
import { cutSegments } from '../feed/network';
import { packTree, treeKey } from '../formats/tree';
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
import { PartSource, type FeedPiece, type SourceMemory } from '../solvers/cool/partSource';
import {
  coolMemory,
  recallCool,
  runCool,
  surfaceRange,
  type CoolInput,
  type CoolMemory,
  type CoolOutcome,
  type CoolResult,
} from '../solvers/cool/stage';
import { thermalTables } from '../solvers/melt/thermalTables';
import type { LaidFeed } from '../feed/layout';
import { feedOf } from './feedOf';
import type { GridResult } from './grids';
import type { Resolved } from './resolve';
import type { StageContext } from '../stage/context';
import { AS_BEFORE, kept, type PhaseStore } from '../formats/phaseStore';
import { SOLVER_VERSION } from './version';

/** The settled mould of a run. */
export interface Mould {
  /** Settles anew with when places could be ejected in a shot; returns by how much the surface has moved on average, K. */
  resettle(ejectableAt: ArrayLike<number>, ctx: StageContext): Promise<number>;
  cooling: Cooling;
  block: Bounds;
  circuit: Circuit;
  result: CoolResult;
  source: PartSource;
  /** Not settled, but taken from the store. */
  reused: boolean;
}

/** What is stored of a settled mould. */
interface MouldMemory {
  cool: CoolMemory;
  source: SourceMemory;
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

/**
 * Mould, coolant and part brought into balance over the cycle; the inputs must have a cooling. With a store a mould that
 * reads the same is not settled again.
 */
export async function settleMould(
  { mesh, inputs, settings, feed }: Resolved,
  { fine, grid }: GridResult,
  bodies: ReadonlyMap<string, TriangleMesh>,
  ctx: StageContext,
  store?: PhaseStore,
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
  const sourceInput = {
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
  };
  const source = new PartSource({ ...sourceInput, grid, sides });
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
  const { positions, triangles } = mesh;
  const pieces = cooling.inserts.flatMap(({ shape }) => (shape.shape === 'body' ? (bodies.get(shape.body) ?? []) : []));
  const reads = { positions, triangles, lattice: fine.lattice, block, cooling, pieces, source: sourceInput };
  const key = store ? await treeKey([SOLVER_VERSION, 'mould', reads]) : '';
  /** The settled mould of a key, from the store or by settling it. */
  const settle = async (
    name: string,
    toSettle: CoolInput,
    on: StageContext,
  ): Promise<CoolOutcome & { kept?: true }> => {
    const memory = store ? ((await kept(store, name)) as MouldMemory | null) : null;
    if (memory) {
      on.report({ stage: 'cool', fraction: 1, message: AS_BEFORE });
      source.goOn(memory.source);
      return { status: 'settled', result: recallCool(toSettle, memory.cool), kept: true };
    }
    const outcome = await runCool(toSettle, on);
    if (store && outcome.status === 'settled')
      await store.put(name, packTree({ cool: coolMemory(outcome.result), source: source.memory }));
    return outcome;
  };
  const outcome = await settle(key, input, ctx);
  if (outcome.status === 'failed') return outcome;
  const settled: Mould = {
    cooling,
    block,
    circuit,
    result: outcome.result,
    source,
    reused: outcome.kept === true,
    async resettle(ejectableAt, again) {
      const before = settled.result;
      source.correct(ejectableAt);
      const name = store ? await treeKey([key, Float64Array.from(ejectableAt)]) : '';
      const next = await settle(name, { ...input, start: before.field.temperature, startUp: null }, again);
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
