'use client';

import { CircleQuestionMark } from 'lucide-react';
import { showHelp } from './help';

/** Way into the help on one thing. By keyboard it is F1, so that it is no stop of its own. */
export function HelpButton({ of, id, className = '' }: { of: string; id: string; className?: string }) {
  return (
    <button
      type="button"
      tabIndex={-1}
      aria-label={`Help on ${of}`}
      title="What is this? (F1)"
      className={`text-soft hover:text-petrol ${className}`}
      onClick={() => showHelp(id)}
    >
      <CircleQuestionMark size={13} />
    </button>
  );
}
