import type { Unit } from '@/core/units/units';
import type { FieldId } from '../study/viewStore';

export const FIELDS: Record<FieldId, { label: string; unit: Unit }> = {
  fillTime: { label: 'Fill time', unit: 's' },
  pressure: { label: 'Pressure', unit: 'MPa' },
  thickness: { label: 'Wall thickness', unit: 'mm' },
  peakShearRate: { label: 'Peak shear rate', unit: '1/s' },
};
