import type { CoreFluid } from '../solvers/core/fluid';

/** What a needle brings into the core. Textbook values; temperatures as it comes out of the needle. */
export interface FluidEntry extends CoreFluid {
  id: string;
  name: string;
  kind: 'gas' | 'liquid';
}

/**
 * Water that runs through a core of 5 to 10 mm at Reynolds numbers around 1e4: Nu of 60 to 80 (Dittus-Boelter) is 4000 to
 * 8000 W/(m2 K); the lower end, for it does not run all the time.
 */
const WATER_TRANSFER = 4000;

export const CORE_FLUIDS: readonly FluidEntry[] = [
  { id: 'nitrogen', name: 'Nitrogen', kind: 'gas', gasConstant: 296.8, density: 0, temperature: 298.15, transfer: 0 },
  { id: 'air', name: 'Air, dry', kind: 'gas', gasConstant: 287.05, density: 0, temperature: 298.15, transfer: 0 },
  {
    id: 'water',
    name: 'Water',
    kind: 'liquid',
    gasConstant: null,
    density: 997,
    temperature: 293.15,
    transfer: WATER_TRANSFER,
  },
];

export const fluidById = (id: string): FluidEntry | undefined => CORE_FLUIDS.find((f) => f.id === id);
