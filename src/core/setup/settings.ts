import { measure, type TriangleMesh } from '../geometry/mesh';
import { nominalWall } from '../grid/lattice';
import { freezeTime } from '../material/cooling';
import { resinById } from '../material/library';
import { cavityPressureOf } from '../material/familyLaw';
import { meltThermal } from '../material/properties';
import { machineById, machineFor } from '../machine/library';
import { screwArea, type Machine } from '../model/machine';
import { layOut } from '../feed/layout';
import { coldVolume } from '../feed/network';
import type { Resin } from '../model/resin';
import { nCopies, type Injection, type Inputs } from '../model/study';
import { allGates, allTabs } from './copies';
import { fibresOf, type FibreSettings } from './fibres';
import { CLAMP_SHARE, type Packing } from '../model/packing';
import { fluidById } from '../material/coreFluids';
import type { Compression } from '../model/compression';
import type { CoreChoice } from '../model/core';
import type { CoreControl, CoreFluid } from '../solvers/core/fluid';
import type { PackingProfile } from '../solvers/pack/control';
import { CYCLE_NUMBERS, type CycleNumber } from '../model/parameters';
import type { Known } from '../model/parameter';
import { flowRateAt, type MachineControl } from '../solvers/melt/drive';

/** What a part contributes to the defaults: volume [m3] and nominal wall [m]. */
export interface PartSize {
  volume: number;
  wall: number;
}

export const partSize = (mesh: TriangleMesh): PartSize => ({
  volume: Math.abs(measure(mesh).volume),
  wall: nominalWall(mesh),
});

/** Size of several bodies together: 2 V / S of all of them is the nominal wall. */
export function joinedSize(bodies: readonly { volume: number; area: number }[]): PartSize | null {
  if (!bodies.length) return null;
  const volume = bodies.reduce((s, b) => s + b.volume, 0);
  const area = bodies.reduce((s, b) => s + b.area, 0);
  return { volume, wall: (2 * volume) / area };
}

/** Inputs with every default filled in. SI. */
export interface FillSettings {
  resin: Resin;
  machine: Machine;
  meltTemperature: number;
  /** Upper and lower half of the mould. */
  mouldTemperature: number;
  lowerMouldTemperature: number;
  /** Part and cold feed, m3: what a shot has to fill. */
  shotVolume: number;
  /** Time the set flow would take to fill it. */
  injectionTime: number;
  /** Mean set flow rate. */
  flowRate: number;
  pressureLimit: number;
  /** Between melt and mould while filling, W/(m2 K). */
  wallTransfer: number;
  control: MachineControl;
  packing: PackingProfile;
  /** From the end of packing to the opening, s; null: until the part can be ejected. */
  coolingTime: number | null;
  solidShare: number;
  openTime: number;
  /** Between the mould and plastic that has shrunk off it, W/(m2 K). */
  detachedTransfer: number;
  /** Time in which the middle of the nominal wall falls to the no-flow temperature. */
  freezeTime: number;
  /** Fluid in the core of the melt; null: none. */
  core: CoreSettings | null;
  /** A second melt that follows the first; null: none. */
  second: SecondSettings | null;
  /** A tool that closes on the melt; null: it is closed before. */
  press: PressSettings | null;
  /** Fibres that are followed; null: none. */
  fibres: FibreSettings | null;
}

/** SI, of one cavity. */
export interface PressSettings {
  speed: number;
  force: number;
  delay: number;
  hold: number;
  /** K; null where nothing is laid in. */
  chargeTemperature: number | null;
}

export interface SecondSettings {
  resin: Resin;
  meltTemperature: number;
}

export interface CoreSettings {
  fluid: CoreFluid & { name: string };
  control: CoreControl;
  delay: number;
}

/** K */
const LEAST_UNDERCOOLING = 2;
/** Default injection time as a share of the freezing time of the nominal wall: quick enough to stay melt. */
const INJECTION_SHARE = 0.2;
/**
 * About when gates freeze, over the freezing time of the nominal wall: fresh melt comes in there, and crystals give off
 * their heat. Packing without a set time waits for them.
 */
const GATE_FREEZE = 3;
/** To this share of itself the default pressure falls. */
const FALLEN = 0.5;
/** Opening, ejecting and closing of a press that holds a part of this size, s. */
export const DEFAULT_MOVES = { opening: 1.5, ejection: 2, closing: 1.5 };
const movesTime = ({ opening, ejection, closing }: typeof DEFAULT_MOVES) => opening + ejection + closing;

function packingOf(packing: Packing, resin: Resin, expectedTime: number): PackingProfile {
  if (packing.by === 'profile')
    return { as: packing.as, points: packing.points, end: packing.points[packing.points.length - 1].at };
  const { pressure, time } = packing;
  const end = time ?? expectedTime;
  const as = pressure === null ? 'cavity' : 'pressure';
  const value = pressure ?? cavityPressureOf(resin);
  if (pressure !== null) return { as, points: [0, end].map((at) => ({ at, value })), end, untilFrozen: time === null };
  // What freezes late, beside the gate, would be packed more than the rest. Crystals draw melt in until they have formed.
  const from = resin.structure === 'amorphous' ? 0.5 * end : end;
  const fallen = { at: from + 0.5 * end, value: FALLEN * value };
  return { as, points: [{ at: 0, value }, { at: from, value }, fallen], end, untilFrozen: time === null };
}

export function resolveResin(inputs: Inputs): Resin | undefined {
  return typeof inputs.resin === 'string' ? resinById(inputs.resin) : inputs.resin;
}

const boxVolume = (b: { length: number; width: number; thickness: number }) => b.length * b.width * b.thickness;

/** Cold feed and overflow tabs that are filled with every shot, m3. */
export const feedVolume = (inputs: Inputs): number => {
  const { feed, gates } = inputs;
  const tabs = allTabs(inputs).reduce((s, t) => s + boxVolume(t.land) + boxVolume(t.size), 0);
  if (!feed || !gates.length || (feed.layout === 'drawn' && !feed.lines?.length)) return tabs;
  return tabs + coldVolume(layOut(feed, allGates(inputs), 0));
};

/** The chosen machine, or the smallest that holds the shot; undefined when the choice is not in the library. */
export function resolveMachine(inputs: Inputs, part: PartSize): Machine | undefined {
  const { machine } = inputs.cycle;
  if (machine === null) return machineFor(nCopies(inputs) * part.volume + feedVolume(inputs));
  return typeof machine === 'string' ? machineById(machine) : machine;
}

/** What the defaults of the cycle's numbers follow from. */
export function knownOf({ cycle }: Inputs, resin: Resin, machine: Machine): Known {
  const own = { resin, machine, movesTime: movesTime(cycle.moves ?? DEFAULT_MOVES) };
  const { fallback } = CYCLE_NUMBERS.mouldTemperature;
  const mouldTemperature = cycle.mouldTemperature ?? fallback({ ...own, mouldTemperature: NaN }) ?? NaN;
  return { ...own, mouldTemperature };
}

/** Throws when resin or machine are unknown; check with `resolveResin` and `resolveMachine` first. */
export function resolveSettings(inputs: Inputs, part: PartSize): FillSettings {
  const resin = resolveResin(inputs);
  if (!resin) throw new Error(`unknown resin ${String(inputs.resin)}`);
  const machine = resolveMachine(inputs, part);
  if (!machine) throw new Error(`unknown machine ${String(inputs.cycle.machine)}`);
  const { cycle } = inputs;
  const known = knownOf(inputs, resin, machine);
  const set = (id: CycleNumber) => cycle[id] ?? CYCLE_NUMBERS[id].fallback(known) ?? NaN;
  const meltTemperature = set('meltTemperature');
  const { mouldTemperature } = known;
  const lowerMouldTemperature = set('lowerMouldTemperature');
  const warmer = Math.max(mouldTemperature, lowerMouldTemperature);
  const freeze = freezeTime(
    part.wall,
    meltThermal(resin, meltTemperature),
    meltTemperature,
    // A mould in which nothing freezes is refused before a run; until it is mended, defaults follow from one that just does.
    Math.min(warmer, resin.noFlowTemperature - LEAST_UNDERCOOLING),
    resin.noFlowTemperature,
  );
  // Two significant digits: a default should look like a setting, not like a result.
  const automatic = Number((INJECTION_SHARE * freeze).toPrecision(2));
  const shotVolume = nCopies(inputs) * part.volume + feedVolume(inputs);
  const flowRates = flowRatesOf(cycle.injection, shotVolume, automatic, screwArea(machine));
  const injectionTime = timeOf(flowRates, shotVolume);
  const pressureLimit = Math.min(set('pressureLimit'), machine.maxPressure);
  const packing = packingOf(cycle.packing, resin, Number((GATE_FREEZE * freeze).toPrecision(2)));
  return {
    resin,
    machine,
    meltTemperature,
    mouldTemperature,
    lowerMouldTemperature,
    injectionTime,
    shotVolume,
    flowRate: shotVolume / injectionTime,
    pressureLimit,
    wallTransfer: set('wallTransfer'),
    control: {
      flowRates,
      pressureLimit,
      maxFlowRate: machine.maxFlowRate,
      switchover: cycle.switchover,
      packing: { as: packing.as, value: packing.points[0].value },
    },
    packing,
    coolingTime: cycle.coolingTime,
    solidShare: set('solidShare'),
    openTime: set('openTime'),
    detachedTransfer: set('detachedTransfer'),
    freezeTime: freeze,
    core: inputs.core && inputs.core.fluid !== 'melt' ? coreOf(inputs.core, freeze) : null,
    second: inputs.core?.fluid === 'melt' ? secondOf(inputs.core, resin, meltTemperature) : null,
    press: inputs.compression
      ? pressOf(inputs.compression, { freeze, meltTemperature, machine, copies: nCopies(inputs) })
      : null,
    fibres: fibresOf(inputs, resin),
  };
}

/** How long a press holds where nothing is set, s. */
export const pressHoldOf = (freeze: number): number => Number(freeze.toPrecision(2));

/** What the press is told, with its defaults, of one of several equal cavities. */
function pressOf(
  { melt, delay, speed, force, hold }: Compression,
  own: { freeze: number; meltTemperature: number; machine: Machine; copies: number },
): PressSettings {
  return {
    delay,
    speed,
    force: (force ?? CLAMP_SHARE * own.machine.clampForce) / own.copies,
    hold: hold ?? pressHoldOf(own.freeze),
    chargeTemperature: melt.by === 'charge' ? (melt.temperature ?? own.meltTemperature) : null,
  };
}

/** Share of the time the nominal wall takes to freeze for which a core is held: its skin is a third of the wall. */
const CORE_HOLD = 0.33;
/** How long a core is held where nothing is set, s. */
export const coreHoldOf = (freeze: number): number => Number((CORE_HOLD * freeze).toPrecision(2));

/** Between the valve of a source and the melt, m3. */
const CORE_LINE = 1e-5;

/** The second melt, which is that of the first where none is named; null where it is not in the library: such a study is refused. */
function secondOf({ second }: CoreChoice, first: Resin, meltTemperature: number): SecondSettings | null {
  if (!second) return { resin: first, meltTemperature };
  const resin = typeof second.resin === 'string' ? resinById(second.resin) : second.resin;
  if (!resin) return null;
  return { resin, meltTemperature: second.meltTemperature ?? resin.melt.recommended };
}

/** What the needle is told, with its defaults. */
export function coreOf({ fluid, temperature, drive, delay }: CoreChoice, freeze: number): CoreSettings {
  const entry = fluidById(fluid);
  if (!entry) throw new Error(`unknown fluid ${fluid}`);
  const hold = 'hold' in drive ? (drive.hold ?? coreHoldOf(freeze)) : 0;
  const control = (): CoreControl => {
    switch (drive.by) {
      case 'pressure': {
        const { pressure: value, rise, release } = drive;
        const points = [
          { at: 0, value: 0 },
          { at: rise, value },
          { at: rise + hold, value },
          { at: rise + hold + release, value: 0 },
        ];
        return { by: 'pressure', points: hold > 0 ? points : points.filter((_, k) => k !== 2) };
      }
      case 'profile':
        return { by: 'pressure', points: drive.points.map(({ at, pressure: value }) => ({ at, value })) };
      case 'volume': {
        const { volume: value, over, most } = drive;
        const points = [
          { at: 0, value: 0 },
          { at: over, value },
          { at: over + Math.max(hold, 1e-3), value },
        ];
        return { by: 'volume', points, line: CORE_LINE, most };
      }
    }
  };
  return { fluid: { ...entry, temperature: temperature ?? entry.temperature }, control: control(), delay };
}

/** Set flow rates against injected volume. A profile holds each rate from its place to the next. */
function flowRatesOf(
  injection: Injection,
  volume: number,
  automatic: number,
  area: number,
): MachineControl['flowRates'] {
  if (injection.by === 'time') return [{ from: 0, rate: volume / (injection.time ?? automatic) }];
  if (injection.by === 'flow-rate') return [{ from: 0, rate: injection.flowRate }];
  const scale = injection.against === 'share' ? volume : area;
  // A step ends at the place itself, which sums of volumes miss by rounding.
  return injection.points.map((p) => ({ from: Math.max(0, p.at * scale - 1e-9 * volume), rate: p.flowRate }));
}

function timeOf(flowRates: MachineControl['flowRates'], volume: number): number {
  const n = 200;
  let time = 0;
  for (let i = 0; i < n; i++) time += volume / n / flowRateAt({ flowRates }, ((i + 0.5) / n) * volume);
  return time;
}
