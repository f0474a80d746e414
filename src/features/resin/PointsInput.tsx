'use client';

import { Upload } from 'lucide-react';
import { useRef, type ReactNode } from 'react';
import { Button } from '../ui/controls';

/** Table of measured points: typed, pasted or loaded from a file; `beside` stands next to the button that loads. */
export function PointsInput({
  label,
  file: fileLabel,
  placeholder,
  value,
  onChange,
  beside,
}: {
  label: string;
  file: string;
  placeholder: string;
  value: string;
  onChange: (text: string) => void;
  beside?: ReactNode;
}) {
  const file = useRef<HTMLInputElement>(null);
  return (
    <>
      <textarea
        aria-label={label}
        spellCheck={false}
        className="bg-sheet num focus:border-petrol min-h-0 flex-1 resize-none rounded border p-2 text-[11.5px] leading-snug outline-none"
        placeholder={placeholder}
        value={value}
        onChange={(e) => onChange(e.target.value)}
      />
      <div className={beside ? 'grid grid-cols-2 gap-1.5' : 'grid'}>
        <Button onClick={() => file.current?.click()}>
          <Upload size={13} /> Load
        </Button>
        {beside}
      </div>
      <input
        ref={file}
        type="file"
        accept=".csv,.txt,text/*"
        className="hidden"
        aria-label={fileLabel}
        onChange={(e) => {
          const given = e.target.files?.[0];
          e.target.value = '';
          if (given) void given.text().then(onChange);
        }}
      />
    </>
  );
}
