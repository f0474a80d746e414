import type { Resin } from '../model/resin';
import { compound, type FILLERS } from './compound';
import { FAMILIES, type Family, type FamilyName } from './families';
import { conductivityOf, d1For, specificHeatOf, taitOf } from './familyLaw';

const C = (celsius: number) => celsius + 273.15;
const A2 = 51.6;

interface Grade {
  id: string;
  name: string;
  supplier: string;
  family: FamilyName;
  /** Zero-shear viscosity over that of the family. */
  flow?: number;
  filler?: [kind: keyof typeof FILLERS, share: number];
}

const TARNBECK = 'Tarnbeck Polymers';
const ORRICK = 'Orrick Resins';
const FELLGATE = 'Fellgate Compounds';
const KESTLE = 'Kestle Elastomers';
const grade = (
  id: string,
  name: string,
  supplier: string,
  family: FamilyName,
  flow = 1,
  filler?: Grade['filler'],
): Grade => ({ id, name, supplier, family, flow, filler });

/** Made-up grades. Ids stay stable: studies refer to them. */
const GRADES: Grade[] = [
  grade('pp-hollin-h14', 'Hollin H14', TARNBECK, 'PP'),
  grade('pp-hollin-h3', 'Hollin H3', TARNBECK, 'PP', 2.6),
  grade('pp-hollin-h45', 'Hollin H45', TARNBECK, 'PP', 0.45),
  grade('pp-hollin-h14-m20', 'Hollin H14 M20', FELLGATE, 'PP', 1, ['mineral', 0.2]),
  grade('pp-hollin-h14-g30', 'Hollin H14 G30', FELLGATE, 'PP', 0.8, ['glass fibre', 0.3]),
  grade('pp-hollin-h14-lg40', 'Hollin H14 LG40', FELLGATE, 'PP', 0.6, ['long glass fibre', 0.4]),
  grade('pehd-sedge-d7', 'Sedge D7', TARNBECK, 'PE-HD'),
  grade('pehd-sedge-d20', 'Sedge D20', TARNBECK, 'PE-HD', 0.5),
  grade('peld-sedge-l4', 'Sedge L4', TARNBECK, 'PE-LD'),
  grade('peld-sedge-l22', 'Sedge L22', TARNBECK, 'PE-LD', 0.35),
  grade('ps-merrow-k5', 'Merrow K5', TARNBECK, 'PS'),
  grade('ps-merrow-k12', 'Merrow K12', TARNBECK, 'PS', 0.55),
  grade('pshi-merrow-t4', 'Merrow T4', TARNBECK, 'PS-HI'),
  grade('pshi-merrow-t9', 'Merrow T9', TARNBECK, 'PS-HI', 0.6),
  grade('abs-corran-220', 'Corran 220', ORRICK, 'ABS'),
  grade('abs-corran-260', 'Corran 260', ORRICK, 'ABS', 0.6),
  grade('abs-corran-220-g20', 'Corran 220 G20', FELLGATE, 'ABS', 0.8, ['glass fibre', 0.2]),
  grade('asa-corran-w10', 'Corran W10', ORRICK, 'ASA'),
  grade('asa-corran-w18', 'Corran W18', ORRICK, 'ASA', 0.6),
  grade('pmma-ilvane-6', 'Ilvane 6', ORRICK, 'PMMA'),
  grade('pmma-ilvane-9', 'Ilvane 9', ORRICK, 'PMMA', 1.8),
  grade('pc-veyra-10', 'Veyra 10', ORRICK, 'PC'),
  grade('pc-veyra-22', 'Veyra 22', ORRICK, 'PC', 0.5),
  grade('pc-veyra-10-g20', 'Veyra 10 G20', FELLGATE, 'PC', 0.8, ['glass fibre', 0.2]),
  grade('pcabs-veyra-b45', 'Veyra B45', ORRICK, 'PC+ABS'),
  grade('pcabs-veyra-b60', 'Veyra B60', ORRICK, 'PC+ABS', 0.6),
  grade('ppe-tolland-80', 'Tolland 80', ORRICK, 'PPE+PS'),
  grade('ppe-tolland-80-g20', 'Tolland 80 G20', FELLGATE, 'PPE+PS', 0.8, ['glass fibre', 0.2]),
  grade('pa6-lowan-n30', 'Lowan N30', FELLGATE, 'PA6'),
  grade('pa6-lowan-n30-g15', 'Lowan N30 G15', FELLGATE, 'PA6', 0.9, ['glass fibre', 0.15]),
  grade('pa6-lowan-n30-g30', 'Lowan N30 G30', FELLGATE, 'PA6', 0.9, ['glass fibre', 0.3]),
  grade('pa6-lowan-n30-b25', 'Lowan N30 B25', FELLGATE, 'PA6', 0.9, ['glass beads', 0.25]),
  grade('pa66-lowan-s40', 'Lowan S40', FELLGATE, 'PA66'),
  grade('pa66-lowan-s40-g30', 'Lowan S40 G30', FELLGATE, 'PA66', 1, ['glass fibre', 0.3]),
  grade('pa66-lowan-s40-c20', 'Lowan S40 C20', FELLGATE, 'PA66', 1, ['carbon fibre', 0.2]),
  grade('pom-anstey-c9', 'Anstey C9', FELLGATE, 'POM'),
  grade('pom-anstey-c27', 'Anstey C27', FELLGATE, 'POM', 0.4),
  grade('pom-anstey-c9-g25', 'Anstey C9 G25', FELLGATE, 'POM', 0.8, ['glass fibre', 0.25]),
  grade('pbt-brackley-5', 'Brackley 5', FELLGATE, 'PBT'),
  grade('pbt-brackley-5-g30', 'Brackley 5 G30', FELLGATE, 'PBT', 0.9, ['glass fibre', 0.3]),
  grade('pps-garrick-40-g40', 'Garrick 40 G40', FELLGATE, 'PPS', 1, ['glass fibre', 0.4]),
  grade('pps-garrick-40-m50', 'Garrick 40 M50', FELLGATE, 'PPS', 0.8, ['mineral', 0.5]),
  grade('tpe-marlow-55', 'Marlow 55', KESTLE, 'TPE', 0.8),
  grade('tpe-marlow-75', 'Marlow 75', KESTLE, 'TPE', 1.2),
  grade('tpu-oswin-85', 'Oswin 85', KESTLE, 'TPU', 0.85),
  grade('tpu-oswin-95', 'Oswin 95', KESTLE, 'TPU', 1.15),
];

function resinOf({ id, name, supplier, family, flow = 1, filler }: Grade): Resin {
  const f: Family = FAMILIES[family];
  const [n, tauStar, eta0, D2, A1, D3] = f.flow;
  const span = ([min, recommended, max]: readonly [number, number, number]) => ({
    min: C(min),
    recommended: C(recommended),
    max: C(max),
  });
  const { modulus: E, poisson } = f;
  const G12 = Number((E / (2 * (1 + poisson))).toPrecision(3));
  const plain: Resin = {
    id,
    name,
    supplier,
    family,
    structure: f.structure,
    origin: 'sample',
    viscosity: { kind: 'cross-wlf', n, tauStar, D1: d1For(flow * eta0, C(f.melt[1]), A1, D2, A2), D2, D3, A1, A2 },
    pvt: taitOf(f),
    specificHeat: [...specificHeatOf(f)],
    conductivity: [...conductivityOf(f)],
    transitionTemperature: C(f.transition),
    noFlowTemperature: C(f.noFlow),
    ejectionTemperature: C(f.ejection),
    melt: span(f.melt),
    mould: span(f.mould),
    maxShearRate: f.maxShearRate,
    maxShearStress: f.maxShearStress,
    elastic: { E1: E, E2: E, nu12: poisson, nu23: poisson, G12 },
    expansion: { along: f.linearExpansion, across: f.linearExpansion },
    filler: null,
    ...(f.crystalShare === undefined ? {} : { crystalShare: f.crystalShare }),
    ...(f.quenchLoss === undefined ? {} : { quenchLoss: f.quenchLoss }),
  };
  return filler ? compound(plain, ...filler) : plain;
}

export const RESINS: readonly Resin[] = GRADES.map(resinOf);

export const resinById = (id: string): Resin | undefined => RESINS.find((r) => r.id === id);
