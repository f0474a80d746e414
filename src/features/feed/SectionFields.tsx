import type { Section } from '@/core/feed/section';
import { Row, Select } from '../ui/controls';
import { QuantityField } from '../ui/QuantityField';

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
        <QuantityField
          of="runnerWidth"
          label={`${name} diameter`}
          value={section.diameter}
          onChange={(v) => v !== null && onChange({ ...section, diameter: v })}
        />
      ) : (
        <>
          <QuantityField
            of="runnerWidth"
            label={`${name} width`}
            value={section.width}
            onChange={(v) => v !== null && onChange({ ...section, width: v })}
          />
          <QuantityField
            of="runnerDepth"
            label={`${name} height`}
            value={section.height}
            onChange={(v) => v !== null && onChange({ ...section, height: v })}
          />
        </>
      )}
    </>
  );
}
