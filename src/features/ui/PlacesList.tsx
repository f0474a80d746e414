'use client';

import { Trash2 } from 'lucide-react';
import { formatPlace } from '@/core/units/reader';

/** Named places of the part, one to a line; one is chosen by a click, and let go by another. */
export function PlacesList({
  label,
  places,
  selected,
  onSelect,
}: {
  label: string;
  places: readonly { id: string; position: readonly number[] }[];
  selected: string | null;
  onSelect: (id: string | null) => void;
}) {
  return (
    <ul className="mt-1.5 divide-y border-y" aria-label={label}>
      {places.map(({ id, position }) => (
        <li key={id}>
          <button
            type="button"
            aria-pressed={id === selected}
            onClick={() => onSelect(id === selected ? null : id)}
            className={`num -mx-2 flex w-[calc(100%+1rem)] items-baseline gap-2 rounded px-2 py-1.5 text-left ${id === selected ? 'bg-petrol-wash' : 'hover:bg-well'}`}
          >
            <span className="w-8 font-semibold">{id}</span>
            <span className="text-soft flex-1">{formatPlace(position)}</span>
          </button>
        </li>
      ))}
    </ul>
  );
}

/** The button that takes a thing away, for the title of its form. */
export function DeleteButton({ label, onClick }: { label: string; onClick: () => void }) {
  return (
    <button type="button" aria-label={label} className="text-soft hover:text-problem" onClick={onClick}>
      <Trash2 size={14} />
    </button>
  );
}
