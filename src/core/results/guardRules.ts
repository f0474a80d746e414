import { z } from 'zod';
import { real } from '../numerics/real';
import { vec3Schema } from '../geometry/schemas';
import type { Vec3 } from '../geometry/mesh';
import type { Unit } from '../units/units';

const GUARD_STAGES = ['grid', 'fill', 'pack', 'shape'] as const;

/** A bound that a result must keep, in the unit it is read in, and why it lies there. */
export interface GuardRule {
  id: string;
  stage: (typeof GUARD_STAGES)[number];
  /** What is looked at. */
  quantity: string;
  limit: number;
  unit: Unit;
  reason: string;
}

/** Every check of a result against itself. One that fails makes the result a failure, whatever it says. */
export const GUARD_RULES = {
  gridVolume: {
    id: 'gridVolume',
    stage: 'grid',
    quantity: 'Volume of the cells against that of the surface',
    limit: 1e-6,
    unit: '%',
    reason: 'Cutting is exact; a difference means that the surface crosses or covers itself.',
  },
  emptyNodes: {
    id: 'emptyNodes',
    stage: 'grid',
    quantity: 'Pressure nodes that have neighbours but no volume',
    limit: 0,
    unit: '',
    reason: 'A node without melt has no density, temperature or fluidity.',
  },
  finite: {
    id: 'finite',
    stage: 'fill',
    quantity: 'Values that are no numbers, where there is melt',
    limit: 0,
    unit: '',
    reason: 'Nothing that follows from one of them means anything.',
  },
  fillMass: {
    id: 'fillMass',
    stage: 'fill',
    quantity: 'Melt in the cavity against melt injected',
    limit: 1e-6,
    unit: '%',
    reason: 'The front is moved by volumes; only rounding may be lost.',
  },
  fibres: {
    id: 'fibres',
    stage: 'fill',
    quantity:
      'Directions of fibres: trace off 1, or a share below 0 or above 1; their share and length: no such number',
    limit: 1e-4,
    unit: '',
    reason: 'The shares of all directions are one whole.',
  },
  fillSettled: {
    id: 'fillSettled',
    stage: 'fill',
    quantity: 'Steps of the filling whose pressure had not settled',
    limit: 0,
    unit: '',
    reason: 'In the last pass of each step the pressure moves by less than 2 %, or it is not known.',
  },
  fillHeat: {
    id: 'fillHeat',
    stage: 'fill',
    quantity: 'Heat put in that is neither stored nor given off',
    limit: 0.05,
    unit: '%',
    reason: 'Told from 1 % on; a twentieth of the heat changes temperatures by ten kelvin.',
  },
  fillPressure: {
    id: 'fillPressure',
    stage: 'fill',
    quantity: 'Highest pressure while filling, over the limit of the machine',
    limit: 1.01,
    unit: '%',
    reason: 'Nothing but the machine presses.',
  },
  fillTemperature: {
    id: 'fillTemperature',
    stage: 'fill',
    quantity: 'Mean temperature of a wall outside what melt, mould and shear can give',
    limit: 0,
    unit: 'K',
    reason: 'Between the coldest wall and the melt, heated by no more than the pressure spent on it.',
  },
  packMass: {
    id: 'packMass',
    stage: 'pack',
    quantity: 'Mass by density against mass by flow, worst step of packing',
    limit: 1e-4,
    unit: '%',
    reason: 'Weight and shrinkage are read from it; a ten-thousandth moves shrinkage by 0.003 %.',
  },
  packHeat: {
    id: 'packHeat',
    stage: 'pack',
    quantity: 'Heat of packing and cooling that is not accounted for',
    limit: 0.05,
    unit: '%',
    reason: 'Told from 1 % on; a twentieth of the heat moves the cooling time by a tenth.',
  },
  packPressure: {
    id: 'packPressure',
    stage: 'pack',
    quantity: 'Highest pressure while packing, over the highest the machine gave',
    limit: 1.05,
    unit: '%',
    reason: 'The melt only passes pressure on and loses some of it.',
  },
  shrinkage: {
    id: 'shrinkage',
    stage: 'pack',
    quantity: 'Volumetric shrinkage of a place outside what the pvT data can give',
    limit: 0.02,
    unit: '%',
    reason: 'Between plastic packed at the highest pressure and melt without any, with room for what flowed back.',
  },
  shapeSettled: {
    id: 'shapeSettled',
    stage: 'shape',
    quantity: 'Energy of the structure that is not in balance, over that at the start',
    limit: 1e-3,
    unit: '%',
    reason: 'The iteration stops at a tenth of it; above it displacements are off by more than a per cent.',
  },
  shapePieces: {
    id: 'shapePieces',
    stage: 'shape',
    quantity: 'Pieces of the structure beyond the loose pieces of the part',
    limit: 0,
    unit: '',
    reason: 'A part that falls apart in the cells has no shape as a whole.',
  },
  shapeSize: {
    id: 'shapeSize',
    stage: 'shape',
    quantity: 'Largest deviation over the size of the part',
    limit: 0.2,
    unit: '%',
    reason:
      'Small displacements are assumed; plastics shrink by a few per cent, and nothing moves a fifth of its size.',
  },
  shapeStress: {
    id: 'shapeStress',
    stage: 'shape',
    quantity: 'Frozen stress at the surface over the stiffness',
    limit: 0.1,
    unit: '%',
    reason: 'Plastics yield at 2 to 4 % of their modulus; what is far above tells of a torn structure.',
  },
} as const satisfies Record<string, GuardRule>;

export type GuardId = keyof typeof GUARD_RULES;

/** A bound that was broken: by how much, where, and what to do. SI. */
export const breachSchema = z.object({
  rule: z.enum(Object.keys(GUARD_RULES) as [GuardId, ...GuardId[]]),
  stage: z.enum(GUARD_STAGES),
  message: z.string(),
  remedy: z.string(),
  value: real,
  limit: real,
  place: vec3Schema.nullable(),
});
export type Breach = z.infer<typeof breachSchema>;

const REMEDY =
  'Look at the place in the part; choose a finer Detail, move the gate, or send the study file to whoever looks after the solver.';

/** A broken bound with what is said of it. */
export function breach(rule: GuardId, value: number, said: string, place: Vec3 | null, remedy = REMEDY): Breach {
  const { stage, limit } = GUARD_RULES[rule];
  return { rule, stage, message: said, remedy, value, limit, place };
}
