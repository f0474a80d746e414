import { integralTo } from '../material/curve';
import { meltDensity } from '../material/properties';
import type { Cooling } from '../model/cooling';
import type { FillSettings } from '../pipeline/settings';
import { circuitOf, type Circuit } from '../solvers/cool/circuit';
import { runCoolant, type CoolantResult } from '../solvers/cool/coolant';
import { flowOfLine, type LineFlow } from '../solvers/cool/lineResults';
import { lineLength } from '../solvers/cool/passages';

/** The network of a cooling without its mould: flows, drops and, for a heat that is spread evenly, temperatures. */
export interface AloneResult {
  circuit: Circuit;
  coolant: CoolantResult;
  lines: (LineFlow & { id: string; heat_W: number })[];
}

/** What the part gives off, W on average: from melt to ejection, over a cycle as long as settings tell. */
export function expectedHeat(settings: FillSettings): number {
  const { resin, meltTemperature, packing, openTime, injectionTime, coolingTime, freezeTime } = settings;
  const each =
    integralTo(resin.specificHeat, meltTemperature) - integralTo(resin.specificHeat, resin.ejectionTemperature);
  const cooling = coolingTime ?? 0.5 * freezeTime;
  const cycle = injectionTime + packing.end + (Number.isFinite(cooling) ? cooling : 0) + openTime;
  return (settings.shotVolume * meltDensity(resin, meltTemperature) * each) / cycle;
}

/** `heat` [W] goes to the wetted walls, to each by its area. Milliseconds: it may be asked at every change. */
export function networkAlone(cooling: Cooling, heat: number): AloneResult | null {
  const circuit = circuitOf(cooling);
  if (!circuit.supplies.length) return null;
  const areas = circuit.elements.map(({ wet }) =>
    wet ? Math.PI * wet.bore * lineLength({ from: wet.from, to: wet.to }) : 0,
  );
  const all = areas.reduce((s, a) => s + a, 0) || 1;
  const coolant = runCoolant(circuit, cooling.friction, (e) => (heat * areas[e]) / all);
  const lines = cooling.lines.map((line) => {
    const stretches = circuit.elements.flatMap((e, k) => (e.line === line.id ? [coolant.stretches[k]] : []));
    return { id: line.id, ...flowOfLine(stretches), heat_W: stretches.reduce((s, x) => s + x.heat, 0) };
  });
  return { circuit, coolant, lines };
}
