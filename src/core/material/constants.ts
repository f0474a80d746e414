import type { Material, MaterialKind } from '../model/material';
import type { Unit } from '../units/units';

/** A constant of a material that can be typed in: where it stands, its unit, its limits and what is usual, SI. */
export interface Constant {
  /** Keys from the material down, joined by points. */
  path: string;
  label: string;
  /** null: shown as it is, in SI, with `si` beside it. */
  unit: Unit | null;
  si?: string;
  min: number;
  max: number;
  usual?: [number, number];
  /** May be missing: what follows from the structure then counts. `crystalline`: says nothing of amorphous plastics. */
  optional?: 'always' | 'crystalline';
}

const c = (
  path: string,
  label: string,
  unit: Constant['unit'],
  [min, max]: [number, number],
  usual?: [number, number],
): Constant => ({ path, label, unit, min, max, ...(usual ? { usual } : {}) });
const raw = (path: string, label: string, si: string, range: [number, number], usual?: [number, number]): Constant => ({
  ...c(path, label, null, range, usual),
  si,
});
const T = (path: string, label: string): Constant => c(path, label, '°C', [200, 800]);

const RESIN: { title: string; constants: Constant[] }[] = [
  {
    title: 'Viscosity, Cross-WLF',
    constants: [
      raw('viscosity.n', 'n', '', [0.01, 0.99], [0.12, 0.55]),
      raw('viscosity.tauStar', 'tau*', 'Pa', [1, 1e8], [5e3, 8e5]),
      raw('viscosity.D1', 'D1', 'Pa·s', [1, 1e40], [1e8, 1e22]),
      c('viscosity.D2', 'D2', '°C', [200, 800]),
      raw('viscosity.D3', 'D3', 'K/Pa', [0, 1e-5], [0, 5e-7]),
      raw('viscosity.A1', 'A1', '', [1, 100], [18, 45]),
      raw('viscosity.A2', 'A2', 'K', [1, 200], [40, 60]),
    ],
  },
  {
    title: 'pvT, two-domain Tait',
    constants: [
      c('pvt.b5', 'b5', '°C', [200, 800]),
      raw('pvt.b6', 'b6', 'K/Pa', [0, 1e-5], [5e-8, 5e-7]),
      raw('pvt.b1m', 'b1, melt', 'm³/kg', [2e-4, 3e-3], [4e-4, 1.5e-3]),
      raw('pvt.b2m', 'b2, melt', 'm³/kgK', [0, 1e-4], [1e-7, 1.4e-6]),
      raw('pvt.b3m', 'b3, melt', 'Pa', [1e6, 1e10], [5e7, 3.5e8]),
      raw('pvt.b4m', 'b4, melt', '1/K', [0, 0.1], [2e-3, 8e-3]),
      raw('pvt.b1s', 'b1, solid', 'm³/kg', [2e-4, 3e-3], [4e-4, 1.4e-3]),
      raw('pvt.b2s', 'b2, solid', 'm³/kgK', [0, 1e-4], [5e-8, 9e-7]),
      raw('pvt.b3s', 'b3, solid', 'Pa', [1e6, 1e10], [8e7, 6e8]),
      raw('pvt.b4s', 'b4, solid', '1/K', [0, 0.1], [5e-4, 8e-3]),
      raw('pvt.b7', 'b7', 'm³/kg', [0, 0.01], [0, 2e-4]),
      raw('pvt.b8', 'b8', '1/K', [0, 10], [0, 0.3]),
      raw('pvt.b9', 'b9', '1/Pa', [0, 1e-6], [0, 5e-8]),
    ],
  },
  {
    title: 'Temperatures',
    constants: [
      T('transitionTemperature', 'Transition'),
      T('noFlowTemperature', 'No flow below'),
      T('ejectionTemperature', 'Ejection below'),
      T('melt.min', 'Melt, lowest'),
      T('melt.recommended', 'Melt, recommended'),
      T('melt.max', 'Melt, highest'),
      T('mould.min', 'Mould, lowest'),
      T('mould.recommended', 'Mould, recommended'),
      T('mould.max', 'Mould, highest'),
    ],
  },
  {
    title: 'Limits of the flowing melt',
    constants: [
      c('maxShearRate', 'Shear rate', '1/s', [1, 1e8], [1e4, 2e5]),
      c('maxShearStress', 'Shear stress', 'MPa', [1e3, 1e8], [8e4, 1e6]),
    ],
  },
  {
    title: 'Solid in the room',
    constants: [
      c('elastic.E1', 'Modulus along the flow', 'GPa', [1e5, 1e12], [1e7, 3e10]),
      c('elastic.E2', 'Modulus across', 'GPa', [1e5, 1e12], [1e7, 2e10]),
      { ...c('strength', 'Tensile strength', 'MPa', [1e4, 5e9], [1e7, 3e8]), optional: 'always' },
      raw('elastic.nu12', "Poisson's ratio, 12", '', [0, 0.499], [0.2, 0.49]),
      raw('elastic.nu23', "Poisson's ratio, 23", '', [0, 0.499], [0.2, 0.49]),
      c('elastic.G12', 'Shear modulus', 'GPa', [1e5, 1e12], [3e6, 1e10]),
      raw('expansion.along', 'Expansion along', '1/K', [-1e-4, 1e-3], [5e-6, 2.5e-4]),
      raw('expansion.across', 'Expansion across', '1/K', [-1e-4, 1e-3], [1e-5, 2.5e-4]),
    ],
  },
  {
    title: 'Shrinkage along the wall',
    constants: [
      { ...c('crystalShare', 'Share of crystals', '%', [0, 1.5], [0, 1]), optional: 'crystalline' },
      { ...c('quenchLoss', 'Crystals left out, a decade', '%', [0, 0.3], [0, 0.2]), optional: 'crystalline' },
      { ...raw('shrinkageFactor', 'Over that of pvT', '', [0.2, 5], [0.7, 1.4]), optional: 'always' },
      { ...c('afterShrinkage', 'On in the room, a decade', '%', [0, 0.01], [0, 1e-3]), optional: 'always' },
    ],
  },
];

const STATE = (key: string, label: string): { title: string; constants: Constant[] } => ({
  title: label,
  constants: [
    c(`${key}.T`, 'Temperature', '°C', [100, 800]),
    c(`${key}.density`, 'Density', 'kg/m³', [100, 5000], [700, 1300]),
    c(`${key}.specificHeat`, 'Specific heat', 'J/(kg·K)', [100, 10000], [1500, 4300]),
    c(`${key}.conductivity`, 'Conductivity', 'W/(m·K)', [0.01, 10], [0.09, 0.7]),
    raw(`${key}.viscosity`, 'Viscosity', 'Pa·s', [1e-5, 10], [2e-4, 0.2]),
  ],
});

/** Constants of every kind of material, in the groups of the editor. */
export const CONSTANTS: Record<MaterialKind, { title: string; constants: Constant[] }[]> = {
  resin: RESIN,
  metal: [
    {
      title: 'Metal',
      constants: [
        c('density', 'Density', 'kg/m³', [500, 25000], [2500, 9500]),
        c('specificHeat', 'Specific heat', 'J/(kg·K)', [50, 5000], [350, 950]),
        c('conductivity', 'Conductivity', 'W/(m·K)', [1, 500], [15, 260]),
        c('modulus', 'Modulus', 'GPa', [1e9, 1e12], [6e10, 2.2e11]),
        raw('poisson', "Poisson's ratio", '', [0, 0.499], [0.25, 0.36]),
        raw('expansion', 'Expansion', '1/K', [-1e-4, 1e-3], [8e-6, 2.5e-5]),
      ],
    },
  ],
  gas: [
    {
      title: 'Gas',
      constants: [
        raw('molarMass', 'Molar mass', 'kg/mol', [1e-3, 0.5], [2e-3, 0.1]),
        raw('heatRatio', 'Ratio of specific heats', '', [1.001, 1.7], [1.1, 1.67]),
        raw('viscosity', 'Viscosity', 'Pa·s', [1e-6, 1e-3], [8e-6, 4e-5]),
        c('at', 'at', '°C', [100, 2000]),
        raw('sutherland', "Sutherland's constant", 'K', [0, 2000], [50, 400]),
      ],
    },
  ],
  coolant: [
    {
      title: 'Coolant',
      constants: [c('freezing', 'Freezes at', '°C', [100, 800]), c('boiling', 'Boils at', '°C', [100, 800])],
    },
    STATE('cold', 'When cold'),
    STATE('hot', 'When hot'),
  ],
};

/** The number at a path of a material; NaN where there is none. */
export function constantAt(material: Material, path: string): number {
  let at: unknown = material;
  for (const key of path.split('.')) at = (at as Record<string, unknown> | undefined)?.[key];
  return typeof at === 'number' ? at : NaN;
}

/** What is unusual or does not go together: told, not refused. */
export function materialWarnings(kind: MaterialKind, material: Material): { path: string; message: string }[] {
  const list: { path: string; message: string }[] = [];
  for (const { constants } of CONSTANTS[kind])
    for (const { path, label, usual } of constants) {
      const value = constantAt(material, path);
      if (usual && (value < usual[0] || value > usual[1])) list.push({ path, message: `${label} is unusual.` });
    }
  if (kind !== 'resin' || !('pvt' in material)) return list;
  const { noFlowTemperature: noFlow, ejectionTemperature: ejection, melt, mould, transitionTemperature } = material;
  const order = (path: string, holds: boolean, message: string) => {
    if (!holds) list.push({ path, message });
  };
  order('ejectionTemperature', ejection < noFlow, 'A part is ejected colder than where its melt stops flowing.');
  order('noFlowTemperature', noFlow < melt.min, 'The lowest melt temperature is below where it stops flowing.');
  order('mould.max', mould.max < ejection, 'In the hottest mould the part would never be cold enough to be ejected.');
  order(
    'pvt.b5',
    Math.abs(material.pvt.b5 - transitionTemperature) < 25,
    'b5 lies far from the transition temperature.',
  );
  return list;
}
