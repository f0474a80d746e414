import { makeField, type Field } from '../fields/field';
import type { TriangleMesh } from '../geometry/mesh';
import { refine } from '../geometry/refine';
import { DEFAULT_WARPAGE } from '../model/warpage';
import type { Inputs } from '../model/study';
import { SURFACE_EDGE } from '../results/surfaceMap';
import { principal, shapeFacts, stresses, type ShapeFacts } from '../results/shape';
import { insertStrain, runWarp, type WarpInput, type WarpResult } from '../solvers/warp/stage';
import type { PackResult } from '../solvers/pack/outcome';
import type { Mould } from './mould';
import type { GridResult } from './pipeline';
import type { FillSettings } from './settings';
import type { StageContext } from './stage';

/** The shape of a run: what it says, and what is shown of it. */
export interface Shape {
  facts: ShapeFacts;
  fields: Field[];
  input: WarpInput;
  result: WarpResult;
}

export type ShapeOutcome = { status: 'solved'; shape: Shape } | { status: 'failed'; message: string; likely: string };

/** Elasticity of the plastic, alike in all directions: the mean of along and across the flow. */
export const plasticSolid = ({ elastic }: FillSettings['resin']) => ({
  young: (elastic.E1 + elastic.E2) / 2,
  poisson: elastic.nu12,
});

/** Everything the structure needs of a shot that packed. */
export function warpInputOf(
  mesh: TriangleMesh,
  { fine, grid }: GridResult,
  pack: Pick<PackResult, 'frozen' | 'shrinkage'>,
  inputs: Inputs,
  settings: FillSettings,
  mould: Mould | null,
  bodies: ReadonlyMap<string, TriangleMesh>,
): WarpInput | null {
  if (!pack.frozen) return null;
  const { supports, inserts, detail } = inputs.warpage ?? DEFAULT_WARPAGE;
  const mouldTemperature = mould ? meanOf(mould.source.wallTemperature) : settings.mouldTemperature;
  return {
    part: mesh,
    fine,
    grid,
    frozen: pack.frozen,
    volumetric: pack.shrinkage,
    plastic: plasticSolid(settings.resin),
    inserts: inserts.flatMap(({ body, young, poisson, expansion }) => {
      const surface = bodies.get(body);
      if (!surface) return [];
      const strain = insertStrain(expansion, mouldTemperature);
      return [{ id: body, mesh: surface, solid: { young, poisson }, strain }];
    }),
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
  gridKey: string,
  inputs: Inputs,
  ctx: StageContext,
): Promise<ShapeOutcome> {
  const outcome = await runWarp(input, ctx);
  if (outcome.status === 'failed') return outcome;
  const { result } = outcome;
  const { tolerance, toolScaled } = inputs.warpage ?? DEFAULT_WARPAGE;
  const facts = shapeFacts(input.surface, result, { tolerance, toolScaled });
  return { status: 'solved', shape: { facts, fields: fieldsOfShape(result, gridKey), input, result } };
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
    vertex('moved-corner', 'Displacement by the corner effect', 'm', byCause.corner, 3),
    vertex('moved-thickness', 'Displacement by thinner walls', 'm', byCause.thickness, 3),
  ];
  if (byCause.insert.some((u) => u !== 0))
    causes.push(vertex('moved-insert', 'Displacement by inserts', 'm', byCause.insert, 3));
  const positive = (values: Float32Array) => values.map((v) => -v);
  return [
    vertex('displacement', 'Displacement', 'm', result.displacement, 3),
    ...causes,
    vertex('skinStress', 'Stress tensor at the surface', 'Pa', result.skinStress, 6),
    vertex('vonMises', 'von Mises stress at the surface', 'Pa', stresses(result.skinStress)),
    vertex('vonMisesCore', 'von Mises stress in the middle of the wall', 'Pa', stresses(result.coreStress)),
    vertex('principalStress', 'Largest principal stress at the surface', 'Pa', principal(result.skinStress)),
    makeField('shrinkageAlong', 'Shrinkage along the wall', '', gridKey, [positive(result.shrinkage.inPlane)]),
    makeField('shrinkageAcross', 'Shrinkage across the wall', '', gridKey, [positive(result.shrinkage.across)]),
  ];
}

const meanOf = (values: ArrayLike<number>) => {
  let sum = 0;
  for (let i = 0; i < values.length; i++) sum += values[i];
  return sum / values.length;
};
