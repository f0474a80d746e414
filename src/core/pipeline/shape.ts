import { makeField, type Field } from '../fields/field';
import { plasticSolid } from '../material/solid';
import type { Resolved } from '../setup/resolve';
import { FIELD_TABLE, type KnownField } from '../fields/table';
import { packArrays, unpackArrays } from '../formats/arrays';
import type { TriangleMesh, Vec3 } from '../geometry/mesh';
import { standInMesh } from '../model/standIn';
import { distance } from '../geometry/vec';
import { refine } from '../geometry/refine';
import { joined } from '../geometry/shells';
import { warpageOf } from '../model/warpage';
import type { Inputs } from '../model/study';
import { SURFACE_EDGE } from '../grid/surfaceMap';
import { principal, shapeFacts, stresses, type ShapeFacts } from '../results/shape';
import { insertStrain, runWarp, type WarpInput, type WarpResult } from '../solvers/warp/stage';
import type { PackResult } from '../solvers/pack/outcome';
import { layerStrainOf, type LayerStrain } from '../solvers/warp/strainField';
import type { FeedStrain } from '../solvers/pack/wallStrain';
import type { Mould } from '../setup/mould';
import type { GridResult } from '../setup/grids';
import type { FillSettings } from '../setup/settings';
import type { StageContext } from '../stage/context';

/** The shape of a run: what it says, and what is shown of it. */
export interface Shape {
  facts: ShapeFacts;
  fields: Field[];
  input: WarpInput;
  shot: ShotStrain;
  result: WarpResult;
}

export type ShapeOutcome = { status: 'solved'; shape: Shape } | { status: 'failed'; message: string; likely: string };

/** What a shot leaves in the walls: all that its shape comes from. */
export interface ShotStrain {
  frozen: LayerStrain;
  /** Volumetric shrinkage of every node. */
  volumetric: Float32Array;
  /** Mean temperature of the mould, K. */
  mouldTemperature: number;
}

/** Of a shot that packed; null where its layers were not followed. */
export function shotStrainOf(
  { frozen, node }: Pick<PackResult, 'frozen' | 'node'>,
  settings: FillSettings,
  mould: Mould | null,
): ShotStrain | null {
  const mouldTemperature = mould ? meanOf(mould.source.wallTemperature) : settings.mouldTemperature;
  return frozen && { frozen: layerStrainOf(frozen), volumetric: node.shrinkage, mouldTemperature };
}

/** A shot's strain as bytes, and back. */
export const packShotStrain = ({ frozen, volumetric, mouldTemperature }: ShotStrain): Uint8Array => {
  const { nLayers, inPlane, mean, uneven, heldAlong, feed } = frozen;
  return packArrays({ nLayers, mouldTemperature, feed }, { inPlane, mean, uneven, heldAlong, volumetric });
};

export function unpackShotStrain(buffer: ArrayBuffer): ShotStrain {
  const { meta, arrays } = unpackArrays(buffer);
  const { nLayers, mouldTemperature, feed } = meta as Pick<LayerStrain, 'nLayers' | 'feed'> & {
    mouldTemperature: number;
  };
  const { inPlane, mean, uneven, heldAlong, volumetric } = arrays as Record<string, Float32Array>;
  return { frozen: { nLayers, inPlane, mean, uneven, heldAlong, feed }, volumetric, mouldTemperature };
}

/** A piece of the feed as a round bar of its section, let into what it ends at by half its radius. */
function feedBody({ from, to, area }: FeedStrain): TriangleMesh {
  const length = distance(from, to);
  const radius = Math.sqrt(area / Math.PI);
  return standInMesh({
    shape: 'cylinder',
    centre: from.map((x, d) => (x + to[d]) / 2) as Vec3,
    axis: from.map((x, d) => (to[d] - x) / length) as Vec3,
    diameter: 2 * radius,
    length: length + radius,
  });
}

/** Everything the structure needs. */
export function warpInputOf(
  { mesh, inputs, settings }: Pick<Resolved, 'mesh' | 'inputs' | 'settings'>,
  { fine, grid }: GridResult,
  { frozen, volumetric, mouldTemperature }: ShotStrain,
  bodies: ReadonlyMap<string, TriangleMesh>,
): WarpInput {
  const { supports, inserts, detail, withFeed, large } = warpageOf(inputs);
  const plastic = plasticSolid(settings.resin);
  return {
    part: mesh,
    fine,
    grid,
    frozen,
    volumetric,
    plastic,
    inserts: [
      ...inserts.flatMap(({ body, young, poisson, expansion }) => {
        const surface = bodies.get(body);
        if (!surface) return [];
        const strain = insertStrain(expansion, mouldTemperature);
        return [{ id: body, mesh: surface, solid: { young, poisson }, strain }];
      }),
      ...(withFeed ? (frozen.feed ?? []) : []).map((piece, k) => ({
        id: `feed ${k + 1}`,
        mesh: feedBody(piece),
        solid: plastic,
        strain: piece.strain,
        feed: true as const,
      })),
    ],
    supports: supports.flatMap(({ position, holds }) =>
      (['x', 'y', 'z'] as const).flatMap((axis, d) =>
        holds[axis]
          ? [{ position, direction: [0, 1, 2].map((k) => (k === d ? 1 : 0)) as [number, number, number] }]
          : [],
      ),
    ),
    detail: detail ?? inputs.detail,
    large,
    surface: refine(mesh, SURFACE_EDGE * grid.spacing),
  };
}

export async function shapeOf(
  input: WarpInput,
  shot: ShotStrain,
  gridKey: string,
  inputs: Inputs,
  ctx: StageContext,
): Promise<ShapeOutcome> {
  const outcome = await runWarp(input, ctx);
  if (outcome.status === 'failed') return outcome;
  const { result } = outcome;
  const facts = shapeFacts(input.surface, result, warpageOf(inputs));
  return { status: 'solved', shape: { facts, fields: fieldsOfShape(result, gridKey), input, shot, result } };
}

function fieldsOfShape(result: WarpResult, gridKey: string): Field[] {
  const { byCause, inserts, skinStress, coreStress, shrinkage } = result;
  const one = (id: KnownField, values: Float32Array) => makeField(id, FIELD_TABLE[id], gridKey, [values]);
  const positive = (values: Float32Array) => values.map((v) => -v);
  return [
    one('displacement', result.displacement),
    one('moved-shrinkage', byCause.shrinkage),
    one('moved-cooling', byCause.cooling),
    one('moved-corner', byCause.corner),
    one('moved-thickness', byCause.thickness),
    ...(byCause.large.some((u) => u !== 0) ? [one('moved-large', byCause.large)] : []),
    ...(byCause.insert.some((u) => u !== 0) ? [one('moved-insert', byCause.insert)] : []),
    one('skinStress', skinStress),
    one('vonMises', stresses(skinStress)),
    one('vonMisesCore', stresses(coreStress)),
    one('principalStress', principal(skinStress, 'largest')),
    one('leastPrincipal', principal(skinStress, 'least')),
    one('shrinkageAlong', positive(shrinkage.inPlane)),
    one('shrinkageAcross', positive(shrinkage.across)),
    ...(inserts.length
      ? [
          one('insertMoved', together(inserts.map((i) => i.displacement))),
          one('insertStress', together(inserts.map((i) => i.stress))),
        ]
      : []),
  ];
}

/** Surfaces of the inserts in one, in the order of their fields; null without inserts. */
export const insertSurface = ({ inserts }: WarpResult): TriangleMesh | null =>
  inserts.length ? joined(inserts.map((i) => i.surface)) : null;

function together(parts: readonly Float32Array[]): Float32Array {
  const all = new Float32Array(parts.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const part of parts) {
    all.set(part, at);
    at += part.length;
  }
  return all;
}

const meanOf = (values: ArrayLike<number>) => {
  let sum = 0;
  for (let i = 0; i < values.length; i++) sum += values[i];
  return sum / values.length;
};
