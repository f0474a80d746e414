import { readFileSync, writeFileSync } from 'node:fs';
import { describeIssues } from '../core/model/studyFile';
import { caseFileSchema, runCases, valuesOf, type CaseResult } from '../../verification/runner';

/** A file of cases that can not be read: printed as it is. */
export class CaseFileError extends Error {}

const short = (x: number) => (Number.isFinite(x) ? Number(x.toPrecision(6)).toString() : String(x));
const offOf = (measured: number, expected: number) =>
  expected === 0 ? short(measured) : `${(100 * (measured / expected - 1)).toFixed(2)} %`;

/** Prints a case: failing rows in full, or all with `all`. */
function print({ id, lie, built, rows, error }: CaseResult, all: boolean): void {
  if (!built) return console.log(`${id}: not built`);
  if (error) return console.log(`${id}, ${lie}: could not be run: ${error}`);
  const measured = rows.filter((r) => r.measured);
  const missing = rows.length - measured.length;
  const passed = measured.filter((r) => r.pass).length;
  console.log(
    `${id}, ${lie}: ${passed} of ${measured.length} rows pass${missing ? `, ${missing} rows are of quantities that are not built` : ''}`,
  );
  for (const { row, measured: found, limit, pass } of measured) {
    if (!found) continue;
    const at = row.at ? ` ${JSON.stringify(row.at)}` : '';
    const line = `${row.q}${at}: ${short(found.value)}, expected ${short(row.value)} ± ${short(limit)} ${row.unit} (${offOf(found.value, row.value)})`;
    if (all || !pass) console.log(`  ${pass ? 'passes' : 'FAILS '} ${line}`);
    if (found.beside !== undefined)
      console.log(`  on the grid ${row.q}${at}: ${short(found.beside)} (${offOf(found.beside, row.value)})`);
  }
}

/**
 * Runs a file of reference cases through functions and stages.
 *
 * @returns whether every row that is built passed
 * @throws CaseFileError when the file is no file of cases
 */
export async function verify(file: string, options: { turned?: true; all?: true; out?: string }): Promise<boolean> {
  let json: unknown;
  try {
    json = JSON.parse(readFileSync(file, 'utf8'));
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code) throw error;
    throw new CaseFileError(`${file} is no valid JSON: ${(error as Error).message}`);
  }
  const parsed = caseFileSchema.safeParse(json);
  if (!parsed.success) throw new CaseFileError(`${file} is no file of cases:\n${describeIssues(parsed.error, json)}`);
  const results = await runCases(parsed.data.cases, { turned: options.turned === true }, (r) =>
    print(r, options.all === true),
  );
  const rows = results.flatMap((r) => r.rows);
  const measured = rows.filter((r) => r.measured);
  const failed = measured.filter((r) => !r.pass).length;
  const notBuilt = [...new Set(results.filter((r) => !r.built).map((r) => r.id))];
  const broken = results.filter((r) => r.error).length;
  console.log(`\n${measured.length - failed} rows pass, ${failed} fail, ${broken} cases could not be run`);
  if (notBuilt.length) console.log(`Not built: ${notBuilt.join(', ')}`);
  if (options.out) writeFileSync(options.out, `${JSON.stringify(valuesOf(results), null, 1)}\n`);
  return failed === 0 && broken === 0;
}
