import { valueAt } from '@/core/material/curve';
import { ATMOSPHERE, ROOM, specificVolume } from '@/core/material/pvt';
import { shareLeft } from '@/core/material/relaxation';
import { solidLawOf } from '@/core/material/solid';
import { viscosity } from '@/core/material/viscosity';
import type { Resin } from '@/core/model/resin';
import { format, shownUnit, told } from '@/core/units/reader';
import { formatNumber } from '@/core/units/units';

export type CurveKind = 'viscosity' | 'pressure' | 'pvt' | 'specificHeat' | 'conductivity' | 'relaxation' | 'softening';

export interface CurveSet {
  title: string;
  x: { label: string; log: boolean };
  y: { label: string; log: boolean };
  lines: { label: string; points: { x: number; y: number }[]; dashed: boolean }[];
}

const RATES = Array.from({ length: 61 }, (_, k) => 10 ** (k / 12));
const PRESSURES = [0, 5e7, 1e8, 2e8];
const celsius = (T: number) => format(T, '°C');

export const CURVES: { value: CurveKind; label: string }[] = [
  { value: 'viscosity', label: 'Viscosity' },
  { value: 'pressure', label: 'Pressure' },
  { value: 'pvt', label: 'pvT' },
  { value: 'specificHeat', label: 'Heat' },
  { value: 'conductivity', label: 'Conducts' },
  { value: 'relaxation', label: 'Relaxes' },
  { value: 'softening', label: 'Softens' },
];

/** Curves of one resin or of two, the second one dashed. */
export function curvesOf(kind: CurveKind, resins: readonly Resin[]): CurveSet {
  const lines = resins.flatMap((resin, k) => {
    const name = resins.length > 1 ? `${resin.name}, ` : '';
    return linesOf(kind, resin).map((line) => ({ ...line, label: `${name}${line.label}`, dashed: k > 0 }));
  });
  const { title, x, y } = AXES[kind];
  return { title, x: x === 'temperature' ? temperatureAxis() : x, y, lines };
}

const temperatureAxis = () => ({ label: `Temperature, ${shownUnit('°C')}`, log: false });
const AXES: Record<CurveKind, Omit<CurveSet, 'lines' | 'x'> & { x: CurveSet['x'] | 'temperature' }> = {
  viscosity: {
    title: 'Viscosity against shear rate',
    x: { label: 'Shear rate, 1/s', log: true },
    y: { label: 'Viscosity, Pa·s', log: true },
  },
  pressure: {
    title: 'Viscosity against shear rate at the recommended melt, by pressure',
    x: { label: 'Shear rate, 1/s', log: true },
    y: { label: 'Viscosity, Pa·s', log: true },
  },
  pvt: {
    title: 'Specific volume against temperature',
    x: 'temperature',
    y: { label: 'Specific volume, cm³/g', log: false },
  },
  specificHeat: {
    title: 'Specific heat against temperature',
    x: 'temperature',
    y: { label: 'Specific heat, J/(kg·K)', log: false },
  },
  conductivity: {
    title: 'Conductivity against temperature',
    x: 'temperature',
    y: { label: 'Conductivity, W/(m·K)', log: false },
  },
  relaxation: {
    title: 'Modulus that is left of a strain held at one temperature, against time',
    x: { label: 'Time, s', log: true },
    y: { label: 'Modulus, GPa', log: false },
  },
  softening: {
    title: 'Modulus that is left of a held strain against temperature, by time',
    x: 'temperature',
    y: { label: 'Modulus, GPa', log: false },
  },
};

function linesOf(kind: CurveKind, resin: Resin): { label: string; points: { x: number; y: number }[] }[] {
  const { melt } = resin;
  if (kind === 'viscosity')
    return [melt.min, melt.recommended, melt.max].map((T) => ({
      label: celsius(T),
      points: RATES.map((x) => ({ x, y: viscosity(resin.viscosity, T, 0, x) })),
    }));
  if (kind === 'pressure')
    return [0, 5e7, 1e8].map((p) => ({
      label: format(p, 'MPa'),
      points: RATES.map((x) => ({ x, y: viscosity(resin.viscosity, melt.recommended, p, x) })),
    }));
  if (kind === 'relaxation' || kind === 'softening') return relaxingLines(kind, resin);
  const temperatures = Array.from({ length: 121 }, (_, k) => 293.15 + (k / 120) * (melt.max - 293.15));
  if (kind === 'pvt')
    return PRESSURES.map((p) => ({
      label: format(p, 'MPa'),
      points: temperatures.map((T) => ({
        x: told(T, '°C'),
        y: 1e3 * specificVolume(resin.pvt, T, p + ATMOSPHERE),
      })),
    }));
  const curve = kind === 'specificHeat' ? resin.specificHeat : resin.conductivity;
  return [{ label: resin.name, points: temperatures.map((T) => ({ x: told(T, '°C'), y: valueAt(curve, T) })) }];
}

/** Temperatures [K] below and above the transition, and times [s], that relaxing is shown for. */
const BESIDE = [-60, -30, -10, 0, 10];
const TIMES = [0.1, 1, 10, 100, 3600, 86_400];

function relaxingLines(kind: 'relaxation' | 'softening', resin: Resin) {
  const { relaxation } = solidLawOf(resin);
  const young = (resin.elastic.E1 + resin.elastic.E2) / 2e9;
  if (kind === 'relaxation')
    return [ROOM, ...BESIDE.map((d) => relaxation.reference + d).filter((T) => T > ROOM + 10)].map((T) => ({
      label: celsius(T),
      points: Array.from({ length: 91 }, (_, k) => 10 ** (k / 10 - 3)).map((x) => ({
        x,
        y: young * shareLeft(relaxation, T, x),
      })),
    }));
  const temperatures = Array.from({ length: 121 }, (_, k) => 273.15 + (k / 120) * (relaxation.reference + 60 - 273.15));
  return TIMES.map((time) => ({
    label: time < 3600 ? `${formatNumber(time, 3)} s` : `${formatNumber(time / 3600, 3)} h`,
    points: temperatures.map((T) => ({ x: told(T, '°C'), y: young * shareLeft(relaxation, T, time) })),
  }));
}

/** One column for x, one a line; numbers as they are drawn. */
export function curvesCsv({ x, lines }: CurveSet): string {
  const head = [x.label, ...lines.map((l) => l.label)].map((t) => `"${t.replaceAll('"', '""')}"`).join(',');
  const rows = (lines[0]?.points ?? []).map((p, i) => [p.x, ...lines.map((l) => l.points[i]?.y ?? '')].join(','));
  return [head, ...rows].join('\n');
}
