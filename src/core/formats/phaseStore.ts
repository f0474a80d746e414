import { unpackTree } from './tree';

/** Outcomes of phases by their keys; what is not there is calculated. */
export interface PhaseStore {
  get(key: string): Promise<Uint8Array | null>;
  put(key: string, bytes: Uint8Array): Promise<void>;
}

/** What is told of a phase that need not be calculated. */
export const AS_BEFORE = 'As in an earlier run: nothing that it reads has changed';

/** What is stored under a key; null where there is nothing or it can not be read: it is then calculated again. */
export async function kept(store: PhaseStore, key: string): Promise<unknown> {
  const bytes = await store.get(key);
  if (!bytes) return null;
  try {
    return unpackTree(bytes);
  } catch {
    return null;
  }
}
