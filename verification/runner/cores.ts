import { BRETHERTON, filmThickness } from '../../src/core/solvers/core/film';
import { rod } from '../shapes';
import { shootCore, steady } from '../coreRun';
import { num, type Kind } from './cases';

const section = (film: number) => 1 - (1 - film) ** 2;

/** Case 16: film against the capillary number; small ones by the film equation, all others by the bridge to the limit. */
export const films: Kind = ({ expected }) => {
  const small = expected.some((r) => r.q === 'bretherton_constant');
  const limit = { tube: filmThickness(Infinity, 'tube'), slit: filmThickness(Infinity, 'slit') };
  return ({ q, at }) => {
    const film = (of: 'tube' | 'slit') => {
      const Ca = num(at, 'Ca');
      return small ? BRETHERTON * Math.pow(Ca, 2 / 3) : filmThickness(Ca, of);
    };
    const values: Record<string, () => number> = {
      bretherton_constant: () => BRETHERTON / Math.pow(3, 2 / 3),
      film_over_radius_tube: () => film('tube'),
      area_fraction_tube: () => section(film('tube')),
      film_over_half_gap_slit: () => film('slit'),
      mean_over_bubble_velocity_tube: () => 1 - section(film('tube')),
      limit_area_fraction_tube: () => section(limit.tube),
      limit_film_over_radius_tube: () => limit.tube,
      limit_film_over_half_gap_slit: () => limit.slit,
      // Where the profile ahead is as fast in its middle as the bubble.
      no_recirculation_threshold_area_fraction_tube: () => 1 / 2,
      no_recirculation_threshold_fraction_slit: () => 1 / 3,
    };
    const value = values[q]?.();
    return value === undefined ? null : { value, on: 'function' };
  };
};

/** Melt of a tube for cases that give none: the film of the viscous limit asks for no number of it. */
const MELT = { kind: 'newtonian', eta: 500 } as const;

/** Case 16: core of a short shot in a tube, from what the stage leaves of its section; the film is given. */
export const shortShot: Kind = async ({ inputs: i }, lie) => {
  const [R, L, prefill, m] = ['R', 'L', 'prefill', 'm'].map((k) => num(i, k));
  const { grid, after } = await shootCore({
    mesh: rod(R, L),
    turn: lie.turn,
    gate: { at: [0, 0, 0], diameter: 1.3 * R },
    needle: [R / 2, 0, 0],
    viscosity: MELT,
    flowRate: (Math.PI * R * R * L) / 2,
    prefill,
    control: steady(2e7),
  });
  const { volume, done, film } = after.state.core!;
  let [gas, left, whole] = [0, 0, 0];
  for (let k = 0; k < grid.n; k++) {
    gas += volume[k];
    if (!done[k]) continue;
    left += film[k] * grid.volume[k];
    whole += grid.volume[k];
  }
  const stays = left / whole;
  return ({ q }) => {
    const area = Math.PI * R * R;
    const byGiven: Record<string, number> = {
      gas_core_length: ((1 - prefill) * L) / (1 - m),
      gas_core_radius: R * Math.sqrt(1 - m),
      gas_volume: (1 - prefill) * L * area,
      smallest_prefill_without_blow_through: m,
    };
    const byStage: Record<string, number> = {
      gas_core_length: gas / ((1 - stays) * area),
      gas_core_radius: R * Math.sqrt(1 - stays),
      gas_volume: gas,
      smallest_prefill_without_blow_through: stays,
    };
    return q in byGiven ? { value: byGiven[q], on: 'function', beside: byStage[q] } : null;
  };
};
