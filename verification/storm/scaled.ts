import { mapVertices } from '../../src/core/geometry/mesh';
import { closestPoint } from '../../src/core/geometry/closestPoint';
import { resinById } from '../../src/core/material/library';
import type { Resin } from '../../src/core/model/resin';
import type { Inputs } from '../../src/core/model/study';
import { runPipeline } from '../../src/core/pipeline/pipeline';
import { plainContext } from '../../src/core/stage/context';
import { stormPart, type StormPart } from './parts';
import { stormInputs } from './storm';

/**
 * A resin for which a part `s` times as large, filled s^2 times as slowly, is the same problem: stresses and pressures
 * are s^-2 of what they were, and so are heat capacity and conductivity, since shear heats by s^-4.
 */
function scaledResin(resin: Resin, s: number): Resin {
  const { viscosity: v, pvt } = resin;
  if (v.kind !== 'cross-wlf') throw new Error('the resin of the storm is Cross-WLF');
  const heat = (curve: Resin['specificHeat']) => curve.map((p) => ({ ...p, value: p.value / s ** 2 }));
  return {
    ...resin,
    viscosity: { ...v, tauStar: v.tauStar / s ** 2, D3: v.D3 * s ** 2 },
    pvt: {
      ...pvt,
      b3m: pvt.b3m / s ** 2,
      b3s: pvt.b3s / s ** 2,
      b6: pvt.b6 * s ** 2,
      b9: pvt.b9 * s ** 2,
    },
    specificHeat: heat(resin.specificHeat),
    conductivity: heat(resin.conductivity),
  };
}

const PRESSURE_LIMIT = 1.6e8;
const PACKING = 1.2e7;
const TRANSFER = 3500;

function inputsOf(part: StormPart, resin: Resin, s: number, injectionTime: number): Inputs {
  const gate = closestPoint(part.mesh, part.gate.at).point;
  const base = stormInputs(
    part,
    gate,
    { name: '', apply: (v) => v, mirrors: false },
    { detail: 'quick', shape: false },
  );
  return {
    ...base,
    resin,
    cycle: {
      ...base.cycle,
      venting: 'open',
      injection: { by: 'time', time: injectionTime * s ** 2 },
      pressureLimit: PRESSURE_LIMIT / s ** 2,
      packing: { by: 'constant', pressure: PACKING / s ** 2, time: 8 * injectionTime * s ** 2 },
      // Per area and kelvin: conductivity over length.
      wallTransfer: TRANSFER / s ** 3,
      detachedTransfer: TRANSFER / s ** 3,
    },
  };
}

/** Pressure, weight and time of a part made `s` times as large over what they should be: 1 each. */
export async function scaledPair(seed: number, s: number): Promise<{ pressure: number; mass: number; time: number }> {
  const part = await stormPart(seed);
  const resin = resinById('pp-hollin-h14');
  if (!resin) throw new Error('the resin of the storm is missing');
  const large: StormPart = {
    ...part,
    mesh: mapVertices(part.mesh, ([x, y, z]) => [s * x, s * y, s * z]),
    gate: { at: part.gate.at.map((x) => s * x) as StormPart['gate']['at'], diameter: s * part.gate.diameter },
  };
  const injectionTime = 0.3 * (part.wall / 0.002) ** 2;
  const run = async (p: StormPart, inputs: Inputs) => {
    const outcome = await runPipeline(p.mesh, 'storm', inputs, plainContext(), { gridError: false });
    if (outcome.status !== 'filled' || outcome.breaches.length || !outcome.summary.pack)
      throw new Error('problems' in outcome ? outcome.problems[0].message : outcome.status);
    return outcome.summary;
  };
  const one = await run(part, inputsOf(part, resin, 1, injectionTime));
  const other = await run(large, inputsOf(large, scaledResin(resin, s), s, injectionTime));
  return {
    pressure: (other.pressureBeforeEnds_Pa * s ** 2) / one.pressureBeforeEnds_Pa,
    mass: (other.pack?.mass_kg ?? NaN) / ((one.pack?.mass_kg ?? NaN) * s ** 3),
    time: other.fillTime_s / (one.fillTime_s * s ** 2),
  };
}
