'use client';

/** A name that is being typed: Enter and leaving it take it over, Escape does not. */
export function RenameField({
  label,
  name,
  longest,
  className,
  onName,
  onDone,
}: {
  label: string;
  name: string;
  longest: number;
  className: string;
  onName: (name: string) => void;
  onDone: () => void;
}) {
  return (
    <input
      autoFocus
      aria-label={label}
      defaultValue={name}
      maxLength={longest}
      className={className}
      onFocus={(e) => e.currentTarget.select()}
      onBlur={(e) => {
        onName(e.currentTarget.value);
        onDone();
      }}
      onKeyDown={(e) => {
        if (e.key === 'Enter') e.currentTarget.blur();
        if (e.key === 'Escape') onDone();
      }}
    />
  );
}
