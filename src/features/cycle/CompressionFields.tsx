'use client';

import { Crosshair } from 'lucide-react';
import { defaultCharge, defaultCompression, type Compression } from '@/core/model/compression';
import { WAY_NUMBERS } from '@/core/model/wayNumbers';
import { CLAMP_SHARE } from '@/core/model/packing';
import type { Inputs } from '@/core/model/study';
import { pressHoldOf, type FillSettings } from '@/core/setup/settings';
import { PositionFields } from '../feed/PositionFields';
import { useAim, useBench } from '../study/bench';
import { presentPart, useStudy } from '../study/store';
import { Button, Choice, SectionTitle, Select } from '../ui/controls';
import { QuantityField } from '../ui/QuantityField';
import { ParameterField } from '../ui/ParameterField';
import { DeleteButton, PlacesList } from '../ui/PlacesList';
import { changeCharge, changeCompression, deletePiece, movePiece, removeCompression } from './pressActions';
import { NameField } from '../study/names';

type Charge = ReturnType<typeof defaultCharge>;

const WAYS = [
  { value: 'closed', label: 'Before the melt comes' },
  { value: 'gates', label: 'On melt injected into a gap' },
  { value: 'charge', label: 'On a charge laid into it' },
];
const OUTLINES: { value: Charge['outline']['as']; label: string }[] = [
  { value: 'round', label: 'Round' },
  { value: 'rectangle', label: 'Rectangle' },
];

/** When and how the tool closes; `last` is how it did in the newest result, null: before, undefined: no result. */
export function CompressionFields({
  inputs,
  settings,
  last,
}: {
  inputs: Inputs;
  settings: FillSettings;
  last: Compression | null | undefined;
}) {
  const { compression } = inputs;
  const marked = (key: keyof Compression) =>
    last !== undefined && JSON.stringify(last?.[key]) !== JSON.stringify(compression?.[key]);
  const change = (by: string) => {
    if (by === 'closed') return removeCompression();
    const melt = by === 'charge' ? defaultCharge() : defaultCompression().melt;
    changeCompression('How the tool closes', () => ({ melt }));
  };
  return (
    <>
      <SectionTitle>Tool closes</SectionTitle>
      <Select label="Tool closes" value={compression?.melt.by ?? 'closed'} options={WAYS} onChange={change} />
      {compression && (
        <div className="mt-1.5 space-y-1.5">
          {compression.melt.by === 'gates' ? (
            <ParameterField
              of={WAY_NUMBERS.pressGap}
              value={compression.melt.gap}
              marked={marked('melt')}
              onChange={(gap) => gap !== null && changeCompression('Gap', () => ({ melt: { by: 'gates', gap } }))}
            />
          ) : (
            <ChargeFields charge={compression.melt} settings={settings} marked={marked('melt')} />
          )}
          <ParameterField
            of={WAY_NUMBERS.pressDose}
            value={compression.dose}
            marked={marked('dose')}
            onChange={(dose) => dose !== null && changeCompression('Melt in the open tool', () => ({ dose }))}
          />
          <ParameterField
            of={WAY_NUMBERS.pressDelay}
            value={compression.delay}
            marked={marked('delay')}
            onChange={(delay) => delay !== null && changeCompression('Delay of the press', () => ({ delay }))}
          />
          <ParameterField
            of={WAY_NUMBERS.pressSpeed}
            value={compression.speed}
            marked={marked('speed')}
            onChange={(speed) => speed !== null && changeCompression('Closing speed', () => ({ speed }))}
          />
          <ParameterField
            of={WAY_NUMBERS.pressForce}
            value={compression.force}
            fallback={CLAMP_SHARE * settings.machine.clampForce}
            marked={marked('force')}
            onChange={(force) => changeCompression('Closing force', () => ({ force }))}
          />
          <ParameterField
            of={WAY_NUMBERS.pressHold}
            value={compression.hold}
            fallback={pressHoldOf(settings.freezeTime)}
            marked={marked('hold')}
            onChange={(hold) => changeCompression('Hold of the press', () => ({ hold }))}
          />
          <p className="text-soft text-[12px]">
            The half closes at its speed until the melt takes the whole force, then as fast as the melt gives way. More
            melt than the cavity keeps the halves apart: so long the press packs.
          </p>
        </div>
      )}
    </>
  );
}

/** Outline, places and temperature of what is laid in. */
function ChargeFields({ charge, settings, marked }: { charge: Charge; settings: FillSettings; marked: boolean }) {
  const part = useStudy(presentPart);
  const laying = useAim('charge') !== null;
  const set = useBench((s) => s.set);
  const selected = useBench((s) => s.selectedPiece);
  const piece = charge.pieces.find((p) => p.id === selected);
  const { outline } = charge;
  const outlineTo = (next: Charge['outline']) => changeCharge('Outline of the charge', () => ({ outline: next }));
  const start = (as: Charge['outline']['as']): Charge['outline'] => {
    if (as === 'round') return { as, diameter: outline.as === 'round' ? outline.diameter : outline.width };
    const side = outline.as === 'round' ? outline.diameter : outline.width;
    return { as, width: side, length: side, turned: 0 };
  };
  return (
    <>
      <Button
        className={`w-full ${laying ? 'border-petrol! bg-petrol-wash!' : ''}`}
        aria-pressed={laying}
        off={!part && 'Bring in a part first'}
        onClick={() => set({ aim: laying ? null : { for: 'charge' } })}
      >
        <Crosshair size={13} /> {laying ? 'Click on the part, Esc when done' : 'Lay in a piece'}
      </Button>
      {charge.pieces.length > 0 && (
        <PlacesList
          label="Pieces of the charge"
          places={charge.pieces}
          selected={selected}
          onSelect={(selectedPiece) => set({ selectedPiece })}
        />
      )}
      {piece && (
        <>
          <SectionTitle
            aside={<DeleteButton label={`Take out piece ${piece.id}`} onClick={() => deletePiece(piece.id)} />}
          >
            Piece {piece.id}
          </SectionTitle>
          <NameField kind="piece" id={piece.id} />
          <PositionFields position={piece.position} onChange={(position) => movePiece(piece.id, position)} />
        </>
      )}
      <Choice
        label="Outline of the charge"
        value={outline.as}
        options={OUTLINES}
        onChange={(as) => outlineTo(start(as))}
      />
      {outline.as === 'round' ? (
        <ParameterField
          of={WAY_NUMBERS.chargeSize}
          label="Diameter"
          value={outline.diameter}
          marked={marked}
          onChange={(diameter) => diameter !== null && outlineTo({ ...outline, diameter })}
        />
      ) : (
        <>
          <ParameterField
            of={WAY_NUMBERS.chargeSize}
            label="Width"
            value={outline.width}
            marked={marked}
            onChange={(width) => width !== null && outlineTo({ ...outline, width })}
          />
          <ParameterField
            of={WAY_NUMBERS.chargeSize}
            label="Length"
            value={outline.length}
            marked={marked}
            onChange={(length) => length !== null && outlineTo({ ...outline, length })}
          />
          <ParameterField
            of={WAY_NUMBERS.chargeTurned}
            value={outline.turned}
            marked={marked}
            onChange={(turned) => turned !== null && outlineTo({ ...outline, turned })}
          />
        </>
      )}
      <QuantityField
        of="meltLetIn"
        help="fluidTemperature"
        label="Temperature"
        value={charge.temperature}
        fallback={settings.meltTemperature}
        marked={marked}
        onChange={(temperature) => changeCharge('Temperature of the charge', () => ({ temperature }))}
      />
    </>
  );
}
