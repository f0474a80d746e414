/**
 * Time [s] in which the middle of a plate of `thickness` [m] cools from the melt to the no-flow
 * temperature [K] between walls held at the mould temperature: first term of the series,
 * t = h^2 / (pi^2 a) ln(4/pi (T_melt - T_mould) / (T_noFlow - T_mould)).
 * Source: Carslaw & Jaeger, Conduction of Heat in Solids, 2nd ed. (1959), section 3.4.
 */
export function freezeTime(
  thickness: number,
  material: { conductivity: number; density: number; specificHeat: number },
  melt: number,
  mould: number,
  noFlow: number,
): number {
  const diffusivity = material.conductivity / (material.density * material.specificHeat);
  const ratio = ((4 / Math.PI) * (melt - mould)) / (noFlow - mould);
  if (!(noFlow > mould)) return Infinity;
  return (thickness ** 2 / (Math.PI ** 2 * diffusivity)) * Math.max(LEAST_LOG, Math.log(ratio));
}

/** A melt hardly above the no-flow temperature: below this the first term of the series is not enough. */
const LEAST_LOG = 0.05;
