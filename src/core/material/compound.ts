import type { Filler, Resin } from '../model/resin';

/** What is mixed into plastics: density [kg/m3], J/(kg K), W/(m K), Pa, Poisson, 1/K, diameter [m], length over it in a part. */
const GLASS = {
  kind: 'glass fibre',
  density: 2540,
  specificHeat: 800,
  conductivity: 1.05,
  modulus: 72e9,
  poisson: 0.22,
  expansion: 5e-6,
} as const;
export const FILLERS = {
  'glass fibre': { ...GLASS, diameter: 11e-6, aspectRatio: 22 },
  'long glass fibre': { ...GLASS, diameter: 17e-6, aspectRatio: 120 },
  'carbon fibre': {
    kind: 'carbon fibre',
    density: 1780,
    specificHeat: 750,
    conductivity: 8,
    modulus: 225e9,
    poisson: 0.25,
    expansion: 1e-6,
    diameter: 7e-6,
    aspectRatio: 24,
  },
  mineral: {
    kind: 'mineral',
    density: 2750,
    specificHeat: 870,
    conductivity: 2.2,
    modulus: 45e9,
    poisson: 0.25,
    expansion: 9e-6,
    diameter: 4e-6,
    aspectRatio: 5,
  },
  'glass beads': {
    kind: 'glass beads',
    density: 2500,
    specificHeat: 800,
    conductivity: 1.05,
    modulus: 70e9,
    poisson: 0.22,
    expansion: 5e-6,
    diameter: 20e-6,
    aspectRatio: 1,
  },
} as const;

/** How much of the stiffness of aligned fibres a moulded wall has along and across the flow. */
const ORIENTED = { along: 0.72, across: 0.28 };

/**
 * A plastic with `share` by weight of a filler. Volumes add up (the filler's does not change with
 * temperature and pressure to speak of); heat capacity by weight; conductivity by Maxwell's dispersion;
 * zero-shear viscosity by Guth's 1 + 2.5 phi + 14.1 phi2; stiffness by Halpin and Tsai with the oriented
 * share of a moulded wall; expansion by Turner's weighting with the stiffness.
 * Sources: Guth, J. Appl. Phys. 16 (1945) 20; Halpin & Kardos, Polym. Eng. Sci. 16 (1976) 344;
 * Turner, J. Res. NBS 37 (1946) 239; Maxwell, Treatise (1873), art. 314.
 */
export function compound(plain: Resin, kind: keyof typeof FILLERS, share: number): Resin {
  const f = FILLERS[kind];
  const { pvt, viscosity, elastic, expansion } = plain;
  const density = 1 / (pvt.b1s - pvt.b2s * (pvt.b5 - 296.15));
  const phi = share / f.density / (share / f.density + (1 - share) / density);
  const rest = 1 - share;
  const maxwell = (k: number) => {
    const lean = (f.conductivity - k) / (f.conductivity + 2 * k);
    return (k * (1 + 2 * phi * lean)) / (1 - phi * lean);
  };
  const halpin = (zeta: number) => {
    const ratio = f.modulus / elastic.E1;
    const eta = (ratio - 1) / (ratio + zeta);
    return (elastic.E1 * (1 + zeta * eta * phi)) / (1 - eta * phi);
  };
  const [stiff, soft] = [halpin(2 * f.aspectRatio), halpin(2)];
  const round = f.aspectRatio < 2;
  const E1 = round ? soft : ORIENTED.along * stiff + (1 - ORIENTED.along) * soft;
  const E2 = round ? soft : ORIENTED.across * stiff + (1 - ORIENTED.across) * soft;
  // The filler holds the plastic back in so far as it carries the load of that direction.
  const held = (E: number) => {
    const carried = Math.min(0.95, (E - (1 - phi) * elastic.E1) / E);
    return carried * f.expansion + (1 - carried) * expansion.along;
  };
  const guth = 1 + 2.5 * phi + 14.1 * phi * phi;
  const filler: Filler = {
    kind: f.kind,
    share,
    density: f.density,
    modulus: f.modulus,
    poisson: f.poisson,
    expansion: f.expansion,
    aspectRatio: f.aspectRatio,
    ...(f.diameter === FILLERS[f.kind].diameter ? {} : { diameter: f.diameter }),
    matrix: { young: elastic.E1, poisson: elastic.nu12, expansion: expansion.along },
  };
  const tidy = (x: number) => Number(x.toPrecision(4));
  return {
    ...plain,
    viscosity:
      viscosity.kind === 'cross-wlf'
        ? { ...viscosity, D1: tidy(viscosity.D1 * guth), tauStar: tidy(viscosity.tauStar * (1 + 1.4 * phi)) }
        : viscosity,
    pvt: {
      ...pvt,
      b1m: rest * pvt.b1m + share / f.density,
      b2m: rest * pvt.b2m,
      b1s: rest * pvt.b1s + share / f.density,
      b2s: rest * pvt.b2s,
      b7: rest * pvt.b7,
    },
    specificHeat: plain.specificHeat.map(({ T, value }) => ({ T, value: tidy(rest * value + share * f.specificHeat) })),
    conductivity: plain.conductivity.map(({ T, value }) => ({ T, value: tidy(maxwell(value)) })),
    elastic: {
      E1: tidy(E1),
      E2: tidy(E2),
      nu12: tidy(elastic.nu12 * (1 - phi) + f.poisson * phi),
      nu23: tidy(elastic.nu23 * (1 - phi) + f.poisson * phi),
      G12: tidy(E2 / (2 * (1 + elastic.nu12 * (1 - phi) + f.poisson * phi))),
    },
    expansion: { along: tidy(held(E1)), across: tidy(held(E2)) },
    filler,
    maxShearStress: tidy(plain.maxShearStress * (1 + phi)),
  };
}
