import type { FrictionLaw } from '../../model/cooling';
import type { StageContext } from '../../stage/context';
import type { Circuit } from './circuit';
import { runCoolant, type CoolantResult } from './coolant';
import { LineSinks } from './lineSinks';
import { MouldField, type FaceContact, type Facets, type HeatSource, type MouldMetals } from './mouldField';
import type { MouldGrid } from '../../grid/mouldGrid';

/** A part that adjusts itself to the mould: the length of the cycle may follow from it. */
export interface CoolSource extends HeatSource {
  /** Called before every pass; returns how far the length of the cycle moved, over itself. */
  adjust(field: MouldField): number;
  /** Length of the cycle, s. */
  readonly cycleTime: number;
}

export interface CoolInput {
  mould: MouldGrid;
  metals: MouldMetals;
  contacts: readonly FaceContact[];
  facets: Facets;
  source: CoolSource;
  circuit: Circuit;
  friction: FrictionLaw;
  /** Temperature to begin from, K: one for all, or that of every node. */
  start: number | Float64Array;
  /** Cycles of the start-up to follow; null for none. */
  startUp: number | null;
  /** Temperature of the mould at the start-up, K. */
  coldStart: number;
}

/** Mould over the cycles of a start-up: mean, warmest and coldest of the cavity's surface, K, at the end of each. */
export interface StartUp {
  time: number[];
  mean: number[];
  high: number[];
  low: number[];
}

export interface CoolResult {
  field: MouldField;
  sinks: LineSinks;
  coolant: CoolantResult;
  /** W, on average over the cycle. */
  balance: { fromPart: number; toCoolant: number; toAmbient: number; toPlatens: number };
  /** |in - out| over what comes in. */
  balanceError: number;
  passes: number;
  iterations: number;
  startUp: StartUp | null;
  converged: boolean;
}

/** What a settled mould leaves: plain data from which one of the same input goes on. */
export interface CoolMemory {
  field: Float64Array[];
  sinks: Float64Array;
  found: Omit<CoolResult, 'field' | 'sinks'>;
}

export function coolMemory({ field, sinks, ...found }: CoolResult): CoolMemory {
  return { field: field.memory, sinks: sinks.memory, found };
}

/** The settled mould of an input from what was kept of it; the source goes on by itself. */
export function recallCool(input: CoolInput, { field: kept, sinks: stations, found }: CoolMemory): CoolResult {
  const { mould, metals, circuit } = input;
  const field = new MouldField(mould, metals, input.contacts, input.facets, input.coldStart);
  field.memory.forEach((values, k) => values.set(kept[k]));
  const sinks = new LineSinks(mould, circuit, metals.conductivity);
  sinks.goOn(stations);
  return { field, sinks, ...found };
}

export type CoolOutcome =
  { status: 'settled'; result: CoolResult } | { status: 'failed'; message: string; likely: string };

const PASSES = 80;
/** Left over in all nodes together, over the heat that passes. */
const SETTLED = 2e-4;
const SOLVER_TOLERANCE = 0.05;
/** Change of the cycle that is let be. */
const CYCLE_SETTLED = 1e-3;
const STEPS_PER_CYCLE = 2;

/**
 * Mould temperature, averaged over the cycle and settled: conduction in the block, the coolant's network and the
 * part's heat are each brought up to date in turn until the heat of every node balances. With a start-up, the same
 * over time from a mould of one temperature.
 */
export async function runCool(input: CoolInput, ctx: StageContext): Promise<CoolOutcome> {
  const { mould, metals, circuit, source } = input;
  const field = new MouldField(mould, metals, input.contacts, input.facets, input.start);
  const sinks = new LineSinks(mould, circuit, metals.conductivity);
  let startUp: StartUp | null = null;
  let last = 1;
  let passes = 0;
  let coolant = flowOf(input, sinks, field);
  for (; passes < PASSES; passes++) {
    await ctx.checkpoint();
    const moved = source.adjust(field);
    coolant = flowOf(input, sinks, field);
    last = field.relax(source, sinks, SOLVER_TOLERANCE);
    if (!Number.isFinite(last)) return noSolution();
    ctx.report({
      stage: 'cool',
      fraction: Math.min(0.99, Math.max(0, Math.log(last) / Math.log(SETTLED))),
      message: `Heat of the mould balances to ${(100 * last).toPrecision(2)} %`,
    });
    if (last < SETTLED && moved < CYCLE_SETTLED) break;
  }
  coolant = flowOf(input, sinks, field);
  const settled = resultOf(field, sinks, coolant, passes, last);
  if (input.startUp) startUp = await warmUp(input, field, ctx);
  return { status: 'settled', result: { ...settled, startUp } };
}

const noSolution = (): CoolOutcome => ({
  status: 'failed',
  message: 'The temperature of the mould has no finite solution.',
  likely: 'Something must cool the block: give a circuit a flow, or let the ambient air take heat.',
});

function flowOf({ circuit, friction }: CoolInput, sinks: LineSinks, field: MouldField): CoolantResult {
  sinks.read(field.temperature);
  const forward = new Uint8Array(circuit.elements.length).fill(1);
  let result: CoolantResult | null = null;
  // Directions are known after the first solution; most circuits run as they were drawn.
  for (let pass = 0; pass < 3; pass++) {
    for (let e = 0; e < circuit.elements.length; e++) sinks.still(e);
    result = runCoolant(circuit, friction, (e, inlet, capacity, film) =>
      sinks.take(e, inlet, capacity, film, forward[e] === 1),
    );
    let turned = false;
    result.stretches.forEach((s, e) => {
      const way = s.flow >= 0 ? 1 : 0;
      if (way !== forward[e]) turned = true;
      forward[e] = way;
    });
    if (!turned) break;
  }
  return result as CoolantResult;
}

function resultOf(
  field: MouldField,
  sinks: LineSinks,
  coolant: CoolantResult,
  passes: number,
  last: number,
): CoolResult {
  const fromPart = [...field.facetHeat, ...field.extra].reduce((s, q) => s + q, 0);
  const toCoolant = sinks.stations.reduce((s, x) => s + x.heat, 0);
  const { ambient, platens } = field.heatOutside();
  return {
    field,
    sinks,
    coolant,
    balance: { fromPart, toCoolant, toAmbient: ambient, toPlatens: platens },
    balanceError: Math.abs(fromPart - toCoolant - ambient - platens) / Math.max(Math.abs(fromPart), 1e-9),
    passes,
    iterations: field.iterations,
    startUp: null,
    converged: last < SETTLED,
  };
}

/** From a mould of one temperature: implicit steps, two a cycle, the part's heat spread over the cycle. */
async function warmUp(input: CoolInput, settled: MouldField, ctx: StageContext): Promise<StartUp> {
  const { mould, metals, circuit, source } = input;
  const cycles = input.startUp as number;
  const field = new MouldField(mould, metals, input.contacts, input.facets, input.coldStart);
  field.extra.set(settled.extra);
  const sinks = new LineSinks(mould, circuit, metals.conductivity);
  const out: StartUp = { time: [], mean: [], high: [], low: [] };
  let time = 0;
  const note = () => {
    const [mean, low, high] = surfaceRange(field);
    out.time.push(time);
    out.mean.push(mean);
    out.high.push(high);
    out.low.push(low);
  };
  note();
  for (let step = 0; step < cycles * STEPS_PER_CYCLE; step++) {
    await ctx.checkpoint();
    const dt = source.cycleTime / STEPS_PER_CYCLE;
    const before = field.temperature.slice();
    for (let pass = 0; pass < 6; pass++) {
      flowOf(input, sinks, field);
      if (field.relax(source, sinks, SOLVER_TOLERANCE, { dt, before }) < 10 * SETTLED) break;
    }
    time += dt;
    note();
    ctx.report({
      stage: 'cool',
      fraction: step / (cycles * STEPS_PER_CYCLE),
      message: `Start-up, cycle ${Math.floor(step / STEPS_PER_CYCLE) + 1} of ${cycles}`,
    });
  }
  return out;
}

/** Mean by area, and the range that leaves a hundredth out at either end. */
export function surfaceRange({
  facets,
  covered,
  facetTemperature,
}: MouldField): [mean: number, low: number, high: number] {
  const seen = [...covered.keys()].filter((f) => covered[f] > 0);
  const area = seen.reduce((s, f) => s + facets.areas[f], 0);
  const mean = seen.reduce((s, f) => s + facets.areas[f] * facetTemperature[f], 0) / area;
  seen.sort((a, b) => facetTemperature[a] - facetTemperature[b]);
  const at = (share: number) => {
    let sum = 0;
    for (const f of seen) if ((sum += facets.areas[f]) >= share * area) return facetTemperature[f];
    return mean;
  };
  return [mean, at(0.01), at(0.99)];
}
