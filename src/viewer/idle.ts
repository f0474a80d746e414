/** Work of which a part can be done at a time; false when there is none left. */
export type Part = () => boolean;

/** Least time that must be left of a pause for another part of the work, ms. */
const LEAST_MS = 6;
/** Where the browser knows no pauses, ms between parts. */
const ELSE_MS = 30;

const waiting = new Set<Part>();
let asked = false;

/** Does the work part by part in the pauses of the page, by turns with other work; the returned function ends it. */
export function inPauses(work: Part): () => void {
  waiting.add(work);
  ask();
  return () => void waiting.delete(work);
}

function ask(): void {
  if (asked || waiting.size === 0) return;
  asked = true;
  if (typeof requestIdleCallback === 'function') requestIdleCallback(go);
  // Some browsers have none.
  else setTimeout(() => go({ timeRemaining: () => 0 }), ELSE_MS);
}

/** One part at least: a pause too short for any would never get to an end. */
function go(pause: Pick<IdleDeadline, 'timeRemaining'>): void {
  asked = false;
  do {
    const [first] = waiting;
    if (!first) return;
    waiting.delete(first);
    if (first()) waiting.add(first);
  } while (pause.timeRemaining() > LEAST_MS);
  ask();
}
