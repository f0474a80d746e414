import { integralTo } from '../material/curve';
import { meltDensity } from '../material/properties';
import type { FillSettings } from './settings';

/** What the part gives off, W on average: from melt to ejection, over a cycle as long as settings tell. */
export function expectedHeat(settings: FillSettings): number {
  const { resin, meltTemperature, packing, openTime, injectionTime, coolingTime, freezeTime } = settings;
  const each =
    integralTo(resin.specificHeat, meltTemperature) - integralTo(resin.specificHeat, resin.ejectionTemperature);
  const cooling = coolingTime ?? 0.5 * freezeTime;
  const cycle = injectionTime + packing.end + (Number.isFinite(cooling) ? cooling : 0) + openTime;
  return (settings.shotVolume * meltDensity(resin, meltTemperature) * each) / cycle;
}
