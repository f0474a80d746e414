import { QuantityField } from './QuantityField';

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
    <QuantityField
      key={axis}
      of="place"
      label={`${name} ${axis}`}
      value={place[d]}
      onChange={(v) => v !== null && onChange(place.map((x, k) => (k === d ? v : x)) as Place)}
    />
  ));
}
