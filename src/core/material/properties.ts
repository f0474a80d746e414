import type { Resin } from '../model/resin';
import { meanOver } from './curve';
import { ATMOSPHERE, ROOM, specificVolume } from './pvt';

/** Density [kg/m3] of the melt at T [K], with no pressure; at the recommended melt when none is given. */
export const meltDensity = (resin: Resin, T = resin.melt.recommended): number =>
  1 / specificVolume(resin.pvt, T, ATMOSPHERE);

/** Density of the part in the room, kg/m3. */
export const solidDensity = (resin: Resin): number => 1 / specificVolume(resin.pvt, ROOM, ATMOSPHERE);

/**
 * Constants of the flowing melt, W/(m K), kg/m3, J/(kg K): means between no-flow and melt temperature, the
 * range in which it flows.
 */
export const meltThermal = (resin: Resin, T = resin.melt.recommended) => ({
  conductivity: meanOver(resin.conductivity, resin.noFlowTemperature, T),
  density: meltDensity(resin, T),
  specificHeat: meanOver(resin.specificHeat, resin.noFlowTemperature, T),
});

/** Thermal diffusivity, m2/s. */
export const diffusivity = (m: { conductivity: number; density: number; specificHeat: number }): number =>
  m.conductivity / (m.density * m.specificHeat);
