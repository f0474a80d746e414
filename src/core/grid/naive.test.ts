import { describe, expect, it } from 'vitest';
import { circle, prism } from '../../../verification/shapes';
import { random } from '../../../verification/random';
import { mapVertices, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { cutCells } from './cutCells';
import { latticeOver, type Lattice } from './lattice';
import { distancesAlong, lineCrossings } from './wallDistances';

/** Convex prisms in random positions, held against the plainest way to say the same. */
const next = random(5);

function anyRotation(): (v: Vec3) => Vec3 {
  const [a, b, c] = [next(), next(), next()].map((x) => 2 * Math.PI * x);
  const spin = (angle: number, i: number, j: number) => (v: Vec3) => {
    const out: Vec3 = [...v];
    out[i] = Math.cos(angle) * v[i] - Math.sin(angle) * v[j];
    out[j] = Math.sin(angle) * v[i] + Math.cos(angle) * v[j];
    return out;
  };
  const turns = [spin(a, 0, 1), spin(b, 1, 2), spin(c, 0, 1)];
  return (v) => turns.reduce((w, turn) => turn(w), v);
}

interface Body {
  mesh: TriangleMesh;
  lattice: Lattice;
  /** Whether a point in grid units is inside: on the inner side of every triangle of a convex body. */
  inside(p: Vec3): boolean;
}

function body(): Body {
  const outline = circle(0.4 + 0.4 * next(), 3 + Math.floor(6 * next()));
  const half = 0.1 + 0.3 * next();
  const mesh = mapVertices(prism(outline, -half, half), anyRotation());
  const lattice = latticeOver(mesh, 0.11 + 0.05 * next());
  const planes: { n: Vec3; d: number }[] = [];
  const q = (v: number): Vec3 =>
    [0, 1, 2].map((d) => (mesh.positions[3 * v + d] - lattice.origin[d]) / lattice.spacing) as Vec3;
  for (let t = 0; t < mesh.triangles.length; t += 3) {
    const [a, b, c] = [q(mesh.triangles[t]), q(mesh.triangles[t + 1]), q(mesh.triangles[t + 2])];
    const u = b.map((x, d) => x - a[d]);
    const v = c.map((x, d) => x - a[d]);
    const n: Vec3 = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
    planes.push({ n, d: n[0] * a[0] + n[1] * a[1] + n[2] * a[2] });
  }
  return {
    mesh,
    lattice,
    inside: (p) => planes.every(({ n, d }) => n[0] * p[0] + n[1] * p[1] + n[2] * p[2] < d),
  };
}

describe.each([1, 2, 3, 4, 5, 6])('random prism %i', () => {
  const { mesh, lattice, inside } = body();
  const { nx, ny, nz } = lattice;
  const cut = cutCells(mesh, lattice);

  it('cell volumes and face shares agree with sampling', () => {
    const SAMPLES = 12;
    const at = (s: number) => (s + 0.5) / SAMPLES;
    let worstVolume = 0;
    let worstFace = 0;
    for (let trial = 0; trial < 150; trial++) {
      const [i, j, k] = [nx, ny, nz].map((n) => 1 + Math.floor(next() * (n - 2)));
      const c = i + nx * (j + ny * k);
      let volume = 0;
      let face = 0;
      for (let a = 0; a < SAMPLES; a++) {
        for (let b = 0; b < SAMPLES; b++) {
          if (inside([i, j + at(a), k + at(b)])) face++;
          for (let d = 0; d < SAMPLES; d++) if (inside([i + at(d), j + at(a), k + at(b)])) volume++;
        }
      }
      worstVolume = Math.max(worstVolume, Math.abs(volume / SAMPLES ** 3 - cut.volume[c]));
      worstFace = Math.max(worstFace, Math.abs(face / SAMPLES ** 2 - cut.faceX[c]));
    }
    // A straight cut through 12 samples a side is told to within half a row.
    expect(worstVolume).toBeLessThan(0.03);
    expect(worstFace).toBeLessThan(0.09);
  });

  it('inside and distances agree with walking along the line', () => {
    const indices = Int32Array.from({ length: nx * ny * nz }, (_, c) => c);
    for (const axis of [0, 1, 2] as const) {
      const found = distancesAlong(lattice, lineCrossings(mesh, lattice, axis), indices);
      for (let trial = 0; trial < 150; trial++) {
        const c = Math.floor(next() * indices.length);
        const centre: Vec3 = [(c % nx) + 0.5, (Math.floor(c / nx) % ny) + 0.5, Math.floor(c / (nx * ny)) + 0.5];
        expect(found.inside[c]).toBe(inside(centre) ? 1 : 0);
        if (!found.inside[c]) continue;
        for (const [sign, distance] of [
          [-1, found.minus[c]],
          [1, found.plus[c]],
        ]) {
          const along = (s: number): Vec3 => {
            const p: Vec3 = [...centre];
            p[axis] += sign * s;
            return p;
          };
          expect(inside(along(distance * 0.999))).toBe(true);
          expect(inside(along(distance * 1.001 + 1e-6))).toBe(false);
        }
      }
    }
  });
});
