import { zeroShearViscosity, type ViscosityModel } from './viscosity';

/**
 * A viscosity model solved for the shear rate: shearRate = stress * zeroFluidity(T, p) * relative(stress).
 * Every model here separates so, because temperature and pressure enter through the zero-shear
 * viscosity alone; for the Cross form with x = eta0 shearRate / tauStar,
 * stress / tauStar = x / (1 + x^(1-n)) gives eta / eta0 as a function of stress only (Cross 1965).
 */
export interface StressForm {
  /** 1 / zero-shear viscosity [1/(Pa s)] at ambient pressure against T: tabulated every T_STEP from T_MIN. */
  zeroFluidity: Float64Array;
  /**
   * Pressure [Pa] times `pressureSlope` over (T + pressureShift) is subtracted from the logarithm; 0 for
   * models that know no pressure.
   */
  pressureSlope: number;
  pressureShift: number;
  /** Fluidity over zero-shear fluidity at uniform steps of ln(stress / Pa); linear in between, 1e-4. */
  table: Float64Array;
}

/** Range of temperatures that is tabulated, K; beyond it the ends count. Linear in between, 1e-5. */
export const T_MIN = 150;
const T_MAX = 900;
export const T_STEP = 0.1;

/** Range of ln(stress / Pa) that is tabulated: 5e-5 Pa to 60 GPa; beyond it the ends are extended. */
export const LN_STRESS_MIN = -10;
const LN_STRESS_MAX = 25;
export const LN_STRESS_STEP = 0.01;
const SIZE = Math.round((LN_STRESS_MAX - LN_STRESS_MIN) / LN_STRESS_STEP) + 1;

/** Stress form of a model. Below `noFlow` [K] the melt stiffens by a factor e per half kelvin. */
export function stressForm(model: ViscosityModel, noFlow = 0): StressForm {
  const n = Math.round((T_MAX - T_MIN) / T_STEP) + 1;
  const zeroFluidity = Float64Array.from({ length: n }, (_, i) => {
    const T = T_MIN + i * T_STEP;
    const cold = T < noFlow ? (noFlow - T) / NO_FLOW_WIDTH : 0;
    return Math.exp(Math.max(LN_RIGID, lnZeroFluidity(model, T) - cold));
  });
  const byPressure = model.kind === 'cross-wlf' && model.D3 > 0;
  return {
    zeroFluidity,
    pressureSlope: byPressure ? model.A1 * model.D3 : 0,
    pressureShift: byPressure ? model.A2 - model.D2 : 0,
    table: tabulate(model),
  };
}

const NO_FLOW_WIDTH = 0.5;
/** The skin keeps this much of its fluidity at least, so that the equations stay solvable. */
const LN_RIGID = -60;

function lnZeroFluidity(model: ViscosityModel, T: number): number {
  switch (model.kind) {
    case 'newtonian':
      return -Math.log(model.eta);
    case 'power-law':
      return 0;
    case 'cross':
      return -Math.log(model.eta0);
    case 'cross-wlf':
      return -Math.log(zeroShearViscosity(model, T, 0));
  }
}

/** 1 / zero-shear viscosity [1/(Pa s)] at T [K] and p [Pa] above the atmosphere. */
export function zeroFluidityAt(form: StressForm, T: number, p: number): number {
  const { zeroFluidity, pressureSlope } = form;
  const x = Math.min(zeroFluidity.length - 1.000001, Math.max(0, (T - T_MIN) / T_STEP));
  const i = x | 0;
  const value = zeroFluidity[i] + (x - i) * (zeroFluidity[i + 1] - zeroFluidity[i]);
  if (pressureSlope === 0) return value;
  const denominator = T + form.pressureShift;
  return denominator > 1 ? value * Math.exp((-pressureSlope * p) / denominator) : value;
}

function tabulate(model: ViscosityModel): Float64Array {
  const table = new Float64Array(SIZE).fill(1);
  if (model.kind === 'newtonian') return table;
  for (let i = 0; i < SIZE; i++) {
    const lnStress = LN_STRESS_MIN + i * LN_STRESS_STEP;
    table[i] = Math.exp(
      model.kind === 'power-law'
        ? (1 / model.n - 1) * lnStress - Math.log(model.K) / model.n
        : crossRelative(lnStress - Math.log(model.tauStar), model.n),
    );
  }
  return table;
}

/** ln(1 + x^(1-n)) where x / (1 + x^(1-n)) = exp(lnStress): Newton in ln x, which is concave and safe. */
function crossRelative(lnStress: number, n: number): number {
  const m = 1 - n;
  const softplus = (y: number) => (y > 0 ? y + Math.log1p(Math.exp(-y)) : Math.log1p(Math.exp(y)));
  let lnX = lnStress > 0 ? lnStress / n : lnStress;
  for (let k = 0; k < 60; k++) {
    const slope = 1 - m / (1 + Math.exp(-m * lnX));
    const step = (lnStress - (lnX - softplus(m * lnX))) / slope;
    lnX += step;
    if (Math.abs(step) < 1e-13 * (1 + Math.abs(lnX))) break;
  }
  return softplus(m * lnX);
}

/** Shear rate [1/s] at a stress [Pa]: the inverse of `viscosity`. */
export function shearRateAt(form: StressForm, T: number, p: number, stress: number): number {
  if (!(stress > 0)) return 0;
  const x = (Math.log(stress) - LN_STRESS_MIN) / LN_STRESS_STEP;
  const i = Math.min(SIZE - 2, Math.max(0, Math.floor(x)));
  const { table } = form;
  return stress * zeroFluidityAt(form, T, p) * (table[i] + (x - i) * (table[i + 1] - table[i]));
}

/** Relaxation time [s] of a melt: zero-shear viscosity over the stress at which it thins. */
export function relaxationTime(model: ViscosityModel, T: number, p: number): number {
  switch (model.kind) {
    case 'cross-wlf':
      return zeroShearViscosity(model, T, p) / model.tauStar;
    case 'cross':
      return model.eta0 / model.tauStar;
    case 'power-law':
    case 'newtonian':
      return 0;
  }
}
