import { z } from 'zod';
import { distinct, identifier, metres, planar, reference, title } from './bounded';
import { standInSchema } from './body';
import { coolantSchema, metalSchema } from './material';
import { within } from './quantity';

const id = identifier;
const bore = within('channelDiameter');

/** What a line of the circuit is. A well (baffle, bubbler) stands on a channel with `from` and ends at `to`. */
export const lineKindSchema = z.discriminatedUnion('as', [
  z.strictObject({ as: z.literal('channel') }),
  /** A blade of this thickness divides the bore: up on one side, down on the other. */
  z.strictObject({ as: z.literal('baffle'), blade: within('blade') }),
  /** Up through a tube of these diameters, back down around it. */
  z.strictObject({
    as: z.literal('bubbler'),
    outer: within('tubeOutside'),
    inner: within('tubeInside'),
  }),
  /** Outside the mould; its length is that of a loose loop when null. */
  z.strictObject({ as: z.literal('hose'), length: within('hoseLength').nullable() }),
]);

export const coolingLineSchema = z
  .strictObject({
    id,
    from: metres,
    to: metres,
    diameter: bore,
    kind: lineKindSchema,
    /** Loss coefficient of bends, fittings and turns along it; null: from its shape. */
    loss: within('loss').nullable(),
  })
  .refine((l) => l.kind.as !== 'bubbler' || l.kind.inner < l.kind.outer, {
    message: 'The inside of the tube must be narrower than its outside.',
  });

export const pumpSchema = z.discriminatedUnion('by', [
  z.strictObject({ by: z.literal('flow-rate'), flowRate: within('coolantFlow') }),
  z.strictObject({ by: z.literal('pressure'), pressure: within('coolantPressure') }),
  /** Pressure = shutOff (1 - (Q / freeFlow)^2). */
  z.strictObject({
    by: z.literal('curve'),
    shutOff: within('pumpShut'),
    freeFlow: within('pumpFree'),
  }),
]);

export const coolantChoiceSchema = z.union([
  reference,
  /** Water with this share of glycol by mass. */
  z.strictObject({ glycol: within('glycol') }),
  coolantSchema,
]);

/** Pump, coolant and the hose that leads to the mould and back. */
export const supplySchema = z.strictObject({
  id,
  coolant: coolantChoiceSchema,
  /** As it comes, K. */
  temperature: within('coolantSent'),
  pump: pumpSchema,
  hose: z.strictObject({ length: within('supplyHose'), diameter: within('supplyBore') }),
});

/** What closes an end of a line that meets no other. */
export const circuitEndSchema = z.strictObject({
  at: metres,
  as: z.enum(['inlet', 'outlet', 'plug']),
  supply: reference.nullable(),
});

export const FRICTION_LAWS = ['churchill', 'swamee-jain', 'haaland', 'colebrook'] as const;

/** A piece of the block made of another metal: a simple solid or one of the bodies. */
export const mouldInsertSchema = z.strictObject({
  id,
  name: title(80),
  shape: z.union([standInSchema, z.strictObject({ shape: z.literal('body'), body: reference })]),
  metal: z.union([reference, metalSchema]),
});

export const layoutPlanSchema = z.strictObject({
  /** Channels per side. */
  count: within('channelCount'),
  diameter: bore,
  pitch: within('channelPitch'),
  /** From the part to the middle of the channel. */
  distance: within('channelDistance'),
  direction: z.enum(['x', 'y']),
  above: z.boolean(),
  below: z.boolean(),
  /** Each channel follows the surface below it. */
  conformal: z.boolean(),
  /** Channels one after the other, joined by hoses, or side by side. */
  connected: z.enum(['series', 'parallel']),
});

/** The mould, its circuits and what they are fed with. SI. */
export const coolingSchema = z.strictObject({
  /** Corners of the block; null: around part and feed with room for the channels. */
  block: z.strictObject({ min: metres, max: metres }).nullable(),
  steel: z.union([reference, metalSchema]),
  inserts: distinct(z.array(mouldInsertSchema).max(40), 'inserts'),
  ambient: z.strictObject({ temperature: within('air'), transfer: within('airTransfer') }),
  /** Plates of the press on top and bottom; transfer is that of the contact. */
  platens: z.strictObject({ temperature: within('platens'), transfer: within('platenTransfer') }),
  lines: distinct(z.array(coolingLineSchema).max(400), 'lines'),
  ends: z.array(circuitEndSchema).max(200),
  supplies: distinct(z.array(supplySchema).min(1).max(12), 'supplies'),
  friction: z.enum(FRICTION_LAWS),
  /** Of the drilled bores, m. */
  roughness: within('roughness'),
  /** Which way is down in the press. */
  down: z.enum(['-x', '+x', '-y', '+y', '-z', '+z']),
  /** Spots where ejectors or screws sit: no channel within the radius of their axis along z. */
  keepOut: z.array(z.strictObject({ at: planar, radius: within('keepOut') })).max(200),
  /** Last layout that was generated. */
  plan: layoutPlanSchema.nullable(),
  /** Cycles of the start-up that are followed; null: only the settled mould. */
  startUp: within('startUp').nullable(),
});

export type Cooling = z.infer<typeof coolingSchema>;
export type CoolingLine = z.infer<typeof coolingLineSchema>;
export type LineKind = z.infer<typeof lineKindSchema>;
export type Pump = z.infer<typeof pumpSchema>;
export type Supply = z.infer<typeof supplySchema>;
export type CircuitEnd = z.infer<typeof circuitEndSchema>;
export type MouldInsert = z.infer<typeof mouldInsertSchema>;
export type LayoutPlan = z.infer<typeof layoutPlanSchema>;
export type CoolantChoice = z.infer<typeof coolantChoiceSchema>;
export type FrictionLaw = (typeof FRICTION_LAWS)[number];

export const DEFAULT_SUPPLY: Supply = {
  id: 'U1',
  coolant: 'water',
  temperature: 298.15,
  pump: { by: 'flow-rate', flowRate: 10 / 60000 },
  hose: { length: 2, diameter: 0.013 },
};

export const defaultCooling = (): Cooling => ({
  block: null,
  steel: 'steel-hw-30',
  inserts: [],
  ambient: { temperature: 296.15, transfer: 12 },
  platens: { temperature: 303.15, transfer: 250 },
  lines: [],
  ends: [],
  supplies: [DEFAULT_SUPPLY],
  friction: 'churchill',
  roughness: 2e-5,
  down: '-y',
  keepOut: [],
  plan: null,
  startUp: null,
});
