import { solidById } from '../material/others';
import { resinById } from '../material/library';
import { meltThermal, solidDensity } from '../material/properties';
import { plasticSolid } from '../material/solid';
import type { InsertChoice } from '../model/insert';
import { thermalTables } from '../solvers/melt/thermalTables';
import type { Thermal } from '../solvers/melt/columns';
import type { Solid } from '../solvers/warp/solid';

/** What a run reads of the material of an insert. SI. */
export interface InsertMaterial {
  name: string;
  thermal: Thermal;
  solid: Solid;
  /** 1/K */
  expansion: number;
  /** K, above which it gives way; null: not below any melt. */
  softens: number | null;
  plastic: boolean;
}

/** Material of an insert; undefined where the library has none of that name. */
export function insertMaterial(choice: InsertChoice['material']): InsertMaterial | undefined {
  const metal = typeof choice === 'string' ? solidById(choice) : choice;
  if (metal) {
    const { name, conductivity, density, specificHeat, modulus, poisson, expansion } = metal;
    const thermal = { conductivity, density, specificHeat };
    return { name, thermal, solid: { young: modulus, poisson }, expansion, softens: null, plastic: false };
  }
  const resin = resinById(choice as string);
  if (!resin) return undefined;
  const thermal = { ...meltThermal(resin), density: solidDensity(resin) };
  return {
    name: resin.name,
    thermal: { ...thermal, tables: thermalTables(resin.specificHeat, resin.conductivity, thermal) },
    solid: plasticSolid(resin),
    expansion: (resin.expansion.along + resin.expansion.across) / 2,
    softens: resin.transitionTemperature,
    plastic: true,
  };
}
