import type { Coolant } from '../model/material';

/** SI: kg/m3, J/(kg K), W/(m K), Pa s. */
export interface CoolantState {
  density: number;
  specificHeat: number;
  conductivity: number;
  viscosity: number;
}

/** A coolant over temperature [K]. */
export interface CoolantLaw {
  name: string;
  freezing: number;
  boiling: number;
  at(temperature: number): CoolantState;
}

const ZERO = 273.15;

/**
 * Liquid water at 0.1 MPa, 0 to 100 C. Density: Kell, J. Chem. Eng. Data 20 (1975) 97. Viscosity and
 * conductivity: Patek, Hruby, Klomfar, Souckova & Harvey, J. Phys. Chem. Ref. Data 38 (2009) 21.
 * Specific heat: polynomial through IAPWS-95 values, within 0.1 % from 2 to 98 C.
 */
export function waterAt(temperature: number): CoolantState {
  const t = temperature - ZERO;
  const r = temperature / 300;
  const x = t / 100;
  return {
    density:
      (999.83952 +
        t * (16.945176 + t * (-7.9870401e-3 + t * (-46.170461e-6 + t * (105.56302e-9 - t * 280.54253e-12))))) /
      (1 + 16.87985e-3 * t),
    specificHeat: 4217.5 + x * (-278.4 + x * (684.3 + x * (-679.9 + x * 273.2))),
    conductivity: 0.80201 * r ** -0.32 - 0.25992 * r ** -5.7 + 0.10024 * r ** -12 - 0.032005 * r ** -15,
    viscosity: 1e-6 * (280.68 * r ** -1.9 + 511.45 * r ** -7.7 + 61.131 * r ** -19.6 + 0.45903 * r ** -40),
  };
}

/** Water with half its mass of ethylene glycol: smooth formulas typical of the mixture, viscosity within some 10 %. */
export function halfGlycolAt(temperature: number): CoolantState {
  const t = temperature - ZERO;
  return {
    density: 1077 - 0.36 * t - 0.0022 * t * t,
    specificHeat: 3220 + 3.9 * t,
    conductivity: 0.367 + 9e-4 * t - 3.2e-6 * t * t,
    viscosity: Math.exp(-11.089 + 956.5 / (t + 151.6)),
  };
}

/**
 * Water with a share of glycol by mass, 0 to 0.6: density, specific heat, conductivity and the logarithm of the
 * viscosity straight between water and the half mixture. An estimate; exact at both.
 */
export function glycolAt(share: number, temperature: number): CoolantState {
  const s = share / 0.5;
  const a = waterAt(Math.max(temperature, ZERO));
  const b = halfGlycolAt(temperature);
  const mix = (x: number, y: number) => x + s * (y - x);
  return {
    density: mix(a.density, b.density),
    specificHeat: mix(a.specificHeat, b.specificHeat),
    conductivity: mix(a.conductivity, b.conductivity),
    viscosity: Math.exp(mix(Math.log(a.viscosity), Math.log(b.viscosity))),
  };
}

/** Freezing and boiling point of the mixture, K: parabolas through 0, 25 and 50 % (0, -12, -37 C; 100, 103, 107 C). */
const glycolLimits = (w: number) => ({
  freezing: ZERO - 22 * w - 104 * w * w,
  boiling: ZERO + 100 + 10 * w + 8 * w * w,
});

/** Between two measured states: straight, the logarithm of the viscosity against 1/T; the ends go on level. */
function betweenStates({ cold, hot }: Coolant, temperature: number): CoolantState {
  const T = Math.min(hot.T, Math.max(cold.T, temperature));
  const s = (T - cold.T) / (hot.T - cold.T);
  const u = (1 / T - 1 / cold.T) / (1 / hot.T - 1 / cold.T);
  return {
    density: cold.density + s * (hot.density - cold.density),
    specificHeat: cold.specificHeat + s * (hot.specificHeat - cold.specificHeat),
    conductivity: cold.conductivity + s * (hot.conductivity - cold.conductivity),
    viscosity: Math.exp(Math.log(cold.viscosity) + u * Math.log(hot.viscosity / cold.viscosity)),
  };
}

export const waterLaw: CoolantLaw = { name: 'Water', ...glycolLimits(0), at: waterAt };

export const glycolLaw = (share: number): CoolantLaw => ({
  name: `Water with ${Math.round(100 * share)} % glycol`,
  ...glycolLimits(share),
  at: (T) => glycolAt(share, T),
});

export const lawOf = (coolant: Coolant): CoolantLaw => ({
  name: coolant.name,
  freezing: coolant.freezing,
  boiling: coolant.boiling,
  at: (T) => betweenStates(coolant, T),
});
