import { makeField, type Field } from '../fields/field';
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

/** Elasticity of the plastic, alike in all directions: the mean of along and across the flow. */
export const plasticSolid = ({ elastic }: FillSettings['resin']) => ({
  young: (elastic.E1 + elastic.E2) / 2,
  poisson: elastic.nu12,
});

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
  const { nLayers, inPlane, mean, feed } = frozen;
  return packArrays({ nLayers, mouldTemperature, feed }, { inPlane, mean, volumetric });
};

export function unpackShotStrain(buffer: ArrayBuffer): ShotStrain {
  const { meta, arrays } = unpackArrays(buffer);
  const { nLayers, mouldTemperature, feed } = meta as Pick<LayerStrain, 'nLayers' | 'feed'> & {
    mouldTemperature: number;
  };
  const { inPlane, mean, volumetric } = arrays as Record<string, Float32Array>;
  return { frozen: { nLayers, inPlane, mean, feed }, volumetric, mouldTemperature };
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
  mesh: TriangleMesh,
  { fine, grid }: GridResult,
  { frozen, volumetric, mouldTemperature }: ShotStrain,
  inputs: Inputs,
  settings: FillSettings,
  bodies: ReadonlyMap<string, TriangleMesh>,
): WarpInput {
  const { supports, inserts, detail, withFeed } = warpageOf(inputs);
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
  const vertex = (id: string, quantity: string, unit: string, values: Float32Array, components = 1): Field => ({
    ...makeField(id, quantity, unit, gridKey, [values], [], components),
    location: 'vertex',
  });
  const { byCause } = result;
  const causes = [
    vertex('moved-shrinkage', 'Displacement by uneven shrinkage', 'm', byCause.shrinkage, 3),
    vertex('moved-cooling', 'Displacement by uneven cooling', 'm', byCause.cooling, 3),
    vertex('moved-corner', 'Displacement by spring-in of corners', 'm', byCause.corner, 3),
    vertex('moved-thickness', 'Displacement by thinner walls', 'm', byCause.thickness, 3),
  ];
  if (byCause.insert.some((u) => u !== 0))
    causes.push(vertex('moved-insert', 'Displacement by inserts', 'm', byCause.insert, 3));
  const ofInserts = (id: string, quantity: string, unit: string, components: number, values: Float32Array): Field => ({
    ...makeField(id, quantity, unit, gridKey, [values], [], components),
    location: 'insert',
  });
  const inserts = result.inserts.length
    ? [
        ofInserts(
          'insertMoved',
          'Displacement of inserts',
          'm',
          3,
          together(result.inserts.map((i) => i.displacement)),
        ),
        ofInserts('insertStress', 'Stress tensor of inserts', 'Pa', 6, together(result.inserts.map((i) => i.stress))),
      ]
    : [];
  const positive = (values: Float32Array) => values.map((v) => -v);
  return [
    vertex('displacement', 'Displacement', 'm', result.displacement, 3),
    ...causes,
    vertex('skinStress', 'Stress tensor at the surface', 'Pa', result.skinStress, 6),
    vertex('vonMises', 'von Mises stress at the surface', 'Pa', stresses(result.skinStress)),
    vertex('vonMisesCore', 'von Mises stress in the middle of the wall', 'Pa', stresses(result.coreStress)),
    vertex('principalStress', 'Largest principal stress at the surface', 'Pa', principal(result.skinStress, 'largest')),
    vertex('leastPrincipal', 'Least principal stress at the surface', 'Pa', principal(result.skinStress, 'least')),
    makeField('shrinkageAlong', 'Shrinkage along the wall', '', gridKey, [positive(result.shrinkage.inPlane)]),
    makeField('shrinkageAcross', 'Shrinkage across the wall', '', gridKey, [positive(result.shrinkage.across)]),
    ...inserts,
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
