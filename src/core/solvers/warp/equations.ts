/** Closed forms of thermo-elastic strips, plates and corners. SI; temperatures as differences in K. */

/**
 * Curvature [1/m] of a strip of two bonded layers after a uniform temperature change; positive when the second
 * layer ends up longer (convex on its side). Source: Timoshenko, J. Opt. Soc. Am. 11 (1925) 233.
 */
export function bimetalCurvature(
  first: { young: number; thickness: number; expansion: number },
  second: { young: number; thickness: number; expansion: number },
  dT: number,
): number {
  const m = first.thickness / second.thickness;
  const n = first.young / second.young;
  const h = first.thickness + second.thickness;
  const difference = (second.expansion - first.expansion) * dT;
  return (6 * difference * (1 + m) ** 2) / (h * (3 * (1 + m) ** 2 + (1 + m * n) * (m * m + 1 / (m * n))));
}

/** Deflection [m] of the end of a strip clamped at the other, small rotations. */
export const tipDeflection = (curvature: number, length: number): number => (curvature * length ** 2) / 2;

/** Curvature [1/m] in both directions of a free plate, temperature linear through it (Boley & Weiner 1960). */
export const plateCurvature = (expansion: number, dT: number, thickness: number): number =>
  (expansion * dT) / thickness;

/** Largest stress [Pa] of such a plate with its edges kept from turning. */
export const clampedPlateStress = (young: number, poisson: number, expansion: number, dT: number): number =>
  (young * expansion * dT) / (2 * (1 - poisson));

/** Rise [m] of the middle above the chord of a length, and of a rectangle's middle above its corners. */
export const sagOverChord = (curvature: number, length: number): number => (curvature * length ** 2) / 8;
export const capHeight = (curvature: number, length: number, width: number): number =>
  (curvature * (length ** 2 + width ** 2)) / 8;

/**
 * Change of the angle [same unit as `angle`] that a corner's arc sweeps when it shrinks by other shares along
 * the wall and across it; positive: the enclosed angle closes. Source: Radford & Rennick, J. Reinf. Plast. 19 (2000).
 */
export const springIn = (angle: number, shrinkageInPlane: number, shrinkageAcross: number): number =>
  angle * ((1 - shrinkageInPlane) / (1 - shrinkageAcross) - 1);

/** The same from two expansions and a temperature change. */
export const springInThermal = (angle: number, inPlane: number, across: number, dT: number): number =>
  springIn(angle, -inPlane * dT, -across * dT);

/** Stress [Pa] of a plate kept from shrinking in both directions, and of a bar kept from shrinking. */
export const heldPlateStress = (young: number, poisson: number, expansion: number, dT: number): number =>
  (-young * expansion * dT) / (1 - poisson);
export const heldBarStress = (young: number, expansion: number, dT: number): number => -young * expansion * dT;

/**
 * Stress [Pa] at place xi (0 middle .. 1 face) of a plate that turned solid stress-free with the parabola
 * dT0 (1 - xi^2) above its faces' temperature and then became even (Boley & Weiner 1960).
 */
export const parabolicStress = (young: number, poisson: number, expansion: number, dT0: number, xi: number): number =>
  ((young * expansion * dT0) / (1 - poisson)) * (1 / 3 - xi * xi);

/** Where the end of a strip clamped at the other comes to [m], along it and across, however far it turns. */
export const curledEnd = (curvature: number, length: number): [number, number] => [
  Math.sin(curvature * length) / curvature,
  (1 - Math.cos(curvature * length)) / curvature,
];

/**
 * Curvature [1/m] of a free disc that would have `curvature` for small deflections, as long as it bows as a cap:
 * K (1 + (1 - nu) K^2) = S with K = R^2 / (4 h) times the curvature it takes, S times the one given. Source: Freund,
 * J. Mech. Phys. Solids 48 (2000) 1159.
 */
export function bowedDisc(curvature: number, poisson: number, radius: number, thickness: number): number {
  const scale = radius ** 2 / (4 * thickness);
  const S = scale * curvature;
  let K = S;
  for (let k = 0; k < 60; k++) K -= (K * (1 + (1 - poisson) * K * K) - S) / (1 + 3 * (1 - poisson) * K * K);
  return K / scale;
}

/** Curvature [1/m] for small deflections beyond which such a disc rolls up to one side instead (the same source). */
export const rollingUp = (poisson: number, radius: number, thickness: number): number =>
  (2 / (1 + poisson) ** 1.5) * ((4 * thickness) / radius ** 2);

/** Stress [Pa] that buckles a square plate, its four edges held out of plane, pressed along one side (Timoshenko & Gere 1961). */
export const plateBuckling = (young: number, poisson: number, thickness: number, side: number): number =>
  ((4 * Math.PI ** 2 * young) / (12 * (1 - poisson ** 2))) * (thickness / side) ** 2;
