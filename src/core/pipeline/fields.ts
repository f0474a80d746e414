import { makeField, type Field } from '../fields/field';
import { FIELD_TABLE, gateShareEntry, gateShareId, type KnownField } from '../fields/table';
import { plasticSolid } from '../material/solid';
import type { Resin } from '../model/resin';
import type { ToolHold } from '../grid/toolHold';
import type { Inputs } from '../model/study';
import { PROFILE_PLACES } from '../solvers/melt/profilePlaces';
import { profileOf } from '../solvers/shot/profile';
import type { FillResult } from '../solvers/fill/outcome';
import type { ShotFrames } from '../solvers/shot/frames';
import type { PackResult } from '../solvers/pack/outcome';
import { wallDifference } from '../results/coolFacts';
import { healedShare } from '../results/holdTogether';
import { skinOf } from '../results/coreFacts';
import type { CoreFound } from '../results/shotFound';
import type { Behinds } from '../setup/behind';
import type { Mould } from '../setup/mould';
import type { BehindMemory } from '../solvers/melt/behind';
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
  steel: ToolHold | null,
  resin: Resin,
  core: CoreFound | null = null,
): Field[] {
  const { times } = frames;
  const halves = Math.max(1, result.nHalves);
  const one = (id: KnownField, values: ArrayLike<number>) => makeField(id, FIELD_TABLE[id], gridKey, [values]);
  const overTime = (id: KnownField, list: ArrayLike<number>[], at: number[], components = FIELD_TABLE[id].components) =>
    makeField(id, { ...FIELD_TABLE[id], components }, gridKey, list, at);
  const fields = [
    one('fillTime', result.node.fillTime),
    overTime('pressure', frames.node.pressure, times),
    overTime('temperature', frames.node.temperature, times),
    overTime('frozen', frames.node.frozen, times),
    overTime('velocity', frames.node.velocity, frames.velocityTimes),
    overTime('profile', frames.node.profile, frames.profileTimes, PROFILE_PLACES.length * halves),
    one('frontTemperature', result.node.frontTemperature),
    one('frontSpeed', result.node.frontSpeed),
    one('peakShearRate', result.node.peakShearRate),
    one('peakStress', result.node.peakStress),
    one('thickness', grid.thickness),
  ];
  if (pack)
    fields.push(
      one('holdReach', pack.node.fedUntil),
      one('shrinkage', pack.node.shrinkage),
      one('shrinkageAtEjection', pack.node.shrinkageAtEjection),
      one('linearShrinkage', pack.node.shrinkage.map(linear)),
      one('density', pack.node.density),
      one('frozenAt', pack.node.frozenAt),
      one('ejectableAt', pack.node.ejectableAt),
      one('slidesAt', pack.node.releasedAt),
    );
  if (pack?.frozen) {
    const { nLayers, node } = pack.frozen;
    const { young, poisson } = plasticSolid(resin);
    for (const [id, stress] of [
      ['stressInMould', node.inMould],
      ['stressInRoom', node.inRoom],
    ] as const) {
      const places = profileOf(stress, nLayers, young / (1 - poisson));
      fields.push(makeField(id, { ...FIELD_TABLE[id], components: places.length / grid.n }, gridKey, [places]));
    }
  }
  if (pack && steel) {
    const { share, along } = steel;
    fields.push(
      one(
        'heldShare',
        Float32Array.from({ length: grid.n }, (_, i) => share[2 * i]),
      ),
      one(
        'heldAlong',
        Float32Array.from({ length: 4 * grid.n }, (_, k) => {
          const [i, d] = [k >> 2, k & 3];
          return d < 3 ? share[2 * i] * along[3 * i + d] : share[2 * i + 1];
        }),
      ),
    );
  }
  if (core) {
    const share = (i: number) => core.node.volume[i] / grid.volume[i];
    fields.push(
      overTime('coreShare', frames.node.core, frames.coreTimes),
      one(
        'skinLeft',
        Float32Array.from({ length: grid.n }, (_, i) => skinOf(grid, i, share(i))),
      ),
      one('coreTime', core.node.time),
    );
  }
  if (sinks) fields.push(one('sinkDepth', sinks.depth), one('voidRisk', sinks.voids));
  if (mould)
    fields.push(
      one('mouldSurface', mould.source.wallTemperature),
      one('mouldDifference', wallDifference(mould.source.wallTemperature)),
    );
  const n = inputs.gates.length;
  if (n > 1)
    inputs.gates.forEach((gate, g) => {
      const share = Float32Array.from({ length: grid.n }, (_, i) =>
        result.node.fillTime[i] === result.node.fillTime[i] ? result.node.gateShare[i * n + g] : NaN,
      );
      fields.push(makeField(gateShareId(g), gateShareEntry(gate.id), gridKey, [share]));
    });
  return fields;
}

/** What inserts and plastic moulded before went through, at both sides of every wall; NaN where the mould is. */
export function behindFields(
  { grid, gridKey }: GridResult,
  { walls, spec }: Behinds,
  memory: BehindMemory,
  wallChange: Float32Array,
  frames: ShotFrames,
): Field[] {
  const plastic = walls.list.map((_, s) => spec.materials[spec.layer.material[spec.start[s]]].softens !== undefined);
  const one = (id: KnownField, value: (stack: number) => number) =>
    makeField(id, FIELD_TABLE[id], gridKey, [
      Float32Array.from({ length: 2 * grid.n }, (_, k) => (walls.of[k] < 0 ? NaN : value(walls.of[k]))),
    ]);
  const ofPlastic = (values: Float64Array) => (s: number) => (plastic[s] ? values[s] : NaN);
  return [
    ...(frames.node.face.length
      ? [makeField('faceTemperature', FIELD_TABLE.faceTemperature, gridKey, frames.node.face, frames.times)]
      : []),
    one('facePeak', (s) => memory.peak[s]),
    one('heatTaken', (s) => memory.taken[s]),
    ...(wallChange.length ? [makeField('wallChange', FIELD_TABLE.wallChange, gridKey, [wallChange])] : []),
    ...(plastic.some((is) => is)
      ? [
          one('softDepth', ofPlastic(memory.softDepth)),
          one('softFor', ofPlastic(memory.softFor)),
          one('healed', ofPlastic(memory.healing.map(healedShare))),
        ]
      : []),
  ];
}

const linear = (volumetric: number) => 1 - Math.cbrt(1 - volumetric);
