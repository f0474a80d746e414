'use client';

import { inputHelpId } from '@/core/help/help';
import { WAY_NUMBERS } from '@/core/model/wayNumbers';
import { helpOf } from '@/core/help/inputHelp';
import { MousePointerClick, RotateCcw, Wand } from 'lucide-react';
import { useState } from 'react';
import type { GeometryResults } from '@/core/model/geometryTask';
import type { Vec3 } from '@/core/geometry/mesh';
import { openingOf } from '@/core/model/body';
import { cavities } from '@/core/model/study';
import { format } from '@/core/units/reader';
import { toSi } from '@/core/units/units';
import { presentPart, presentInputs, useStudy } from '../study/store';
import { useAim, useBench } from '../study/bench';
import { mainView } from '../study/view';
import { Button, Choice, SectionTitle } from '../ui/controls';
import { NumberField } from '../ui/NumberField';
import { rotation, turnPart, turnTo } from './bodyActions';
import { perform } from './task';
import { OpeningFields } from './OpeningFields';
import { computeMaps, useMapsManifest } from './useMaps';

const AXES = [
  { value: 'x', label: 'X' },
  { value: 'y', label: 'Y' },
  { value: 'z', label: 'Z' },
] as const;
const NUMBER = { x: 0, y: 1, z: 2 } as const;

/** m */
const DUST = 1e-6;

/** How the part lies in the tool. The mould opens upwards, along Z. */
export function Orientation() {
  const inputs = useStudy((s) => presentInputs(s));
  const part = useStudy(presentPart);
  const change = useStudy((s) => s.change);
  const picking = useAim('face') !== null;
  const manifest = useMapsManifest();
  const [axis, setAxis] = useState<'x' | 'y' | 'z'>('z');
  const [angle, setAngle] = useState(toSi(15, '°'));
  const [found, setFound] = useState<GeometryResults['openings'] | null>(null);
  if (!part) return <p className="text-soft">Give a body the role Cavity first.</p>;
  const centre = part.bounds.min.map((m, d) => (m + part.bounds.max[d]) / 2) as Vec3;
  const opening = openingOf(inputs.tool);
  const middle = centre.reduce((s, x, d) => s + x * opening[d], 0);
  const half = part.bounds.max.reduce((s, m, d) => s + Math.abs(opening[d]) * (m - centre[d]), 0);
  const [bottom, top] = [middle - half, middle + half];
  const set = inputs.tool.partingHeight;
  const beyond =
    set !== null && (set < bottom - DUST || set > top + DUST)
      ? `Beyond the part, which lies between ${format(bottom, 'mm')} and ${format(top, 'mm')}: one half forms all of it.`
      : null;
  const turn = (radians: number, label: string) => void turnPart(label, rotation(NUMBER[axis], radians, centre));
  const suggest = async () => {
    const bodies = cavities(inputs).map((b) => ({ id: b.id, mesh: b.mesh }));
    setFound(await perform('Looking for the opening direction', { do: 'openings', bodies }));
  };
  return (
    <>
      <p className="text-soft">
        {inputs.tool.opening
          ? 'The mould opens along the direction below; the part lies as it was drawn.'
          : 'The mould opens along Z: the upper half goes up, the part lies on the lower.'}
      </p>
      <SectionTitle>Turn about</SectionTitle>
      <Choice label="Turn about" value={axis} options={AXES} onChange={setAxis} />
      <div className="mt-2 grid grid-cols-3 gap-1.5">
        <Button onClick={() => turn(-Math.PI / 2, 'Turn by −90°')}>−90°</Button>
        <Button onClick={() => turn(Math.PI, 'Turn by 180°')}>180°</Button>
        <Button onClick={() => turn(Math.PI / 2, 'Turn by 90°')}>+90°</Button>
      </div>
      <div className="mt-2">
        <NumberField
          label="By angle"
          help={helpOf('partAngle')}
          unit="°"
          value={angle}
          min={-Math.PI}
          max={Math.PI}
          step={5}
          onChange={(v) => v !== null && setAngle(v)}
        />
        <Button className="mt-1.5 w-full" onClick={() => turn(angle, `Turn by ${format(angle, '°')}`)}>
          <RotateCcw size={14} /> Turn by {format(angle, '°')} about {axis.toUpperCase()}
        </Button>
      </div>
      <Button
        look={picking ? 'primary' : 'plain'}
        className="mt-2 w-full"
        aria-pressed={picking}
        onClick={() => {
          useBench.getState().set({ aim: picking ? null : { for: 'face' } });
          mainView.getState().set({ map: null });
        }}
      >
        <MousePointerClick size={14} /> {picking ? 'Click the face to lie down' : 'Put a face down'}
      </Button>
      <SectionTitle>Opening direction</SectionTitle>
      <Button className="w-full" onClick={() => void suggest()}>
        <Wand size={14} /> Find the fewest undercuts
      </Button>
      {found && (
        <ul className="mt-2 divide-y border-y">
          {found.choices.map((c, i) => (
            <li key={i} className="flex items-center justify-between gap-2 py-1">
              <span className="num">
                {c.direction.map((x) => x.toFixed(2).replace('-', '−')).join(', ')}
                <span className="text-soft block text-[12px]">
                  {c.undercutArea < 1e-3 * found.area ? 'no undercut' : `${format(c.undercutArea, 'cm²')} undercut`},{' '}
                  {format(c.depth, 'mm')} deep
                </span>
              </span>
              <Button
                disabled={c.direction[2] > 1 - 1e-9}
                onClick={() => {
                  setFound(null);
                  void turnPart('Turn to the opening direction', turnTo(c.direction, 1, centre));
                }}
              >
                {c.direction[2] > 1 - 1e-9 ? 'As it lies' : 'Use'}
              </Button>
            </li>
          ))}
        </ul>
      )}
      <OpeningFields />
      <SectionTitle>Parting plane</SectionTitle>
      <NumberField
        label="Height"
        help={inputHelpId(WAY_NUMBERS.partingHeight)}
        unit="mm"
        value={inputs.tool.partingHeight}
        fallback={manifest?.parting ?? top}
        min={bottom - 0.1}
        max={top + 0.1}
        step={1}
        note={beyond}
        onChange={(partingHeight) =>
          change('Parting plane height', { ...inputs, tool: { ...inputs.tool, partingHeight } })
        }
      />
      {inputs.tool.partingHeight === null && (
        <p className="text-soft mt-0.5 text-[11.5px]">By default where the two halves meet.</p>
      )}
      <Button
        className="mt-2 w-full"
        onClick={() => void computeMaps().then((m) => m && mainView.getState().set({ map: 'side', brush: null }))}
      >
        Show which half forms each face
      </Button>
    </>
  );
}
