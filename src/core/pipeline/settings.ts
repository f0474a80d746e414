import { measure, type TriangleMesh } from '../geometry/mesh';
import { nominalWall } from '../grid/lattice';
import { freezeTime } from '../material/cooling';
import { resinById } from '../material/library';
import type { Resin } from '../model/resin';
import { DEFAULT_PRESSURE_LIMIT, type Inputs } from '../model/study';

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
  meltTemperature: number;
  mouldTemperature: number;
  injectionTime: number;
  flowRate: number;
  pressureLimit: number;
  /** Time in which the middle of the nominal wall falls to the no-flow temperature. */
  freezeTime: number;
}

/** Default injection time as a share of the freezing time of the nominal wall: quick enough to stay melt. */
const INJECTION_SHARE = 0.2;

export function resolveResin(inputs: Inputs): Resin | undefined {
  return typeof inputs.resin === 'string' ? resinById(inputs.resin) : inputs.resin;
}

/** Throws when the resin is unknown; check with `resolveResin` first. */
export function resolveSettings(inputs: Inputs, part: PartSize): FillSettings {
  const resin = resolveResin(inputs);
  if (!resin) throw new Error(`unknown resin ${String(inputs.resin)}`);
  const { cycle } = inputs;
  const meltTemperature = cycle.meltTemperature ?? resin.melt.recommended;
  const mouldTemperature = cycle.mouldTemperature ?? resin.mould.recommended;
  const freeze = freezeTime(part.wall, resin, meltTemperature, mouldTemperature, resin.noFlowTemperature);
  // Two significant digits: a default should look like a setting, not like a result.
  const automatic = Number((INJECTION_SHARE * (freeze > 0 && freeze < 1e4 ? freeze : 5)).toPrecision(2));
  const injectionTime =
    cycle.injection.by === 'time' ? (cycle.injection.time ?? automatic) : part.volume / cycle.injection.flowRate;
  return {
    resin,
    meltTemperature,
    mouldTemperature,
    injectionTime,
    flowRate: cycle.injection.by === 'time' ? part.volume / injectionTime : cycle.injection.flowRate,
    pressureLimit: cycle.pressureLimit ?? DEFAULT_PRESSURE_LIMIT,
    freezeTime: freeze,
  };
}
