import { useQueries } from '@tanstack/react-query';
import { useMemo, useRef } from 'react';
import { unpackArrays } from '@/core/formats/arrays';
import type { SurfaceMap } from '@/core/grid/surfaceMap';
import { manifestSchema, type Manifest } from '@/runtime/manifest';
import type { BlockCells } from '@/viewer/BlockSlice';
import type { DrawMesh } from '@/viewer/surfaceGeometry';
import { readGrid, readSurface, type ViewGrid } from '@/core/formats/viewGrid';
import { queries, runBlob, runKey } from './queries';
import type { FieldId } from './view';

/** What a place on the page has asked for of a run's results, as far as it is there. Replaced, never changed. */
export interface RunData {
  surface: SurfaceMap | null;
  grid: ViewGrid | null;
  manifest: Manifest | null;
  /** Temperatures of the mould block. */
  block: BlockCells | null;
  /** Surfaces of inserts in one, m. */
  inserts: DrawMesh | null;
  /** Inserts as the melt bends them: 3 offsets a vertex, m. */
  moved: { mesh: DrawMesh; offset: Float32Array } | null;
  /** Fluid in the core as a body: when it came to each vertex, s, and its share of the section there. */
  core: { mesh: DrawMesh; times: Float32Array; shares: Float32Array } | null;
  fields: ReadonlyMap<FieldId, Float32Array>;
}

/** Parts of a result by their file, and how each is read. */
const PARTS = {
  surface: ['surface.bin', readSurface],
  grid: ['grid.bin', readGrid],
  manifest: ['manifest.json', (buffer) => manifestSchema.parse(JSON.parse(new TextDecoder().decode(buffer)))],
  block: [
    'block.bin',
    (buffer) => {
      const { x, y, z, cells } = unpackArrays(buffer).arrays as Record<string, Float32Array>;
      return { planes: [x, y, z], cells };
    },
  ],
  inserts: [
    'inserts.bin',
    (buffer) => {
      const { positions, triangles } = unpackArrays(buffer).arrays as Record<string, Float32Array>;
      return { positions, triangles: triangles as unknown as Uint32Array };
    },
  ],
  moved: [
    'moved.bin',
    (buffer) => {
      const { positions, triangles, displacement } = unpackArrays(buffer).arrays as Record<string, Float32Array>;
      return { mesh: { positions, triangles: triangles as unknown as Uint32Array }, offset: displacement };
    },
  ],
  core: [
    'core.bin',
    (buffer) => {
      const { positions, triangles, times, shares } = unpackArrays(buffer).arrays as Record<string, Float32Array>;
      return { mesh: { positions, triangles: triangles as unknown as Uint32Array }, times, shares };
    },
  ],
} as const satisfies {
  [P in Exclude<keyof RunData, 'fields'>]: readonly [string, (buffer: ArrayBuffer) => NonNullable<RunData[P]>];
};
export type ResultPart = keyof typeof PARTS;

export const MANIFEST: readonly ResultPart[] = ['manifest'];
/** The same with inserts moved. */
export const DRAWN_MOVED: readonly ResultPart[] = ['surface', 'grid', 'manifest', 'moved'];
/** A fluid in the core, with what a section needs of it. */
export const CORE: readonly ResultPart[] = ['core', 'grid'];
export const CORE_FIELDS: readonly FieldId[] = ['skinLeft', 'coreTime'];
/** What a field is drawn with. */
export const DRAWN: readonly ResultPart[] = ['surface', 'grid', 'manifest'];

export function partQuery(runId: string, part: ResultPart) {
  const [name, read] = PARTS[part];
  return runBlob<unknown>(runId, name, read);
}

export const fieldQuery = (runId: string, field: FieldId) =>
  runBlob(runId, `${field}.f32`, (buffer) => new Float32Array(buffer));

const NONE: readonly never[] = [];
const listOf = (text: string) => (text ? text.split(',') : []);

/**
 * Parts and fields of a run's results: read once for the whole page, kept while a place shows them. The same object
 * until something of it arrives; null without a run.
 */
export function useRunData(
  runId: string | null,
  parts: readonly ResultPart[],
  fields: readonly FieldId[] = NONE,
): RunData | null {
  const partsAsked = parts.join();
  const fieldsAsked = [...new Set(fields)].join();
  const asked = runId
    ? [...parts.map((p) => partQuery(runId, p)), ...listOf(fieldsAsked).map((f) => fieldQuery(runId, f))]
    : [];
  const arrived = useUnchanged(useQueries({ queries: asked }).map(({ data }) => data));
  return useMemo(() => {
    if (!runId) return null;
    const names = listOf(partsAsked);
    const there = Object.fromEntries(names.map((part, k) => [part, arrived[k] ?? null]));
    const ofFields = listOf(fieldsAsked).flatMap((field, k) => {
      const values = arrived[names.length + k] as Float32Array | undefined;
      return values ? [[field, values] as const] : [];
    });
    return { ...NOTHING_YET, ...there, fields: new Map(ofFields) };
  }, [runId, partsAsked, fieldsAsked, arrived]);
}

const NOTHING_YET: RunData = {
  surface: null,
  grid: null,
  manifest: null,
  block: null,
  inserts: null,
  moved: null,
  core: null,
  fields: new Map(),
};

/** The list of the last time as long as all of it is the same. */
export function useUnchanged<T>(list: readonly T[]): readonly T[] {
  const kept = useRef(list);
  if (list.length !== kept.current.length || list.some((x, k) => x !== kept.current[k])) kept.current = list;
  return kept.current;
}

/** The manifest of a run, where it has been read. */
export const manifestOf = (runId: string): Manifest | null =>
  queries.getQueryData<Manifest>(runKey(runId, PARTS.manifest[0])) ?? null;

/** Whether a result breaks bounds of its own: it is there to be looked at, not to be used. */
export const failsItsChecks = (runId: string | null): boolean => Boolean(runId && manifestOf(runId)?.breaches?.length);

/** What files made of a run that fails its checks begin their names with. */
export const fileMark = (runId: string | null): string => (failsItsChecks(runId) ? 'failed-checks-' : '');

export const FAILED_CHECKS = 'Fails its own checks: take no number from it.';
