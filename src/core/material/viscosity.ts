/**
 * Viscosity models. SI throughout: temperature T in K, pressure p in Pa, shear rate in 1/s,
 * viscosity in Pa s.
 */
export type ViscosityModel =
  | { kind: 'cross-wlf'; n: number; tauStar: number; D1: number; D2: number; D3: number; A1: number; A2: number }
  | { kind: 'cross'; eta0: number; tauStar: number; n: number }
  | { kind: 'power-law'; K: number; n: number }
  | { kind: 'newtonian'; eta: number };

/**
 * Zero-shear viscosity [Pa s] by the WLF form
 * eta0 = D1 exp(-A1 (T - T*) / (A2 + T - T*)), T* = D2 + D3 p, A2 = A2~ + D3 p.
 * Pressure cancels in the denominator. Below the pole (T <= D2 - A2~) the melt is rigid: Infinity.
 * Source: Williams, Landel & Ferry, J. Am. Chem. Soc. 77 (1955) 3701.
 */
export function zeroShearViscosity(model: Extract<ViscosityModel, { kind: 'cross-wlf' }>, T: number, p: number) {
  const denominator = model.A2 + T - model.D2;
  if (denominator <= 0) return Infinity;
  return model.D1 * Math.exp((-model.A1 * (T - model.D2 - model.D3 * p)) / denominator);
}

/**
 * Viscosity [Pa s] at temperature T [K], pressure p [Pa] and shear rate [1/s].
 * Cross: eta = eta0 / (1 + (eta0 shearRate / tauStar)^(1-n)). Source: Cross, J. Colloid Sci. 20 (1965) 417.
 */
export function viscosity(model: ViscosityModel, T: number, p: number, shearRate: number): number {
  switch (model.kind) {
    case 'newtonian':
      return model.eta;
    case 'power-law':
      return model.K * Math.pow(shearRate, model.n - 1);
    case 'cross':
      return cross(model.eta0, model.tauStar, model.n, shearRate);
    case 'cross-wlf':
      return cross(zeroShearViscosity(model, T, p), model.tauStar, model.n, shearRate);
  }
}

function cross(eta0: number, tauStar: number, n: number, shearRate: number): number {
  if (shearRate <= 0 || eta0 === Infinity) return eta0;
  return eta0 / (1 + Math.pow((eta0 * shearRate) / tauStar, 1 - n));
}
