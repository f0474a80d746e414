/**
 * `npm run kernels`: compiles assembly/*.ts to WebAssembly and embeds it as base64, so that the core
 * loads it without reading files. The result is committed; a test compares it with a fresh one.
 */
import { writeFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import asc from 'assemblyscript/asc';

const root = fileURLToPath(new URL('..', import.meta.url));

/** Kernels whose memory a second thread works in, too. */
const SHARED = ['elastic'];

/** Base64 of the compiled kernel. */
export async function compileKernel(name) {
  const { error, stderr, binary } = await asc
    .main(
      [
        `assembly/${name}.ts`,
        '-O3',
        '--noAssert',
        '--enable',
        'simd',
        '--runtime',
        'stub',
        '--importMemory',
        ...(SHARED.includes(name) ? ['--enable', 'threads', '--sharedMemory', '--maximumMemory', '65536'] : []),
        '--outFile',
        'kernel.wasm',
      ],
      { baseDir: root, writeFile: (_file, contents) => (compileKernel.binary = contents) },
    )
    .then((result) => ({ ...result, binary: compileKernel.binary }));
  if (error) throw new Error(String(stderr));
  return Buffer.from(binary).toString('base64');
}

/** Where each kernel is embedded, and under which name. */
const KERNELS = {
  multigrid: ['src/core/numerics/multigridKernel.ts', 'MULTIGRID_KERNEL'],
  elastic: ['src/core/solvers/warp/elasticKernel.ts', 'ELASTIC_KERNEL'],
  walls: ['src/core/solvers/pack/wallsKernel.ts', 'WALLS_KERNEL'],
  columns: ['src/core/solvers/melt/columnsKernel.ts', 'COLUMNS_KERNEL'],
  fibres: ['src/core/material/fibres/fibresKernel.ts', 'FIBRES_KERNEL'],
};

if (process.argv[1] === fileURLToPath(import.meta.url))
  for (const [name, [file, constant]] of Object.entries(KERNELS)) {
    const text = await compileKernel(name);
    writeFileSync(
      root + file,
      `/** Compiled from assembly/${name}.ts by \`npm run kernels\`; do not edit. */\nexport const ${constant} =\n  '${text}';\n`,
    );
    console.log(`${name}: ${Buffer.from(text, 'base64').length} bytes`);
  }
