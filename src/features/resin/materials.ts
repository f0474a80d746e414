'use client';

import { create } from 'zustand';
import { RESINS } from '@/core/material/library';
import { COOLANTS, GASES, METALS } from '@/core/material/others';
import type { Material, MaterialKind } from '@/core/model/material';
import type { Resin } from '@/core/model/resin';
import type { StoredMaterial } from '@/runtime/wire';
import { api, ApiError } from '../study/api';
import { presentInputs, useStudy } from '../study/store';

const KEY = 'bellows.resins';

/** What the sheet over the part shows at the Resin station. */
export type SheetTab = 'curves' | 'table' | 'constants' | 'fit' | 'shrinkage' | 'others';

interface MaterialsState {
  own: StoredMaterial[];
  loaded: boolean;
  failed: string | null;
  favourites: string[];
  recent: string[];
  compared: string | null;
  tab: SheetTab;
  /** The sheet lies over the part. */
  open: boolean;
  /** A copy under work in the editor. */
  draft: { kind: MaterialKind; material: Material } | null;
  load: () => Promise<void>;
  save: (kind: MaterialKind, material: Material) => Promise<void>;
  remove: (id: string) => Promise<void>;
  set: (patch: Partial<Pick<MaterialsState, 'compared' | 'tab' | 'draft' | 'open'>>) => void;
  toggleFavourite: (id: string) => void;
  used: (id: string) => void;
}

const remembered = (): { favourites: string[]; recent: string[] } => {
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? '{}') as { favourites?: string[]; recent?: string[] };
    return { favourites: kept.favourites ?? [], recent: kept.recent ?? [] };
  } catch {
    return { favourites: [], recent: [] };
  }
};

export const useMaterials = create<MaterialsState>((set, get) => {
  const keep = () => {
    const { favourites, recent } = get();
    localStorage.setItem(KEY, JSON.stringify({ favourites, recent }));
  };
  return {
    own: [],
    loaded: false,
    failed: null,
    favourites: [],
    recent: [],
    compared: null,
    tab: 'curves',
    open: true,
    draft: null,
    async load() {
      set(remembered());
      try {
        set({ own: await api.materials(), loaded: true, failed: null });
      } catch (error) {
        set({
          failed: error instanceof ApiError ? `${error.message} ${error.remedy}` : 'The library could not be read.',
        });
      }
    },
    async save(kind, material) {
      const stored = await api.saveMaterial({ kind, material } as StoredMaterial);
      set({ own: [stored, ...get().own.filter((m) => m.material.id !== material.id)] });
    },
    async remove(id) {
      await api.deleteMaterial(id);
      set({ own: get().own.filter((m) => m.material.id !== id) });
    },
    // Whatever is asked for in the sheet shows it.
    set: (patch) => set({ open: true, ...patch }),
    toggleFavourite(id) {
      const { favourites } = get();
      set({ favourites: favourites.includes(id) ? favourites.filter((f) => f !== id) : [...favourites, id] });
      keep();
    },
    used(id) {
      set({ recent: [id, ...get().recent.filter((r) => r !== id)].slice(0, 8) });
      keep();
    },
  };
});

/** Own resins first, then the samples. */
export const allResins = (own: MaterialsState['own']): Resin[] => [
  ...own.filter((m) => m.kind === 'resin').map((m) => m.material as Resin),
  ...RESINS,
];

export const othersOf = (kind: Exclude<MaterialKind, 'resin'>, own: MaterialsState['own']): Material[] => [
  ...own.filter((m) => m.kind === kind).map((m) => m.material),
  ...(kind === 'metal' ? METALS : kind === 'gas' ? GASES : COOLANTS),
];

/** An id that no other material has. */
export const freshId = (name: string): string =>
  `own-${name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .slice(0, 40)}-${Date.now().toString(36)}`;

export const copyOf = <M extends Material>(material: M): M => ({
  ...material,
  id: freshId(material.name),
  name: `${material.name} copy`.slice(0, 80),
  origin: 'typed in',
});

/**
 * Takes a resin into the present study. One of one's own goes in as a copy: the study does not change when the library
 * does.
 */
export function chooseResin(resin: Resin): void {
  const study = useStudy.getState();
  const taken = resin.origin === 'sample' ? resin.id : resin;
  study.change(`Resin ${resin.name}`, { ...presentInputs(study), resin: taken });
  useMaterials.getState().used(resin.id);
}
