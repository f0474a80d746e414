import type { TriangleMesh } from './mesh';
import type { SurfaceTree } from './surfaceTree';

/**
 * Pairs of triangles of one surface that run through each other or lie on each other. Triangles that
 * merely touch do not count. `pairs`: two triangle numbers each; the search ends at `limit` pairs, or where so many
 * boxes lie in each other as in no surface: triangles stacked by the thousand, which its edges tell of.
 */
export function selfIntersections(mesh: TriangleMesh, tree: SurfaceTree, limit = 2000): Uint32Array {
  const { positions: p, triangles: t } = mesh;
  const found: number[] = [];
  const test = new TrianglePair(p, t);
  let left = Math.max(TESTED.least, (TESTED.each * t.length) / 3);
  tree.selfPairs((a, b) => {
    if (test.cross(a, b)) found.push(a, b);
    return found.length < 2 * limit && --left > 0;
  });
  return Uint32Array.from(found);
}

/** Pairs of triangles whose boxes touch, that are looked at: at least, and a triangle (ten to twenty are usual). */
const TESTED = { least: 2e7, each: 100 };

/** Distances below this share of a triangle's size count as touching: coordinates are often Float32. */
const TOUCH = 2e-6;

class TrianglePair {
  private readonly da = new Float64Array(3);
  private readonly db = new Float64Array(3);
  private readonly n = new Float64Array(3);

  constructor(
    private readonly p: Float64Array,
    private readonly t: Uint32Array,
  ) {}

  cross(a: number, b: number): boolean {
    const { t } = this;
    const b0 = t[3 * b];
    const b1 = t[3 * b + 1];
    const b2 = t[3 * b + 2];
    let shared = 0;
    for (let i = 3 * a; i < 3 * a + 3; i++) if (t[i] === b0 || t[i] === b1 || t[i] === b2) shared++;
    // Neighbours over an edge meet there and nowhere else, unless folded flat onto each other.
    if (shared >= 3) return false;
    const touch = this.planeDistances(a, b, this.db);
    if (touch < 0 || sameSide(this.db)) return touch >= 0 && flat(this.db) && this.coplanarOverlap(a, b, shared);
    if (shared === 2) return false;
    const other = this.planeDistances(b, a, this.da);
    if (other < 0 || sameSide(this.da)) return false;
    const strict = shared === 1;
    return this.edgesPierce(a, b, this.db, strict) || this.edgesPierce(b, a, this.da, strict);
  }

  /** Signed distances of b's corners from a's plane, small ones set to 0; -1 when a has no area. */
  private planeDistances(a: number, b: number, out: Float64Array): number {
    const { p, t, n } = this;
    const i = 3 * t[3 * a];
    const j = 3 * t[3 * a + 1];
    const k = 3 * t[3 * a + 2];
    const ux = p[j] - p[i];
    const uy = p[j + 1] - p[i + 1];
    const uz = p[j + 2] - p[i + 2];
    const vx = p[k] - p[i];
    const vy = p[k + 1] - p[i + 1];
    const vz = p[k + 2] - p[i + 2];
    n[0] = uy * vz - uz * vy;
    n[1] = uz * vx - ux * vz;
    n[2] = ux * vy - uy * vx;
    const length = Math.sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2]);
    const size = Math.sqrt(Math.max(ux * ux + uy * uy + uz * uz, vx * vx + vy * vy + vz * vz));
    if (length < 1e-9 * size * size) return -1;
    const tolerance = TOUCH * (size + this.size(b));
    for (let c = 0; c < 3; c++) {
      const q = 3 * t[3 * b + c];
      const d = (n[0] * (p[q] - p[i]) + n[1] * (p[q + 1] - p[i + 1]) + n[2] * (p[q + 2] - p[i + 2])) / length;
      out[c] = Math.abs(d) <= tolerance ? 0 : d;
    }
    return tolerance;
  }

  private size(b: number): number {
    const { p, t } = this;
    const i = 3 * t[3 * b];
    const j = 3 * t[3 * b + 1];
    const k = 3 * t[3 * b + 2];
    return Math.max(
      Math.abs(p[j] - p[i]) + Math.abs(p[j + 1] - p[i + 1]) + Math.abs(p[j + 2] - p[i + 2]),
      Math.abs(p[k] - p[i]) + Math.abs(p[k + 1] - p[i + 1]) + Math.abs(p[k + 2] - p[i + 2]),
    );
  }

  /** Whether an edge of b passes through a, given the distances d of b's corners from a's plane. */
  private edgesPierce(a: number, b: number, d: Float64Array, strict: boolean): boolean {
    const { p, t } = this;
    for (let e = 0; e < 3; e++) {
      const f = (e + 1) % 3;
      if (!(d[e] * d[f] < 0)) continue;
      const [i, j] = [3 * t[3 * b + e], 3 * t[3 * b + f]];
      const s = d[e] / (d[e] - d[f]);
      const x = p[i] + s * (p[j] - p[i]);
      const y = p[i + 1] + s * (p[j + 1] - p[i + 1]);
      const z = p[i + 2] + s * (p[j + 2] - p[i + 2]);
      if (this.contains(a, x, y, z, strict ? 1e-5 : -1e-6)) return true;
    }
    return false;
  }

  /** Point of a's plane within a, its barycentric coordinates all at least `margin`. */
  private contains(a: number, x: number, y: number, z: number, margin: number): boolean {
    const { p, t } = this;
    const [i, j, k] = [3 * t[3 * a], 3 * t[3 * a + 1], 3 * t[3 * a + 2]];
    const [ux, uy, uz] = [p[j] - p[i], p[j + 1] - p[i + 1], p[j + 2] - p[i + 2]];
    const [vx, vy, vz] = [p[k] - p[i], p[k + 1] - p[i + 1], p[k + 2] - p[i + 2]];
    const [wx, wy, wz] = [x - p[i], y - p[i + 1], z - p[i + 2]];
    const uu = ux * ux + uy * uy + uz * uz;
    const uv = ux * vx + uy * vy + uz * vz;
    const vv = vx * vx + vy * vy + vz * vz;
    const wu = wx * ux + wy * uy + wz * uz;
    const wv = wx * vx + wy * vy + wz * vz;
    const determinant = uu * vv - uv * uv;
    const s = (wu * vv - wv * uv) / determinant;
    const r = (wv * uu - wu * uv) / determinant;
    return s >= margin && r >= margin && s + r <= 1 - margin;
  }

  /** Two triangles in one plane that share some area. */
  private coplanarOverlap(a: number, b: number, shared: number): boolean {
    const { p, t, n } = this;
    this.planeDistances(a, b, this.db);
    const axis =
      Math.abs(n[0]) > Math.abs(n[1])
        ? Math.abs(n[0]) > Math.abs(n[2])
          ? 0
          : 2
        : Math.abs(n[1]) > Math.abs(n[2])
          ? 1
          : 2;
    const [u, v] = [(axis + 1) % 3, (axis + 2) % 3];
    const flatten = (i: number) => [0, 1, 2].map((c) => [p[3 * t[3 * i + c] + u], p[3 * t[3 * i + c] + v]]);
    const A = anticlockwise(flatten(a));
    const B = anticlockwise(flatten(b));
    if (shared === 0) return !separated(A, B) && !separated(B, A);
    return !separated(A, B, 1e-6) && !separated(B, A, 1e-6);
  }
}

const sameSide = (d: Float64Array) => (d[0] >= 0 && d[1] >= 0 && d[2] >= 0) || (d[0] <= 0 && d[1] <= 0 && d[2] <= 0);
const flat = (d: Float64Array) => d[0] === 0 && d[1] === 0 && d[2] === 0;

type Corner = number[];
const cross2 = (a: Corner, b: Corner, c: Corner) => (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);

function anticlockwise(T: Corner[]): Corner[] {
  return cross2(T[0], T[1], T[2]) < 0 ? [T[0], T[2], T[1]] : T;
}

/** Whether an edge of A has all of B on its outside (separating axis theorem in the plane). */
function separated(A: Corner[], B: Corner[], share = 1e-6): boolean {
  const tolerance = share * Math.abs(cross2(A[0], A[1], A[2]));
  return A.some((corner, e) => B.every((q) => cross2(corner, A[(e + 1) % 3], q) <= tolerance));
}
