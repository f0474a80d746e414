import { z } from 'zod';
import { distinct, identifier, metres, reference, title } from './bounded';
import { ruleChangesSchema } from '../partmaps/rules';
import { axisTraceSchema, bodySchema, MOST_SHOTS, shotOf, toolSchema, UNTURNED, type Body } from './body';
import { cavityLayoutSchema, copyPlacements } from './cavityLayout';
import { compressionSchema } from './compression';
import { coolingSchema } from './cooling';
import { coreSchema } from './core';
import { feedSchema } from './feed';
import { DEFAULT_FIBRES, fibresSchema } from './fibres';
import { gateFormSchema } from './gateForm';
import { insertSchema } from './insert';
import { machineSchema } from './machine';
import { tabSchema, ventSchema } from './outlet';
import { warpageSchema } from './warpage';
import { DEFAULT_PACKING, packingSchema } from './packing';
import { CYCLE_NUMBER_IDS, CYCLE_NUMBERS, type CycleNumber } from './parameters';
import { numberSchema } from './parameter';
import { WAY_NUMBERS } from './wayNumbers';
import { pinSchema } from './pin';
import { resinSchema, type Resin } from './resin';
import { within } from './quantity';

/** Model description of one variant, SI. null means "the default", which follows from resin and part. */

export const gateSchema = z.strictObject({
  id: identifier,
  /** On the surface of the part, m. */
  position: metres,
  /** m */
  diameter: numberSchema(WAY_NUMBERS.gateDiameter),
  /** Kind and dimensions; absent for a round hole as long as the feed's lands. */
  form: gateFormSchema.optional(),
  /** Valve pin in the hot drop before it; absent for an open gate. */
  pin: pinSchema.optional(),
});

const flowRate = numberSchema(WAY_NUMBERS.flowRate);

export const injectionSchema = z.discriminatedUnion('by', [
  z.strictObject({ by: z.literal('time'), time: numberSchema(WAY_NUMBERS.injectionTime).nullable() }),
  z.strictObject({ by: z.literal('flow-rate'), flowRate }),
  /** From each place on with its flow rate: places as share filled (0..1) or as travel of the screw, m. */
  z.strictObject({
    by: z.literal('profile'),
    against: z.enum(['share', 'stroke']),
    points: z
      .array(z.strictObject({ at: z.number().min(0).max(2), flowRate }))
      .min(1)
      .max(20)
      .refine((p) => p.every((x, i) => i === 0 || x.at > p[i - 1].at), 'The places of a profile must ascend.')
      .refine((p) => p[0]?.at === 0, 'A profile begins at 0.'),
  }),
]);

export const switchoverSchema = z.discriminatedUnion('by', [
  z.strictObject({ by: z.literal('automatic') }),
  z.strictObject({ by: z.literal('share'), share: numberSchema(WAY_NUMBERS.switchoverShare) }),
  z.strictObject({ by: z.literal('pressure'), pressure: numberSchema(WAY_NUMBERS.switchoverPressure) }),
  z.strictObject({ by: z.literal('time'), time: numberSchema(WAY_NUMBERS.switchoverTime) }),
]);

/** Numbers of the cycle with the limits of their table; null: the default. */
const cycleNumbers = Object.fromEntries(
  CYCLE_NUMBER_IDS.map((id) => [id, numberSchema(CYCLE_NUMBERS[id]).nullable()]),
) as Record<CycleNumber, z.ZodNullable<z.ZodNumber>>;

export const probeSchema = z.strictObject({
  id: identifier,
  /** In or on the part, m. */
  position: metres,
});

/** A spot of the surface where no gate may sit: everything within `radius` of `position`, m. */
export const noGateSchema = z.strictObject({ position: metres, radius: z.number().positive().max(1) });

export const detailSchema = z.enum(['quick', 'normal', 'fine']);

/** Times of the press besides the shot, s. */
export const movesSchema = z.strictObject({
  opening: within('moves'),
  ejection: within('moves'),
  closing: within('moves'),
});

const cycleSchema = z.strictObject({
  ...cycleNumbers,
  injection: injectionSchema,
  /** null: the smallest press of the library that holds the shot. */
  machine: z.union([reference, machineSchema]).nullable(),
  switchover: switchoverSchema,
  packing: packingSchema,
  /** Moves of the press one by one, s; they count where `openTime` is null. */
  moves: movesSchema.optional(),
  /**
   * Air gets out freely all along the parting line (and through the vents), only through the vents, nowhere, or
   * everywhere: as if the steel let it through.
   */
  venting: z.enum(['parting-line', 'vents', 'sealed', 'open']),
});

/** What every shot has its own of. */
const ofShot = {
  gates: distinct(z.array(gateSchema).max(40), 'gates'),
  /** Sprue and runners; null: the melt comes straight to the gates. */
  feed: feedSchema.nullable(),
  /** Absent where there are none. */
  vents: distinct(z.array(ventSchema).max(60), 'vents').optional(),
  tabs: distinct(z.array(tabSchema).max(24), 'tabs').optional(),
  resin: z.union([reference, resinSchema]),
  cycle: cycleSchema,
  /** A fluid in the core of the melt; absent: none. */
  core: coreSchema.optional(),
  /** A tool that closes on the melt; absent: it is closed before. */
  compression: compressionSchema.optional(),
  /** How the fibres of a filled resin are followed; absent: as follows from the resin. */
  fibres: fibresSchema.optional(),
};
export const shotSchema = z.strictObject(ofShot);
export type ShotInputs = z.infer<typeof shotSchema>;

/** From the opening of the mould after one shot to its closing for the next. */
export const transferSchema = z.strictObject({
  /** s */
  time: within('transfer'),
  /** Where the part lies meanwhile: on the lower half of the mould, or free in the air. */
  on: z.enum(['lower-half', 'air']),
});
export type Transfer = z.infer<typeof transferSchema>;
export const DEFAULT_TRANSFER: Transfer = { time: 4, on: 'lower-half' };

/** A shot that is made over what earlier ones have left. */
export const laterShotSchema = shotSchema.extend({ transfer: transferSchema });
export type LaterShot = z.infer<typeof laterShotSchema>;

export const LONGEST_NAME = 40;
/** Names by what they name: "gate G1", "gate G1 of shot 2" (see `names`). They change no number. */
export const namesSchema = z.record(z.string().max(80), title(LONGEST_NAME));

export const inputsSchema = z.strictObject({
  /** Everything that was brought in, with its role. */
  bodies: distinct(z.array(bodySchema).max(2000), 'bodies'),
  tool: toolSchema,
  /** Design rules changed for this part. */
  rules: ruleChangesSchema,
  axes: distinct(z.array(axisTraceSchema).max(200), 'centre lines'),
  ...ofShot,
  /** Copies of the cavities with their gates; absent for one of each. */
  cavities: cavityLayoutSchema.optional(),
  /** Mould block and circuits; absent: the mould has the temperature that is set, everywhere. */
  cooling: coolingSchema.optional(),
  /** What the shape is judged by and what holds the part; absent for a free part. */
  warpage: warpageSchema.optional(),
  /** Bodies with the role of an insert, each with its settings; one without has the default ones. */
  inserts: distinct(z.array(insertSchema).max(40), 'inserts').optional(),
  /** Shots after the first, each with what it has its own of; absent for a part of one shot. */
  later: z
    .array(laterShotSchema)
    .min(1)
    .max(MOST_SHOTS - 1)
    .optional(),
  /** Set while these are looked at as those of a later shot (see `asShot`): which one, and what the first has its own of. */
  shot: z.strictObject({ number: z.number().int().min(2).max(MOST_SHOTS), first: shotSchema }).optional(),
  probes: distinct(z.array(probeSchema).max(24), 'probes'),
  noGate: z.array(noGateSchema).max(3000),
  /** What gates, probes, lines and the like are called besides their ids; absent where nothing has a name. */
  names: namesSchema.optional(),
  detail: detailSchema,
  /** How many instants of a run are kept, against what is usual; absent: as many. */
  instants: z.enum(['few', 'many']).optional(),
  /** The last stage that is calculated; absent for everything up to the shape. */
  upTo: z.enum(['fill', 'pack']).optional(),
});

export type Gate = z.infer<typeof gateSchema>;
export type Inputs = z.infer<typeof inputsSchema>;
export type Injection = z.infer<typeof injectionSchema>;
export type Probe = z.infer<typeof probeSchema>;
export type NoGate = z.infer<typeof noGateSchema>;

export const DEFAULT_GATE_DIAMETER = 2e-3;

/** Surfaces the melt of the shot fills, in order. */
export const cavities = ({ bodies, shot }: Pick<Inputs, 'bodies' | 'shot'>): Body[] =>
  bodies.filter((b) => shotOf(b) === (shot?.number ?? 1));

/** The same for trials in which the filling alone counts: in a mould of the set temperature, fibres not followed. */
export const fillingAlone = (inputs: Inputs): Inputs => ({
  ...inSetMould(inputs),
  fibres: { ...DEFAULT_FIBRES, ...inputs.fibres, follow: false },
  upTo: 'fill',
});

/** The same in a mould of the set temperature. */
export function inSetMould(inputs: Inputs): Inputs {
  const { cooling: _, ...rest } = inputs;
  return rest;
}

/** Bodies that are laid into the mould and moulded onto: inserts that are no pieces of the mould itself. */
export const mouldedInserts = ({ bodies, cooling }: Pick<Inputs, 'bodies' | 'cooling'>): Body[] =>
  bodies.filter(
    (b) => b.role === 'insert' && !cooling?.inserts.some(({ shape }) => shape.shape === 'body' && shape.body === b.id),
  );

/** Inserts, pieces of the mould, and what later shots fill: bodies that a run reads besides the cavities of its first shot. */
export const otherBodies = ({ bodies, cooling }: Inputs): Body[] =>
  bodies.filter(
    (b) =>
      b.role === 'insert' ||
      shotOf(b) > 1 ||
      cooling?.inserts.some(({ shape }) => shape.shape === 'body' && shape.body === b.id),
  );

/** Names the geometry a run fills: equal for equal cavities in equal places; null when there is none. */
export function geometryKey(inputs: Inputs): string | null {
  const meshes = cavities(inputs).map((b) => b.mesh);
  if (!meshes.length) return null;
  return meshes.join('+') + (inputs.cavities ? `@${JSON.stringify(inputs.cavities)}` : '');
}

/** How many of each cavity the tool has. */
export const nCopies = (inputs: Inputs): number => (inputs.cavities ? copyPlacements(inputs.cavities).length + 1 : 1);

/** One cavity of the given surface; what a study file describes. */
export const cavityBody = (mesh: string, name = 'Part'): Body => ({
  id: 'B1',
  name,
  colour: null,
  role: 'cavity',
  mesh,
  original: null,
  standIn: null,
});

export const emptyInputs = (mesh: string | null = null, name?: string): Inputs => ({
  bodies: mesh ? [cavityBody(mesh, name)] : [],
  tool: { placement: UNTURNED, partingHeight: null },
  rules: {},
  axes: [],
  gates: [],
  feed: null,
  resin: 'pp-hollin-h14',
  cycle: {
    meltTemperature: null,
    mouldTemperature: null,
    lowerMouldTemperature: null,
    injection: { by: 'time', time: null },
    machine: null,
    pressureLimit: null,
    switchover: { by: 'automatic' },
    packing: DEFAULT_PACKING,
    coolingTime: null,
    solidShare: null,
    openTime: null,
    wallTransfer: null,
    detachedTransfer: null,
    venting: 'parting-line',
  },
  probes: [],
  noGate: [],
  detail: 'normal',
});

export type { Resin };
