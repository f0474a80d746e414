'use client';

import { Check, ChevronDown } from 'lucide-react';
import { Collapsible, Select as Radix, ToggleGroup } from 'radix-ui';
import type { ButtonHTMLAttributes, ReactNode } from 'react';
import { HelpButton } from './HelpButton';

type Look = 'primary' | 'plain' | 'quiet';

const LOOKS: Record<Look, string> = {
  primary: 'bg-copper text-copper-ink hover:brightness-110 border-transparent font-semibold',
  plain: 'bg-sheet hover:bg-well',
  quiet: 'border-transparent hover:bg-well',
};

/** `off`: why it can not be pressed; without a reason it can. */
export function Button({
  look = 'plain',
  className = '',
  off,
  disabled,
  title,
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { look?: Look; off?: string | false | null }) {
  return (
    <button
      type="button"
      disabled={disabled || Boolean(off)}
      title={off || title}
      className={`inline-flex h-7 items-center justify-center gap-1.5 rounded border px-2.5 whitespace-nowrap disabled:opacity-45 ${LOOKS[look]} ${className}`}
      {...rest}
    />
  );
}

export function Row({
  label,
  htmlFor,
  children,
  marked = false,
  help,
}: {
  label: string;
  htmlFor?: string;
  children: ReactNode;
  marked?: boolean;
  /** Entry of the help that explains it. */
  help?: string;
}) {
  return (
    <div className="group/row flex items-start justify-between gap-3">
      <label htmlFor={htmlFor} className="flex min-h-7 items-center gap-1.5 leading-tight">
        {label}
        {marked && <span className="bg-copper size-1.5 rounded-full" title="Changed since the last run" />}
      </label>
      {help && (
        <HelpButton
          of={label}
          id={help}
          className="-ml-2 h-7 flex-1 opacity-0 group-hover/row:opacity-100 focus:opacity-100"
        />
      )}
      <div className="w-36 shrink-0">{children}</div>
    </div>
  );
}

export function Choice<T extends string>({
  value,
  options,
  onChange,
  label,
}: {
  value: T;
  options: readonly { value: T; label: string }[];
  onChange: (value: T) => void;
  label: string;
}) {
  return (
    <ToggleGroup.Root
      type="single"
      value={value}
      onValueChange={(v) => v && onChange(v as T)}
      aria-label={label}
      className="bg-well flex h-7 rounded border p-0.5"
    >
      {options.map((o) => (
        <ToggleGroup.Item
          key={o.value}
          value={o.value}
          className="text-soft data-[state=on]:bg-sheet data-[state=on]:text-ink flex-1 rounded-sm px-2 whitespace-nowrap data-[state=on]:shadow-xs"
        >
          {o.label}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}

export function Select({
  id,
  value,
  options,
  onChange,
  label,
}: {
  id?: string;
  value: string;
  options: readonly { value: string; label: string; note?: string }[];
  onChange: (value: string) => void;
  label: string;
}) {
  return (
    <Radix.Root value={value} onValueChange={onChange}>
      <Radix.Trigger
        id={id}
        aria-label={label}
        className="bg-sheet flex h-7 w-full items-center justify-between gap-1 rounded border px-2"
      >
        <span className="min-w-0 truncate whitespace-nowrap">
          <Radix.Value />
        </span>
        <Radix.Icon>
          <ChevronDown size={13} className="text-soft shrink-0" />
        </Radix.Icon>
      </Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          position="popper"
          sideOffset={3}
          className="bg-sheet z-50 max-h-[min(24rem,var(--radix-select-content-available-height))] min-w-(--radix-select-trigger-width) overflow-hidden rounded border p-1 shadow-lg"
        >
          <Radix.Viewport>
            {options.map((o) => (
              <Radix.Item
                key={o.value}
                value={o.value}
                className="data-highlighted:bg-petrol-wash flex h-7 cursor-default items-center gap-2 rounded-sm pr-3 pl-6 outline-none"
              >
                <Radix.ItemIndicator className="absolute left-2">
                  <Check size={12} />
                </Radix.ItemIndicator>
                <Radix.ItemText>{o.label}</Radix.ItemText>
                {o.note && <span className="text-soft ml-auto pl-4">{o.note}</span>}
              </Radix.Item>
            ))}
          </Radix.Viewport>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}

/** A group of fields that folds away, with what it holds in few words beside its name. */
export function Fold({ title, said, children }: { title: string; said: string; children: ReactNode }) {
  return (
    <Collapsible.Root className="group">
      <Collapsible.Trigger className="hover:bg-well -mx-1 flex h-7 w-[calc(100%+0.5rem)] items-center gap-1.5 rounded px-1 text-left">
        <ChevronDown size={13} className="text-soft -rotate-90 transition-transform group-data-[state=open]:rotate-0" />
        <span>{title}</span>
        <span className="num text-soft ml-auto truncate text-[12px] group-data-[state=open]:hidden">{said}</span>
      </Collapsible.Trigger>
      <Collapsible.Content className="space-y-1.5 pt-1 pb-1">{children}</Collapsible.Content>
    </Collapsible.Root>
  );
}

export function SectionTitle({ children, aside }: { children: ReactNode; aside?: ReactNode }) {
  return (
    <div className="mt-5 mb-1.5 flex items-baseline justify-between first:mt-0">
      <h3 className="text-soft text-[11px] font-semibold tracking-wide">{children}</h3>
      {aside}
    </div>
  );
}

/** A name and a number in a list of them. */
export function Fact({ label, value }: { label: string; value: string }) {
  return (
    <>
      <dt className="text-soft">{label}</dt>
      <dd className="text-right">{value}</dd>
    </>
  );
}
