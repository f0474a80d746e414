import Module, { type Manifold, type ManifoldToplevel } from 'manifold-3d';
import { mapVertices, weld, type TriangleMesh, type Vec3 } from '../core/geometry/mesh';
import { dot, frameOn } from '../core/geometry/vec';
import { isClosed } from '../core/geometry/mend';
import { edgeTable } from '../core/geometry/edges';
import { findShells, subMesh } from '../core/geometry/shells';

/**
 * Booleans on closed surfaces. The package computes in single precision: coordinates go in as
 * millimetres and come back in metres.
 */
let loading: Promise<ManifoldToplevel> | null = null;

async function kernel(): Promise<ManifoldToplevel> {
  loading ??= Module().then((wasm) => {
    wasm.setup();
    return wasm;
  });
  return loading;
}

const MM = 1000;

function solid({ Manifold, Mesh }: ManifoldToplevel, mesh: TriangleMesh): Manifold | null {
  if (!isClosed(mesh)) return null;
  const made = new Mesh({
    numProp: 3,
    vertProperties: Float32Array.from(mesh.positions, (x) => MM * x),
    triVerts: mesh.triangles,
  });
  made.merge();
  try {
    const result = new Manifold(made);
    if (result.status() === 'NoError' && !result.isEmpty()) return result;
    result.delete();
  } catch {
    // Not a manifold: the caller keeps the surface as it is.
  }
  return null;
}

function surface(m: Manifold): TriangleMesh {
  const { vertProperties: v, triVerts, numProp } = m.getMesh();
  const soup = new Float64Array(3 * triVerts.length);
  for (let c = 0; c < triVerts.length; c++)
    for (let d = 0; d < 3; d++) soup[3 * c + d] = v[numProp * triVerts[c] + d] / MM;
  return weld(soup).mesh;
}

/** Surface of where a function of a place [m] is above 0, in a box, of facets of about an edge [m]. */
export async function levelSet(
  value: (p: Vec3) => number,
  { min, max }: { min: Vec3; max: Vec3 },
  edge: number,
): Promise<TriangleMesh> {
  const { Manifold } = await kernel();
  const inMm = (p: Vec3) => p.map((x) => MM * x) as Vec3;
  const made = Manifold.levelSet(
    (p) => MM * value([p[0] / MM, p[1] / MM, p[2] / MM]),
    { min: inMm(min), max: inMm(max) },
    MM * edge,
  );
  try {
    return surface(made);
  } finally {
    made.delete();
  }
}

/** Overlapping pieces of one surface joined into one skin; null when it is not closed or needs nothing. */
export async function joinShells(mesh: TriangleMesh): Promise<TriangleMesh | null> {
  const shells = findShells(mesh, edgeTable(mesh));
  if (shells.length < 2) return null;
  const wasm = await kernel();
  const pieces = shells.map((s) => solid(wasm, subMesh(mesh, s.triangles)));
  const good = pieces.filter((p) => p !== null);
  try {
    if (good.length < pieces.length) return null;
    const union = wasm.Manifold.union(good);
    const result = surface(union);
    union.delete();
    return result;
  } finally {
    good.forEach((p) => p.delete());
  }
}

/** A closed surface without vertices and slivers that change it by less than `tolerance` [m]; null when it is not closed. */
export async function simplified(mesh: TriangleMesh, tolerance: number): Promise<TriangleMesh | null> {
  const own = solid(await kernel(), mesh);
  if (!own) return null;
  const plain = own.simplify(MM * tolerance);
  const result = plain.isEmpty() ? null : surface(plain);
  plain.delete();
  own.delete();
  return result;
}

/** Volume two closed surfaces share, m3; null when one of them is not closed. */
export async function sharedVolume(a: TriangleMesh, b: TriangleMesh): Promise<number | null> {
  return pair(a, b, (A, B) => {
    const both = A.intersect(B);
    const volume = both.volume() / MM ** 3;
    both.delete();
    return volume;
  });
}

/** a without b, or both as one; null when one is not closed or nothing is left. */
export async function combine(a: TriangleMesh, b: TriangleMesh, how: 'cut' | 'join'): Promise<TriangleMesh | null> {
  return pair(a, b, (A, B) => {
    const result = how === 'cut' ? A.subtract(B) : A.add(B);
    const mesh = result.isEmpty() ? null : surface(result);
    result.delete();
    return mesh;
  });
}

async function pair<T>(a: TriangleMesh, b: TriangleMesh, work: (A: Manifold, B: Manifold) => T): Promise<T | null> {
  const wasm = await kernel();
  const A = solid(wasm, a);
  const B = solid(wasm, b);
  try {
    return A && B ? work(A, B) : null;
  } finally {
    A?.delete();
    B?.delete();
  }
}

/** Area of the shadow of closed surfaces along a unit vector, m2; null when one of them is not closed. */
export async function projectedArea(meshes: readonly TriangleMesh[], along: Vec3 = [0, 0, 1]): Promise<number | null> {
  const wasm = await kernel();
  const frame = frameOn(along);
  const solids = meshes.map((m) =>
    solid(
      wasm,
      mapVertices(m, (v) => frame.map((e) => dot(e, v)) as Vec3),
    ),
  );
  try {
    const good = solids.filter((s) => s !== null);
    if (good.length < solids.length || !good.length) return null;
    const all = wasm.Manifold.union(good);
    const outline = all.project();
    const area = outline.area() / MM ** 2;
    outline.delete();
    all.delete();
    return area;
  } finally {
    solids.forEach((s) => s?.delete());
  }
}
