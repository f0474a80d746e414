import { helpOf } from '@/core/help/inputHelp';
import { METALS } from '@/core/material/others';
import { FRICTION_LAWS, type Cooling, type FrictionLaw } from '@/core/model/cooling';
import { DEFAULT_MOVES } from '@/core/setup/settings';
import { format, formatPlace } from '@/core/units/reader';

import { presentInputs, useStudy } from '../study/store';
import { Button, Choice, Fold, Row, SectionTitle, Select } from '../ui/controls';
import { NumberField } from '../ui/NumberField';
import { QuantityField } from '../ui/QuantityField';
import { patchCooling, useMouldSpace } from './useCooling';

const FRICTION: Record<FrictionLaw, string> = {
  churchill: 'Churchill',
  'swamee-jain': 'Swamee–Jain',
  haaland: 'Haaland',
  colebrook: 'Colebrook',
};

export const metalOptions = METALS.map((m) => ({ value: m.id, label: m.name }));

/** The block, what it is made of and what is around it; times in which the press moves. */
export function BlockFields({ cooling }: { cooling: Cooling }) {
  const inputs = useStudy((s) => presentInputs(s));
  const change = useStudy((s) => s.change);
  const space = useMouldSpace();
  const { block, ambient, platens, startUp } = cooling;
  const box = block ?? space?.block;
  const size = box ? box.max.map((x, d) => x - box.min[d]) : null;
  const moves = inputs.cycle.moves ?? DEFAULT_MOVES;
  const total = inputs.cycle.openTime ?? moves.opening + moves.ejection + moves.closing;
  const setBox = (end: 'min' | 'max', d: number, v: number | null) => {
    if (!box || v === null) return;
    patchCooling('Mould block', {
      block: { ...box, [end]: box[end].map((x, k) => (k === d ? v : x)) as [number, number, number] },
    });
  };
  return (
    <>
      <SectionTitle>Mould block</SectionTitle>
      <div className="space-y-1.5">
        <Row label="Steel">
          <Select
            label="Steel of the block"
            value={typeof cooling.steel === 'string' ? cooling.steel : 'own'}
            options={[
              ...metalOptions,
              ...(typeof cooling.steel === 'string' ? [] : [{ value: 'own', label: cooling.steel.name }]),
            ]}
            onChange={(steel) => steel !== 'own' && patchCooling('Steel of the block', { steel })}
          />
        </Row>
        <Fold title="Size" said={size ? `${formatPlace(size, ' × ')}${block ? '' : ', by itself'}` : ''}>
          {box &&
            (['min', 'max'] as const).flatMap((end) =>
              (['X', 'Y', 'Z'] as const).map((axis, d) => (
                <NumberField
                  key={end + axis}
                  label={`${axis} ${end === 'min' ? 'from' : 'to'}`}
                  help={helpOf('blockCorner')}
                  unit="mm"
                  value={box[end][d]}
                  min={-5}
                  max={5}
                  step={5}
                  onChange={(v) => setBox(end, d, v)}
                />
              )),
            )}
          {block && (
            <Button className="w-full" onClick={() => patchCooling('Block sizes itself', { block: null })}>
              Let it size itself
            </Button>
          )}
        </Fold>
        <Fold
          title="Air and press"
          said={`${format(ambient.temperature, '°C', 3)}, ${format(platens.temperature, '°C', 3)}`}
        >
          <QuantityField
            of="air"
            label="Air"
            value={ambient.temperature}
            onChange={(temperature) =>
              temperature !== null && patchCooling('Air', { ambient: { ...ambient, temperature } })
            }
          />
          <QuantityField
            of="airTransfer"
            label="Heat to the air"
            value={ambient.transfer}
            onChange={(transfer) => transfer !== null && patchCooling('Air', { ambient: { ...ambient, transfer } })}
          />
          <QuantityField
            of="platens"
            help="air"
            label="Plates of the press"
            value={platens.temperature}
            onChange={(temperature) =>
              temperature !== null && patchCooling('Plates', { platens: { ...platens, temperature } })
            }
          />
          <QuantityField
            of="platenTransfer"
            help="airTransfer"
            label="Heat to the plates"
            value={platens.transfer}
            onChange={(transfer) => transfer !== null && patchCooling('Plates', { platens: { ...platens, transfer } })}
          />
        </Fold>
        <Fold title="Moves of the press" said={format(total, 's', 3)}>
          {(['opening', 'ejection', 'closing'] as const).map((key) => (
            <QuantityField
              of="moves"
              key={key}
              label={key === 'opening' ? 'Opening' : key === 'ejection' ? 'Ejection' : 'Closing'}
              value={inputs.cycle.moves?.[key] ?? null}
              fallback={DEFAULT_MOVES[key]}
              note={inputs.cycle.openTime === null ? null : 'The time set at the Cycle station counts.'}
              onChange={(v) =>
                change('Moves of the press', {
                  ...inputs,
                  cycle: { ...inputs.cycle, openTime: null, moves: { ...moves, [key]: v ?? DEFAULT_MOVES[key] } },
                })
              }
            />
          ))}
        </Fold>
        <Fold title="Flow in the lines" said={FRICTION[cooling.friction]}>
          <Row label="Friction by">
            <Select
              label="Friction formula"
              value={cooling.friction}
              options={FRICTION_LAWS.map((value) => ({ value, label: FRICTION[value] }))}
              onChange={(friction) => patchCooling('Friction formula', { friction: friction as FrictionLaw })}
            />
          </Row>
          <QuantityField
            of="roughness"
            label="Roughness"
            value={cooling.roughness}
            onChange={(roughness) => roughness !== null && patchCooling('Roughness', { roughness })}
          />
          <Row label="Down is">
            <Select
              label="Which way is down"
              value={cooling.down}
              options={(['-y', '+y', '-x', '+x', '-z', '+z'] as const).map((value) => ({
                value,
                label: value.replace('-', '−').toUpperCase(),
              }))}
              onChange={(down) => patchCooling('Which way is down', { down: down as Cooling['down'] })}
            />
          </Row>
        </Fold>
        <Fold title="Start-up" said={startUp === null ? 'not followed' : `${startUp} cycles`}>
          <Choice
            label="Start-up"
            value={startUp === null ? 'no' : 'yes'}
            options={[
              { value: 'no', label: 'Settled only' },
              { value: 'yes', label: 'From cold' },
            ]}
            onChange={(v) => patchCooling('Start-up', { startUp: v === 'yes' ? 20 : null })}
          />
          {startUp !== null && (
            <QuantityField
              of="startUp"
              label="Cycles"
              value={startUp}
              onChange={(v) => v !== null && patchCooling('Start-up', { startUp: Math.round(v) })}
            />
          )}
        </Fold>
        <KeepOut cooling={cooling} />
      </div>
    </>
  );
}

/** Spots along z that ejectors and screws need. */
function KeepOut({ cooling }: { cooling: Cooling }) {
  const { keepOut } = cooling;
  const set = (label: string, next: Cooling['keepOut']) => patchCooling(label, { keepOut: next });
  return (
    <Fold title="Spots to stay clear" said={keepOut.length ? String(keepOut.length) : 'none'}>
      {keepOut.map((spot, k) => (
        <div key={k} className="flex items-center gap-1">
          {([0, 1] as const).map((d) => (
            <NumberField
              key={d}
              hideLabel
              label={`Spot ${k + 1} ${d ? 'Y' : 'X'}`}
              help={helpOf('keepOut')}
              unit="mm"
              value={spot.at[d]}
              min={-5}
              max={5}
              step={1}
              onChange={(v) =>
                v !== null &&
                set(
                  'Spot to stay clear',
                  keepOut.map((s, i) =>
                    i === k ? { ...s, at: s.at.map((x, e) => (e === d ? v : x)) as [number, number] } : s,
                  ),
                )
              }
            />
          ))}
          <QuantityField
            of="keepOut"
            hideLabel
            label={`Spot ${k + 1} radius`}
            suffix="mm R"
            value={spot.radius}
            onChange={(radius) =>
              radius !== null &&
              set(
                'Spot to stay clear',
                keepOut.map((s, i) => (i === k ? { ...s, radius } : s)),
              )
            }
          />
          <button
            type="button"
            aria-label={`Delete spot ${k + 1}`}
            className="text-soft hover:text-problem"
            onClick={() =>
              set(
                'Delete a spot',
                keepOut.filter((_, i) => i !== k),
              )
            }
          >
            ×
          </button>
        </div>
      ))}
      <Button className="w-full" onClick={() => set('Spot to stay clear', [...keepOut, { at: [0, 0], radius: 0.005 }])}>
        Add a spot
      </Button>
    </Fold>
  );
}
