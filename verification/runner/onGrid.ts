import { disc } from '../shapes';
import { gradientOf, SLIT, slitCase, tubeCase } from '../sections';
import { at as valueAt, inWall } from '../run';
import { packSlit } from '../packing';
import type { Vec3 } from '../../src/core/geometry/mesh';
import { closestPoint } from '../../src/core/geometry/closestPoint';
import { mapVertices } from '../../src/core/geometry/mesh';
import { buildFineGrid } from '../../src/core/grid/grid';
import { latticeFor } from '../../src/core/grid/lattice';
import { buildPressureGrid } from '../../src/core/grid/pressureGrid';
import { toolOnGrid } from '../../src/core/grid/tool';
import { sectionFlow } from '../../src/core/material/sectionFlow';
import type { ViscosityModel } from '../../src/core/material/viscosity';
import { plainContext } from '../../src/core/stage/context';
import { constantFlow } from '../../src/core/solvers/melt/drive';
import { placeGating } from '../../src/core/solvers/melt/gating';
import { runFill } from '../../src/core/solvers/fill/stage';
import { byFunction, group, num, onGrid, type Finder, type Kind, type Lie, type ReferenceCase } from './cases';

function fluidOf(f: Record<string, unknown>): ViscosityModel {
  if ('eta' in f) return { kind: 'newtonian', eta: num(f, 'eta') };
  if ('K' in f) return { kind: 'power-law', K: num(f, 'K'), n: num(f, 'n') };
  return { kind: 'cross', eta0: num(f, 'eta0'), tauStar: num(f, 'tau_star'), n: num(f, 'n') };
}

/**
 * Case 3: slit and tube. Stress, rates and slope are the section's function; the gradient is also taken from the filled
 * grid and told beside it, since its tolerance is meant for the function alone.
 */
export const sections: Kind = async (c, lie) => {
  const geometry = group(c.inputs, 'geometry');
  const slit = 'W' in geometry;
  const viscosity = fluidOf(group(c.inputs, 'fluid'));
  const flow = sectionFlow(viscosity, 500);
  const s = slit ? 2 : 3;
  const stress = (rate: number) => rate * flow.effectiveViscosity(rate, s, 0);
  const reach = slit ? num(geometry, 'H') / 2 : num(geometry, 'R') / 2;
  const prepared = slit
    ? slitCase(num(geometry, 'H'), lie.turn)
    : tubeCase(num(geometry, 'R'), num(geometry, 'L'), lie.turn);
  const gradients = new Map<number, number>();
  for (const Q of new Set(c.expected.map((r) => num(r.at, 'Q')))) {
    const rate = slit ? (Q * SLIT.width) / num(geometry, 'W') : Q;
    const { frames } = await prepared.fill(viscosity, rate);
    const length = slit ? SLIT.length : num(geometry, 'L');
    const last = frames.node.pressure[frames.node.pressure.length - 1];
    gradients.set(Q, gradientOf(prepared, last, length, slit ? SLIT.width / 4 : 1, lie.turn));
  }
  return ({ q, at }) => {
    const Q = num(at, 'Q');
    const apparent = slit
      ? (6 * Q) / (num(geometry, 'W') * num(geometry, 'H') ** 2)
      : (4 * Q) / (Math.PI * num(geometry, 'R') ** 3);
    const tau = stress(apparent);
    const h = 0.02;
    const b = (2 * h) / Math.log(stress(apparent * Math.exp(h)) / stress(apparent * Math.exp(-h)));
    const trueRate = (apparent * (s + b)) / (s + 1);
    const gradient = tau / reach;
    const values: Record<string, number> = {
      apparent_wall_shear_rate: apparent,
      true_wall_shear_rate: trueRate,
      wall_shear_stress: tau,
      rabinowitsch_slope_b: b,
      eta_at_wall: tau / trueRate,
      'minus_dp/dx': gradient,
      delta_p_over_L: gradient * num(geometry, 'L'),
    };
    const found = byFunction(values[q]);
    return found && q === 'minus_dp/dx' ? { ...found, beside: gradients.get(Q) } : found;
  };
};

interface Disc {
  H: number;
  r0: number;
  R: number;
  Q: number;
}

/** A centre-gated disc filled at a set rate, with the force on its mould. */
async function fillDisc({ H, r0, R, Q }: Disc, viscosity: ViscosityModel, lie: Lie) {
  const mesh = mapVertices(disc(R, H), lie.turn);
  const fine = buildFineGrid(mesh, latticeFor(mesh, 'normal'));
  const grid = buildPressureGrid(fine);
  const tool = toolOnGrid(mesh, fine, grid, { opening: lie.turn([0, 0, 1]), partingHeight: null });
  const surface = closestPoint(mesh, lie.turn([0, 0, H / 2]));
  const outcome = await runFill(
    {
      grid,
      gating: placeGating(fine, grid, [{ id: 'G1', surface, diameter: 2 * r0 }]),
      nGates: 1,
      viscosity,
      meltTemperature: 500,
      control: constantFlow(Q),
      heat: null,
      air: null,
      projectedArea: tool.projectedArea,
      timeLimit: Infinity,
    },
    plainContext(),
  );
  if (outcome.status !== 'filled') throw new Error(`the disc does not fill: ${outcome.status}`);
  const axis = lie.turn([0, 0, 1]);
  const radius = (i: number) => {
    const p: Vec3 = [grid.position[3 * i], grid.position[3 * i + 1], grid.position[3 * i + 2]];
    const out = p[0] * axis[0] + p[1] * axis[1] + p[2] * axis[2];
    return Math.hypot(...p.map((x, d) => x - out * axis[d]));
  };
  const area = tool.projectedArea.reduce((s, a) => s + a, 0);
  return { result: outcome.result, grid, radius, area };
}

/** Last entry of a history, which is the moment of fill. */
const last = (values: number[]) => values[values.length - 1];

const discOf = (i: Record<string, unknown>): Disc => ({
  H: num(i, 'H'),
  r0: num(i, 'r0'),
  R: num(i, 'R'),
  Q: num(i, 'Q'),
});

/** Case 4: time, front and pressures of a disc. The closed form starts with melt up to r0, the stage with none. */
export const discPressure: Kind = async ({ inputs: i }, lie) => {
  const shape = discOf(i);
  const { H, r0, R, Q } = shape;
  const { result, grid, radius } = await fillDisc(shape, fluidOf({ K: i.K, n: i.n }), lie);
  const newtonian = await fillDisc(shape, { kind: 'newtonian', eta: num(i, 'newtonian_eta') }, lie);
  const headStart = (Math.PI * r0 ** 2 * H) / Q;
  const { history, frames } = result;
  const { fillTime } = result.node;
  const gate = inWall(history);
  const frame = frames.node.pressure[frames.node.pressure.length - 1];
  const ring = (r: number) => {
    let [sum, weight] = [0, 0];
    for (let k = 0; k < grid.n; k++) {
      const w = Math.max(0, 1 - Math.abs(radius(k) - r) / grid.spacing) * grid.volume[k];
      if (!(w > 0) || !(frame[k] >= 0)) continue;
      sum += w * frame[k];
      weight += w;
    }
    return sum / weight;
  };
  const front = (t: number) => {
    let volume = 0;
    for (let k = 0; k < grid.n; k++) if (fillTime[k] <= t) volume += grid.volume[k];
    return Math.sqrt(volume / (Math.PI * H));
  };
  return ({ q, at }) => {
    const values: Record<string, () => number> = {
      fill_time: () => last(history.time) - headStart,
      front_radius: () => front(num(at, 't') + headStart),
      gate_pressure: () => valueAt(history.time, gate, num(at, 't') + headStart),
      gate_pressure_at_fill: () => last(gate),
      pressure_at_fill: () => (num(at, 'r') > R - grid.spacing ? NaN : ring(num(at, 'r'))),
      newtonian_gate_pressure_at_fill: () => last(inWall(newtonian.result.history)),
    };
    return onGrid(values[q]?.());
  };
};

/** Case 17: clamp force of the disc at the moment of fill. */
export const discForce: Kind = async ({ inputs: i }, lie) => {
  const shape = discOf(i);
  const { r0 } = shape;
  const thinning = await fillDisc(shape, fluidOf({ K: i.K, n: i.n }), lie);
  const newtonian = await fillDisc(shape, { kind: 'newtonian', eta: num(i, 'eta') }, lie);
  const history = thinning.result.history;
  const gate = last(inWall(history));
  const force = last(history.clampForce);
  return ({ q }) => {
    const values: Record<string, number> = {
      gate_pressure_power_law: gate,
      clamp_force_total_power_law: force,
      clamp_force_annulus_power_law: force - Math.PI * r0 ** 2 * gate,
      clamp_force_small_gate_limit: force,
      gate_pressure_newtonian: last(inWall(newtonian.result.history)),
      clamp_force_total_newtonian: last(newtonian.result.history.clampForce),
      clamp_force_uniform_pack: thinning.area * num(i, 'p_pack'),
    };
    return onGrid(values[q]);
  };
};

/** Steps over the time of a row of the closed slit. */
const SLIT_STEPS = 500;

/** Case 8, packing of a closed slit: the packing stage on the grid. */
export const closedSlit: Kind = ({ inputs: i, expected }: ReferenceCase, lie): Promise<Finder> => {
  const slit = {
    length: num(i, 'L'),
    gap: num(i, 'H'),
    viscosity: num(i, 'eta'),
    compressibility: num(i, 'kappa'),
    density0: num(i, 'rho0'),
    before: num(i, 'p_initial'),
    inlet: num(i, 'p_inlet'),
  };
  const times = [...new Set(expected.flatMap((r) => (r.at ? [num(r.at, 't')] : [])))];
  return Promise.all(times.map((t) => packSlit(slit, lie.turn, t, SLIT_STEPS))).then((found) => ({ q, at }) => {
    if (q === 'pressure_diffusivity') return byFunction(slit.gap ** 2 / (12 * slit.viscosity * slit.compressibility));
    const got = found[times.indexOf(num(at, 't'))];
    const values: Record<string, number> = {
      p_end: got.end,
      p_middle: got.middle,
      mass_per_width: got.mass,
      inlet_mass_flow_per_width: got.inflow,
    };
    return onGrid(values[q]);
  });
};
