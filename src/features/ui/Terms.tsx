'use client';

import { withTerms } from '@/core/help/help';
import { showHelp } from './help';

/** Text with its terms as ways into the help. `own`: the entry that the text explains. */
export function Terms({ children, own }: { children: string; own?: string }) {
  return withTerms(children, own).map(({ text, id }, k) =>
    id ? (
      <button
        key={k}
        type="button"
        title="What is this?"
        className="hover:text-petrol decoration-line underline decoration-dotted underline-offset-3"
        onClick={() => showHelp(id)}
      >
        {text}
      </button>
    ) : (
      text
    ),
  );
}
