import { z } from 'zod';
import { extent, hash, identifier, metres, placementMatrix } from './bounded';
import { placeSchema } from '../geometry/finding';
import { vec3Schema } from '../geometry/schemas';
import { real } from '../numerics/real';
import { openingChoiceSchema } from '../partmaps/moulding';
import { mapNumbersSchema } from '../partmaps/maps';
import { ruleChangesSchema } from '../partmaps/rules';
import { axisTraceSchema, standInSchema, toolSchema } from './body';

const ref = z.strictObject({ id: identifier, mesh: hash });
const refs = z.array(ref).min(1).max(4000);

/** Work on surfaces that takes a worker; the answers are in GeometryResults under the same name. SI. */
export const geometryTaskSchema = z.discriminatedUnion('do', [
  z.strictObject({ do: z.literal('mend'), bodies: refs }),
  z.strictObject({ do: z.literal('turn'), bodies: refs, matrix: placementMatrix }),
  z.strictObject({
    do: z.literal('fit'),
    body: ref,
    shape: z.enum(['box', 'cylinder', 'sphere']),
    axis: metres.nullable(),
  }),
  z.strictObject({
    do: z.literal('stand-in'),
    bodies: z.array(z.strictObject({ id: identifier, standIn: standInSchema })).min(1),
  }),
  z.strictObject({ do: z.literal('identical'), bodies: refs }),
  z.strictObject({ do: z.literal('overlaps'), bodies: refs }),
  z.strictObject({ do: z.literal('combine'), a: ref, b: ref, how: z.enum(['cut', 'join']) }),
  z.strictObject({ do: z.literal('split'), body: ref }),
  z.strictObject({ do: z.literal('features'), body: ref, limit: extent }),
  z.strictObject({
    do: z.literal('remove-features'),
    body: ref,
    limit: extent,
    features: z.array(z.number().int().min(0)).min(1).max(10_000),
  }),
  z.strictObject({ do: z.literal('trace'), body: ref }),
  z.strictObject({
    do: z.literal('maps'),
    bodies: refs,
    partingHeight: z.number().nullable(),
    opening: toolSchema.shape.opening,
    gates: z.array(metres).max(40),
    rules: ruleChangesSchema,
  }),
  z.strictObject({ do: z.literal('openings'), bodies: refs }),
]);
export type GeometryTask = z.infer<typeof geometryTaskSchema>;
export type TaskName = GeometryTask['do'];

const newSurfaceSchema = z.object({ id: z.string(), mesh: z.string() });
export type NewSurface = z.infer<typeof newSurfaceSchema>;

const sizeSchema = z.object({ volume: real, area: real, nTriangles: real });
export type Size = z.infer<typeof sizeSchema>;

const featureViewSchema = z.object({
  id: real,
  kind: z.enum(['hole', 'pocket', 'boss', 'round', 'fillet']),
  size: real,
  centre: vec3Schema,
  volumeChange: real,
  nTriangles: real,
});
export type FeatureView = z.infer<typeof featureViewSchema>;

/** Numbers of a set of part maps; the fields lie in a blob of their own under `key`. */
export const mapsManifestSchema = mapNumbersSchema.extend({
  key: z.string(),
  /** m2 along the opening direction; null where a body is not closed */
  projectedArea: real.nullable(),
});
export type MapsManifest = z.infer<typeof mapsManifestSchema>;

const bodiesSchema = z.object({ bodies: z.array(newSurfaceSchema) });

/** What each kind of work comes to. */
export const geometryResultSchemas = {
  mend: z.object({
    bodies: z.array(
      newSurfaceSchema.extend({ done: z.array(z.string()), before: sizeSchema, after: sizeSchema, left: real }),
    ),
  }),
  turn: bodiesSchema,
  fit: z.object({ standIn: standInSchema, volume: real }),
  'stand-in': bodiesSchema,
  identical: z.object({
    groups: z.array(z.object({ ids: z.array(z.string()), moves: z.array(z.array(real)) })),
  }),
  overlaps: z.object({
    pairs: z.array(z.object({ a: z.string(), b: z.string(), volume: real, place: placeSchema })),
    notClosed: z.array(z.string()),
  }),
  combine: z.object({ mesh: z.string() }),
  split: z.object({ meshes: z.array(z.string()) }),
  features: z.object({ features: z.array(featureViewSchema) }),
  'remove-features': z.object({ mesh: z.string(), removed: real }),
  trace: axisTraceSchema.pick({ nodes: true, segments: true }).extend({ length: real }),
  maps: mapsManifestSchema,
  openings: z.object({ choices: z.array(openingChoiceSchema), area: real }),
} as const satisfies Record<TaskName, z.ZodType>;
export type GeometryResults = { [K in TaskName]: z.infer<(typeof geometryResultSchemas)[K]> };
