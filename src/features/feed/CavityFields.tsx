import { Plus, Trash2 } from 'lucide-react';
import type { CavityLayout } from '@/core/model/cavityLayout';
import { nCopies } from '@/core/model/study';
import { solvedOnce } from '@/core/setup/feedOf';
import { presentPart, presentInputs, useStudy } from '../study/store';
import { Button, SectionTitle, Select } from '../ui/controls';
import { QuantityField } from '../ui/QuantityField';

type Places = CavityLayout['places'];
type Kind = Places['by'] | 'one';

const KINDS: { value: Kind; label: string; note?: string }[] = [
  { value: 'one', label: 'One of each' },
  { value: 'row', label: 'Rows', note: 'columns and rows' },
  { value: 'circle', label: 'Circle', note: 'around a point' },
  { value: 'free', label: 'Free', note: 'one by one' },
];
/** Steel between two cavities when they are first laid out, m. */
const BETWEEN = 0.02;

/** How many cavities the tool has, and where. */
export function CavityFields() {
  const inputs = useStudy((s) => presentInputs(s));
  const part = useStudy(presentPart);
  const change = useStudy((s) => s.change);
  if (!part) return null;
  const { cavities } = inputs;
  const { min, max } = part.bounds;
  const middle: [number, number] = [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2];
  const size = [max[0] - min[0], max[1] - min[1]];
  const set = (label: string, next: CavityLayout | undefined) => {
    const { cavities: _, ...rest } = inputs;
    change(label, next ? { ...rest, cavities: next } : rest);
  };
  const places = (label: string, next: Places) =>
    set(label, { middle: cavities?.middle ?? middle, solveOnce: cavities?.solveOnce ?? true, places: next });
  const choose = (kind: Kind) => {
    const pitch = size.map((s) => Number((s + BETWEEN).toFixed(3))) as [number, number];
    if (kind === 'one') set('One of each cavity', undefined);
    else if (kind === 'row') places('Cavities in rows', { by: 'row', columns: 2, rows: 1, pitch, facing: true });
    else if (kind === 'circle')
      places('Cavities in a circle', {
        by: 'circle',
        count: 4,
        centre: [Number((min[0] - Math.max(BETWEEN, size[1] / 2)).toFixed(3)), Number(middle[1].toFixed(4))],
      });
    else places('Free cavities', { by: 'free', copies: [{ x: pitch[0], y: 0, turn: Math.PI, mirrored: false }] });
  };
  return (
    <>
      <SectionTitle>Cavities</SectionTitle>
      <Select
        label="Cavity layout"
        value={cavities?.places.by ?? 'one'}
        options={KINDS}
        onChange={(v) => choose(v as Kind)}
      />
      {cavities && (
        <div className="mt-1.5 space-y-1.5">
          <PlaceFields places={cavities.places} onChange={places} />
          <label className="flex items-start gap-2">
            <input
              type="checkbox"
              className="accent-petrol mt-1"
              checked={cavities.solveOnce}
              onChange={(e) =>
                set(e.target.checked ? 'Solve equal cavities once' : 'Solve every cavity', {
                  ...cavities,
                  solveOnce: e.target.checked,
                })
              }
            />
            <span>
              Solve equal cavities once
              <span className="text-soft block text-[12px]">{said(inputs)}</span>
            </span>
          </label>
        </div>
      )}
    </>
  );
}

function said(inputs: Parameters<typeof solvedOnce>[0]): string {
  const n = nCopies(inputs);
  if (!inputs.cavities?.solveOnce) return `All ${n} are solved, whatever the feed.`;
  try {
    return solvedOnce(inputs)
      ? `The feed treats all ${n} alike: one is solved for all.`
      : `The feed treats them differently: all ${n} are solved.`;
  } catch {
    return 'Told as soon as there is a feed.';
  }
}

function PlaceFields({ places, onChange }: { places: Places; onChange: (label: string, next: Places) => void }) {
  if (places.by === 'row')
    return (
      <>
        {(['columns', 'rows'] as const).map((key) => (
          <QuantityField
            of="cavityColumns"
            help="cavityCount"
            key={key}
            label={key === 'columns' ? 'Columns' : 'Rows'}
            value={places[key]}
            onChange={(v) => v !== null && onChange('Number of cavities', { ...places, [key]: Math.round(v) })}
          />
        ))}
        {(['X', 'Y'] as const).map((axis, d) => (
          <QuantityField
            of="cavityPitch"
            key={axis}
            label={`Pitch along ${axis}`}
            value={places.pitch[d]}
            onChange={(v) =>
              v !== null &&
              onChange('Pitch of the cavities', {
                ...places,
                pitch: places.pitch.map((p, k) => (k === d ? v : p)) as [number, number],
              })
            }
          />
        ))}
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="accent-petrol"
            checked={places.facing}
            onChange={(e) => onChange('Facing cavities', { ...places, facing: e.target.checked })}
          />
          Every second one mirrored
        </label>
      </>
    );
  if (places.by === 'circle')
    return (
      <>
        <QuantityField
          of="cavityRing"
          help="cavityCount"
          label="Count"
          value={places.count}
          onChange={(v) => v !== null && onChange('Number of cavities', { ...places, count: Math.round(v) })}
        />
        {(['X', 'Y'] as const).map((axis, d) => (
          <QuantityField
            of="cavityAt"
            help="place"
            key={axis}
            label={`Centre ${axis}`}
            value={places.centre[d]}
            onChange={(v) =>
              v !== null &&
              onChange('Centre of the circle', {
                ...places,
                centre: places.centre.map((c, k) => (k === d ? v : c)) as [number, number],
              })
            }
          />
        ))}
      </>
    );
  return <FreeCopies places={places} onChange={onChange} />;
}

function FreeCopies({
  places,
  onChange,
}: {
  places: Extract<Places, { by: 'free' }>;
  onChange: (label: string, next: Places) => void;
}) {
  const { copies } = places;
  const edit = (k: number, patch: Partial<(typeof copies)[number]>) =>
    onChange(`Move copy ${k + 2}`, { ...places, copies: copies.map((c, i) => (i === k ? { ...c, ...patch } : c)) });
  return (
    <>
      {copies.map((copy, k) => (
        <fieldset key={k} className="space-y-1.5 border-l-2 pl-2.5">
          <legend className="text-soft flex w-full items-center justify-between text-[12px]">
            Copy {k + 2}
            <button
              type="button"
              aria-label={`Delete copy ${k + 2}`}
              disabled={copies.length === 1}
              className="hover:text-problem disabled:opacity-40"
              onClick={() => onChange(`Delete copy ${k + 2}`, { ...places, copies: copies.filter((_, i) => i !== k) })}
            >
              <Trash2 size={13} />
            </button>
          </legend>
          {(['x', 'y'] as const).map((axis) => (
            <QuantityField
              of="cavityAt"
              help="place"
              key={axis}
              label={`Moved along ${axis.toUpperCase()}`}
              value={copy[axis]}
              onChange={(v) => v !== null && edit(k, { [axis]: v })}
            />
          ))}
          <QuantityField
            of="cavityTurned"
            label="Turned"
            value={copy.turn}
            onChange={(v) => v !== null && edit(k, { turn: v })}
          />
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="accent-petrol"
              checked={copy.mirrored}
              onChange={(e) => edit(k, { mirrored: e.target.checked })}
            />
            Mirrored
          </label>
        </fieldset>
      ))}
      <Button
        className="w-full"
        off={copies.length >= 47 && 'A tool has at most 48 cavities'}
        onClick={() => {
          const last = copies[copies.length - 1];
          onChange('Add a copy', { ...places, copies: [...copies, { ...last, y: last.y + 0.03 }] });
        }}
      >
        <Plus size={13} /> Add a copy
      </Button>
    </>
  );
}
