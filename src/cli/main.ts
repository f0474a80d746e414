import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { Command, InvalidArgumentError } from 'commander';
import { fibresCsv } from '../core/results/fibreFields';
import { causesText } from '../core/results/causes';
import { compareRuns, comparedCsv, comparedText, MOST_COMPARED, type Compared } from '../core/results/compare';
import { historyCsv } from '../core/results/historyCsv';
import { FormatError } from '../core/formats/formatError';
import { writeStl } from '../core/formats/stl';
import { write3mf } from '../core/formats/threemf';
import { writeVtu } from '../core/formats/vtu';
import { RESINS, resinById } from '../core/material/library';
import { viscosity } from '../core/material/viscosity';
import { inputDifferences } from '../core/results/inputDifferences';
import { inNames } from '../core/model/names';
import { asShot } from '../core/model/shots';
import { describeIssues, inputsOf, studyFileSchema, takenOver, type StudyFile } from '../core/model/studyFile';
import { mendBody } from '../cad/mendBody';
import { readFile } from '../cad/readFile';
import { readGeometry } from '../cad/studyGeometry';
import type { TriangleMesh } from '../core/geometry/mesh';
import { joined } from '../core/geometry/shells';
import { checkBody, scaled } from '../core/pipeline/importPart';
import { causesBetween, causeStudy } from '../core/pipeline/causeStudy';
import { errorsOf } from '../core/pipeline/gridError';
import { runPipeline, type ShotOutcome } from '../core/pipeline/pipeline';
import { SOLVER_VERSION } from '../core/setup/version';
import { plainContext, type StageProgress } from '../core/stage/context';
import { format } from '../core/units/reader';
import { formatNumber } from '../core/units/units';
import { secondThreadFrom } from '../runtime/secondThread';
import { shapeFiles } from './shapeFiles';
import { UsageError } from './usageError';

const contextOfRun = () =>
  plainContext(progressLine(), undefined, () =>
    secondThreadFrom(new URL('../workers/second.worker.mjs', import.meta.url)),
  );

/** A study file with the surface of its part. */
async function readStudy(studyPath: string) {
  const text = readFileSync(studyPath, 'utf8');
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (error) {
    throw new UsageError(`${studyPath} is no valid JSON: ${(error as Error).message}`);
  }
  const parsed = studyFileSchema.safeParse(takenOver(json));
  if (!parsed.success) throw new UsageError(`${studyPath} is no valid study:\n${describeIssues(parsed.error, json)}`);
  const beside = (file: string) => readFileSync(path.resolve(path.dirname(studyPath), file));
  return { study: parsed.data, ...(await readGeometry(parsed.data, beside)) };
}

async function run(studyPath: string, options: { out: string; structure?: true }): Promise<void> {
  const { study, inputs, mesh, key, bodies } = await readStudy(studyPath);
  if (options.structure && inputs.upTo)
    throw new UsageError('There is no shape to write: let "stages" of the study end with "warp".');
  const outcome = await runPipeline(mesh, key, inputs, contextOfRun(), { bodies });
  process.stderr.write('\n');
  if (outcome.status === 'refused')
    throw new UsageError(inNames(inputs)(outcome.problems.map((p) => `${p.message} ${p.remedy}`).join('\n')));
  if (outcome.status === 'failed') throw new Error(`${outcome.message} ${outcome.likely}`);
  mkdirSync(options.out, { recursive: true });
  const shots = [outcome, ...outcome.later];
  const names = shots.flatMap((shot, k) => writeShot(shot, study, options.out, shots.length > 1 ? k + 1 : null));
  if (options.structure) {
    if (!outcome.shape) throw new UsageError('There is no shape to write: the answers say why.');
    if (shots.length > 1) throw new UsageError('Files of the structure are made of parts of one shot only.');
    const { elastic } = outcome.settings.resin;
    const files = await shapeFiles(outcome.shape, study.name, { ...elastic }, contextOfRun());
    const mark = markOf(outcome);
    for (const [name, content] of Object.entries(files)) writeFileSync(path.join(options.out, mark + name), content);
    names.push(...Object.keys(files).map((n) => mark + n));
  }
  console.log(`Results in ${options.out}: ${names.join(', ')}`);
  const wanted = 1 + (study.later?.length ?? 0);
  if (shots.length < wanted)
    console.error(`Shot ${shots.length} did not come to its end: those after it were not calculated.`);
  const breaches = shots.flatMap((s) => s.breaches);
  for (const b of breaches) console.error(`${b.message} ${b.remedy}`);
  if (breaches.length) console.error('The result fails its own checks: take no number from it.');
  if (breaches.length || shots.length < wanted) process.exitCode = 1;
}

/** A result that breaks its own bounds is written to be looked at, never under the name of one. */
const markOf = ({ breaches }: ShotOutcome): string => (breaches.length ? 'failed-checks.' : '');

/** Writes and tells what a shot came to; `number` null for the only one. Returns the names of its files. */
function writeShot(outcome: ShotOutcome, study: StudyFile, out: string, number: number | null): string[] {
  const named = inNames(asShot(inputsOf(study), number ?? 1));
  const mark = `${markOf(outcome)}${number && number > 1 ? `shot-${number}.` : ''}`;
  const write = (name: string, content: string | Uint8Array) =>
    writeFileSync(path.join(out, `${mark}${name}`), content);
  const { gateShares, ...scalars } = outcome.summary;
  const summary = {
    study: study.name,
    ...(number ? { shot: number } : {}),
    solver: SOLVER_VERSION,
    detail: study.detail,
    failedChecks: outcome.breaches,
    ...scalars,
    gateShares,
  };
  write('summary.json', `${JSON.stringify(summary, null, 2)}\n`);
  write('history.csv', historyCsv(outcome.history, outcome.gateIds.map(named)));
  const data = new Map(outcome.fields.map((f) => [f.id, Float32Array.from(f.data)]));
  const fibres = fibresCsv(outcome.gridResult.grid.centroid, data);
  if (fibres) write('fibres.csv', fibres);
  write('findings.json', `${JSON.stringify({ ...outcome.findings, gridError: outcome.gridError }, null, 2)}\n`);
  write('fields.vtu', writeVtu(outcome.gridResult.fine, outcome.gridResult.grid, outcome.fields));
  if (number) console.log(`Shot ${number}`);
  for (const answer of outcome.answers) {
    console.log(`${answer.question} ${answer.verdict.toUpperCase()}: ${named(answer.headline)}`);
    console.log(`  ${named(answer.key.label)}: ${answer.key.value} (${named(answer.key.note)})`);
    for (const reason of answer.why) console.log(`  ${named(reason)}`);
  }
  const files = ['summary.json', 'findings.json', 'history.csv', 'fields.vtu', ...(fibres ? ['fibres.csv'] : [])];
  return files.map((n) => mark + n);
}

/** Runs studies and prints their key numbers side by side, each against the first, and what they have otherwise. */
async function compare(studyPaths: string[], options: { csv?: string; quick?: true; causes?: true }): Promise<void> {
  if (studyPaths.length < 2 || studyPaths.length > MOST_COMPARED)
    throw new UsageError(`Two to ${MOST_COMPARED} studies are compared, not ${studyPaths.length}.`);
  const studies = await Promise.all(studyPaths.map(readStudy));
  const runs: Compared[] = [];
  const later: (Compared & { of: number })[][] = [];
  for (const [k, { inputs, mesh, key, bodies }] of studies.entries()) {
    const of = options.quick ? { ...inputs, detail: 'quick' as const } : inputs;
    const outcome = await runPipeline(mesh, key, of, contextOfRun(), { bodies });
    process.stderr.write('\n');
    const problem =
      outcome.status === 'refused'
        ? outcome.problems.map((p) => `${p.message} ${p.remedy}`).join('\n')
        : outcome.status === 'failed'
          ? `${outcome.message} ${outcome.likely}`
          : null;
    if (problem || !('summary' in outcome)) throw new UsageError(`${studyPaths[k]}: ${problem}`);
    const breaches = [outcome, ...outcome.later].flatMap((shot) => shot.breaches);
    if (breaches.length)
      throw new Error(`${studyPaths[k]} fails its own checks: ${breaches.map((b) => b.message).join(' ')}`);
    const { summary, answers, gridError } = outcome;
    const name = path.basename(studyPaths[k], '.study.json');
    runs.push({ name, summary, answers, errors: errorsOf(gridError) });
    outcome.later.forEach((shot, n) =>
      (later[n] ??= []).push({ ...shot, of: k, name, errors: errorsOf(shot.gridError) }),
    );
  }
  const rows = compareRuns(runs);
  console.log(comparedText(runs, rows));
  later.forEach((shot, n) => {
    const missing = runs.flatMap((r, k) => (shot.some((s) => s.of === k) ? [] : [r.name]));
    console.log(`\nShot ${n + 2}${missing.length ? `: none in ${missing.join(', ')}` : ''}`);
    if (shot.length > 1) console.log(comparedText(shot, compareRuns(shot)));
  });
  for (const [k, { inputs }] of studies.entries()) {
    if (!k) continue;
    console.log(`\n${runs[k].name} against ${runs[0].name}`);
    const differences = inputDifferences(studies[0].inputs, inputs);
    for (const d of differences) console.log(`  ${d.label}: ${d.from} → ${d.to}`);
    if (!differences.length) console.log('  the same inputs');
    if (options.causes && causesBetween(studies[0].inputs, inputs).length) {
      const detail = options.quick ? 'quick' : studies[0].inputs.detail;
      const ask = { inputs: studies[0].inputs, other: inputs, detail };
      const trials = await causeStudy(studies[0], studies[k], ask, contextOfRun());
      process.stderr.write('\n');
      if (trials.status === 'refused') throw new UsageError(`${trials.message} ${trials.remedy}`);
      console.log(`What did it? ${runs[k].name} against ${runs[0].name}, each change alone, at Detail ${detail}`);
      trials.report.shots.forEach((trial, n, { length }) => {
        if (length > 1) console.log(` Shot ${n + 1}`);
        console.log(causesText(trial));
      });
    }
  }
  if (options.csv) writeFileSync(options.csv, comparedCsv(runs, rows));
}

async function check(file: string): Promise<void> {
  const { bodies, metresPerUnit } = await readFile(path.basename(file), readFileSync(file));
  const unit = metresPerUnit ? `${formatNumber(1000 * metresPerUnit)} mm` : 'not given by the file';
  console.log(`${path.basename(file)}: ${bodies.length} ${bodies.length === 1 ? 'body' : 'bodies'}, unit ${unit}`);
  for (const body of bodies) {
    const { report, findings } = checkBody(body.mesh, body.nDropped);
    const size = report.bounds.max.map((m, d) => formatNumber(m - report.bounds.min[d], 4)).join(' x ');
    console.log(
      `${body.name}: ${report.nTriangles} triangles, ${size}, ${report.watertight ? 'watertight' : 'not watertight'}`,
    );
    for (const f of findings) console.log(`  ${f.severity}: ${f.message} ${f.remedy}`);
    if (findings.some((f) => f.severity === 'blocks')) process.exitCode = 1;
  }
}

/** Mends every body of a file; `out` is STL (all bodies together) or 3MF. The file is written even if faults are left. */
async function mend(file: string, out: string, options: { unit: keyof typeof UNITS }): Promise<void> {
  const kind = path.extname(out).toLowerCase();
  if (kind !== '.stl' && kind !== '.3mf')
    throw new UsageError(`${out} ends neither with .stl nor with .3mf: that is what mend writes.`);
  if (!(options.unit in UNITS))
    throw new UsageError(`The unit is one of ${Object.keys(UNITS).join(', ')}, not ${options.unit}.`);
  const { bodies, metresPerUnit } = await readFile(path.basename(file), readFileSync(file));
  const perUnit = metresPerUnit ?? UNITS[options.unit];
  const mended: { name: string; colour: string | null; mesh: TriangleMesh }[] = [];
  for (const { name, mesh } of bodies) {
    const { mesh: after, done, left } = await mendBody(mesh);
    console.log(`${name}: ${done.length ? done.join(', ') : 'nothing to mend'}`);
    if (left) {
      console.log(`  ${left} faulty ${left === 1 ? 'edge is' : 'edges are'} left: check says where.`);
      process.exitCode = 1;
    }
    mended.push({ name, colour: null, mesh: scaled(after, perUnit) });
  }
  const bytes = kind === '.stl' ? writeStl(joined(mended.map((b) => b.mesh)), 1 / perUnit) : write3mf(mended);
  writeFileSync(out, bytes);
  console.log(`Written: ${out}`);
}

/** Metres of a unit, for files that do not say theirs. */
const UNITS = { mm: 1e-3, cm: 1e-2, m: 1, in: 0.0254 };

function progressLine(): (p: StageProgress) => void {
  let last = '';
  return ({ stage, message }) => {
    const line = `${stage}: ${message}`;
    if (line === last) return;
    last = line;
    if (process.stderr.isTTY) process.stderr.write(`\r\x1b[K${line}`);
  };
}

function material(id: string | undefined, options: { at?: number[] }): void {
  if (!id) {
    for (const r of RESINS) console.log(`${r.id.padEnd(18)} ${r.family.padEnd(5)} ${r.name}, ${r.supplier}`);
    return;
  }
  const resin = resinById(id);
  if (!resin) throw new UsageError(`There is no resin "${id}". Known: ${RESINS.map((r) => r.id).join(', ')}`);
  if (!options.at) {
    console.log(JSON.stringify(resin, null, 2));
    return;
  }
  const [celsius, rate, megapascal] = options.at;
  const eta = viscosity(resin.viscosity, celsius + 273.15, megapascal * 1e6, rate);
  console.log(
    `${resin.name} (${resin.family}) at ${celsius} °C, ${rate} 1/s, ${megapascal} MPa: ${format(eta, 'Pa·s', 6)}`,
  );
}

const numbers = (text: string): number[] => {
  const list = text.split(',').map(Number);
  if (list.length < 2 || list.length > 3 || list.some((x) => !Number.isFinite(x)))
    throw new InvalidArgumentError(
      'give temperature [°C], shear rate [1/s] and, if wanted, pressure [MPa]: --at 230,1000,0',
    );
  return list.length === 2 ? [...list, 0] : list;
};

const program = new Command('bellows').description('Mould filling on the command line');
program
  .command('run')
  .argument('<study.json>', 'study file, see docs/study-file.md')
  .requiredOption('--out <folder>', 'folder for summary.json, history.csv and fields.vtu')
  .option('--structure', 'also shape.stl, counter-warped.stl and the structure as structure.inp and structure.vtu')
  .action(run);
program
  .command('compare')
  .argument('<studies...>', 'two to four study files; the others are held against the first')
  .description('runs them and prints key numbers side by side, and what they have otherwise')
  .option('--quick', 'all at Detail quick')
  .option('--causes', 'also what each of the changes does alone: a run for each')
  .option('--csv <file>', 'also as a table for other programs')
  .action(compare);
program
  .command('check')
  .argument('<file>', 'STL, OBJ, 3MF, STEP, IGES or BREP')
  .description('what the surface check finds; exit code 1 when a run is blocked')
  .action(check);
program
  .command('mend')
  .argument('<file>', 'STL, OBJ, 3MF, STEP, IGES or BREP')
  .argument('<out>', 'mended surface: .stl or .3mf')
  .description('closes holes, joins pieces, drops what is empty or double; exit code 1 when faults are left')
  .option('--unit <unit>', 'unit of a file that does not say: mm, cm, m or in', 'mm')
  .action(mend);
program
  .command('material')
  .argument('[id]', 'resin; without one the library is listed')
  .option('--at <T,rate,p>', 'viscosity at °C, 1/s and MPa', numbers)
  .action(material);

program
  .command('verify')
  .argument('<cases.json>', 'reference cases, see docs/verification.md')
  .description('cases through functions and stages; exit code 1 when a row fails')
  .option('--turned', 'also at four tilts')
  .option('--all', 'rows that pass, too')
  .option('--out <results.json>', 'measured values by case, in the order of its rows')
  .action(async (file: string, options: { turned?: true; all?: true; out?: string }) => {
    // A command for those who check the solvers: nothing of it is loaded for a run.
    const { verify, CaseFileError } = await import('./verify');
    try {
      if (!(await verify(file, options))) process.exitCode = 1;
    } catch (error) {
      throw error instanceof CaseFileError ? new UsageError(error.message) : error;
    }
  });

// Loaded only when they are asked for: a run needs no database.
program
  .command('backup')
  .argument('<file>', 'archive to write (.tar.gz)')
  .description('projects, results, surfaces and materials of the data folder as one file')
  .action(async (file: string) => (await import('./data')).backupTo(file));
program
  .command('restore')
  .argument('<file>', 'archive that backup has written')
  .description('brings a backup back; one that is not whole changes nothing')
  .option('--replace', 'in place of the projects that are there')
  .action(async (file: string, options: { replace?: true }) => (await import('./data')).restoreFrom(file, options));
program
  .command('doctor')
  .description('what is damaged or missing in the data folder; exit code 1 when something is')
  .action(async () => (await import('./data')).doctor());
program
  .command('passphrase')
  .description('sets the passphrase of the data folder, read from standard input')
  .option('--remove', 'none is asked for any more')
  .action(async (options: { remove?: true }) => (await import('./data')).passphrase(options));

try {
  await program.parseAsync();
} catch (error) {
  const expected = error instanceof UsageError || error instanceof FormatError;
  const missing = (error as NodeJS.ErrnoException).code === 'ENOENT';
  if (missing) console.error(`There is no file ${(error as NodeJS.ErrnoException).path}.`);
  else if (error instanceof FormatError) console.error(`${error.message} ${error.remedy}`);
  else console.error(expected ? (error as Error).message : error);
  process.exitCode = expected || missing ? 2 : 1;
}
