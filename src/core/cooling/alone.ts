import type { Cooling } from '../model/cooling';
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
