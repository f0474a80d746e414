import { execFile } from 'node:child_process';
import { existsSync } from 'node:fs';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { promisify } from 'node:util';
import { simplified } from '../cad/solids';
import type { TriangleMesh } from '../core/geometry/mesh';
import { volumeOf, type TetGrid, type TetMesher } from '../core/grid/tetGrid';

const TETGEN = process.env.TETGEN_PATH ?? '/usr/bin/tetgen';
/** Volume of the largest tetrahedra over that of a regular one of the edge: quadratic ones need no more than one through a wall. */
const LARGEST = 3;
/** Largest radius of a tetrahedron's sphere over its shortest edge. */
const QUALITY = 2;
/** What is smoothed away before, over the edge: slivers of a drawing would ask for as many slivers inside. */
const SMOOTHED = [4e-3, 4e-4, 0.02];
const LONGEST_MS = 120_000;
const run = promisify(execFile);

/**
 * The mesher of the package tetgen (constrained Delaunay tetrahedra, Si, ACM TOMS 41 (2015) 11), where it is installed: it
 * keeps faces, edges and volume as they are. One body; undefined where the package is missing.
 */
export const installedMesher = (): TetMesher | undefined => (existsSync(TETGEN) ? tetrahedra : undefined);

async function tetrahedra(
  bodies: readonly TriangleMesh[],
  edge: number,
  signal?: AbortSignal,
): Promise<TetGrid | null> {
  if (bodies.length > 1) return null;
  for (const share of SMOOTHED) {
    const surface = await simplified(bodies[0], share * edge);
    if (!surface) return null;
    const grid = await meshed(surface, edge, signal).catch(() => null);
    signal?.throwIfAborted();
    if (grid) return grid;
  }
  return null;
}

async function meshed(surface: TriangleMesh, edge: number, signal?: AbortSignal): Promise<TetGrid> {
  const dir = await mkdtemp(path.join(os.tmpdir(), 'bellows-tets-'));
  try {
    const file = path.join(dir, 'part.poly');
    await writeFile(file, polyOf(surface, edge));
    // In units of the edge.
    const largest = (LARGEST / (6 * Math.SQRT2)).toFixed(6);
    await run(TETGEN, [`-pQq${QUALITY}/0a${largest}`, file], { timeout: LONGEST_MS, signal });
    const [nodes, elements] = await Promise.all(
      ['node', 'ele'].map(async (kind) => numbers(await readFile(path.join(dir, `part.1.${kind}`), 'utf8'))),
    );
    const [nNodes, nTets] = [nodes[0], elements[0]];
    const positions = Float64Array.from(
      { length: 3 * nNodes },
      (_, i) => edge * nodes[4 + 4 * Math.floor(i / 3) + 1 + (i % 3)],
    );
    const tets = Int32Array.from({ length: 4 * nTets }, (_, i) => elements[3 + 5 * Math.floor(i / 4) + 1 + (i % 4)]);
    return { positions, tets: upright(positions, tets) };
  } finally {
    await rm(dir, { recursive: true, force: true });
  }
}

/** All numbers of a file of the mesher; comments start with #. */
const numbers = (text: string): number[] =>
  text
    .replace(/#.*/g, '')
    .split(/\s+/)
    .filter((w) => w)
    .map(Number);

function polyOf({ positions: p, triangles: t }: TriangleMesh, edge: number): string {
  const lines = [`${p.length / 3} 3 0 0`];
  for (let i = 0; i < p.length; i += 3) lines.push(`${i / 3} ${p[i] / edge} ${p[i + 1] / edge} ${p[i + 2] / edge}`);
  lines.push(`${t.length / 3} 0`);
  for (let i = 0; i < t.length; i += 3) lines.push('1', `3 ${t[i]} ${t[i + 1]} ${t[i + 2]}`);
  return [...lines, '0', '0', ''].join('\n');
}

/** Tetrahedra of positive volume. */
function upright(p: Float64Array, tets: Int32Array): Int32Array {
  for (let e = 0; e < tets.length; e += 4) {
    const [a, b, c, d] = tets.subarray(e, e + 4);
    if (volumeOf(p, a, b, c, d) < 0) [tets[e + 2], tets[e + 3]] = [d, c];
  }
  return tets;
}
