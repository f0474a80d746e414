import { makeField, type Field } from '../fields/field';
import { plasticSolid } from '../material/solid';
import type { Resolved } from '../setup/resolve';
import { FIELD_TABLE, type KnownField } from '../fields/table';
import { packArrays, unpackArrays } from '../formats/arrays';
import type { TriangleMesh, Vec3 } from '../geometry/mesh';
import { standInMesh } from '../model/standIn';
import { distance } from '../geometry/vec';
import { joined } from '../geometry/shells';
import { warpageOf } from '../model/warpage';
import type { Inputs } from '../model/study';
import { drawnSurface } from '../grid/drawnSurface';
import { corePlace } from '../results/coreFacts';
import type { CoreFound, FibresFound } from '../results/shotFound';
import { fibreStrains } from '../solvers/warp/orientedStrain';
import { orientedWalls } from '../solvers/fibres/orientedWalls';
import type { PerNode } from '../solvers/shot/located';
import { principal, shapeFacts, stresses, type ShapeFacts } from '../results/shape';
import {
  insertStrain,
  runWarp,
  type EarlierWalls,
  type PlasticResult,
  type WarpInput,
  type WarpResult,
} from '../solvers/warp/stage';
import type { Solid } from '../solvers/warp/solid';
import type { LaidInsert } from '../setup/behind';
import type { PackResult } from '../solvers/pack/outcome';
import { layerStrainOf, nodeShrinkage, type LayerStrain } from '../solvers/warp/strainField';
import type { FeedStrain } from '../solvers/pack/wallStrain';
import type { Mould } from '../setup/mould';
import type { GridResult } from '../setup/grids';
import type { FillSettings } from '../setup/settings';
import type { StageContext } from '../stage/context';
import type { PressureGrid } from '../grid/pressureGrid';
import { ATMOSPHERE, ROOM, specificVolume } from '../material/pvt';
import type { Resin } from '../model/resin';
import { layerShares } from '../solvers/melt/layers';
import type { ShotRun } from './shotRun';

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
  /** Place of the face of a core through the wall of every node (0 .. 1); null: the part is solid. */
  core: Float32Array | null;
  /** Directions of fibres; null: none were followed. */
  fibres: FibresFound | null;
}

/** Of a shot that packed; null where its layers were not followed. */
export function shotStrainOf(
  { frozen, node }: Pick<PackResult, 'frozen' | 'node'>,
  settings: FillSettings,
  mould: Mould | null,
  core: { found: CoreFound; grid: PressureGrid } | null = null,
  fibres: FibresFound | null = null,
): ShotStrain | null {
  const mouldTemperature = mould ? meanOf(mould.source.wallTemperature) : settings.mouldTemperature;
  return (
    frozen && {
      frozen: layerStrainOf(frozen),
      volumetric: node.shrinkage,
      mouldTemperature,
      core: core && facesOf(core),
      fibres,
    }
  );
}

const facesOf = ({ found, grid }: { found: CoreFound; grid: PressureGrid }) =>
  Float32Array.from(found.node.volume, (v, i) => corePlace(grid, i, v / grid.volume[i]));

/** A shot's strain as bytes, and back. */
export const packShotStrain = ({ frozen, volumetric, mouldTemperature, core, fibres }: ShotStrain): Uint8Array => {
  const { nLayers, inPlane, mean, uneven, heldAlong, feed } = frozen;
  return packArrays(
    { nLayers, mouldTemperature, feed },
    {
      inPlane,
      mean,
      uneven,
      heldAlong,
      volumetric,
      ...(core ? { core } : {}),
      ...(fibres ? { orientation: fibres.orientation, across: fibres.across } : {}),
      ...(fibres?.share ? { fibreShare: fibres.share } : {}),
      ...(fibres?.lengths ? { lengthByNumber: fibres.lengths.byNumber, lengthByWeight: fibres.lengths.byWeight } : {}),
    },
  );
};

export function unpackShotStrain(buffer: ArrayBuffer): ShotStrain {
  const { meta, arrays } = unpackArrays(buffer);
  const { nLayers, mouldTemperature, feed } = meta as Pick<LayerStrain, 'nLayers' | 'feed'> & {
    mouldTemperature: number;
  };
  const { inPlane, mean, uneven, heldAlong, volumetric, core = null } = arrays as Record<string, Float32Array>;
  const fibres = unpackFibres(nLayers, arrays as Partial<Record<string, PerNode>>);
  return { frozen: { nLayers, inPlane, mean, uneven, heldAlong, feed }, volumetric, mouldTemperature, core, fibres };
}

function unpackFibres(nLayers: number, arrays: Partial<Record<string, PerNode>>): FibresFound | null {
  const { orientation, across, fibreShare, lengthByNumber: byNumber, lengthByWeight: byWeight } = arrays;
  if (!orientation || !across) return null;
  return {
    nLayers,
    orientation,
    across,
    ...(fibreShare ? { share: fibreShare } : {}),
    ...(byNumber && byWeight ? { lengths: { byNumber, byWeight } } : {}),
  };
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

/** Plastic of an earlier shot in the structure. */
export interface EarlierPlastic {
  id: string;
  mesh: TriangleMesh;
  solid: Solid;
  walls: EarlierWalls;
}

/** Everything the structure needs. */
export function warpInputOf(
  { mesh, inputs, settings }: Pick<Resolved, 'mesh' | 'inputs' | 'settings'>,
  { fine, grid }: GridResult,
  { frozen, volumetric, mouldTemperature, core, fibres }: ShotStrain,
  inserts: readonly LaidInsert[],
  earlier: readonly EarlierPlastic[] = [],
): WarpInput {
  const { supports, detail, withFeed, large } = warpageOf(inputs);
  const plastic = plasticSolid(settings.resin);
  return {
    part: mesh,
    fine,
    grid,
    frozen,
    volumetric,
    ...(core ? { core } : {}),
    ...(fibres && settings.fibres ? { oriented: orientedWalls(fibres, settings.fibres) } : {}),
    plastic,
    inserts: [
      ...earlier.map(({ id, mesh, solid, walls }) => ({ id, mesh, solid, strain: walls.already, walls })),
      ...inserts
        .filter((i) => i.contact === 'bonded')
        .map(({ id, mesh, material: { solid, expansion } }) => {
          return { id, mesh, solid, strain: insertStrain(expansion, mouldTemperature) };
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
    surface: drawnSurface(mesh, grid.spacing),
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

/** Plastic of an earlier shot for the structure of all of them; null where its layers were not followed. */
export function earlierPlastic({ number, run, gridResult, shot, mould }: ShotRun): EarlierPlastic | null {
  const { mesh, settings } = run;
  const { fine, grid } = gridResult;
  const strain = shot.pack && shotStrainOf(shot.pack, settings, mould);
  if (!strain || !shot.left) return null;
  const { mean } = nodeShrinkage(grid, strain.frozen, strain.volumetric);
  return {
    id: shotBody(number),
    mesh,
    solid: plasticSolid(settings.resin),
    walls: {
      fine,
      grid,
      frozen: strain.frozen,
      volumetric: strain.volumetric,
      surface: drawnSurface(mesh, grid.spacing),
      already: mean - stillToCome(grid, shot.left.temperature, settings.resin),
    },
  };
}

/** Id of the plastic of a shot among the bodies of the structure. */
export const shotBody = (number: number): string => `shot ${number}`;

/** Mean linear strain from the temperatures of the layers to the room. Soft layers shrink from where they set. */
function stillToCome(grid: PressureGrid, temperature: Float64Array, { pvt, transitionTemperature }: Resin): number {
  const layers = temperature.length / grid.n;
  const shares = layerShares(layers);
  const room = specificVolume(pvt, ROOM, ATMOSPHERE);
  let [sum, volume] = [0, 0];
  for (let i = 0; i < grid.n; i++) {
    for (let l = 0; l < layers; l++) {
      const T = Math.min(temperature[i * layers + l], transitionTemperature);
      sum += grid.volume[i] * shares[l] * (Math.cbrt(room / specificVolume(pvt, T, ATMOSPHERE)) - 1);
    }
    volume += grid.volume[i];
  }
  return sum / volume;
}

/** The shape of one shot within that of all of them, and the surface it is known at. */
export interface OwnShape extends Pick<Shape, 'facts' | 'fields'> {
  result: PlasticResult;
  surface: TriangleMesh;
}

/** The shape of an earlier shot within that of all of them; null where it is none of the structure. */
export function earlierShape({ result }: Shape, number: number, gridKey: string, inputs: Inputs): OwnShape | null {
  const own = result.inserts.find((i) => i.id === shotBody(number));
  if (!own?.plastic) return null;
  const whole = { ...result, ...own.plastic, inserts: [] };
  return {
    facts: shapeFacts(own.surface, whole, warpageOf(inputs)),
    fields: fieldsOfPlastic(own.plastic, gridKey),
    result: own.plastic,
    surface: own.surface,
  };
}

function fieldsOfShape(result: WarpResult, gridKey: string): Field[] {
  const inserts = result.inserts.filter((i) => !i.plastic);
  const one = (id: KnownField, values: Float32Array) => makeField(id, FIELD_TABLE[id], gridKey, [values]);
  return [
    ...fieldsOfPlastic(result, gridKey),
    ...(inserts.length
      ? [
          one('insertMoved', together(inserts.map((i) => i.displacement))),
          one('insertStress', together(inserts.map((i) => i.stress))),
        ]
      : []),
  ];
}

function fieldsOfPlastic(
  { displacement, byCause, skinStress, coreStress, shrinkage, bond }: PlasticResult,
  gridKey: string,
): Field[] {
  const one = (id: KnownField, values: Float32Array) => makeField(id, FIELD_TABLE[id], gridKey, [values]);
  const mean = ([a, b]: readonly number[]) => (a + b) / 2;
  const known = (values: Float32Array) => values.some((v) => v === v);
  return [
    one('displacement', displacement),
    one('moved-shrinkage', byCause.shrinkage),
    one('moved-cooling', byCause.cooling),
    one('moved-corner', byCause.corner),
    one('moved-thickness', byCause.thickness),
    ...(byCause.oriented.some((u) => u !== 0) ? [one('moved-oriented', byCause.oriented)] : []),
    ...(byCause.large.some((u) => u !== 0) ? [one('moved-large', byCause.large)] : []),
    ...(byCause.insert.some((u) => u !== 0) ? [one('moved-insert', byCause.insert)] : []),
    ...(byCause.shot.some((u) => u !== 0) ? [one('moved-shot', byCause.shot)] : []),
    one('skinStress', skinStress),
    one('vonMises', stresses(skinStress)),
    one('vonMisesCore', stresses(coreStress)),
    one('principalStress', principal(skinStress, 'largest')),
    one('leastPrincipal', principal(skinStress, 'least')),
    one(
      'shrinkageAlong',
      shrinkage.inPlane.map((_, i) => -mean(fibreStrains(shrinkage, i))),
    ),
    one(
      'shrinkageAcross',
      shrinkage.across.map((v, i) => -v - (shrinkage.oriented?.across[i] ?? 0)),
    ),
    ...(shrinkage.oriented
      ? [
          one(
            'shrinkageOnFibres',
            shrinkage.inPlane.map((_, i) => -fibreStrains(shrinkage, i)[0]),
          ),
          one(
            'shrinkageSquare',
            shrinkage.inPlane.map((_, i) => -fibreStrains(shrinkage, i)[1]),
          ),
        ]
      : []),
    ...(known(bond) ? [one('bondPull', everyOther(bond, 0)), one('bondShear', everyOther(bond, 1))] : []),
  ];
}

const everyOther = (pairs: Float32Array, from: 0 | 1) => pairs.filter((_, k) => k % 2 === from);

/** Surfaces of the inserts in one, in the order of their fields; null without inserts. */
export function insertSurface(result: WarpResult): TriangleMesh | null {
  const inserts = result.inserts.filter((i) => !i.plastic);
  return inserts.length ? joined(inserts.map((i) => i.surface)) : null;
}

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
