import { helpOf } from '@/core/help/inputHelp';
import { toast } from 'sonner';
import { Scale, X } from 'lucide-react';
import { useMemo, useState } from 'react';
import type { BalanceReport, BalanceRow } from '@/core/pipeline/balanceStudy';
import { branchesOf, withDiameters } from '@/core/pipeline/branches';
import type { BalanceState } from '@/core/pipeline/balanceState';
import type { BalanceAsk } from '@/core/model/balanceAsk';
import { withCopies } from '@/core/setup/copies';
import { solvedOnce } from '@/core/setup/feedOf';
import type { Inputs } from '@/core/model/study';
import { format, formatShown, shownUnit } from '@/core/units/reader';
import { formatNumber } from '@/core/units/units';
import { freshName, presentInputs, useStudy } from '../study/store';
import { useBench } from '../study/bench';
import { Button, Choice, SectionTitle } from '../ui/controls';
import { NumberField } from '../ui/NumberField';
import { cancelBalance, startBalance, useBalance } from './balance';

const GOALS = [
  { value: 'balance', label: 'Even' },
  { value: 'least-volume', label: 'Least melt' },
] as const;
type Cutters = 'any' | 'half' | 'whole';
const CUTTERS: { value: Cutters; label: string }[] = [
  { value: 'any', label: 'Any size' },
  { value: 'half', label: '½ mm' },
  { value: 'whole', label: '1 mm' },
];
/** Cutters from 2 to 16 mm in steps, m. */
const cutters = (step: number) => Array.from({ length: Math.round(14 / step) + 1 }, (_, k) => (2 + k * step) / 1000);

const sizesOf = (c: Cutters) => (c === 'any' ? null : cutters(c === 'half' ? 0.5 : 1));

/** The inputs as the balance sees them: every copy by itself where they are not alike. */
const flat = (inputs: Inputs): Inputs => (inputs.cavities && !solvedOnce(inputs) ? withCopies(inputs) : inputs);

const canBalance = (inputs: Inputs): boolean =>
  inputs.feed !== null && inputs.gates.length > 0 && (inputs.feed.layout !== 'drawn' || !!inputs.feed.lines?.length);

/** Diameters that let all cavities fill at the same time: asked for, tried, shown and taken over. */
export function BalancePanel() {
  const inputs = useStudy((s) => presentInputs(s));
  const { running, report, of, problem } = useBalance();
  const [goal, setGoal] = useState<BalanceAsk['goal']>('balance');
  const [pressure, setPressure] = useState<number | null>(6e7);
  const [bounds, setBounds] = useState({ min: 0.002, max: 0.01 });
  const [size, setSize] = useState<Cutters>('any');
  const [own, setOwn] = useState<BalanceAsk['own']>({});
  const [ownCutters, setOwnCutters] = useState<Record<string, Cutters>>({});
  const branches = useMemo(
    () => (canBalance(inputs) ? branchesOf(flat(inputs), { goal, bounds, own: {} }) : []),
    [inputs, goal, bounds],
  );
  if (!canBalance(inputs) || (goal === 'balance' && branches.length < 2)) return null;
  const run = () => {
    const ownSizes = Object.fromEntries(Object.entries(ownCutters).map(([key, c]) => [key, sizesOf(c)]));
    void startBalance(inputs, { goal, pressure, bounds, own, sizes: sizesOf(size), ownSizes });
  };
  return (
    <>
      <SectionTitle>Balance</SectionTitle>
      <div className="space-y-1.5">
        <Choice label="Goal of the balance" value={goal} options={GOALS} onChange={setGoal} />
        {goal === 'least-volume' && (
          <NumberField
            label="Nozzle pressure up to"
            help={helpOf('balancePressure')}
            unit="MPa"
            value={pressure}
            min={1e6}
            max={3e8}
            step={5}
            onChange={(v) => v !== null && setPressure(v)}
          />
        )}
        <NumberField
          label="Least diameter"
          help={helpOf('balanceLeast')}
          unit="mm"
          value={bounds.min}
          min={2e-4}
          max={bounds.max}
          step={0.5}
          onChange={(min) => min !== null && setBounds({ ...bounds, min })}
        />
        <NumberField
          label="Largest diameter"
          help={helpOf('balanceLargest')}
          unit="mm"
          value={bounds.max}
          min={bounds.min}
          max={0.06}
          step={0.5}
          onChange={(max) => max !== null && setBounds({ ...bounds, max })}
        />
        <Choice label="Cutter sizes" value={size} options={CUTTERS} onChange={setSize} />
        <ul className="num text-[12px]" aria-label="Branches of the balance">
          {branches.map((b) => (
            <li key={b.key} className="flex flex-wrap items-center gap-x-2 py-0.5">
              <label className="flex flex-1 items-center gap-2">
                <input
                  type="checkbox"
                  className="accent-petrol"
                  checked={b.key in own}
                  onChange={(e) => {
                    const { [b.key]: _, ...rest } = own;
                    if (!e.target.checked) {
                      const { [b.key]: __, ...others } = ownCutters;
                      setOwnCutters(others);
                    }
                    setOwn(e.target.checked ? { ...rest, [b.key]: { min: b.diameter, max: b.diameter } } : rest);
                  }}
                />
                <span className="flex-1 truncate" title={b.key}>
                  to {b.gates.join(', ')}
                </span>
                <span className="text-soft">{b.key in own ? 'own limits' : 'between both'}</span>
              </label>
              <span className="w-16 text-right whitespace-nowrap">{format(b.diameter, 'mm')}</span>
              {b.key in own && (
                <div className="w-full space-y-1.5 border-l-2 pb-1 pl-2.5 text-[13px]">
                  {(['min', 'max'] as const).map((end) => (
                    <NumberField
                      key={end}
                      label={end === 'min' ? 'Not below' : 'Not above'}
                      help={helpOf(end === 'min' ? 'balanceLeast' : 'balanceLargest')}
                      unit="mm"
                      value={own[b.key][end]}
                      min={end === 'min' ? 2e-4 : own[b.key].min}
                      max={end === 'min' ? own[b.key].max : 0.06}
                      step={0.5}
                      onChange={(v) => v !== null && setOwn({ ...own, [b.key]: { ...own[b.key], [end]: v } })}
                    />
                  ))}
                  <p className="text-soft text-[11.5px]">Both alike keep it as it is.</p>
                  <Choice
                    label={`Cutter sizes of the branch to ${b.gates.join(', ')}`}
                    value={ownCutters[b.key] ?? size}
                    options={CUTTERS}
                    onChange={(c) => setOwnCutters({ ...ownCutters, [b.key]: c })}
                  />
                </div>
              )}
            </li>
          ))}
        </ul>
        {running ? (
          <div role="status">
            <div className="bg-well h-1.5 overflow-hidden rounded">
              <div className="bg-copper h-full" style={{ width: `${Math.max(3, 100 * running.fraction)}%` }} />
            </div>
            <div className="mt-1 flex items-center justify-between">
              <span className="text-soft text-[12px]">{running.message}</span>
              <Button className="h-6 px-2 text-[12px]" onClick={cancelBalance}>
                <X size={12} /> Stop
              </Button>
            </div>
          </div>
        ) : (
          <Button className="w-full" onClick={run}>
            <Scale size={13} /> Find diameters
          </Button>
        )}
        {problem && (
          <p className="text-[12px]" role="alert">
            <span className="text-problem">{problem.message}</span> <span className="text-soft">{problem.remedy}</span>
          </p>
        )}
        {report && of && <Proposal report={report} stale={of !== inputs} />}
      </div>
    </>
  );
}

/** Old and new diameters, what they do, and how to take them over. */
function Proposal({ report, stale }: { report: BalanceReport; stale: boolean }) {
  const { rows, before, after, reached } = report;
  const apply = async (taken: BalanceRow[], name: string) => {
    const study = useStudy.getState();
    const inputs = presentInputs(study);
    const from = study.variantId;
    const diameters = Object.fromEntries(taken.map((r) => [r.key, Number(r.after.toPrecision(4))]));
    const made = await study.branch(freshName(study.variants, name), withDiameters(inputs, diameters));
    if (!made) return;
    useBench.getState().set({ station: 'feed' });
    // The proposal holds on: it was found for the study that this one was branched from.
    useBalance.setState({ of: presentInputs(useStudy.getState()) });
    toast(`“${made.name}” is made with ${taken.length === 1 ? 'the new diameter' : 'the new diameters'}.`, {
      description: 'Run it to see what it does.',
      action: { label: 'Back', onClick: () => useStudy.getState().selectVariant(from) },
    });
  };
  return (
    <div className="border-t pt-2">
      {stale && <p className="text-watch mb-1 text-[12px]">Found for other inputs than the present ones.</p>}
      <table className="num w-full text-[12px]" aria-label="Proposed diameters">
        <thead className="text-soft">
          <tr className="border-b">
            <th className="py-1 text-left font-normal">Branch to</th>
            <th className="text-right font-normal whitespace-nowrap">Old {shownUnit('mm')}</th>
            <th className="pl-2 text-right font-normal whitespace-nowrap">New {shownUnit('mm')}</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={r.key} className="border-b align-top last:border-0">
              <td className="py-1 text-left">
                {r.gates.join(', ')}
                <span className="text-soft block text-[11.5px]">{r.reason}</span>
              </td>
              <td className="py-1 text-right">{formatShown(r.before, 'mm')}</td>
              <td className="py-1 text-right font-semibold">{formatShown(r.after, 'mm')}</td>
              <td className="py-0.5 pl-1.5 text-right">
                <Button
                  className="h-6 px-1.5 text-[12px]"
                  aria-label={`Take over the branch to ${r.gates.join(', ')}`}
                  title="Makes a variant with this diameter alone"
                  onClick={() => void apply([r], `Runner to ${r.gates.join(', ')}`)}
                >
                  Take
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Effect before={before} after={after} />
      {!reached && (
        <p className="text-watch mt-1 text-[12px]">
          Not even within what was asked: widen the bounds, free a branch, or allow any size.
        </p>
      )}
      <Button className="border-petrol! text-petrol mt-2 w-full" onClick={() => void apply(rows, 'Balanced')}>
        Take all as a variant
      </Button>
    </div>
  );
}

function Effect({ before, after }: { before: BalanceState; after: BalanceState }) {
  const percent = (x: number) => `${formatNumber(100 * x, 2)} %`;
  const lines: [string, string, string][] = [
    ['Spread of fill time', percent(before.timeSpread), percent(after.timeSpread)],
    ['Spread of pressure', percent(before.pressureSpread), percent(after.pressureSpread)],
    ['Nozzle pressure', format(before.pressure, 'MPa'), format(after.pressure, 'MPa')],
    ['Clamp force', format(before.clampForce, 'kN'), format(after.clampForce, 'kN')],
    ['Cold feed', format(before.feedVolume, 'cm³'), format(after.feedVolume, 'cm³')],
  ];
  return (
    <table className="num mt-2 w-full text-[12px]" aria-label="Before and after balancing">
      <thead className="text-soft">
        <tr className="border-b">
          <th className="py-1 text-left font-normal">At Detail quick</th>
          <th className="text-right font-normal">Before</th>
          <th className="text-right font-normal">After</th>
        </tr>
      </thead>
      <tbody>
        {lines.map(([label, a, b]) => (
          <tr key={label}>
            <td className="py-0.5 text-left">{label}</td>
            <td className="text-right">{a}</td>
            <td className="text-right font-semibold">{b}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
