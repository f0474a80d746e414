import type { TriangleMesh, Vec3 } from '../geometry/mesh';
import { add } from '../geometry/vec';
import { behindWalls, type BehindWalls, type Beyond, type Passage } from '../grid/behindWalls';
import type { PressureGrid } from '../grid/pressureGrid';
import { PointMapper } from '../grid/surfaceMap';
import { sideOfNormal } from '../grid/wallSides';
import type { Contact } from '../model/insert';
import { insertChoice } from '../model/shots';
import { mouldedInserts, type Inputs } from '../model/study';
import type { BehindMaterial, BehindMemory, BehindSpec } from '../solvers/melt/behind';
import { EDGES, HALF_LAYERS } from '../solvers/melt/layers';
import { behindSpec, type Slab, type Stack } from '../solvers/melt/stacks';
import type { GridResult } from './grids';
import { insertMaterial, type InsertMaterial } from './insertMaterial';
import type { FillSettings } from './settings';

/** An insert as a run reads it. */
export interface LaidInsert {
  id: string;
  name: string;
  mesh: TriangleMesh;
  material: InsertMaterial;
  /** When the mould closes, K. */
  temperature: number;
  contact: Contact;
  held: readonly (readonly [number, number, number])[];
}

/** Inserts of a study with their surfaces by the ids of their bodies. Materials that no library has are left out: check first. */
export function laidInserts(
  inputs: Inputs,
  bodies: ReadonlyMap<string, TriangleMesh>,
  mouldTemperature: number,
): LaidInsert[] {
  return mouldedInserts(inputs).flatMap(({ id, name }) => {
    const choice = insertChoice(inputs, id);
    const mesh = bodies.get(id);
    const material = insertMaterial(choice.material);
    if (!mesh || !material) return [];
    const temperature = choice.temperature ?? mouldTemperature;
    return [{ id, name, mesh, material, temperature, contact: choice.contact, held: choice.held }];
  });
}

/** What an earlier shot has left in the mould for the one to come. */
export interface MouldedBefore {
  /** From 1. */
  number: number;
  mesh: TriangleMesh;
  gridResult: GridResult;
  /** Its plastic, the family of that, and its stiffness in the room, Pa. */
  material: BehindMaterial;
  family: string;
  young: number;
  nLayers: number;
  /** Layers of the part's own nodes when the mould closes again, K, length n * nLayers. */
  temperature: Float64Array;
  /** What lay behind its walls, as it is then; null: the mould alone. */
  behind: { walls: BehindWalls; spec: BehindSpec; memory: BehindMemory } | null;
}

/** What lies behind the walls of a shot: the geometry, the stacks, and which body each passage is. */
export interface Behinds {
  walls: BehindWalls;
  spec: BehindSpec;
  inserts: readonly LaidInsert[];
  before: readonly MouldedBefore[];
}

/** Insert or earlier shot that a body number stands for: inserts first. */
export const bodyBehind = ({ inserts, before }: Pick<Behinds, 'inserts' | 'before'>, body: number) =>
  body < inserts.length ? { insert: inserts[body] } : { before: before[body - inserts.length] };

/** Mould around a shot: temperature [K] at a side of a node (2 node + side). */
export type MouldAt = (side: number) => number;

/** What lies behind the walls of a part; null: the mould, everywhere. */
export function behindsOf(
  { mesh, gridResult }: { mesh: TriangleMesh; gridResult: GridResult },
  inserts: readonly LaidInsert[],
  before: readonly MouldedBefore[],
  settings: FillSettings,
  mouldAt: MouldAt,
): Behinds | null {
  if (!inserts.length && !before.length) return null;
  const { fine, grid } = gridResult;
  const walls = behindWalls(mesh, fine, grid, [...inserts.map((i) => i.mesh), ...before.map((b) => b.mesh)]);
  if (!walls.list.length) return null;
  const profiles = before.map((b) => new Profiles(b));
  const sideOf = new Int32Array(walls.list.length);
  walls.of.forEach((s, k) => {
    if (s >= 0) sideOf[s] = k;
  });
  const partners = walls.list.map((beyond, s) => partnerOf(walls, s, beyond));
  const { wallTransfer, detachedTransfer } = settings;
  const stacks = walls.list.map((beyond, s): Stack => {
    const { passages, melt } = beyond;
    const slabs = passages.map((passage, k): Slab => {
      const what = bodyBehind({ inserts, before }, passage.body);
      // Fresh melt wets plastic and fuses with it; whatever meets metal meets it as it meets the mould.
      const fused =
        what.before !== undefined && (k === 0 || bodyBehind({ inserts, before }, passages[k - 1].body).before);
      const half = melt && k === passages.length - 1 ? 0.5 : 1;
      const temperature = startOf(what, beyond, k, profiles, inserts.length);
      return {
        material: what.insert?.material.thermal ?? what.before!.material,
        plastic: what.insert?.material.plastic ?? true,
        thickness: half * passage.length,
        joint: fused ? Infinity : wallTransfer,
        temperature: (share) => temperature(half * share),
      };
    });
    const last = bodyBehind({ inserts, before }, passages[passages.length - 1].body);
    // Plastic has shrunk off the steel that it was moulded against.
    const contact = last.before ? Math.min(wallTransfer, detachedTransfer ?? wallTransfer) : wallTransfer;
    return {
      slabs,
      far: { temperature: mouldAt(sideOf[s]), transfer: melt ? 0 : contact },
      area: wallArea(gridResult.grid, sideOf[s]),
      ...(partners[s] === null ? {} : { partner: partners[s] }),
    };
  });
  return { walls, spec: behindSpec(stacks), inserts, before };
}

/** Area [m2] of the wall of a side (2 node + side): V / S of a section is its wall gap, and half of the surface is either side's. */
export const wallArea = ({ volume, wallGap }: PressureGrid, side: number): number =>
  volume[side >> 1] / (2 * wallGap[side >> 1]);

/** Stack on the other side of the last body, where another wall of the same melt is; null: none. */
function partnerOf({ of, list }: BehindWalls, s: number, { melt, passages }: Beyond): number | null {
  if (!melt) return null;
  const other = of[2 * melt.node + melt.side];
  if (other < 0 || other === s || !list[other].melt) return null;
  const last = (b: Beyond) => b.passages[b.passages.length - 1].body;
  return last(list[other]) === passages[passages.length - 1].body ? other : null;
}

/**
 * Start temperatures [K] through a body, by the share of the way: behind plastic of an earlier shot those that it has had
 * behind it; of plastic itself those of its own layers; of an insert the mean of what earlier shots have warmed it to, or
 * that with which it was laid in.
 */
function startOf(
  { insert }: ReturnType<typeof bodyBehind>,
  { passages, direction }: Beyond,
  k: number,
  profiles: readonly Profiles[],
  nInserts: number,
): (share: number) => number {
  const { body } = passages[k];
  for (const nearer of passages.slice(0, k).toReversed()) {
    const known = profiles[nearer.body - nInserts]?.behindIt(nearer, direction, body);
    if (known) return known;
  }
  if (!insert) return profiles[body - nInserts].through(passages[k], direction);
  const warmed = profiles.map((p) => p.insertMean(body)).findLast((T) => T !== null) ?? insert.temperature;
  return () => warmed;
}

/** Temperatures in plastic that was moulded before, and in what lay behind it. */
class Profiles {
  private readonly mapper: PointMapper;

  constructor(private readonly before: MouldedBefore) {
    const { fine, grid } = before.gridResult;
    this.mapper = new PointMapper(fine, grid);
  }

  private nodeOf({ entry }: Passage, direction: Vec3): number {
    const { spacing } = this.before.gridResult.grid;
    const inside = add(entry, direction, 0.25 * spacing);
    const node = this.mapper.nodeAt(...inside);
    return node < 0 ? this.mapper.nodeAt(...entry) : node;
  }

  /** Temperature [K] at a share of the way through, from where a passage enters. */
  through(passage: Passage, direction: Vec3): (share: number) => number {
    const { temperature, nLayers } = this.before;
    const node = this.nodeOf(passage, direction);
    if (node < 0) return () => this.mean;
    const at = node * nLayers;
    // The wall that is entered looks back at where the way comes from.
    const entered = sideOfNormal(-direction[0], -direction[1], -direction[2]);
    return (share) => {
      const place = 1 - 2 * share;
      const l = layerOf(Math.abs(place));
      if (nLayers === HALF_LAYERS) return temperature[at + l];
      const side = place >= 0 ? entered : 1 - entered;
      return temperature[at + (side === 0 ? HALF_LAYERS - 1 - l : HALF_LAYERS + l)];
    };
  }

  /** Temperatures [K] through a body that lay behind the wall that a way comes through; null where it did not. */
  behindIt(nearer: Passage, direction: Vec3, body: number): ((share: number) => number) | null {
    const { behind } = this.before;
    const node = behind ? this.nodeOf(nearer, direction) : -1;
    if (!behind || node < 0) return null;
    for (let h = 0; h < 2; h++) {
      const s = behind.walls.of[2 * node + h];
      const found = s < 0 ? null : this.slabOf(s, body);
      if (found) return found;
    }
    return null;
  }

  /** Temperatures through one body of a stack, by the share of the way; null where it has none of it. */
  private slabOf(s: number, body: number): ((share: number) => number) | null {
    const { walls, spec, memory } = this.before.behind!;
    const { passages, melt } = walls.list[s];
    const k = passages.findIndex((p) => p.body === body);
    if (k < 0) return null;
    const shared = melt !== null && k === passages.length - 1;
    const from = passages.slice(0, k).reduce((sum, p) => sum + p.length, 0);
    const length = passages[k].length * (shared ? 0.5 : 1);
    return (share) => {
      // Of a body between two walls each has half: the other half mirrors it.
      const part = !shared ? share : share <= 0.5 ? 2 * share : 2 * (1 - share);
      const depth = from + part * length;
      let j = spec.start[s];
      for (let at = spec.layer.thickness[j]; at < depth && j + 1 < spec.start[s + 1]; at += spec.layer.thickness[j])
        j++;
      return memory.temperature[j];
    };
  }

  /** Mean temperature [K] of an insert over all walls it lay behind; null where it lay behind none. */
  insertMean(body: number): number | null {
    const { behind } = this.before;
    if (!behind) return null;
    let [sum, n] = [0, 0];
    behind.walls.list.forEach(({ passages }, s) => {
      if (passages[0].body !== body) return;
      sum += this.stackMean(s);
      n++;
    });
    return n ? sum / n : null;
  }

  private stackMean(s: number): number {
    const { spec, memory } = this.before.behind!;
    let [sum, thickness] = [0, 0];
    for (let j = spec.start[s]; j < spec.start[s + 1]; j++) {
      sum += spec.layer.thickness[j] * memory.temperature[j];
      thickness += spec.layer.thickness[j];
    }
    return sum / thickness;
  }

  private get mean(): number {
    const { temperature } = this.before;
    return temperature.reduce((s, T) => s + T, 0) / temperature.length;
  }
}

function layerOf(place: number): number {
  let l = 0;
  while (l < HALF_LAYERS - 1 && EDGES[l + 1] < place) l++;
  return l;
}
