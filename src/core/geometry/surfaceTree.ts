import type { TriangleMesh } from './mesh';
import { nodeFronts, overlap, triangleBoxes, trianglePlanes, type Fronts } from './treeBounds';
import { medianOrder } from './treeOrder';

const LEAF = 4;
/** A touching ball entered by less than half a per cent of its radius is left as it is. */
const BALL_SLACK = 0.995;

/**
 * Bounding boxes over the triangles of a mesh: a complete binary tree, halved at the median centre along
 * the longer side. A tree of our own because the thickness of a part rests on a query packages do not have:
 * the ball that shrinks about a point while the tree is walked (`touchingBall`). Asked as plain nearest
 * points, from the axis of a round bar, it costs hundreds of microseconds a facet with any tree.
 */
export class SurfaceTree {
  /** Triangle numbers in tree order. */
  readonly order: Uint32Array;
  /** 9 coordinates a triangle, in tree order. */
  private readonly corners: Float64Array;
  /** min xyz, max xyz a node; children of i are 2i + 1 and 2i + 2. */
  private readonly boxes: Float64Array;
  private readonly firstLeaf: number;
  /** Place in tree order of the first triangle of each leaf, and the end. */
  private readonly leafStart: Uint32Array;
  private readonly n: number;
  /** Unit normal and offset of each triangle's plane, made when balls are asked for. */
  private planes: Float64Array | null = null;
  private fronts: Fronts | null = null;
  /** One box a triangle, made when pairs are asked for. */
  private ownBoxes: Float64Array | null = null;
  private readonly stack = new Int32Array(128);
  private readonly stackDistance = new Float64Array(128);

  /** Results of the last query that found something. */
  distance = 0;
  readonly point = new Float64Array(3);

  constructor(mesh: TriangleMesh) {
    const { positions: p, triangles: t } = mesh;
    this.n = t.length / 3;
    let nLeaves = 1;
    while (nLeaves * LEAF < this.n) nLeaves *= 2;
    this.firstLeaf = nLeaves - 1;
    this.leafStart = Uint32Array.from({ length: nLeaves + 1 }, (_, i) => Math.floor((i * this.n) / nLeaves));
    this.order = medianOrder(mesh, this.leafStart);
    this.corners = new Float64Array(9 * this.n);
    for (let i = 0; i < this.n; i++) {
      const triangle = this.order[i];
      for (let c = 0; c < 3; c++) {
        const v = 3 * t[3 * triangle + c];
        for (let d = 0; d < 3; d++) this.corners[9 * i + 3 * c + d] = p[v + d];
      }
    }
    this.boxes = new Float64Array(6 * (2 * nLeaves - 1));
    this.fillBoxes();
  }

  private fillBoxes(): void {
    const { boxes, corners } = this;
    for (let node = boxes.length / 6 - 1; node >= 0; node--) {
      const at = 6 * node;
      for (let d = 0; d < 3; d++) {
        boxes[at + d] = Infinity;
        boxes[at + 3 + d] = -Infinity;
      }
      if (node >= this.firstLeaf) {
        const from = 9 * this.leafStart[node - this.firstLeaf];
        const to = 9 * this.leafStart[node - this.firstLeaf + 1];
        for (let i = from; i < to; i++) {
          const d = at + (i % 3);
          if (corners[i] < boxes[d]) boxes[d] = corners[i];
          if (corners[i] > boxes[d + 3]) boxes[d + 3] = corners[i];
        }
      } else {
        for (const child of [12 * node + 6, 12 * node + 12]) {
          for (let d = 0; d < 3; d++) {
            boxes[at + d] = Math.min(boxes[at + d], boxes[child + d]);
            boxes[at + 3 + d] = Math.max(boxes[at + 3 + d], boxes[child + 3 + d]);
          }
        }
      }
    }
  }

  private boxDistance2(node: number, x: number, y: number, z: number): number {
    const b = this.boxes;
    const at = 6 * node;
    const dx = x < b[at] ? b[at] - x : x > b[at + 3] ? x - b[at + 3] : 0;
    const dy = y < b[at + 1] ? b[at + 1] - y : y > b[at + 4] ? y - b[at + 4] : 0;
    const dz = z < b[at + 2] ? b[at + 2] - z : z > b[at + 5] ? z - b[at + 5] : 0;
    return dx * dx + dy * dy + dz * dz;
  }

  /**
   * Triangle with the surface point nearest to (x, y, z) among those nearer than `limit`, or -1. Sets
   * `distance` and `point`.
   */
  closest(x: number, y: number, z: number, limit = Infinity): number {
    const { stack, stackDistance } = this;
    let best = limit * limit;
    let found = -1;
    let top = 0;
    stack[0] = 0;
    stackDistance[0] = this.boxDistance2(0, x, y, z);
    while (top >= 0) {
      const node = stack[top];
      const near = stackDistance[top--];
      if (near >= best) continue;
      if (node >= this.firstLeaf) {
        const from = this.leafStart[node - this.firstLeaf];
        const to = this.leafStart[node - this.firstLeaf + 1];
        for (let i = from; i < to; i++) {
          const d2 = this.triangleDistance2(i, x, y, z);
          if (d2 < best) {
            best = d2;
            found = this.order[i];
            this.point[0] = qx;
            this.point[1] = qy;
            this.point[2] = qz;
          }
        }
        continue;
      }
      const left = 2 * node + 1;
      const dl = this.boxDistance2(left, x, y, z);
      const dr = this.boxDistance2(left + 1, x, y, z);
      // The nearer child is looked at first: pushed last.
      const leftFirst = dl <= dr;
      stack[++top] = leftFirst ? left + 1 : left;
      stackDistance[top] = leftFirst ? dr : dl;
      stack[++top] = leftFirst ? left : left + 1;
      stackDistance[top] = leftFirst ? dl : dr;
    }
    if (found >= 0) this.distance = Math.sqrt(best);
    return found;
  }

  /** Squared distance to a triangle by Voronoi regions (Ericson, Real-Time Collision Detection, 5.1.5); sets qx, qy, qz. */
  private triangleDistance2(i: number, x: number, y: number, z: number): number {
    const c = this.corners;
    const k = 9 * i;
    const ax = c[k];
    const ay = c[k + 1];
    const az = c[k + 2];
    const abx = c[k + 3] - ax;
    const aby = c[k + 4] - ay;
    const abz = c[k + 5] - az;
    const acx = c[k + 6] - ax;
    const acy = c[k + 7] - ay;
    const acz = c[k + 8] - az;
    const apx = x - ax;
    const apy = y - ay;
    const apz = z - az;
    const d1 = abx * apx + aby * apy + abz * apz;
    const d2 = acx * apx + acy * apy + acz * apz;
    const abab = abx * abx + aby * aby + abz * abz;
    const abac = abx * acx + aby * acy + abz * acz;
    const acac = acx * acx + acy * acy + acz * acz;
    const d3 = d1 - abab;
    const d4 = d2 - abac;
    const d5 = d1 - abac;
    const d6 = d2 - acac;
    let s = 0;
    let t = 0;
    if (d1 <= 0 && d2 <= 0) {
      // corner a
    } else if (d3 >= 0 && d4 <= d3) s = 1;
    else if (d6 >= 0 && d5 <= d6) t = 1;
    else {
      const vc = d1 * d4 - d3 * d2;
      const vb = d5 * d2 - d1 * d6;
      const va = d3 * d6 - d5 * d4;
      if (vc <= 0 && d1 >= 0 && d3 <= 0) s = d1 / (d1 - d3);
      else if (vb <= 0 && d2 >= 0 && d6 <= 0) t = d2 / (d2 - d6);
      else if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
        t = (d4 - d3) / (d4 - d3 + d5 - d6);
        s = 1 - t;
      } else {
        const w = 1 / (va + vb + vc);
        s = vb * w;
        t = vc * w;
      }
    }
    qx = ax + s * abx + t * acx;
    qy = ay + s * aby + t * acy;
    qz = az + s * abz + t * acz;
    return (x - qx) * (x - qx) + (y - qy) * (y - qy) + (z - qz) * (z - qz);
  }

  /**
   * First triangle met by the ray between `from` and `to` along the unit direction d, or -1; sets
   * `distance`. With `any` the first one found will do. Moeller & Trumbore 1997, both sides.
   */
  ray(
    x: number,
    y: number,
    z: number,
    dx: number,
    dy: number,
    dz: number,
    from: number,
    to: number,
    any = false,
    skip = -1,
  ): number {
    const { stack, stackDistance } = this;
    const ix = 1 / dx;
    const iy = 1 / dy;
    const iz = 1 / dz;
    let best = to;
    let found = -1;
    let top = 0;
    stack[0] = 0;
    stackDistance[0] = from;
    while (top >= 0) {
      const node = stack[top];
      if (stackDistance[top--] >= best) continue;
      if (node < this.firstLeaf) {
        const left = 2 * node + 1;
        const tl = this.boxEntry(left, x, y, z, ix, iy, iz, from, best);
        const tr = this.boxEntry(left + 1, x, y, z, ix, iy, iz, from, best);
        const leftFirst = tl <= tr;
        const farther = leftFirst ? tr : tl;
        if (farther < best) {
          stack[++top] = leftFirst ? left + 1 : left;
          stackDistance[top] = farther;
        }
        const nearer = leftFirst ? tl : tr;
        if (nearer < best) {
          stack[++top] = leftFirst ? left : left + 1;
          stackDistance[top] = nearer;
        }
        continue;
      }
      const first = this.leafStart[node - this.firstLeaf];
      const last = this.leafStart[node - this.firstLeaf + 1];
      for (let i = first; i < last; i++) {
        if (this.order[i] === skip) continue;
        const t = this.rayTriangle(i, x, y, z, dx, dy, dz);
        if (t >= from && t < best) {
          best = t;
          found = this.order[i];
          if (any) return found;
        }
      }
    }
    if (found >= 0) this.distance = best;
    return found;
  }

  /** Where the ray enters a box, Infinity when it misses it between `from` and `to`. */
  private boxEntry(
    node: number,
    x: number,
    y: number,
    z: number,
    ix: number,
    iy: number,
    iz: number,
    from: number,
    to: number,
  ): number {
    const b = this.boxes;
    const at = 6 * node;
    // Comparisons, not Math.min: they let the NaN of 0 · ∞ on a face of the box pass.
    let t0 = (b[at] - x) * ix;
    let t1 = (b[at + 3] - x) * ix;
    let low = from;
    let high = to;
    if (t0 > t1) {
      if (t1 > low) low = t1;
      if (t0 < high) high = t0;
    } else {
      if (t0 > low) low = t0;
      if (t1 < high) high = t1;
    }
    t0 = (b[at + 1] - y) * iy;
    t1 = (b[at + 4] - y) * iy;
    if (t0 > t1) {
      if (t1 > low) low = t1;
      if (t0 < high) high = t0;
    } else {
      if (t0 > low) low = t0;
      if (t1 < high) high = t1;
    }
    t0 = (b[at + 2] - z) * iz;
    t1 = (b[at + 5] - z) * iz;
    if (t0 > t1) {
      if (t1 > low) low = t1;
      if (t0 < high) high = t0;
    } else {
      if (t0 > low) low = t0;
      if (t1 < high) high = t1;
    }
    return low <= high ? low : Infinity;
  }

  private rayTriangle(i: number, x: number, y: number, z: number, dx: number, dy: number, dz: number): number {
    const c = this.corners;
    const k = 9 * i;
    const e1x = c[k + 3] - c[k];
    const e1y = c[k + 4] - c[k + 1];
    const e1z = c[k + 5] - c[k + 2];
    const e2x = c[k + 6] - c[k];
    const e2y = c[k + 7] - c[k + 1];
    const e2z = c[k + 8] - c[k + 2];
    const px = dy * e2z - dz * e2y;
    const py = dz * e2x - dx * e2z;
    const pz = dx * e2y - dy * e2x;
    const determinant = e1x * px + e1y * py + e1z * pz;
    if (determinant === 0) return -1;
    const inverse = 1 / determinant;
    const tx = x - c[k];
    const ty = y - c[k + 1];
    const tz = z - c[k + 2];
    const u = (tx * px + ty * py + tz * pz) * inverse;
    if (u < -1e-9 || u > 1 + 1e-9) return -1;
    const qx_ = ty * e1z - tz * e1y;
    const qy_ = tz * e1x - tx * e1z;
    const qz_ = tx * e1y - ty * e1x;
    const v = (dx * qx_ + dy * qy_ + dz * qz_) * inverse;
    if (v < -1e-9 || u + v > 1 + 1e-9) return -1;
    return (e2x * qx_ + e2y * qy_ + e2z * qz_) * inverse;
  }

  /**
   * Diameter of the largest ball that touches the surface at p from within (n: outward unit normal there)
   * and is not entered by surface within `cone` (tangent of the half-angle) of -n whose normal makes a
   * cosine below `facing` with n. `diameter`: where to start, e.g. along
   * a ray; the work grows with the surface inside that ball.
   */
  touchingBall(
    px: number,
    py: number,
    pz: number,
    nx: number,
    ny: number,
    nz: number,
    diameter: number,
    cone: number,
    facing: number,
  ): number {
    const { stack, boxes } = this;
    const planes = (this.planes ??= trianglePlanes(this.corners));
    const fronts = (this.fronts ??= nodeFronts(this.corners, planes, this.leafStart));
    const firstFront = fronts.first;
    const front = fronts.front;
    const cosine = 1 / Math.sqrt(1 + cone * cone);
    const sine = cone * cosine;
    let r = diameter / 2;
    let top = 0;
    stack[0] = 0;
    while (top >= 0) {
      const node = stack[top--];
      const reach = r * BALL_SLACK;
      if (node >= firstFront) {
        const f = 4 * (node - firstFront);
        const ahead =
          front[f + 3] - front[f] * (px - r * nx) - front[f + 1] * (py - r * ny) - front[f + 2] * (pz - r * nz);
        if (ahead >= reach) continue;
      }
      if (this.boxDistance2(node, px - r * nx, py - r * ny, pz - r * nz) >= reach * reach) continue;
      const at = 6 * node;
      // The ball around the box against the cone.
      const wx = (boxes[at] + boxes[at + 3]) / 2 - px;
      const wy = (boxes[at + 1] + boxes[at + 4]) / 2 - py;
      const wz = (boxes[at + 2] + boxes[at + 5]) / 2 - pz;
      const depth = -(wx * nx + wy * ny + wz * nz);
      const aside = Math.sqrt(Math.max(0, wx * wx + wy * wy + wz * wz - depth * depth));
      const ex = boxes[at + 3] - boxes[at];
      const ey = boxes[at + 4] - boxes[at + 1];
      const ez = boxes[at + 5] - boxes[at + 2];
      if (aside * cosine - depth * sine > 0.5 * Math.sqrt(ex * ex + ey * ey + ez * ez)) continue;
      if (node < this.firstLeaf) {
        stack[++top] = 2 * node + 1;
        stack[++top] = 2 * node + 2;
        continue;
      }
      const last = this.leafStart[node - this.firstLeaf + 1];
      for (let i = this.leafStart[node - this.firstLeaf]; i < last; i++) {
        const m = 4 * i;
        const ax = planes[m];
        const ay = planes[m + 1];
        const az = planes[m + 2];
        if (ax * nx + ay * ny + az * nz > facing) continue;
        // Most triangles near the ball only touch it: their planes say so at once.
        const off = ax * (px - r * nx) + ay * (py - r * ny) + az * (pz - r * nz) - planes[m + 3];
        if (off >= r * BALL_SLACK || -off >= r * BALL_SLACK) continue;
        // The ball shrinks about p; the triangle's nearest point moves with it, so look again.
        for (let turn = 0; turn < 6; turn++) {
          const limit = r * BALL_SLACK;
          if (this.triangleDistance2(i, px - r * nx, py - r * ny, pz - r * nz) >= limit * limit) break;
          const vx = px - qx;
          const vy = py - qy;
          const vz = pz - qz;
          const along = vx * nx + vy * ny + vz * nz;
          const square = vx * vx + vy * vy + vz * vz;
          if (!(along > 0) || square * cosine * cosine > along * along) break;
          r = square / (2 * along);
        }
      }
    }
    return 2 * r;
  }

  /** True when the point lies inside the closed surface: odd number of crossings along a slanted ray. */
  inside(x: number, y: number, z: number): boolean {
    // A direction no drawing has, so that edges and faces are not met edge-on.
    const [dx, dy, dz] = [0.36271, 0.53714, 0.76154];
    const length = Math.hypot(dx, dy, dz);
    let from = 0;
    let crossings = 0;
    while (crossings < 1000 && this.ray(x, y, z, dx / length, dy / length, dz / length, from, Infinity) >= 0) {
      crossings++;
      from = this.distance * (1 + 1e-12) + 1e-15;
    }
    return crossings % 2 === 1;
  }

  /** Calls `visit` for each pair of triangles whose boxes touch; stops when it returns false. */
  selfPairs(visit: (a: number, b: number) => boolean): void {
    const stack = new Int32Array(1024);
    let top = 2;
    while (top > 0) {
      const b = stack[--top];
      const a = stack[--top];
      if (a !== b && !this.boxesTouch(a, b)) continue;
      const left = 2 * a + 1;
      if (a >= this.firstLeaf) {
        if (!this.leafPairs(a, b, visit)) return;
      } else if (a === b) {
        for (let i = 0; i < 3; i++) {
          stack[top++] = i === 1 ? left + 1 : left;
          stack[top++] = i === 0 ? left : left + 1;
        }
      } else {
        // Both are at the same level of a complete tree.
        for (let i = 0; i < 4; i++) {
          stack[top++] = left + (i & 1);
          stack[top++] = 2 * b + 1 + (i >> 1);
        }
      }
    }
  }

  private boxesTouch(a: number, b: number): boolean {
    return overlap(this.boxes, 6 * a, 6 * b);
  }

  private leafPairs(a: number, b: number, visit: (a: number, b: number) => boolean): boolean {
    const boxes = (this.ownBoxes ??= triangleBoxes(this.corners));
    const a0 = this.leafStart[a - this.firstLeaf];
    const b0 = this.leafStart[b - this.firstLeaf];
    const a1 = this.leafStart[a - this.firstLeaf + 1];
    const b1 = this.leafStart[b - this.firstLeaf + 1];
    for (let i = a0; i < a1; i++) {
      for (let j = a === b ? i + 1 : b0; j < b1; j++) {
        if (overlap(boxes, 6 * i, 6 * j) && !visit(this.order[i], this.order[j])) return false;
      }
    }
    return true;
  }
}

// Nearest point of the last triangle looked at: returned this way, it costs no allocation.
let qx = 0;
let qy = 0;
let qz = 0;
