'use client';

import { FlaskConical } from 'lucide-react';
import { useMemo, useState } from 'react';
import { hasFibres, shapeOf } from '@/core/material/fibres/defaults';
import { alongInPlate, fitTurning } from '@/core/material/fibres/fitTurning';
import { fitPvt, type PvtFit, type PvtPoint } from '@/core/material/fitPvt';
import { FitError, fitViscosity, type ViscosityFit, type ViscosityPoint } from '@/core/material/fitViscosity';
import { measure } from '@/core/material/lab';
import { RESINS } from '@/core/material/library';
import { ATMOSPHERE, specificVolume } from '@/core/material/pvt';
import { viscosity } from '@/core/material/viscosity';
import type { Resin } from '@/core/model/resin';
import { format, shownUnit, told } from '@/core/units/reader';
import { formatNumber } from '@/core/units/units';
import { Button, Choice } from '../ui/controls';
import { CurveChart, type MeasuredPoint } from './CurveChart';
import type { CurveSet } from './curves';
import { PointsInput } from './PointsInput';
import { useMadeResin } from './useMadeResin';
import {
  FIBRE_COLUMNS,
  fibrePoints,
  fibreText,
  PVT_COLUMNS,
  pvtPoints,
  pvtText,
  VISCOSITY_COLUMNS,
  viscosityPoints,
  viscosityText,
} from './points';

type What = 'viscosity' | 'pvt' | 'fibres';
const WHAT: { value: What; label: string }[] = [
  { value: 'viscosity', label: 'Viscosity' },
  { value: 'pvt', label: 'pvT' },
];
const WITH_FIBRES = [...WHAT, { value: 'fibres' as const, label: 'Fibres' }];
const COLUMNS: Record<What, string> = { viscosity: VISCOSITY_COLUMNS, pvt: PVT_COLUMNS, fibres: FIBRE_COLUMNS };

interface Fitted {
  count: number;
  curves: CurveSet;
  points: MeasuredPoint[];
  rms: number;
  rows: { name: string; value: number; error: number | undefined; unit: string }[];
  notes: string[];
  residuals: number[];
  /** The resin with the fitted constants. */
  with: (base: Resin) => Resin;
}

/** Measured points in, constants out: pasted, loaded or from the laboratory; points are left out by a click. */
export function FitPanel({ base, onUse }: { base: Resin; onUse: (r: Resin) => void }) {
  const [what, setWhat] = useState<What>('viscosity');
  const [texts, setTexts] = useState<Record<What, string>>({ viscosity: '', pvt: '', fibres: '' });
  const [left, setLeft] = useState<Record<What, readonly number[]>>({ viscosity: [], pvt: [], fibres: [] });
  const [sample, setSample] = useState(0);
  const { said, setSaid, make } = useMadeResin(base, onUse);
  const put = (text: string) => {
    setTexts({ ...texts, [what]: text });
    setLeft({ ...left, [what]: [] });
  };
  const outcome = useMemo(() => work(what, texts[what], left[what], base), [what, texts, left, base]);
  const ask = () => {
    // The laboratory does not tell which grade it was given.
    const grades = hasFibres(base) ? RESINS.filter(hasFibres) : RESINS;
    const report = measure(grades[(7 * sample + 3) % grades.length], 1000 + sample);
    setTexts({
      viscosity: viscosityText(report.viscosity),
      pvt: pvtText(report.pvt),
      fibres: report.fibres.length ? fibreText(report.fibres) : '',
    });
    setLeft({ viscosity: [], pvt: [], fibres: [] });
    setSample(sample + 1);
    setSaid(
      `Sample ${sample + 1} is back from the lab: ${report.viscosity.length} viscosities, ${report.pvt.length} volumes${report.fibres.length ? `, ${report.fibres.length} shares of fibres` : ''}.`,
    );
  };
  const toggle = (k: number) => {
    const now = left[what];
    setLeft({ ...left, [what]: now.includes(k) ? now.filter((i) => i !== k) : [...now, k] });
  };
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[15.5rem_1fr]">
      <div className="flex min-h-0 flex-col gap-2 border-r px-4 py-3">
        <Choice label="What to fit" value={what} options={hasFibres(base) ? WITH_FIBRES : WHAT} onChange={setWhat} />
        <PointsInput
          label="Measured points"
          file="File of measured points"
          placeholder={`One point a line:\n${COLUMNS[what]}`}
          value={texts[what]}
          onChange={put}
          beside={
            <Button onClick={ask} title="A stand-in for a laboratory: noisy readings of a grade it does not name">
              <FlaskConical size={13} /> Ask the lab
            </Button>
          }
        />
        {said && (
          <p role="status" className="text-soft text-[12px]">
            {said}
          </p>
        )}
      </div>
      <div className="flex min-h-0 min-w-0 flex-col px-5 py-3">
        {'refusal' in outcome ? (
          <div className="m-auto max-w-sm text-center" role="alert">
            <p className={texts[what].trim() ? 'text-problem font-medium' : 'font-medium'}>{outcome.refusal.message}</p>
            <p className="text-soft">{outcome.refusal.remedy}</p>
          </div>
        ) : (
          <Result
            fit={outcome.fit}
            left={left[what]}
            onPoint={toggle}
            onMake={() => void make(outcome.fit.with(base), 'fitted')}
            base={base}
          />
        )}
      </div>
    </div>
  );
}

function Result({
  fit,
  left,
  onPoint,
  onMake,
  base,
}: {
  fit: Fitted;
  left: readonly number[];
  onPoint: (k: number) => void;
  onMake: () => void;
  base: Resin;
}) {
  return (
    <>
      <p className="text-soft text-[12px]">
        {fit.curves.title}: {fit.count - left.length} of {fit.count} points, scatter {formatNumber(100 * fit.rms, 2)} %.
        Click a point to leave it out.
      </p>
      <div className="relative mt-1 min-h-0 flex-1">
        <CurveChart set={fit.curves} points={fit.points} onPoint={onPoint} />
      </div>
      <Residuals residuals={fit.residuals} left={left} onPoint={onPoint} />
      <dl className="num mt-2 grid grid-cols-2 gap-x-6 text-[12px] leading-[1.35]" data-testid="fitted">
        {fit.rows.map(({ name, value, error, unit }) => (
          <div key={name} className="flex justify-between gap-1 whitespace-nowrap">
            <dt className="text-soft">{name}</dt>
            <dd>
              {short(value)}
              {error !== undefined && Number.isFinite(error) ? ` ± ${short(error, 2)}` : ''} {unit}
            </dd>
          </div>
        ))}
      </dl>
      <div className="mt-2 flex justify-end">
        <Button look="primary" onClick={onMake} title={`Everything else is taken from ${base.name}`}>
          Make a resin of it
        </Button>
      </div>
      {fit.notes.map((note) => (
        <p key={note} className="text-watch mt-1 text-[12px]">
          {note}
        </p>
      ))}
    </>
  );
}

/** Distance of every point from the curve, in the order they were given. */
function Residuals({
  residuals,
  left,
  onPoint,
}: {
  residuals: number[];
  left: readonly number[];
  onPoint: (k: number) => void;
}) {
  const most = Math.max(1e-9, ...residuals.filter((_, k) => !left.includes(k)).map(Math.abs));
  return (
    <div className="mt-2">
      <p className="text-soft text-[11px]">Off the curve, largest {formatNumber(100 * most, 2)} %</p>
      <div className="relative flex h-11 items-center border-y">
        <span className="bg-line absolute inset-x-0 top-1/2 h-px" />
        {residuals.map((r, k) => {
          const out = left.includes(k);
          const height = Math.min(1, Math.abs(r) / most) * 50;
          return (
            <button
              key={k}
              type="button"
              aria-label={`Point ${k + 1}, ${formatNumber(100 * r, 2)} % off${out ? ', left out' : ''}`}
              aria-pressed={out}
              className="group relative h-full flex-1"
              onClick={() => onPoint(k)}
            >
              <span
                className={`absolute inset-x-[15%] ${out ? 'bg-line' : 'bg-petrol group-hover:bg-copper'}`}
                style={r > 0 ? { bottom: '50%', height: `${height}%` } : { top: '50%', height: `${height}%` }}
              />
            </button>
          );
        })}
      </div>
    </div>
  );
}

const short = (x: number, digits = 3): string =>
  x !== 0 && (Math.abs(x) >= 1e5 || Math.abs(x) < 1e-3) ? x.toExponential(digits - 1) : formatNumber(x, digits);

function work(
  what: What,
  text: string,
  left: readonly number[],
  base: Resin,
): { fit: Fitted } | { refusal: { message: string; remedy: string } } {
  try {
    return { fit: FITS[what](text, left, base) };
  } catch (error) {
    if (error instanceof FitError) return { refusal: { message: error.message, remedy: error.remedy } };
    throw error;
  }
}

const FITS: Record<What, (text: string, left: readonly number[], base: Resin) => Fitted> = {
  viscosity: viscosityFit,
  pvt: pvtFit,
  fibres: fibreFit,
};

function fibreFit(text: string, left: readonly number[], base: Resin): Fitted {
  const all = fibrePoints(text);
  const { filler, viscosity: flow } = base;
  if (!filler) throw new FitError(`${base.name} holds no fibres.`, 'Choose a grade that does.');
  const n = 'n' in flow ? flow.n : 1;
  const aspect = shapeOf(filler, filler.aspectRatio);
  const fit = fitTurning(
    all.filter((_, k) => !left.includes(k)),
    aspect,
    n,
  );
  const { turning, errors } = fit;
  const at = alongInPlate(turning, aspect, n);
  const distances = rounded(
    all.map((q) => q.distance),
    1e-3,
  );
  const groupOf = (d: number) =>
    distances.reduce((b, g, k) => (Math.abs(g - d) < Math.abs(distances[b] - d) ? k : b), 0);
  const wall = all[0].wall;
  const places = Array.from({ length: 39 }, (_, k) => k / 40);
  return {
    count: all.length,
    rms: fit.rms,
    notes: fit.notes,
    residuals: all.map((q) => at(q) - q.along),
    curves: {
      title: 'Share along the flow',
      x: { label: 'Place from the middle to the face, %', log: false },
      y: { label: 'Along the flow, %', log: false },
      lines: distances.slice(0, 6).map((distance) => ({
        label: `${format(distance, 'mm')} on`,
        dashed: false,
        points: places.map((place) => ({ x: 100 * place, y: 100 * at({ distance, wall, place }) })),
      })),
    },
    points: all.map((q, k) => ({
      x: 100 * Math.abs(q.place),
      y: 100 * q.along,
      group: groupOf(q.distance),
      left: left.includes(k),
    })),
    rows: [
      { name: 'C_I', value: turning.interaction.CI, error: errors.CI && errors.CI * turning.interaction.CI, unit: '' },
      { name: 'Follows at', value: 100 * turning.slowing, error: errors.slowing && 100 * errors.slowing, unit: '%' },
      { name: 'Length over diameter, kept', value: filler.aspectRatio, error: undefined, unit: '' },
    ],
    with: (resin) => (resin.filler ? { ...resin, filler: { ...resin.filler, turning } } : resin),
  };
}

/** One value for all that lie within a step of it. */
function rounded(values: number[], step: number): number[] {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted.filter((v, k) => k === 0 || v - sorted[k - 1] > step);
}

function viscosityFit(text: string, left: readonly number[], base: Resin): Fitted {
  const all: ViscosityPoint[] = viscosityPoints(text);
  const reference = base.viscosity.kind === 'cross-wlf' ? base.viscosity.D2 : base.transitionTemperature;
  const D3 = base.viscosity.kind === 'cross-wlf' ? base.viscosity.D3 : 0;
  const kept = all.filter((_, k) => !left.includes(k));
  const fit: ViscosityFit = fitViscosity(kept, reference, D3);
  const { model, errors } = fit;
  const groups = rounded(
    all.map((q) => q.T),
    2,
  );
  const groupOf = (T: number) => groups.reduce((b, g, k) => (Math.abs(g - T) < Math.abs(groups[b] - T) ? k : b), 0);
  const rates = Array.from({ length: 49 }, (_, k) => 10 ** (k / 10));
  return {
    count: all.length,
    rms: fit.rms,
    notes: fit.notes,
    residuals: all.map((q) => viscosity(model, q.T, q.p, q.shearRate) / q.viscosity - 1),
    curves: {
      title: 'Cross-WLF',
      x: { label: 'Shear rate, 1/s', log: true },
      y: { label: 'Viscosity, Pa·s', log: true },
      lines: groups.slice(0, 6).map((T) => ({
        label: format(T, '°C'),
        dashed: false,
        points: rates.map((x) => ({ x, y: viscosity(model, T, 0, x) })),
      })),
    },
    points: all.map((q, k) => ({ x: q.shearRate, y: q.viscosity, group: groupOf(q.T), left: left.includes(k) })),
    rows: [
      { name: 'n', value: model.n, error: errors.n, unit: '' },
      { name: 'tau*', value: model.tauStar, error: errors.tauStar, unit: 'Pa' },
      { name: 'D1', value: model.D1, error: errors.D1 === undefined ? undefined : errors.D1 * model.D1, unit: 'Pa·s' },
      { name: 'A1', value: model.A1, error: errors.A1, unit: '' },
      { name: 'D2, set', value: told(model.D2, '°C'), error: undefined, unit: shownUnit('°C') },
      { name: errors.D3 === undefined ? 'D3, kept' : 'D3', value: model.D3, error: errors.D3, unit: 'K/Pa' },
    ],
    with: (resin) => ({ ...resin, viscosity: model }),
  };
}

function pvtFit(text: string, left: readonly number[], base: Resin): Fitted {
  const all: PvtPoint[] = pvtPoints(text);
  const kept = all.filter((_, k) => !left.includes(k));
  const fit: PvtFit = fitPvt(kept, base.structure === 'semi-crystalline');
  const { model, errors } = fit;
  const groups = rounded(
    all.map((q) => q.p - ATMOSPHERE),
    1e6,
  );
  const groupOf = (p: number) =>
    groups.reduce((b, g, k) => (Math.abs(g + ATMOSPHERE - p) < Math.abs(groups[b] + ATMOSPHERE - p) ? k : b), 0);
  const [low, high] = [Math.min(...all.map((q) => q.T)), Math.max(...all.map((q) => q.T))];
  const temperatures = Array.from({ length: 121 }, (_, k) => low + (k / 120) * (high - low));
  const UNITS: Partial<Record<keyof typeof model, string>> = { b5: 'K', b3m: 'Pa', b3s: 'Pa' };
  const names = ['b5', 'b6', 'b1m', 'b2m', 'b3m', 'b4m', 'b1s', 'b2s', 'b3s', 'b4s', 'b7', 'b8', 'b9'] as const;
  return {
    count: all.length,
    rms: fit.rms,
    notes: fit.notes,
    residuals: all.map((q) => specificVolume(model, q.T, q.p) / q.v - 1),
    curves: {
      title: 'Two-domain Tait',
      x: { label: `Temperature, ${shownUnit('°C')}`, log: false },
      y: { label: 'Specific volume, cm³/g', log: false },
      lines: groups.slice(0, 6).map((p) => ({
        label: format(p, 'MPa'),
        dashed: false,
        points: temperatures.map((T) => ({ x: told(T, '°C'), y: 1e3 * specificVolume(model, T, p + ATMOSPHERE) })),
      })),
    },
    points: all.map((q, k) => ({ x: told(q.T, '°C'), y: 1e3 * q.v, group: groupOf(q.p), left: left.includes(k) })),
    rows: names.map((name) => ({ name, value: model[name], error: errors[name], unit: UNITS[name] ?? '' })),
    with: (resin) => ({ ...resin, pvt: model, transitionTemperature: model.b5 }),
  };
}
