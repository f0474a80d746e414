import { halfMould, rowOfChannels, type ChannelRow, type HalfMould } from '../mouldShapes';
import { byFunction, num, onGrid, type Kind } from './cases';

/** Spacing of the fine grid, m: a quarter of that of the mould. */
const FINE = 5e-4;
/** A channel wall held at the coolant's temperature, W/(m2 K). */
const HELD = 1e9;

/** Case 10, row: channels below a cavity wall under even flux, their walls held or with a film. */
export const channelRow: Kind = ({ inputs }) => {
  const i = inputs as unknown as ChannelRow & { h_coolant: number };
  const solved = new Map<string, ReturnType<typeof rowOfChannels>>();
  const solve = (bc: string) => {
    const known = solved.get(bc) ?? rowOfChannels(i, FINE, bc === 'dirichlet' ? HELD : i.h_coolant);
    solved.set(bc, known);
    return known;
  };
  // Conduction shape factor of the row, per length (Incropera & DeWitt, table 4.1).
  const factor =
    (2 * Math.PI) / Math.log(((2 * i.pitch) / (Math.PI * i.d)) * Math.sinh((2 * Math.PI * i.depth) / i.pitch));
  const flux = i.q * i.pitch;
  return ({ q, at }) => {
    const plain: Record<string, number> = {
      shape_factor_per_length: factor,
      deltaT_isothermal_surface: flux / (factor * i.k),
      deltaT_channel_film: flux / (Math.PI * i.d * i.h_coolant),
      T_wall_mean_by_shape_factor: i.T_coolant + flux / (factor * i.k) + flux / (Math.PI * i.d * i.h_coolant),
    };
    if (q in plain) return byFunction(plain[q]);
    if (typeof at?.channel_bc !== 'string') return null;
    const { mean, profile, sinks } = solve(at.channel_bc);
    const [cold, warm] = sinks.wallRange(sinks.ofElement[1][Math.floor(sinks.ofElement[1].length / 2)]);
    const values: Record<string, number> = {
      T_wall_mean: mean,
      T_wall_above_channel: profile[8],
      T_wall_between_channels: profile[0],
      T_wall_max_minus_min: Math.max(...profile) - Math.min(...profile),
      T_channel_wall_mean: (cold + warm) / 2,
      T_channel_wall_max: warm,
      T_channel_wall_min: cold,
    };
    return onGrid(values[q]);
  };
};

/** Case 10, block: half a mould with several channels and ambient losses. */
export const mouldBlock: Kind = ({ inputs }) => {
  const i = inputs as unknown as HalfMould;
  const { near, wall, coolant, outside } = halfMould(i);
  return ({ q, at }) => {
    const values: Record<string, () => number> = {
      T_wall_mean: () => wall.mean,
      T_wall_min: () => wall.low,
      T_wall_max: () => wall.high,
      T_wall_at_centre: () => near(0),
      // Facets are a millimetre wide: the outermost ones are the coldest, and nearer to the edge than a mean around it.
      T_wall_at_edge: () => wall.low,
      T_wall: () => near(num(at, 'x')),
      heat_to_coolant_half_model: () => coolant,
      heat_to_ambient_half_model: () => outside,
    };
    return onGrid(values[q]?.());
  };
};
