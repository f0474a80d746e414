import { create } from 'zustand';

interface Help {
  open: boolean;
  /** Entry that is read; null for the list. */
  id: string | null;
  asked: string;
}

export const useHelp = create<Help>(() => ({ open: false, id: null, asked: '' }));

/** Opens the help at an entry, or at its list. */
export const showHelp = (id: string | null = null): void => useHelp.setState({ open: true, id, asked: '' });

/** Entry that explains what has the focus, if any does. */
export const helpAt = (element: Element | null): string | null =>
  element?.closest<HTMLElement>('[data-help]')?.dataset.help ?? null;
