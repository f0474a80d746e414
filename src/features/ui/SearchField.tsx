import { Search, X } from 'lucide-react';

interface Props {
  label: string;
  placeholder: string;
  value: string;
  onChange: (asked: string) => void;
  /** Enter: the first that is found. */
  onEnter?: () => void;
}

/** Words that a list is narrowed by; Escape or the cross shows all of it again. */
export function SearchField({ label, placeholder, value, onChange, onEnter }: Props) {
  return (
    <label className="bg-sheet focus-within:border-petrol flex h-7 items-center gap-1.5 rounded border pl-2">
      <Search size={13} className="text-soft shrink-0" />
      <input
        aria-label={label}
        placeholder={placeholder}
        className="placeholder:text-soft min-w-0 flex-1 bg-transparent outline-none"
        value={value}
        onChange={(e) => onChange(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === 'Enter') onEnter?.();
          if (e.key !== 'Escape' || !value) return;
          e.stopPropagation();
          onChange('');
        }}
      />
      {value && (
        <button
          type="button"
          aria-label={`${label}: show all`}
          className="text-soft hover:text-ink grid size-7 shrink-0 place-items-center"
          onClick={() => onChange('')}
        >
          <X size={13} />
        </button>
      )}
    </label>
  );
}
