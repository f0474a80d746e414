import type { MeltHeat } from '../src/core/solvers/shot/cavity';

/** Heat of a melt between walls of its own temperature [K], which never freezes: layers without what cold does to them. */
export const evenHeat = (n: number, temperature: number): MeltHeat => ({
  conductivity: 0.2,
  density: 900,
  specificHeat: 2200,
  sides: [{ temperature, transfer: 1e4 }],
  sideOf: new Uint8Array(2 * n),
  noFlowTemperature: 0,
  transitionTemperature: 0,
});
