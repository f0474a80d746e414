'use client';

import { X } from 'lucide-react';
import { cancelTask, useTask } from './task';

/** What is being done to the part, how far it is, and how to stop it. At the foot: nothing moves under the pointer. */
export function TaskBar() {
  const running = useTask((s) => s.running);
  if (!running) return null;
  return (
    <div role="status" className="bg-well sticky bottom-0 mt-3 rounded border px-2.5 py-2 shadow-sm">
      <div className="flex items-center justify-between gap-2">
        <span className="truncate">{running.label}</span>
        <button
          type="button"
          onClick={cancelTask}
          className="text-soft hover:text-ink flex items-center gap-0.5 text-[12px]"
        >
          <X size={13} /> Cancel
        </button>
      </div>
      <div className="bg-line mt-1.5 h-1 overflow-hidden rounded">
        <div className="bg-copper h-full" style={{ width: `${Math.max(4, 100 * running.fraction)}%` }} />
      </div>
      {running.message && <p className="text-soft mt-1 text-[11.5px]">{running.message}</p>}
    </div>
  );
}
