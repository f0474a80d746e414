import { installedMesher } from './tetgen';
import { existsSync, readFileSync } from 'node:fs';
import path from 'node:path';
import type { TriangleMesh } from '../core/geometry/mesh';
import type { Inputs } from '../core/model/study';
import { unpackShotStrain } from '../core/pipeline/shape';
import type { StageContext } from '../core/stage/context';
import { structureStudy } from '../core/pipeline/structureStudy';
import { writeFileAtomic } from './files';
import { surfacesOf } from './surfaces';
import { manifestSchema } from './manifest';
import type { StructureReport } from './wire';
import type { TrialsTask } from './protocol';

type Work = Extract<TrialsTask['ask'], { do: 'structure' }>;

const FILES = { deck: 'structure.inp', vtu: 'structure.vtu' } as const;

/**
 * Work on the shape of a stored run. What it makes lies in the run's folder: structure.inp, structure.vtu, or
 * counter.f32 (offset of the drawn surface's vertices) with counter.json (its steps).
 */
export async function structureWork(
  mesh: TriangleMesh,
  inputs: Inputs,
  { ask, runDir }: Work,
  bodyPaths: Readonly<Record<string, string>>,
  ctx: StageContext,
): Promise<{ status: 'found'; report: StructureReport } | { status: 'refused'; message: string; remedy: string }> {
  const inDir = (name: string) => path.join(runDir, name);
  const known = ask === 'counter' ? 'counter.json' : FILES[ask];
  if (existsSync(inDir(known)))
    return {
      status: 'found',
      report: ask === 'counter' ? (JSON.parse(readFileSync(inDir(known), 'utf8')) as StructureReport) : { file: known },
    };
  if (!existsSync(inDir('shot.bin')))
    return {
      status: 'refused',
      message: 'This run was made before strains were kept, or has no shape.',
      remedy: 'Run the study to Shape once more.',
    };
  const manifest = manifestSchema.safeParse(JSON.parse(readFileSync(inDir('manifest.json'), 'utf8')));
  const facts = manifest.data?.summary.shape;
  if (!manifest.success)
    return { status: 'refused', message: 'An earlier version made this run.', remedy: 'Run the study once more.' };
  if (!facts) return { status: 'refused', message: 'This run has no shape.', remedy: 'Run the study to Shape.' };
  const outcome = await structureStudy(
    {
      mesh,
      inputs,
      bodies: surfacesOf(bodyPaths),
      shot: unpackShotStrain(bytesOf(inDir('shot.bin'))),
      displacement: new Float32Array(bytesOf(inDir('displacement.f32'))),
      facts,
    },
    ask,
    ctx,
    installedMesher(),
  );
  if (outcome.status === 'refused') return outcome;
  if (outcome.status === 'file') {
    writeFileAtomic(inDir(known), outcome.text);
    return { status: 'found', report: { file: known } };
  }
  const { offset, steps } = outcome.result;
  writeFileAtomic(inDir('counter.f32'), new Uint8Array(offset.buffer, offset.byteOffset, offset.byteLength));
  writeFileAtomic(inDir(known), JSON.stringify({ steps }));
  return { status: 'found', report: { steps } };
}

function bytesOf(file: string): ArrayBuffer {
  const { buffer, byteOffset, byteLength } = readFileSync(file);
  return (buffer as ArrayBuffer).slice(byteOffset, byteOffset + byteLength);
}
