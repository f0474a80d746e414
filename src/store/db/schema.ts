import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';
import type { MeshReport } from '../../core/geometry/meshReport';
import type { Finding } from '../../core/geometry/finding';
import type { Material, MaterialKind } from '../../core/model/material';
import type { Inputs } from '../../core/model/study';
import type { Problem } from '../../core/pipeline/checkRun';
import type { Summary } from '../../core/results/summary';
import type { Answer } from '../../core/results/answer';
import type { VariantColour } from '../../core/model/variantMarks';
import type { RunStatus } from '../../runtime/wire';

const json = <T>(name: string) => text(name, { mode: 'json' }).$type<T>();
const time = (name: string) => integer(name, { mode: 'timestamp_ms' });

/** Stored surfaces, in metres. Bodies of the variants name them by hash. */
export const geometries = sqliteTable('geometries', {
  hash: text('hash').primaryKey(),
  report: json<MeshReport>('report').notNull(),
  findings: json<Finding[]>('findings').notNull(),
  createdAt: time('created_at').notNull(),
});

export const projects = sqliteTable('projects', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  createdAt: time('created_at').notNull(),
  changedAt: time('changed_at').notNull(),
  /** What is deleted is kept for a while, so that deleting can be undone: here, in variants and in runs. */
  deletedAt: time('deleted_at'),
});

export const variants = sqliteTable('variants', {
  id: text('id').primaryKey(),
  projectId: text('project_id')
    .notNull()
    .references(() => projects.id),
  parentId: text('parent_id'),
  name: text('name').notNull(),
  inputs: json<Inputs>('inputs').notNull(),
  /** What its maker says of it. */
  note: text('note').notNull().default(''),
  starred: integer('starred', { mode: 'boolean' }).notNull().default(false),
  colour: text('colour').$type<VariantColour>(),
  /** Grows with every change: a save names the one it was made on. */
  version: integer('version').notNull().default(1),
  createdAt: time('created_at').notNull(),
  deletedAt: time('deleted_at'),
});

export const runs = sqliteTable('runs', {
  id: text('id').primaryKey(),
  variantId: text('variant_id')
    .notNull()
    .references(() => variants.id),
  inputs: json<Inputs>('inputs').notNull(),
  inputKey: text('input_key').notNull(),
  status: text('status').$type<RunStatus>().notNull(),
  /** Nobody has asked for it: it stands back for those that somebody has. */
  aside: integer('aside', { mode: 'boolean' }).notNull().default(false),
  /** What went wrong, for failed runs. */
  problems: json<Problem[]>('problems'),
  summary: json<Summary>('summary'),
  answers: json<Answer[]>('answers'),
  /** Of the shots after the first, as far as they came. */
  later: json<{ summary: Summary; answers: Answer[] }[]>('later'),
  createdAt: time('created_at').notNull(),
  startedAt: time('started_at'),
  finishedAt: time('finished_at'),
  deletedAt: time('deleted_at'),
});

/** Materials that were copied, typed in, fitted or imported; the samples ship with the application. */
export const materials = sqliteTable('materials', {
  id: text('id').primaryKey(),
  kind: text('kind').$type<MaterialKind>().notNull(),
  material: json<Material>('material').notNull(),
  createdAt: time('created_at').notNull(),
  changedAt: time('changed_at').notNull(),
});

export type MaterialRow = typeof materials.$inferSelect;
export type GeometryRow = typeof geometries.$inferSelect;
export type ProjectRow = typeof projects.$inferSelect;
export type VariantRow = typeof variants.$inferSelect;
export type RunRow = typeof runs.$inferSelect;
