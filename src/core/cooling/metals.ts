import type { TriangleMesh, Vec3 } from '../geometry/mesh';
import { dot, normalised, sub } from '../geometry/vec';
import { SurfaceTree } from '../geometry/surfaceTree';
import type { MouldGrid } from '../grid/mouldGrid';
import { metalById } from '../material/others';
import type { Cooling, MouldInsert } from '../model/cooling';
import type { Metal } from '../model/material';
import type { MouldMetals } from '../solvers/cool/mouldField';

export const metalOf = (choice: string | Metal): Metal | undefined =>
  typeof choice === 'string' ? metalById(choice) : choice;

/** Tells whether a point lies in an insert. `bodies`: surfaces by the id of their body. */
export function insertTest(insert: MouldInsert, bodies: ReadonlyMap<string, TriangleMesh>): (p: Vec3) => boolean {
  const { shape } = insert;
  switch (shape.shape) {
    case 'box':
      return (p) => shape.axes.every((axis, d) => Math.abs(dot(axis, sub(p, shape.centre))) <= shape.size[d] / 2);
    case 'cylinder': {
      const axis = normalised(shape.axis);
      return (p) => {
        const off = sub(p, shape.centre);
        const along = dot(axis, off);
        return Math.abs(along) <= shape.length / 2 && dot(off, off) - along * along <= shape.diameter ** 2 / 4;
      };
    }
    case 'sphere':
      return (p) => {
        const off = sub(p, shape.centre);
        return dot(off, off) <= shape.diameter ** 2 / 4;
      };
    case 'body': {
      const mesh = bodies.get(shape.body);
      if (!mesh) return () => false;
      const tree = new SurfaceTree(mesh);
      return (p) => tree.inside(...p);
    }
  }
}

/** Points along each edge of a cell at which it is asked what metal is there. */
const SAMPLES = 3;

/**
 * Metal of every node, mixed by volume where several meet in one cell; later inserts lie over earlier ones.
 * Unknown metals are left out: check first.
 */
export function metalsOnGrid(
  grid: MouldGrid,
  cooling: Cooling,
  bodies: ReadonlyMap<string, TriangleMesh>,
): MouldMetals {
  const steel = metalOf(cooling.steel) as Metal;
  const conductivity = new Float64Array(grid.n).fill(steel.conductivity);
  const capacity = new Float64Array(grid.n).fill(steel.density * steel.specificHeat);
  const inserts = cooling.inserts.flatMap((insert) => {
    const metal = metalOf(insert.metal);
    return metal ? [{ metal, holds: insertTest(insert, bodies) }] : [];
  });
  if (!inserts.length) return { conductivity, capacity };
  const [nx, ny] = grid.size;
  for (let i = 0; i < grid.n; i++) {
    const c = grid.cellOf[i];
    const at = [c % nx, Math.floor(c / nx) % ny, Math.floor(c / (nx * ny))];
    let [k, heat, any] = [0, 0, false];
    for (let s = 0; s < SAMPLES ** 3; s++) {
      const share = [s % SAMPLES, Math.floor(s / SAMPLES) % SAMPLES, Math.floor(s / SAMPLES ** 2)];
      const p = at.map((a, d) => {
        const [low, high] = [grid.planes[d][a], grid.planes[d][a + 1]];
        return low + ((share[d] + 0.5) / SAMPLES) * (high - low);
      }) as Vec3;
      const found = inserts.findLast((insert) => insert.holds(p));
      any ||= found !== undefined;
      const metal = found?.metal ?? steel;
      k += metal.conductivity;
      heat += metal.density * metal.specificHeat;
    }
    if (!any) continue;
    conductivity[i] = k / SAMPLES ** 3;
    capacity[i] = heat / SAMPLES ** 3;
  }
  return { conductivity, capacity };
}
