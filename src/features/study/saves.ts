import { mergeInputs, same } from '@/core/model/mergeInputs';
import type { VariantView } from '@/runtime/wire';
import { api, ApiError } from './api';

/** What of a variant is changed by a save. */
export type VariantChange = Partial<Pick<VariantView, 'name' | 'inputs' | 'note' | 'starred' | 'colour' | 'parentId'>>;

/** What the saves of a page need of it. */
interface Host<Step> {
  variant(id: string): VariantView | undefined;
  put(id: string, change: Partial<VariantView>): void;
  /** Steps whose saves were refused: they are not done, and can be done again. */
  takeBack(steps: readonly Step[]): void;
  tell(error: unknown): void;
  /** Something of the study is on the server now. */
  saved(): void;
}

interface Pending<Step> {
  /** Saves of the variant that are still out. */
  n: number;
  /** The variant as the server has it. */
  kept: VariantView;
  /** Another page has changed it meanwhile: what the page shows of it is not all there is. */
  joined: boolean;
  steps: Step[];
}

/** Stale again and again: another page changes the same variant faster than this one can. */
const MOST_TRIES = 5;

/**
 * Saves of a page, one after the other, each on the version that the server has. A change that another page has made
 * meanwhile is taken together with ours where they do not touch. One that is refused is taken back when nothing newer is on
 * its way: the page then shows what the server has, which is what a run would start on.
 */
export class Saves<Step> {
  /** Ends when everything that was asked for is saved or refused. */
  idle: Promise<unknown> = Promise.resolve();
  private readonly out = new Map<string, Pending<Step>>();

  constructor(private readonly host: Host<Step>) {}

  isOut(id: string): boolean {
    return this.out.has(id);
  }

  save(id: string, change: VariantChange, step?: Step): Promise<void> {
    const variant = this.host.variant(id);
    if (!variant) return Promise.resolve();
    const pending = this.out.get(id) ?? { n: 0, kept: variant, joined: false, steps: [] };
    this.out.set(id, pending);
    pending.n++;
    if (step) pending.steps.push(step);
    const from = { name: variant.name, inputs: variant.inputs };
    this.host.put(id, change);
    const next = this.idle
      .then(() => this.send(pending, from, change))
      .then(
        () => this.settled(id, pending, true),
        (error: unknown) => {
          this.host.tell(error);
          this.settled(id, pending, false);
        },
      );
    this.idle = next;
    return next;
  }

  private async send(pending: Pending<Step>, from: Known, change: VariantChange): Promise<void> {
    let asked = pending.joined ? onTopOf(pending.kept, from, change) : change;
    for (let tries = 1; ; tries++) {
      const { kept } = pending;
      try {
        const saved = await api.changeVariant(kept.id, { version: kept.version, ...asked });
        pending.kept = { ...kept, ...saved };
        return this.host.saved();
      } catch (error) {
        const now = error instanceof ApiError ? error.now : undefined;
        if (!now || tries === MOST_TRIES) throw error;
        pending.kept = now;
        pending.joined = true;
        asked = onTopOf(now, kept, asked);
      }
    }
  }

  private settled(id: string, pending: Pending<Step>, saved: boolean): void {
    pending.n--;
    if (saved) pending.steps = [];
    if (pending.n > 0) return;
    this.out.delete(id);
    const { inputs, name, note, starred, colour, parentId, version } = pending.kept;
    const shown = this.host.variant(id);
    // The same object where nothing has come in between: what is kept by it stays.
    const unchanged = shown && same(shown.inputs, inputs);
    this.host.put(id, { name, note, starred, colour, parentId, version, ...(unchanged ? {} : { inputs }) });
    if (!saved) this.host.takeBack(pending.steps);
  }
}

/** What a change is held against: of marks and notes the last one counts. */
type Known = Pick<VariantView, 'name' | 'inputs'>;

/** A change made on one state of a variant, on top of another. @throws ApiError that names what both have changed. */
function onTopOf(kept: VariantView, from: Known, change: VariantChange): VariantChange {
  const clashes: string[] = [];
  if (change.name !== undefined && kept.name !== from.name && kept.name !== change.name) clashes.push('Name');
  if (!change.inputs) {
    if (clashes.length) throw clashing(clashes);
    return change;
  }
  const merged = mergeInputs(from.inputs, change.inputs, kept.inputs);
  if (merged.clashes) throw clashing([...clashes, ...merged.clashes]);
  if (clashes.length) throw clashing(clashes);
  return { ...change, inputs: merged.inputs };
}

const clashing = (names: readonly string[]) =>
  new ApiError(
    `Another page has changed this too: ${names.join(', ')}.`,
    'What it has set is shown now; Redo does yours again.',
  );
