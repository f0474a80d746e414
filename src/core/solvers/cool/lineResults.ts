import { z } from 'zod';
import { real } from '../../numerics/real';
import { REGIMES } from './friction';
import type { CoolingLine } from '../../model/cooling';
import { alongLine, type Circuit } from './circuit';
import type { CoolantResult, StretchState } from './coolant';
import type { LineSinks, Station } from './lineSinks';

const MOST_STEPS = 24;

/** What the coolant does in a line. */
export const lineFlowSchema = z.object({
  flow_m3_s: real,
  velocity_m_s: real,
  reynolds: real,
  regime: z.enum(REGIMES),
  pressureDrop_Pa: real,
  frictionFactor: real,
  loss: real,
  film_W_m2K: real,
  inlet_K: real,
  outlet_K: real,
});
export type LineFlow = z.infer<typeof lineFlowSchema>;

/** What a line of the circuits does in the settled mould. */
export const lineFactsSchema = lineFlowSchema.extend({
  id: z.string(),
  as: z.enum(['channel', 'baffle', 'bubbler', 'hose']),
  heat_W: real,
  /** Of the heat that all lines take up. */
  share: real,
  /** Its share of the heat over its share of the wetted wall: 1 where it does as much as the others. */
  efficiency: real,
  wallLow_K: real,
  wallHigh_K: real,
  /** Heat per length from `from` to `to`, W/m, in up to 24 equal steps. */
  along_W_m: z.array(real),
});
export type LineFacts = z.infer<typeof lineFactsSchema>;

interface Solved {
  cooling: { lines: readonly CoolingLine[] };
  circuit: Circuit;
  result: { coolant: CoolantResult; sinks: LineSinks };
}

/** What every line does: its stretches together, in the order of the lines. */
export function lineResults({ cooling, circuit, result }: Solved): LineFacts[] {
  const { coolant, sinks } = result;
  const wetted = (s: Station) => 2 * Math.PI * s.radius * s.length;
  const all = sinks.stations.reduce((sum, s) => sum + s.heat, 0);
  const wall = sinks.stations.reduce((sum, s) => sum + wetted(s), 0);
  return cooling.lines.map((line) => {
    const stretches = circuit.elements.flatMap((e, k) => (e.line === line.id ? [k] : []));
    const stations = stretches.flatMap((k) => sinks.ofElement[k]);
    const heat = stations.reduce((sum, s) => sum + s.heat, 0);
    const area = stations.reduce((sum, s) => sum + wetted(s), 0);
    const ranges = stations.map((s) => sinks.wallRange(s));
    return {
      id: line.id,
      as: line.kind.as,
      ...flowOfLine(stretches.map((k) => coolant.stretches[k])),
      heat_W: heat,
      share: all !== 0 ? heat / all : 0,
      efficiency: all !== 0 && area > 0 ? heat / all / (area / wall) : 0,
      wallLow_K: ranges.length ? Math.min(...ranges.map((r) => r[0])) : NaN,
      wallHigh_K: ranges.length ? Math.max(...ranges.map((r) => r[1])) : NaN,
      along_W_m: heatAlong(line, stations),
    };
  });
}

/** Flow of a line by its stretches: the strongest one stands for it; drops and losses add up. */
export function flowOfLine(list: readonly StretchState[]): LineFlow {
  const none = {
    flow: 0,
    velocity: 0,
    reynolds: 0,
    regime: 'still' as const,
    drop: 0,
    frictionFactor: 0,
    loss: 0,
    film: 0,
    inlet: NaN,
    outlet: NaN,
  };
  const main = list.reduce((a, b) => (Math.abs(b.flow) > Math.abs(a.flow) ? b : a), list[0] ?? none);
  const inlets = list.map((s) => s.inlet);
  const outlets = list.map((s) => s.outlet);
  // The coolant warms along the way, or cools where it heats: the first inlet is the farthest from the last outlet.
  const warms = list.reduce((sum, s) => sum + s.outlet - s.inlet, 0) >= 0;
  return {
    flow_m3_s: Math.abs(main.flow),
    velocity_m_s: main.velocity,
    reynolds: main.reynolds,
    regime: main.regime,
    pressureDrop_Pa: list.reduce((sum, s) => sum + s.drop, 0),
    frictionFactor: main.frictionFactor,
    loss: list.reduce((sum, s) => sum + s.loss, 0),
    film_W_m2K: main.film,
    inlet_K: list.length ? (warms ? Math.min(...inlets) : Math.max(...inlets)) : NaN,
    outlet_K: list.length ? (warms ? Math.max(...outlets) : Math.min(...outlets)) : NaN,
  };
}

/** W/m over equal steps of the line. */
function heatAlong(line: CoolingLine, stations: readonly Station[]): number[] {
  if (!stations.length) return [];
  const n = Math.min(MOST_STEPS, stations.length);
  const heat = new Array<number>(n).fill(0);
  const length = new Array<number>(n).fill(0);
  for (const s of stations) {
    const k = Math.min(n - 1, Math.floor(alongLine(line, s.at).share * n));
    heat[k] += s.heat;
    length[k] += s.length;
  }
  return heat.map((q, k) => (length[k] > 0 ? q / length[k] : 0));
}
