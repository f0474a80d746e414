import { helpOf } from '@/core/help/inputHelp';
import { useState } from 'react';
import type { Vec3 } from '@/core/geometry/mesh';
import { openingOf } from '@/core/model/body';
import { presentInputs, useStudy } from '../study/store';
import { Row, Select } from '../ui/controls';
import { NumberField } from '../ui/NumberField';

const TYPED = 'typed';
const CHOICES: { value: string; label: string; direction: Vec3 }[] = [
  { value: '+z', label: '+Z', direction: [0, 0, 1] },
  { value: '-z', label: '−Z', direction: [0, 0, -1] },
  { value: '+x', label: '+X', direction: [1, 0, 0] },
  { value: '-x', label: '−X', direction: [-1, 0, 0] },
  { value: '+y', label: '+Y', direction: [0, 1, 0] },
  { value: '-y', label: '−Y', direction: [0, -1, 0] },
];
const AXES = ['X', 'Y', 'Z'] as const;

/** Which way the upper half moves, for a part that is to lie as it was drawn: an axis, or a direction typed in. */
export function OpeningFields() {
  const inputs = useStudy((s) => presentInputs(s));
  const change = useStudy((s) => s.change);
  const [typing, setTyping] = useState(false);
  const direction = openingOf(inputs.tool);
  const axis = CHOICES.find((c) => c.direction.every((x, d) => Math.abs(x - direction[d]) < 1e-9));
  const set = ([x, y, z]: Vec3) => {
    const { opening: _, ...tool } = inputs.tool;
    const own = x === 0 && y === 0 && z > 0 ? {} : { opening: [x, y, z] as Vec3 };
    change('Opening direction', { ...inputs, tool: { ...tool, ...own, partingHeight: null } });
  };
  return (
    <div className="mt-2">
      <Row label="The tool opens along">
        <Select
          label="The tool opens along"
          value={typing || !axis ? TYPED : axis.value}
          options={[...CHOICES, { value: TYPED, label: 'Typed in' }]}
          onChange={(value) => {
            setTyping(value === TYPED);
            const chosen = CHOICES.find((c) => c.value === value);
            if (chosen) set(chosen.direction);
          }}
        />
      </Row>
      {(typing || !axis) && (
        <div className="mt-1.5">
          {AXES.map((name, d) => (
            <NumberField
              key={name}
              label={`Opening ${name}`}
              help={helpOf('opening')}
              unit=""
              value={(inputs.tool.opening ?? direction)[d]}
              min={-1e3}
              max={1e3}
              step={0.1}
              onChange={(value) => {
                const next = [...(inputs.tool.opening ?? direction)] as Vec3;
                next[d] = value ?? 0;
                if (Math.hypot(...next) > 1e-3) set(next);
              }}
            />
          ))}
        </div>
      )}
    </div>
  );
}
