import { z } from 'zod';
import { inputsSchema, type Inputs } from '@/core/model/study';

/** A change of a variant's inputs as one undoable step, as it outlasts a reload of the page. */
export interface KeptStep {
  label: string;
  variantId: string;
  from: Inputs;
  to: Inputs;
}

/** What can be taken back, and what has been, the latest last. */
export interface KeptSteps {
  done: KeptStep[];
  undone: KeptStep[];
}

const stepSchema = z.strictObject({
  label: z.string(),
  variantId: z.string(),
  from: inputsSchema,
  to: inputsSchema,
});
const stepsSchema = z.strictObject({ done: z.array(stepSchema), undone: z.array(stepSchema) });

const MOST = 30;
/** Characters; browsers give a page about five million. */
const MOST_TEXT = 1_500_000;

const keyOf = (projectId: string) => `bellows.undo.${projectId}`;

/** A step is written once: all but the newest were written when the one before was kept. */
const texts = new WeakMap<KeptStep, string>();
function textOf(step: KeptStep): string {
  let text = texts.get(step);
  if (text === undefined) texts.set(step, (text = JSON.stringify(step)));
  return text;
}

/**
 * Writes down the latest steps of this tab, as many as there is room for. Steps that are no change of inputs (`null`) end
 * what is kept: those before them can not be taken back without them.
 */
export function keepSteps(projectId: string, done: readonly (KeptStep | null)[], undone: readonly (KeptStep | null)[]) {
  let room = MOST_TEXT;
  const latest = (steps: readonly (KeptStep | null)[]): string => {
    const kept: string[] = [];
    for (const step of steps.slice(-MOST).reverse()) {
      const text = step && textOf(step);
      if (!text || text.length > room) break;
      room -= text.length;
      kept.unshift(text);
    }
    return `[${kept.join()}]`;
  };
  try {
    sessionStorage.setItem(keyOf(projectId), `{"done":${latest(done)},"undone":${latest(undone)}}`);
  } catch {
    // Without storage, or a full one, undo ends at a reload.
  }
}

/** Steps of this tab on variants that still are there. */
export function recallSteps(projectId: string, variants: readonly { id: string }[]): KeptSteps {
  try {
    const { done, undone } = stepsSchema.parse(JSON.parse(sessionStorage.getItem(keyOf(projectId)) ?? 'null'));
    const there = ({ variantId }: KeptStep) => variants.some((v) => v.id === variantId);
    return { done: done.filter(there), undone: undone.filter(there) };
  } catch {
    // Nothing was kept, or nonsense.
    return { done: [], undone: [] };
  }
}
