import { makeField, type Field } from '../fields/field';
import type { Inputs } from '../model/study';
import { PROFILE_PLACES } from '../solvers/melt/profilePlaces';
import type { FillResult } from '../solvers/fill/outcome';
import type { ShotFrames } from '../solvers/shot/frames';
import type { PackResult } from '../solvers/pack/outcome';
import { wallDifference } from '../results/coolFacts';
import type { Mould } from '../setup/mould';
import type { GridResult } from '../setup/grids';

/** Everything that is shown on the part: over the whole cycle where it changes with time. */
export function fieldsOf(
  { grid, gridKey }: GridResult,
  result: FillResult,
  frames: ShotFrames,
  pack: PackResult | null,
  sinks: { depth: Float32Array; voids: Float32Array } | null,
  inputs: Inputs,
  mould: Mould | null,
): Field[] {
  const { times } = frames;
  const halves = Math.max(1, result.nHalves);
  const one = (id: string, quantity: string, unit: string, values: ArrayLike<number>) =>
    makeField(id, quantity, unit, gridKey, [values]);
  const places = PROFILE_PLACES.length * halves;
  const { profileTimes } = frames;
  const { profile } = frames.node;
  const fields = [
    one('fillTime', 'Fill time', 's', result.node.fillTime),
    makeField('pressure', 'Pressure', 'Pa', gridKey, frames.node.pressure, times),
    makeField('temperature', 'Mean temperature', 'K', gridKey, frames.node.temperature, times),
    makeField('frozen', 'Frozen share of the wall', '', gridKey, frames.node.frozen, times),
    makeField('velocity', 'Velocity', 'm/s', gridKey, frames.node.velocity, frames.velocityTimes, 3),
    makeField('profile', 'Temperature through the wall', 'K', gridKey, profile, profileTimes, places),
    one('frontTemperature', 'Temperature at the front', 'K', result.node.frontTemperature),
    one('frontSpeed', 'Front speed', 'm/s', result.node.frontSpeed),
    one('peakShearRate', 'Peak shear rate', '1/s', result.node.peakShearRate),
    one('peakStress', 'Peak wall shear stress', 'Pa', result.node.peakStress),
    one('thickness', 'Wall thickness', 'm', grid.thickness),
  ];
  if (pack)
    fields.push(
      one('holdReach', 'Hold reach', 's', pack.node.fedUntil),
      one('shrinkage', 'Volumetric shrinkage', '', pack.node.shrinkage),
      one('shrinkageAtEjection', 'Shrinkage when ejected', '', pack.node.shrinkageAtEjection),
      one('linearShrinkage', 'Linear shrinkage', '', pack.node.shrinkage.map(linear)),
      one('density', 'Density when ejected', 'kg/m³', pack.node.density),
      one('frozenAt', 'Frozen at', 's', pack.node.frozenAt),
      one('ejectableAt', 'Ejectable time', 's', pack.node.ejectableAt),
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
        result.node.fillTime[i] === result.node.fillTime[i] ? result.node.gateShare[i * n + g] : NaN,
      );
      fields.push(one(`gateShare-${g + 1}`, `Share from gate ${gate.id}`, '', share));
    });
  return fields;
}

const linear = (volumetric: number) => 1 - Math.cbrt(1 - volumetric);
