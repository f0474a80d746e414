import { helpOf } from '@/core/help/inputHelp';
import { Brush, Eraser, Search, X } from 'lucide-react';
import { DEFAULT_GATE_DIAMETER, type Gate } from '@/core/model/study';
import { freshGateId } from '@/core/results/answer';
import { format } from '@/core/units/reader';
import { formatNumber } from '@/core/units/units';
import { searchGates, stopSearch, usePreview } from '../study/previewWork';
import { presentPart, presentInputs, useStudy } from '../study/store';
import { useAim, useBench } from '../study/bench';
import { mainView } from '../study/view';
import { Button, SectionTitle } from '../ui/controls';
import { NumberField } from '../ui/NumberField';

/** Where a single gate would do best: a map over the part, the best three places, and places ruled out. */
export function GateFinder() {
  const inputs = useStudy((s) => presentInputs(s));
  const part = useStudy(presentPart);
  const change = useStudy((s) => s.change);
  const painting = useAim('no-gate');
  const set = useBench((s) => s.set);
  const { data, search, showMap, problem } = usePreview();
  if (!part) return null;
  const found = data?.found ?? null;
  const diameter = inputs.gates[0]?.diameter ?? DEFAULT_GATE_DIAMETER;
  const use = (position: Gate['position'], replace: boolean) => {
    const id = replace && inputs.gates[0] ? inputs.gates[0].id : freshGateId(inputs.gates);
    const gate: Gate = { id, position, diameter };
    change(replace ? `Gate ${id} to the found place` : `Place gate ${id}`, {
      ...inputs,
      gates: replace ? [gate] : [...inputs.gates, gate],
    });
    usePreview.getState().set({ showMap: false });
    set({ selectedGate: id });
  };
  const brush = (erase: boolean) => {
    const on = painting !== null && painting.erase === erase;
    set({ aim: on ? null : { for: 'no-gate', radius: painting?.radius ?? brushSize(part.bounds), erase } });
  };
  return (
    <>
      <SectionTitle>Find a gate</SectionTitle>
      {search ? (
        <div>
          <div className="bg-well h-1.5 overflow-hidden rounded">
            <div className="bg-copper h-full" style={{ width: `${100 * search.fraction}%` }} />
          </div>
          <div className="mt-1 flex items-center justify-between">
            <span className="text-soft text-[12px]">{search.message}</span>
            <Button className="h-6 px-2 text-[12px]" onClick={stopSearch}>
              Stop
            </Button>
          </div>
        </div>
      ) : (
        <Button className="w-full" onClick={() => searchGates(inputs, part.size, diameter)}>
          <Search size={13} /> {found ? 'Search again' : 'Search the part'}
        </Button>
      )}
      {problem && <p className="text-problem mt-1 text-[12px]">{problem}</p>}
      <div className="mt-1.5 grid grid-cols-2 gap-1">
        <Button
          aria-pressed={painting?.erase === false}
          className={painting?.erase === false ? 'border-petrol! bg-petrol-wash!' : ''}
          onClick={() => brush(false)}
          title="Paint where no gate may sit"
        >
          <Brush size={13} /> Rule out
        </Button>
        <Button
          aria-pressed={painting?.erase === true}
          off={!inputs.noGate.length && 'Nothing is painted'}
          className={painting?.erase ? 'border-petrol! bg-petrol-wash!' : ''}
          onClick={() => brush(true)}
          title="Wipe painted places away"
        >
          <Eraser size={13} /> Wipe
        </Button>
      </div>
      {painting && (
        <div className="mt-1.5">
          <NumberField
            label="Brush"
            help={helpOf('noGateBrush')}
            unit="mm"
            value={painting.radius}
            min={2e-4}
            max={0.5}
            step={1}
            onChange={(radius) => radius !== null && set({ aim: { ...painting, radius } })}
          />
        </div>
      )}
      {inputs.noGate.length > 0 && (
        <button
          type="button"
          className="text-petrol mt-1 text-[12px] underline"
          onClick={() => change('Allow gates everywhere', { ...inputs, noGate: [] })}
        >
          Allow gates everywhere
        </button>
      )}
      {found && (
        <>
          <div className="mt-2 flex items-center justify-between">
            <span className="text-soft text-[12px]">Best single gates, coarse</span>
            <button
              type="button"
              aria-pressed={showMap}
              className="text-petrol text-[12px] underline"
              onClick={() => usePreview.getState().set({ showMap: !showMap })}
            >
              {showMap ? 'Hide the map' : 'Show the map'}
            </button>
          </div>
          <ol className="mt-1 divide-y border-y" aria-label="Best places">
            {found.best.map((b, k) => (
              <li key={k} className="py-1.5">
                <div className="num flex items-baseline gap-2">
                  <span className="font-semibold">{k + 1}</span>
                  <span>{format(b.pressure, 'MPa', 2)}</span>
                  <span className="text-soft">evenness {formatNumber(100 * b.evenness, 2)} %</span>
                </div>
                <div className="mt-1 flex gap-1">
                  <Button
                    className="h-6 px-2 text-[12px]"
                    onClick={() => mainView.getState().flyTo(b.position, `Place ${k + 1}`)}
                  >
                    Look
                  </Button>
                  <Button className="h-6 px-2 text-[12px]" onClick={() => use(b.position, true)}>
                    Use alone
                  </Button>
                  <Button className="h-6 px-2 text-[12px]" onClick={() => use(b.position, false)}>
                    <X size={11} className="rotate-45" /> Add
                  </Button>
                </div>
              </li>
            ))}
          </ol>
        </>
      )}
    </>
  );
}

function brushSize({ min, max }: { min: readonly number[]; max: readonly number[] }): number {
  const diagonal = Math.hypot(...max.map((x, d) => x - min[d]));
  return Number((0.05 * diagonal).toPrecision(1));
}
