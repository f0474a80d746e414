import type { PhaseStore } from '../src/core/formats/phaseStore';

/** A store of phases in memory, and what it holds by its keys. */
export function memoryStore() {
  const kept = new Map<string, Uint8Array>();
  const store: PhaseStore = {
    get: (key) => Promise.resolve(kept.get(key) ?? null),
    put: (key, bytes) => Promise.resolve(void kept.set(key, bytes)),
  };
  return { kept, store };
}
