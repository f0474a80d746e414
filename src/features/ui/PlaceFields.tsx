import { helpOf } from '@/core/help/inputHelp';
import { NumberField } from './NumberField';

type Place = [number, number, number];

/** Coordinates of a place, mm; each change gives the whole place. */
export function PlaceFields({
  name,
  place,
  onChange,
}: {
  name: string;
  place: Place;
  onChange: (place: Place) => void;
}) {
  return (['X', 'Y', 'Z'] as const).map((axis, d) => (
    <NumberField
      key={axis}
      label={`${name} ${axis}`}
      help={helpOf('place')}
      unit="mm"
      value={place[d]}
      min={-5}
      max={5}
      step={1}
      onChange={(v) => v !== null && onChange(place.map((x, k) => (k === d ? v : x)) as Place)}
    />
  ));
}
