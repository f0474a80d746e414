import { zeroShearViscosity, type ViscosityModel } from './viscosity';

/**
 * Flow of a shear-thinning melt of uniform temperature through a section, reduced to one number:
 * the effective viscosity wallShearStress / apparentShearRate.
 *
 * A section of shape exponent s (2 slab, 3 round) has tau(zeta) = tau_w zeta and
 *   apparentShearRate = (s + 1) / tau_w^s  Integral_0^tau_w  tau^(s-1) shearRate(tau) dtau,
 * which is the Weissenberg-Rabinowitsch relation for both limits (Rabinowitsch 1929; Bird,
 * Armstrong & Hassager 1987, table 4.2-1).
 */
export interface SectionFlow {
  /** Effective viscosity [Pa s] at apparent shear rate [1/s], shape exponent s and pressure [Pa]. */
  effectiveViscosity(apparentShearRate: number, shape: number, pressure: number): number;
}

/** The section flow of `model` at the uniform temperature T [K]. */
export function sectionFlow(model: ViscosityModel, T: number): SectionFlow {
  switch (model.kind) {
    case 'newtonian':
      return { effectiveViscosity: () => model.eta };
    case 'power-law':
      return { effectiveViscosity: (rate, s) => powerLawEffective(model.K, model.n, rate, s) };
    case 'cross': {
      const table = crossTable(model.n);
      return {
        effectiveViscosity: (rate, s) => model.eta0 * table.reduced((model.eta0 * rate) / model.tauStar, s),
      };
    }
    case 'cross-wlf': {
      const table = crossTable(model.n);
      let lastPressure = NaN;
      let eta0 = 0;
      return {
        effectiveViscosity: (rate, s, pressure) => {
          if (pressure !== lastPressure) {
            eta0 = zeroShearViscosity(model, T, pressure);
            lastPressure = pressure;
          }
          return eta0 * table.reduced((eta0 * rate) / model.tauStar, s);
        },
      };
    }
  }
}

/** True wall shear rate = apparent (s n + 1) / ((s + 1) n): (2n+1)/3n in a slab, (3n+1)/4n in a tube. */
function powerLawEffective(K: number, n: number, apparent: number, s: number): number {
  const rate = Math.max(apparent, 1e-9);
  const wall = (rate * (s * n + 1)) / ((s + 1) * n);
  return (K * Math.pow(wall, n)) / rate;
}

const SHAPES = [2, 2.2, 2.4, 2.6, 2.8, 3, 3.2];
const LOG_MIN = -12;
const LOG_MAX = 30;
const STEP = 0.05;

/**
 * Effective over zero-shear viscosity of a Cross melt against the reduced apparent shear rate
 * eta0 rate / tauStar and the shape exponent. One table serves every temperature and pressure,
 * because both enter through eta0 only. Interpolation error below 1e-5.
 */
export class CrossTable {
  private readonly rows: Float64Array[];

  constructor(readonly n: number) {
    this.rows = SHAPES.map((s) => tabulate(n, s));
  }

  reduced(rate: number, shape: number): number {
    if (!(rate > 0)) return 1;
    const x = (Math.log(rate) - LOG_MIN) / STEP;
    if (x <= 0) return 1;
    const i = Math.min(this.rows[0].length - 2, Math.floor(x));
    const f = x - i;
    const y = Math.min(SHAPES.length - 1.000001, Math.max(0, (shape - 2) / 0.2));
    const row = Math.floor(y);
    const at = (r: Float64Array) => r[i] + f * (r[i + 1] - r[i]);
    const low = at(this.rows[row]);
    const g = y - row;
    return Math.exp(g === 0 ? low : low + g * (at(this.rows[row + 1]) - low));
  }
}

const tables = new Map<number, CrossTable>();

/** The table of an exponent, made once: it takes longer than a coarse filling step. */
function crossTable(n: number): CrossTable {
  let table = tables.get(n);
  if (!table) tables.set(n, (table = new CrossTable(n)));
  return table;
}

/** ln(effective / eta0) at uniform steps of ln(reduced apparent rate) for one shape exponent. */
function tabulate(n: number, s: number): Float64Array {
  const m = 1 - n;
  const stress = (rate: number) => rate / (1 + Math.pow(rate, m));
  const fine = 0.01;
  const count = Math.ceil((LOG_MAX - LOG_MIN + 4) / fine);
  const logRate = new Float64Array(count + 1);
  const logEffective = new Float64Array(count + 1);
  // Far below the knee the melt is Newtonian: the integral starts from its closed form there.
  let wallRate = Math.exp(LOG_MIN - 2);
  let tau = stress(wallRate);
  let integral = Math.pow(tau, s) * wallRate * (1 / (s + 1));
  for (let k = 0; ; k++) {
    const apparent = ((s + 1) * integral) / Math.pow(tau, s);
    logRate[k] = Math.log(apparent);
    logEffective[k] = Math.log(tau / apparent);
    if (k === count) break;
    const nextRate = wallRate * Math.exp(fine);
    const next = stress(nextRate);
    integral += gauss(wallRate, nextRate, (rate) => {
      const t = stress(rate);
      const power = Math.pow(rate, m);
      const slope = (1 + power - m * power) / (1 + power) ** 2;
      return Math.pow(t, s - 1) * rate * slope;
    });
    wallRate = nextRate;
    tau = next;
  }
  const size = Math.floor((LOG_MAX - LOG_MIN) / STEP) + 1;
  const out = new Float64Array(size);
  let k = 0;
  for (let i = 0; i < size; i++) {
    const x = LOG_MIN + i * STEP;
    while (k < count - 1 && logRate[k + 1] < x) k++;
    const f = (x - logRate[k]) / (logRate[k + 1] - logRate[k]);
    out[i] = logEffective[k] + f * (logEffective[k + 1] - logEffective[k]);
  }
  return out;
}

/** Three-point Gauss quadrature of f over [a, b]. */
function gauss(a: number, b: number, f: (x: number) => number): number {
  const c = 0.5 * (a + b);
  const h = 0.5 * (b - a);
  const q = Math.sqrt(0.6) * h;
  return (h * (5 * f(c - q) + 8 * f(c) + 5 * f(c + q))) / 9;
}
