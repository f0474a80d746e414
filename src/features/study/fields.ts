import type { Unit } from '@/core/units/units';
import type { Gate } from '@/core/model/study';
import type { FieldId } from './viewStore';

export interface FieldInfo {
  label: string;
  unit: Unit;
  /** Limits of the resin may be drawn in the legend. */
  diverging?: boolean;
}

/** What can be shown, in the order it is asked for. */
const FIELDS: Record<FieldId, FieldInfo> = {
  fillTime: { label: 'Fill time', unit: 's' },
  pressure: { label: 'Pressure', unit: 'MPa' },
  temperature: { label: 'Mean temperature', unit: '°C' },
  profile: { label: 'Temperature through the wall', unit: '°C' },
  frontTemperature: { label: 'Temperature at the front', unit: '°C' },
  frozen: { label: 'Frozen share of the wall', unit: '%' },
  peakStress: { label: 'Peak wall shear stress', unit: 'MPa' },
  peakShearRate: { label: 'Peak shear rate', unit: '1/s' },
  frontSpeed: { label: 'Front speed', unit: 'cm/s' },
  thickness: { label: 'Wall thickness', unit: 'mm' },
  shrinkage: { label: 'Volumetric shrinkage', unit: '%' },
  linearShrinkage: { label: 'Linear shrinkage', unit: '%' },
  shrinkageAtEjection: { label: 'Shrinkage when ejected', unit: '%' },
  holdReach: { label: 'Hold reach', unit: 's' },
  sinkDepth: { label: 'Sink depth', unit: 'µm' },
  voidRisk: { label: 'Missing in the core', unit: '%' },
  frozenAt: { label: 'Frozen at', unit: 's' },
  ejectableAt: { label: 'Ejectable time', unit: 's' },
  density: { label: 'Density when ejected', unit: 'kg/m³' },
  deviation: { label: 'Deviation', unit: 'mm' },
  shrinkageAlong: { label: 'Shrinkage along the wall', unit: '%' },
  shrinkageAcross: { label: 'Shrinkage across the wall', unit: '%' },
  vonMises: { label: 'von Mises stress, surface', unit: 'MPa' },
  vonMisesCore: { label: 'von Mises stress, middle', unit: 'MPa' },
  principalStress: { label: 'Largest principal stress', unit: 'MPa' },
  leastPrincipal: { label: 'Least principal stress', unit: 'MPa' },
  stressAlong: { label: 'Stress along an axis', unit: 'MPa' },
  mouldSurface: { label: 'Mould surface temperature', unit: '°C' },
  mouldDifference: { label: 'Between both sides of the wall', unit: 'K' },
};

/** Fields of the mould, where it was calculated. */
const OF_MOULD: readonly FieldId[] = ['mouldSurface', 'mouldDifference'];

/** Fields of the shape that comes out. */
export const OF_SHAPE: readonly FieldId[] = [
  'deviation',
  'shrinkageAlong',
  'shrinkageAcross',
  'vonMises',
  'vonMisesCore',
  'principalStress',
  'leastPrincipal',
  'stressAlong',
];

/** Fields that change over time. */
export const OVER_TIME: readonly FieldId[] = ['pressure', 'temperature', 'frozen', 'profile'];

export function fieldInfo(id: FieldId, gates: readonly Gate[] = []): FieldInfo {
  const share = /^gateShare-(\d+)$/.exec(id);
  if (share) return { label: `Share from ${gates[Number(share[1]) - 1]?.id ?? `gate ${share[1]}`}`, unit: '%' };
  return FIELDS[id] ?? { label: id, unit: '' };
}

/** Fields that come of packing and cooling. */
const OF_PACKING = new Set<FieldId>([
  'shrinkage',
  'linearShrinkage',
  'shrinkageAtEjection',
  'holdReach',
  'sinkDepth',
  'voidRisk',
  'frozenAt',
  'ejectableAt',
  'density',
]);

/**
 * Fields of a run in the order of the list, those of the filling and of what follows it. Velocity is drawn as
 * arrows, not as a colour.
 */
export function fieldGroups(
  nGates: number,
  { packed, mould, shape }: { packed: boolean; mould: boolean; shape: boolean },
): { title: string; ids: FieldId[] }[] {
  const shares = nGates > 1 ? Array.from({ length: nGates }, (_, g) => `gateShare-${g + 1}`) : [];
  const others = new Set([...OF_PACKING, ...OF_MOULD, ...OF_SHAPE]);
  const filling = [...Object.keys(FIELDS).filter((id) => !others.has(id)), ...shares];
  const ofMould = mould ? [{ title: 'Of the mould', ids: [...OF_MOULD] }] : [];
  if (!packed) return [{ title: 'Show on the part', ids: filling }, ...ofMould];
  return [
    { title: 'Show on the part', ids: filling },
    { title: 'After packing and cooling', ids: [...OF_PACKING] },
    ...(shape ? [{ title: 'The shape', ids: [...OF_SHAPE] }] : []),
    ...ofMould,
  ];
}
