'use client';

import { Crosshair, Pause, Play } from 'lucide-react';
import { Slider } from 'radix-ui';
import { useMemo, type ReactNode } from 'react';
import { geometryKey } from '@/core/model/study';
import { CAUSE_NAMES, type ShapeFacts } from '@/core/results/shape';
import { format } from '@/core/units/reader';
import { formatNumber } from '@/core/units/units';
import { useStudy } from '../study/store';
import { useAim, useBench } from '../study/bench';
import { useView, type ShapeLook } from '../study/view';
import { Button, Choice, Fact, SectionTitle, Select } from '../ui/controls';
import { CorrectPanel } from './CorrectPanel';
import { IN_INSERTS } from '../study/shownShape';
import { MeasurePanel } from './MeasurePanel';

const ALONG: readonly { value: ShapeLook['along']; label: string }[] = [
  { value: 'total', label: 'All' },
  { value: 'x', label: 'x' },
  { value: 'y', label: 'y' },
  { value: 'z', label: 'z' },
  { value: 'normal', label: 'Normal' },
];
const ALIGN: readonly { value: ShapeLook['align']; label: string }[] = [
  { value: 'best-fit', label: 'Best fit' },
  { value: 'three-points', label: 'Three points' },
];
const FRAMES: readonly { value: ShapeLook['frame']; label: string }[] = [
  { value: 'drawing', label: 'Axes as drawn' },
  { value: 'points', label: 'By three points' },
];
const STRESS_IN: readonly { value: ShapeLook['stressIn']; label: string }[] = [
  { value: 'plastic', label: 'Plastic' },
  { value: 'both', label: 'Both' },
  { value: 'inserts', label: 'Inserts' },
];
const MOST = 50;

/** Runs of other variants of this part that have a shape. */
function useOthers(runId: string): { value: string; label: string }[] {
  const runs = useStudy((s) => s.runs);
  const variants = useStudy((s) => s.variants);
  return useMemo(() => {
    const own = runs.find((r) => r.id === runId);
    if (!own) return [];
    const seen = new Set<string>();
    return runs.flatMap((run) => {
      const variant = variants.find((v) => v.id === run.variantId);
      if (run.id === runId || !variant || !run.summary?.shape || seen.has(run.variantId)) return [];
      if (geometryKey(run.inputs) !== geometryKey(own.inputs)) return [];
      seen.add(run.variantId);
      const again = run.variantId === own.variantId;
      return [{ value: run.id, label: again ? 'The run before' : variant.name }];
    });
  }, [runs, variants, runId]);
}

/** How the shape of a run is looked at, and what bends it. */
export function ShapePanel({ facts, runId }: { facts: ShapeFacts; runId: string }) {
  const shape = useView((s) => s.shape);
  const field = useView((s) => s.field);
  const picking = useAim('alignment') !== null;
  const set = useView((s) => s.set);
  const brush = useView((s) => s.brush);
  const outside = field === 'deviation' && brush !== null && brush[0] === facts.tolerance_m && shape.along === 'total';
  const others = useOthers(runId);
  const change = (patch: Partial<ShapeLook>) => set({ shape: { ...shape, ...patch }, field: 'deviation', brush: null });
  const draw = (patch: Partial<ShapeLook>) => set({ shape: { ...shape, ...patch } });
  const causes = facts.causes.map((c) => ({ value: c.cause, label: CAUSE_NAMES[c.cause] }));
  const needsPoints = shape.align === 'three-points' || shape.frame === 'points';
  return (
    <>
      <SectionTitle>Shape check</SectionTitle>
      <div className="space-y-1.5">
        <Labelled text="Cause">
          <Select
            label="Cause"
            value={shape.cause}
            options={[{ value: 'all', label: 'Everything' }, ...causes]}
            onChange={(cause) => change({ cause: cause as ShapeLook['cause'] })}
          />
        </Labelled>
        <Choice
          label="Direction"
          value={shape.along}
          options={ALONG}
          onChange={(along) => (field === 'stressAlong' ? draw({ along }) : change({ along }))}
        />
        <Choice label="Alignment" value={shape.align} options={ALIGN} onChange={(align) => change({ align })} />
        <Choice label="Axes" value={shape.frame} options={FRAMES} onChange={(frame) => draw({ frame })} />
        {facts.insertStress.length > 0 && (
          <Labelled text="Stress in">
            <Choice
              label="Stress in"
              value={shape.stressIn}
              options={STRESS_IN}
              onChange={(stressIn) =>
                set({
                  shape: { ...shape, stressIn, cause: 'all', body: 'shape' },
                  field: IN_INSERTS.includes(field) ? field : 'vonMises',
                  brush: null,
                })
              }
            />
          </Labelled>
        )}
        {needsPoints && (
          <Button
            className="w-full"
            look={picking ? 'primary' : 'plain'}
            aria-pressed={picking}
            onClick={() => {
              draw(picking ? {} : { points: [] });
              useBench.getState().set({ aim: picking ? null : { for: 'alignment' } });
            }}
          >
            <Crosshair size={13} />
            {picking ? `Click on the part: ${shape.points.length} of 3` : pickLabel(shape.points.length)}
          </Button>
        )}
        {others.length > 0 && (
          <Labelled text="Minus">
            <Select
              label="Compare with"
              value={shape.against && others.some((o) => o.value === shape.against) ? shape.against : 'none'}
              options={[{ value: 'none', label: 'Nothing' }, ...others]}
              onChange={(id) => change({ against: id === 'none' ? null : id })}
            />
          </Labelled>
        )}
        <div className="flex items-center gap-2">
          <span className="text-soft w-16 shrink-0">Drawn</span>
          <Slider.Root
            className="relative flex h-6 flex-1 touch-none items-center"
            min={0}
            max={MOST}
            step={1}
            value={[shape.scale]}
            onValueChange={([scale]) => draw({ scale })}
          >
            <Slider.Track className="bg-well relative h-1 grow rounded-full border">
              <Slider.Range className="bg-petrol absolute h-full rounded-full" />
            </Slider.Track>
            <Slider.Thumb
              aria-label="Exaggeration"
              className="bg-sheet border-petrol block size-3.5 rounded-full border-2"
            />
          </Slider.Root>
          <span className="num w-9 text-right">{shape.scale} ×</span>
          <Button
            title={shape.moving ? 'Stop moving' : 'Move between drawing and shape'}
            aria-label={shape.moving ? 'Stop moving' : 'Move between drawing and shape'}
            aria-pressed={shape.moving}
            onClick={() => draw({ moving: !shape.moving })}
          >
            {shape.moving ? <Pause size={13} /> : <Play size={13} />}
          </Button>
        </div>
      </div>
      <Causes facts={facts} />
      <dl className="num mt-2 grid grid-cols-[1fr_auto] gap-y-1">
        <Fact label="Largest deviation" value={format(facts.largest_m, 'mm', 3)} />
        <Fact label="Tolerance" value={format(facts.tolerance_m, 'mm', 3)} />
        <Fact label="Mean along walls" value={`${formatNumber(100 * facts.meanShrinkage, 3)} %`} />
        <Fact label="Structure" value={`${facts.elements.toLocaleString('en-GB')} cells`} />
      </dl>
      <Button
        className="mt-1.5 w-full"
        aria-pressed={outside}
        onClick={() =>
          set(
            outside
              ? { brush: null }
              : {
                  field: 'deviation',
                  shape: { ...shape, cause: 'all', along: 'total' },
                  brush: [facts.tolerance_m, 1e29],
                },
          )
        }
      >
        {outside ? 'Show all of it again' : 'Only what is outside the tolerance'}
      </Button>
      <MeasurePanel runId={runId} />
      <CorrectPanel facts={facts} runId={runId} />
    </>
  );
}

const pickLabel = (n: number) => (n === 3 ? 'Pick three other points' : 'Pick three points');

function Labelled({ text, children }: { text: string; children: ReactNode }) {
  return (
    <div className="flex items-center gap-2">
      <span className="text-soft w-16 shrink-0">{text}</span>
      <div className="min-w-0 flex-1">{children}</div>
    </div>
  );
}

/** Share of each cause in the deviation; what counteracts it lies left of the line. */
function Causes({ facts }: { facts: ShapeFacts }) {
  const most = Math.max(...facts.causes.map((c) => Math.abs(c.share)), 1e-9);
  const least = Math.min(0, ...facts.causes.map((c) => c.share));
  const span = most - least;
  const zero = (100 * -least) / span;
  return (
    <ul aria-label="Causes of the deviation" className="mt-3 space-y-1">
      {[...facts.causes]
        .sort((a, b) => b.share - a.share)
        .map(({ cause, share }) => (
          <li key={cause} className="grid grid-cols-[10rem_1fr_3.25rem] items-center gap-2">
            <span className="truncate">{CAUSE_NAMES[cause]}</span>
            <span className="bg-well relative h-2.5 rounded-sm">
              <span
                className={`absolute h-full rounded-sm ${share < 0 ? 'bg-copper' : 'bg-petrol'}`}
                style={{
                  left: `${share < 0 ? zero + (100 * share) / span : zero}%`,
                  width: `${(100 * Math.abs(share)) / span}%`,
                }}
              />
            </span>
            <span className="num text-right whitespace-nowrap">
              {Math.abs(share) < 0.005 ? '0' : formatNumber(100 * share, Math.abs(share) < 0.095 ? 1 : 2)} %
            </span>
          </li>
        ))}
    </ul>
  );
}
