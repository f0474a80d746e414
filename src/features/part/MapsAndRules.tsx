'use client';

import { RotateCcw } from 'lucide-react';
import { useEffect } from 'react';
import { MAP_IDS } from '@/core/partmaps/mapKinds';
import type { MapId } from '@/core/partmaps/mapKinds';
import { MAPS } from '@/core/partmaps/mapKinds';
import { DESIGN_RULES, RULE_IDS } from '@/core/partmaps/rules';
import { solidDensity } from '@/core/material/properties';
import { resolveResin } from '@/core/setup/settings';
import { format } from '@/core/units/reader';
import { presentPart, presentInputs, useStudy } from '../study/store';
import { mainView, useView } from '../study/view';
import { Button, Fact, SectionTitle } from '../ui/controls';
import { ruleHelpId } from '@/core/help/help';
import { NumberField } from '../ui/NumberField';
import { computeMaps, mapsKey, useMapsManifest } from './useMaps';

const NOTES: Record<MapId, string> = {
  thickness: 'Largest ball that fits between a face and the wall opposite.',
  step: 'How abruptly the wall changes within one wall of distance.',
  rib: 'Thickness of ribs and boss walls against the wall they stand on.',
  draft: 'Angle to the opening direction; negative where undercut.',
  side: 'Which half of the mould forms each face.',
  flowRatio: 'Way from the nearest gate, in wall thicknesses.',
};

/** Everything a drawing tells before the first run, and the rules it is judged by. */
export function MapsAndRules() {
  const inputs = useStudy((s) => presentInputs(s));
  const part = useStudy(presentPart);
  const change = useStudy((s) => s.change);
  const map = useView((s) => s.map);
  const manifest = useMapsManifest();
  const key = mapsKey(inputs);
  // A shown map follows every change of part, gates or rules.
  const closed = part !== null && !part.size.blocking.length;
  useEffect(() => {
    if (closed) void computeMaps();
  }, [key, closed]);
  if (!part) return <p className="text-soft">Give a body the role Cavity first.</p>;
  if (part.size.blocking.length)
    return <p className="text-soft">The surface is not closed, so its wall cannot be measured. Mend it first.</p>;
  const resin = resolveResin(inputs);
  const density = resin && solidDensity(resin);
  const show = (id: MapId) => mainView.getState().set({ map: map === id ? null : id, brush: null });
  return (
    <>
      <SectionTitle>Maps</SectionTitle>
      <ul className="-mx-2">
        {MAP_IDS.map((id) => {
          const idle = id === 'flowRatio' && !inputs.gates.length;
          return (
            <li key={id}>
              <button
                type="button"
                aria-pressed={map === id}
                disabled={idle || !manifest}
                onClick={() => show(id)}
                className={`w-full rounded px-2 py-1 text-left disabled:opacity-50 ${map === id ? 'bg-petrol-wash' : 'hover:bg-well'}`}
              >
                <span className="block">{MAPS[id].label}</span>
                <span className="text-soft block text-[11.5px]">{idle ? 'Place a gate first.' : NOTES[id]}</span>
              </button>
            </li>
          );
        })}
      </ul>
      {manifest && (
        <>
          <SectionTitle>Measured</SectionTitle>
          <dl className="num grid grid-cols-[1fr_auto] gap-y-1">
            <Fact label="Typical wall" value={format(manifest.typicalWall, 'mm')} />
            <Fact
              label="Thin to thick"
              value={`${format(manifest.thinnest, 'mm')} to ${format(manifest.thickest, 'mm')}`}
            />
            {manifest.projectedArea !== null && (
              <Fact label="Projected area" value={format(manifest.projectedArea, 'cm²')} />
            )}
            <Fact label="Undercut" value={format(manifest.undercutArea, 'cm²')} />
            <Fact label="Volume" value={format(part.size.volume, 'cm³')} />
            {resin && density && (
              <Fact label={`Weight in ${resin.family}`} value={format(part.size.volume * density, 'g')} />
            )}
          </dl>
        </>
      )}
      <SectionTitle
        aside={
          Object.keys(inputs.rules).length > 0 && (
            <Button
              look="quiet"
              className="text-soft h-5 px-1 text-[12px]"
              onClick={() => change('Usual design rules', { ...inputs, rules: {} })}
            >
              <RotateCcw size={12} /> Usual values
            </Button>
          )
        }
      >
        Design rules
      </SectionTitle>
      <div className="space-y-2">
        {RULE_IDS.map((id) => {
          const rule = DESIGN_RULES[id];
          return (
            <div key={id} title={rule.why}>
              <NumberField
                label={rule.label}
                help={ruleHelpId(rule.label)}
                unit={rule.unit}
                value={inputs.rules[id] ?? null}
                fallback={rule.usual}
                min={rule.min}
                max={rule.max}
                step={rule.unit === '%' ? 5 : rule.unit === '°' ? 0.25 : rule.usual > 10 ? 10 : 0.1}
                onChange={(v) => {
                  const { [id]: _old, ...rest } = inputs.rules;
                  change(`Rule: ${rule.label}`, { ...inputs, rules: v === null ? rest : { ...rest, [id]: v } });
                }}
              />
              <p className="text-soft -mt-0.5 text-[11.5px]">{rule.of}</p>
            </div>
          );
        })}
      </div>
    </>
  );
}
