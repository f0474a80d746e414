/**
 * Film that a gas bubble leaves on the wall when it displaces a melt: share of the section that stays.
 *
 * Ahead of the bubble the melt flows with a profile that is the fuller the more it thins by shear, and a full profile is
 * swept out further. For power-law melts both are known (free-surface finite elements for large capillary numbers;
 * the Newtonian limits of 0.60 of a tube's section and 0.42 of the half gap of a slit agree with Cox, J. Fluid Mech. 14
 * (1962) 81). Other melts, Cross melts near their plateau or with a temperature through the wall, leave the film of
 * the power-law melt whose profile is as full as theirs: within 1.6 % of the same finite elements for Carreau melts.
 */

/** Power-law exponents, and the share that stays of a slit and of a tube. */
const EXPONENTS = [0.2, 0.3, 0.4, 0.6, 0.8, 1];
const SLIT = [0.2467, 0.3067, 0.3438, 0.3853, 0.4068, 0.4195];
const TUBE = [0.4873, 0.5354, 0.561, 0.5856, 0.5961, 0.601];

/** Shape exponents of slit and tube. */
const [S_SLIT, S_TUBE] = [2, 3];

/** 1 - mean over highest velocity of a power-law melt. */
const peakedOf = (n: number, s: number) => ((s - 1) * n) / (s * n + 1);

/** What the bubble takes over the most it could, its speed being that of the middle, against how peaked the profile is. */
interface Curve {
  peaked: number[];
  taken: number[];
}

const curveOf = (s: number, stays: readonly number[]): Curve => {
  const peaked = [0, ...EXPONENTS.map((n) => peakedOf(n, s))];
  return { peaked, taken: [1, ...stays.map((m, k) => (1 - m) / (1 - peaked[k + 1]))] };
};
const SLIT_CURVE = curveOf(S_SLIT, SLIT);
const TUBE_CURVE = curveOf(S_TUBE, TUBE);

/** Linear between the points; beyond the last, a profile more peaked than a Newtonian one, its value. */
function takenAt({ peaked, taken }: Curve, x: number): number {
  let k = 1;
  while (k < peaked.length - 1 && peaked[k] < x) k++;
  const weight = Math.min(1, Math.max(0, (x - peaked[k - 1]) / (peaked[k] - peaked[k - 1])));
  return taken[k - 1] + weight * (taken[k] - taken[k - 1]);
}

/**
 * Share of the section that stays, for a profile whose highest velocity is `most` times its mean (both of what flows),
 * in a section of shape exponent s (2 slit, 3 tube; in between by s).
 */
export function filmShare(most: number, s: number): number {
  const peaked = 1 - 1 / Math.max(1, most);
  const round = Math.min(1, Math.max(0, (s - S_SLIT) / (S_TUBE - S_SLIT)));
  const taken = (1 - round) * takenAt(SLIT_CURVE, peaked) + round * takenAt(TUBE_CURVE, peaked);
  return 1 - (1 - peaked) * taken;
}

/** Film over radius or half gap at small capillary numbers over Ca^(2/3): Bretherton, J. Fluid Mech. 10 (1961) 166. */
export const BRETHERTON = 0.64304 * Math.pow(3, 2 / 3);

/** Thickness of the film in the limit of large capillary numbers, and the two numbers of the bridge to the small ones. */
const LIMITS = {
  slit: { film: 0.4195, b: 3.1246, c: 0.2027 },
  tube: { film: 0.3684, b: 3.5501, c: 0.2576 },
};

/**
 * Thickness of the film that a Newtonian liquid leaves, over radius or half gap, at a capillary number Ca = viscosity x
 * bubble speed / surface tension: Bretherton's at Ca -> 0, the viscous limit at Ca -> infinity, and between them a quotient
 * fitted to free-surface finite elements (within 2 % for Ca of 0.02 to 100).
 */
export function filmThickness(Ca: number, section: keyof typeof LIMITS): number {
  const { film, b, c } = LIMITS[section];
  if (!Number.isFinite(Ca)) return film;
  const x = Math.pow(Ca, 2 / 3);
  return (BRETHERTON * x * (1 + c * x)) / (1 + b * x + ((BRETHERTON * c) / film) * x * x);
}

/** Film share at a capillary number over that at none: surface tension sweeps a slow bubble's wall cleaner. */
export function capillaryFactor(Ca: number, s: number): number {
  if (!Number.isFinite(Ca)) return 1;
  const slit = filmThickness(Ca, 'slit') / LIMITS.slit.film;
  const share = (t: number) => 1 - (1 - t) ** 2;
  const tube = share(filmThickness(Ca, 'tube')) / share(LIMITS.tube.film);
  const round = Math.min(1, Math.max(0, s - S_SLIT));
  return (1 - round) * slit + round * tube;
}

/** Share of the section that stays of a power-law melt of one temperature. */
export const filmOfPowerLaw = (n: number, s: number): number => filmShare(1 / (1 - peakedOf(n, s)), s);
