'use client';

import { Columns2, Maximize2, Ruler, Scissors } from 'lucide-react';
import { Slider } from 'radix-ui';
import { useState, type ReactNode } from 'react';
import { useBench } from '../study/bench';
import { mainView, useView, type Axis, type ViewName } from '../study/view';
import { Button, Choice, Select } from '../ui/controls';

const VIEWS: { value: ViewName; label: string }[] = [
  { value: 'iso', label: 'Oblique' },
  { value: 'front', label: 'Front' },
  { value: 'back', label: 'Back' },
  { value: 'left', label: 'Left' },
  { value: 'right', label: 'Right' },
  { value: 'top', label: 'Top' },
  { value: 'bottom', label: 'Bottom' },
];

const AXES = [
  { value: 'x', label: 'X' },
  { value: 'y', label: 'Y' },
  { value: 'z', label: 'Z' },
] as const;

/** Fit, named views and the section, in the corner of the part; below them what the present work needs at hand. */
export function ViewTools({ children }: { children?: ReactNode }) {
  const section = useView((s) => s.section);
  const { station, beside, aim } = useBench();
  const measuring = aim?.for === 'distance';
  const picking = aim?.for === 'section-face';
  const { set, look } = mainView.getState();
  const [named, setNamed] = useState<ViewName>('iso');
  const update = (patch: Partial<typeof section>) => set({ section: { ...section, ...patch } });
  return (
    <div className="pointer-events-none absolute top-2 right-2 left-2 flex flex-col items-start gap-1.5 *:pointer-events-auto">
      <div className="flex flex-wrap gap-1.5">
        <Button
          onClick={() => look('fit')}
          title="Fit the part to the view (F)"
          aria-label="Fit"
          className="bg-sheet/90 px-1.5"
        >
          <Maximize2 size={14} />
        </Button>
        <div className="w-28">
          <Select
            label="View from"
            value={named}
            options={VIEWS}
            onChange={(v) => {
              setNamed(v as ViewName);
              look(v as ViewName);
            }}
          />
        </div>
        <Button
          onClick={() => update({ on: !section.on })}
          aria-pressed={section.on}
          title="Section (S)"
          className={section.on ? 'border-petrol! bg-petrol-wash!' : 'bg-sheet/90'}
        >
          <Scissors size={13} /> Section
        </Button>
        {/* Compared parts have a view each. */}
        {station !== 'compare' && (
          <Button
            onClick={() => useBench.getState().set({ aim: measuring ? null : { for: 'distance', ends: [] } })}
            aria-pressed={measuring}
            aria-label="Distance"
            title="Distance between two places, and the wall at each (D)"
            className={`px-1.5 ${measuring ? 'border-petrol! bg-petrol-wash!' : 'bg-sheet/90'}`}
          >
            <Ruler size={14} />
          </Button>
        )}
        {station === 'answers' && (
          <Button
            onClick={() => useBench.getState().set({ beside: !beside })}
            aria-pressed={beside}
            title="Another field of the same result beside it"
            className={beside ? 'border-petrol! bg-petrol-wash!' : 'bg-sheet/90'}
          >
            <Columns2 size={13} /> Beside
          </Button>
        )}
      </div>
      {children}
      {section.on && (
        <div className="bg-sheet w-72 space-y-1 rounded border p-1.5">
          <div className="flex items-center gap-2">
            <Choice
              label="Section across"
              value={section.axis}
              options={AXES}
              onChange={(axis: Axis) => update({ axis, tilt: 0, swing: 0 })}
            />
            <Track
              label="Place of the section"
              min={0}
              max={1}
              step={0.005}
              value={section.at}
              onChange={(at) => update({ at })}
            />
            <Button
              look="quiet"
              className="px-1.5"
              onClick={() => update({ flipped: !section.flipped })}
              title="See the other side"
            >
              ⇄
            </Button>
          </div>
          <Button
            className="h-6 w-full text-[12px]"
            aria-pressed={picking}
            onClick={() => useBench.getState().set({ aim: picking ? null : { for: 'section-face' } })}
          >
            {picking ? 'Click a face, Esc to leave' : 'Lay it along a face'}
          </Button>
          {(['tilt', 'swing'] as const).map((way) => (
            <div key={way} className="num flex items-center gap-2 px-1 text-[12px]">
              <span className="text-soft w-10">{way === 'tilt' ? 'Tilt' : 'Swing'}</span>
              <Track
                label={way === 'tilt' ? 'Tilt of the section' : 'Swing of the section'}
                min={-90}
                max={90}
                step={1}
                value={section[way]}
                onChange={(v) => update(way === 'tilt' ? { tilt: v } : { swing: v })}
              />
              <span className="w-9 text-right">{Math.round(section[way])}°</span>
            </div>
          ))}
        </div>
      )}
    </div>
  );
}

interface TrackProps {
  label: string;
  min: number;
  max: number;
  step: number;
  value: number;
  onChange: (value: number) => void;
}

function Track({ label, min, max, step, value, onChange }: TrackProps) {
  return (
    <Slider.Root
      aria-label={label}
      className="relative flex h-5 flex-1 items-center"
      min={min}
      max={max}
      step={step}
      value={[value]}
      onValueChange={([v]) => onChange(v)}
    >
      <Slider.Track className="bg-line h-[3px] w-full rounded" />
      <Slider.Thumb aria-label={label} className="bg-petrol block size-3.5 rounded-full" />
    </Slider.Root>
  );
}
