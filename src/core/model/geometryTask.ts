import { z } from 'zod';
import type { Place } from '../geometry/finding';
import type { Vec3 } from '../geometry/mesh';
import type { OpeningChoice } from '../partmaps/moulding';
import type { MapRange, PartMaps } from '../partmaps/maps';
import { ruleChangesSchema } from '../partmaps/rules';
import { standInSchema, toolSchema, type AxisTrace, type StandIn } from './body';

const metres = z.tuple([z.number(), z.number(), z.number()]);
const hash = z.string().regex(/^[0-9a-f]{64}$/);
const ref = z.strictObject({ id: z.string().min(1).max(60), mesh: hash });
const refs = z.array(ref).min(1).max(4000);

/** Work on surfaces that takes a worker; the answers are in GeometryResults under the same name. SI. */
export const geometryTaskSchema = z.discriminatedUnion('do', [
  z.strictObject({ do: z.literal('mend'), bodies: refs }),
  z.strictObject({ do: z.literal('turn'), bodies: refs, matrix: z.array(z.number()).length(12) }),
  z.strictObject({
    do: z.literal('fit'),
    body: ref,
    shape: z.enum(['box', 'cylinder', 'sphere']),
    axis: metres.nullable(),
  }),
  z.strictObject({
    do: z.literal('stand-in'),
    bodies: z.array(z.strictObject({ id: z.string(), standIn: standInSchema })).min(1),
  }),
  z.strictObject({ do: z.literal('identical'), bodies: refs }),
  z.strictObject({ do: z.literal('overlaps'), bodies: refs }),
  z.strictObject({ do: z.literal('combine'), a: ref, b: ref, how: z.enum(['cut', 'join']) }),
  z.strictObject({ do: z.literal('split'), body: ref }),
  z.strictObject({ do: z.literal('features'), body: ref, limit: z.number().positive() }),
  z.strictObject({
    do: z.literal('remove-features'),
    body: ref,
    limit: z.number().positive(),
    features: z.array(z.number().int()).min(1),
  }),
  z.strictObject({ do: z.literal('trace'), body: ref }),
  z.strictObject({
    do: z.literal('maps'),
    bodies: refs,
    partingHeight: z.number().nullable(),
    opening: toolSchema.shape.opening,
    gates: z.array(metres),
    rules: ruleChangesSchema,
  }),
  z.strictObject({ do: z.literal('openings'), bodies: refs }),
]);
export type GeometryTask = z.infer<typeof geometryTaskSchema>;
export type TaskName = GeometryTask['do'];

export interface NewSurface {
  id: string;
  mesh: string;
}

export interface Size {
  volume: number;
  area: number;
  nTriangles: number;
}

export interface FeatureView {
  id: number;
  kind: 'hole' | 'pocket' | 'boss' | 'round' | 'fillet';
  size: number;
  centre: Vec3;
  volumeChange: number;
  nTriangles: number;
}

/** Numbers of a set of part maps; the fields lie in a blob of their own under `key`. */
export interface MapsManifest extends Omit<PartMaps, 'surface' | 'values'> {
  key: string;
  ranges: MapRange[];
  /** m2 along the opening direction; null where a body is not closed */
  projectedArea: number | null;
}

export interface GeometryResults {
  mend: { bodies: (NewSurface & { done: string[]; before: Size; after: Size; left: number })[] };
  turn: { bodies: NewSurface[] };
  fit: { standIn: StandIn; volume: number };
  'stand-in': { bodies: NewSurface[] };
  identical: { groups: { ids: string[]; moves: number[][] }[] };
  overlaps: { pairs: { a: string; b: string; volume: number; place: Place }[]; notClosed: string[] };
  combine: { mesh: string };
  split: { meshes: string[] };
  features: { features: FeatureView[] };
  'remove-features': { mesh: string; removed: number };
  trace: Pick<AxisTrace, 'nodes' | 'segments'> & { length: number };
  maps: MapsManifest;
  openings: { choices: OpeningChoice[]; area: number };
}
