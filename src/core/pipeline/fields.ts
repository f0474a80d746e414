import { makeField, type Field } from '../fields/field';
import type { Inputs } from '../model/study';
import { PROFILE_PLACES } from '../solvers/fill/profilePlaces';
import type { FillResult } from '../solvers/fill/outcome';
import type { FillFrames } from '../solvers/fill/record';
import type { PackResult } from '../solvers/pack/outcome';
import { wallDifference } from '../results/coolFacts';
import type { Mould } from './mould';
import type { GridResult } from './pipeline';

/** Everything that is shown on the part: over the whole cycle where it changes with time. */
export function fieldsOf(
  { grid, gridKey }: GridResult,
  result: FillResult,
  frames: FillFrames,
  pack: PackResult | null,
  sinks: { depth: Float32Array; voids: Float32Array } | null,
  inputs: Inputs,
  mould: Mould | null,
): Field[] {
  const { times } = frames;
  const halves = result.columns?.nHalves ?? 1;
  const one = (id: string, quantity: string, unit: string, values: ArrayLike<number>) =>
    makeField(id, quantity, unit, gridKey, [values]);
  const places = PROFILE_PLACES.length * halves;
  const { profile, profileTimes } = frames;
  const fields = [
    one('fillTime', 'Fill time', 's', result.fillTime),
    makeField('pressure', 'Pressure', 'Pa', gridKey, frames.pressure, times),
    makeField('temperature', 'Mean temperature', 'K', gridKey, frames.temperature, times),
    makeField('frozen', 'Frozen share of the wall', '', gridKey, frames.frozen, times),
    makeField('velocity', 'Velocity', 'm/s', gridKey, frames.velocity, frames.velocityTimes, 3),
    makeField('profile', 'Temperature through the wall', 'K', gridKey, profile, profileTimes, places),
    one('frontTemperature', 'Temperature at the front', 'K', result.frontTemperature),
    one('frontSpeed', 'Front speed', 'm/s', result.frontSpeed),
    one('peakShearRate', 'Peak shear rate', '1/s', result.peakShearRate),
    one('peakStress', 'Peak wall shear stress', 'Pa', result.peakStress),
    one('thickness', 'Wall thickness', 'm', grid.thickness),
  ];
  if (pack)
    fields.push(
      one('holdReach', 'Hold reach', 's', pack.fedUntil),
      one('shrinkage', 'Volumetric shrinkage', '', pack.shrinkage),
      one('shrinkageAtEjection', 'Shrinkage when ejected', '', pack.shrinkageAtEjection),
      one('linearShrinkage', 'Linear shrinkage', '', pack.shrinkage.map(linear)),
      one('density', 'Density when ejected', 'kg/m³', pack.density),
      one('frozenAt', 'Frozen at', 's', pack.frozenAt),
      one('ejectableAt', 'Ejectable time', 's', pack.ejectableAt),
    );
  if (sinks)
    fields.push(
      one('sinkDepth', 'Sink depth', 'm', sinks.depth),
      one('voidRisk', 'Missing in the core', '', sinks.voids),
    );
  if (mould)
    fields.push(
      {
        ...one('mouldSurface', 'Mould surface temperature', 'K', mould.source.wallTemperature),
        location: 'wall',
      },
      one('mouldDifference', 'Between both sides of the wall', 'K', wallDifference(mould.source.wallTemperature)),
    );
  const n = inputs.gates.length;
  if (n > 1)
    inputs.gates.forEach((gate, g) => {
      const share = Float32Array.from({ length: grid.n }, (_, i) =>
        result.fillTime[i] === result.fillTime[i] ? result.gateShare[i * n + g] : NaN,
      );
      fields.push(one(`gateShare-${g + 1}`, `Share from gate ${gate.id}`, '', share));
    });
  return fields;
}

const linear = (volumetric: number) => 1 - Math.cbrt(1 - volumetric);
