import { helpOf } from '@/core/help/inputHelp';
import type { Section } from '@/core/feed/section';
import { Row, Select } from '../ui/controls';
import { NumberField } from '../ui/NumberField';

const SHAPES: { value: Section['shape']; label: string }[] = [
  { value: 'round', label: 'Round' },
  { value: 'half-round', label: 'Half-round' },
  { value: 'trapezoid', label: 'Trapezoid' },
  { value: 'rectangle', label: 'Rectangle' },
];
/** Diameter or width, m. */
export const sizeOfSection = (s: Section) => (s.shape === 'round' || s.shape === 'half-round' ? s.diameter : s.width);

/** A section of another shape that carries about as much. */
function reshaped(section: Section, shape: Section['shape']): Section {
  const size = sizeOfSection(section);
  if (shape === 'round' || shape === 'half-round') return { shape, diameter: size };
  return shape === 'trapezoid'
    ? { shape, width: size, height: 0.8 * size, draft: 0.175 }
    : { shape, width: size, height: 0.8 * size };
}

/** Shape and sizes of a section. */
export function SectionFields({
  name,
  section,
  onChange,
}: {
  name: string;
  section: Section;
  onChange: (s: Section) => void;
}) {
  return (
    <>
      <Row label={`${name} section`}>
        <Select
          label={`${name} section`}
          value={section.shape}
          options={SHAPES}
          onChange={(shape) => onChange(reshaped(section, shape as Section['shape']))}
        />
      </Row>
      {'diameter' in section ? (
        <NumberField
          label={`${name} diameter`}
          help={helpOf('runnerWidth')}
          unit="mm"
          value={section.diameter}
          min={2e-4}
          max={0.06}
          step={0.5}
          onChange={(v) => v !== null && onChange({ ...section, diameter: v })}
        />
      ) : (
        <>
          <NumberField
            label={`${name} width`}
            help={helpOf('runnerWidth')}
            unit="mm"
            value={section.width}
            min={2e-4}
            max={0.06}
            step={0.5}
            onChange={(v) => v !== null && onChange({ ...section, width: v })}
          />
          <NumberField
            label={`${name} height`}
            help={helpOf('runnerDepth')}
            unit="mm"
            value={section.height}
            min={2e-4}
            max={0.06}
            step={0.5}
            onChange={(v) => v !== null && onChange({ ...section, height: v })}
          />
        </>
      )}
    </>
  );
}
