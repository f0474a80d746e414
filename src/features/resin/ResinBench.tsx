'use client';

import { Copy, Download, FlaskConical, GitCompareArrows, Library, Pencil, Star, Trash2, Upload } from 'lucide-react';
import { RadioGroup } from 'radix-ui';
import { useEffect, useMemo, useRef, useState } from 'react';
import { meltDensity, solidDensity } from '@/core/material/properties';
import { materialFileOf, materialFileSchema } from '@/core/model/material';
import type { Resin } from '@/core/model/resin';
import { describeIssues } from '@/core/model/studyFile';
import { resolveResin } from '@/core/setup/settings';
import { shownUnit, told } from '@/core/units/reader';
import { formatNumber } from '@/core/units/units';
import { presentInputs, useStudy } from '../study/store';
import { download } from '../ui/download';
import { Button, Fact, SectionTitle, Select } from '../ui/controls';
import { RadioItem } from '../ui/RadioItem';
import { SearchField } from '../ui/SearchField';
import { FibreFields } from './FibreFields';
import { allResins, chooseResin, copyOf, freshId, useMaterials } from './materials';

const ANY = 'any';

interface Filter {
  text: string;
  family: string;
  supplier: string;
  filler: string;
  show: 'all' | 'favourites' | 'recent' | 'own';
}
const NO_FILTER: Filter = { text: '', family: ANY, supplier: ANY, filler: ANY, show: 'all' };

export function ResinBench() {
  const inputs = useStudy((s) => presentInputs(s));
  const { own, loaded, failed, load } = useMaterials();
  useEffect(() => {
    if (!loaded) void load();
  }, [loaded, load]);
  const resin = resolveResin(inputs);
  const resins = useMemo(() => allResins(own), [own]);
  return (
    <>
      <ResinList resins={resins} chosen={resin?.id ?? null} onChoose={chooseResin} />
      {failed && (
        <p role="alert" className="text-problem mt-2 text-[12px]">
          {failed}
        </p>
      )}
      {resin && <Chosen resin={resin} isOwn={own.some((m) => m.material.id === resin.id)} onChoose={chooseResin} />}
    </>
  );
}

function ResinList({
  resins,
  chosen,
  onChoose,
}: {
  resins: Resin[];
  chosen: string | null;
  onChoose: (r: Resin) => void;
}) {
  const [filter, setFilter] = useState(NO_FILTER);
  const { favourites, recent, compared, toggleFavourite } = useMaterials();
  const options = (of: (r: Resin) => string, any: string) => [
    { value: ANY, label: any },
    ...[...new Set(resins.map(of))].sort().map((value) => ({ value, label: value })),
  ];
  const found = resins.filter((r) => matches(r, filter, favourites, recent));
  const set = (patch: Partial<Filter>) => setFilter({ ...filter, ...patch });
  return (
    <>
      <SearchField
        label="Search resins"
        placeholder="Name, family or supplier"
        value={filter.text}
        onChange={(text) => set({ text })}
      />
      <div className="mt-1.5 grid grid-cols-2 gap-1.5">
        <Select
          label="Show"
          value={filter.show}
          options={SHOW}
          onChange={(show) => set({ show: show as Filter['show'] })}
        />
        <Select
          label="Family"
          value={filter.family}
          options={options((r) => r.family, 'All families')}
          onChange={(family) => set({ family })}
        />
        <Select
          label="Filler"
          value={filter.filler}
          options={options(fillerOf, 'Any filler')}
          onChange={(filler) => set({ filler })}
        />
        <Select
          label="Supplier"
          value={filter.supplier}
          options={options((r) => r.supplier || '–', 'All suppliers')}
          onChange={(supplier) => set({ supplier })}
        />
      </div>
      <RadioGroup.Root
        aria-label="Resin"
        value={chosen ?? ''}
        onValueChange={(id) => {
          const resin = found.find((r) => r.id === id);
          if (resin) onChoose(resin);
        }}
        className="mt-2 max-h-64 divide-y overflow-y-auto border-y"
      >
        {found.map((r) => {
          const starred = favourites.includes(r.id);
          return (
            <div
              key={r.id}
              className={`group flex items-center pr-1 ${r.id === chosen ? 'bg-petrol-wash' : 'hover:bg-well'}`}
            >
              <RadioItem value={r.id} className="flex min-w-0 flex-1 items-baseline gap-2 px-1.5 py-1.5 text-left">
                <span className="w-14 shrink-0 text-[12px] font-semibold">{r.family}</span>
                <span className="truncate">{r.name}</span>
                {r.id === compared && <span className="text-copper text-[11px]">compared</span>}
                <span className="text-soft ml-auto shrink-0 text-[11px]">{r.origin === 'sample' ? '' : r.origin}</span>
              </RadioItem>
              <button
                type="button"
                aria-label={`${starred ? 'Remove' : 'Make'} ${r.name} ${starred ? 'from the favourites' : 'a favourite'}`}
                aria-pressed={starred}
                onClick={() => toggleFavourite(r.id)}
                className={`p-1 ${starred ? 'text-copper' : 'text-soft opacity-0 group-hover:opacity-100 focus:opacity-100'}`}
              >
                <Star size={13} fill={starred ? 'currentColor' : 'none'} />
              </button>
            </div>
          );
        })}
        {!found.length && (
          <p className="text-soft py-3 text-center">
            No resin fits.{' '}
            <button type="button" className="text-petrol underline" onClick={() => setFilter(NO_FILTER)}>
              Show all
            </button>
          </p>
        )}
      </RadioGroup.Root>
      <p className="text-soft mt-1 text-[11.5px]">
        {found.length} of {resins.length} resins
      </p>
    </>
  );
}

const SHOW = [
  { value: 'all', label: 'All resins' },
  { value: 'favourites', label: 'Favourites' },
  { value: 'recent', label: 'Recently used' },
  { value: 'own', label: 'My own' },
];

const fillerOf = (r: Resin): string => r.filler?.kind ?? 'unfilled';

function matches(r: Resin, f: Filter, favourites: string[], recent: string[]): boolean {
  const words = f.text.toLowerCase().split(/\s+/).filter(Boolean);
  const text = `${r.name} ${r.family} ${r.supplier} ${fillerOf(r)} ${r.structure}`.toLowerCase();
  return (
    words.every((w) => text.includes(w)) &&
    (f.family === ANY || r.family === f.family) &&
    (f.supplier === ANY || (r.supplier || '–') === f.supplier) &&
    (f.filler === ANY || fillerOf(r) === f.filler) &&
    (f.show === 'all' ||
      (f.show === 'favourites' && favourites.includes(r.id)) ||
      (f.show === 'recent' && recent.includes(r.id)) ||
      (f.show === 'own' && r.origin !== 'sample'))
  );
}

function Chosen({ resin, isOwn, onChoose }: { resin: Resin; isOwn: boolean; onChoose: (r: Resin) => void }) {
  const { set, compared, remove, save } = useMaterials();
  const file = useRef<HTMLInputElement>(null);
  const [said, setSaid] = useState<string | null>(null);
  const bring = async (given: File) => {
    try {
      const parsed = materialFileSchema.safeParse(JSON.parse(await given.text()));
      if (!parsed.success) return setSaid(`${given.name} holds no material: ${describeIssues(parsed.error)}`);
      const { kind, material } = parsed.data;
      const kept = { ...material, id: freshId(material.name), origin: 'imported' as const };
      await save(kind, kept);
      setSaid(`${kept.name} is now in the library.`);
      if (kind === 'resin') onChoose(kept as Resin);
    } catch (error) {
      setSaid(
        error instanceof SyntaxError
          ? `${given.name} is no JSON file. Give one that was exported here, or see the documents for its form.`
          : (error as Error).message,
      );
    }
  };
  return (
    <>
      <SectionTitle>{resin.name}</SectionTitle>
      <dl className="num grid grid-cols-[1fr_auto] gap-y-1">
        <Fact label="Structure" value={resin.structure} />
        {resin.filler && (
          <Fact label="Filler" value={`${Math.round(100 * resin.filler.share)} % ${resin.filler.kind}`} />
        )}
        <Fact label="Melt" value={`${celsius(resin.melt.min)} to ${celsius(resin.melt.max)} ${shownUnit('°C')}`} />
        <Fact label="Mould" value={`${celsius(resin.mould.min)} to ${celsius(resin.mould.max)} ${shownUnit('°C')}`} />
        <Fact label="No flow below" value={`${celsius(resin.noFlowTemperature)} ${shownUnit('°C')}`} />
        <Fact label="Ejection below" value={`${celsius(resin.ejectionTemperature)} ${shownUnit('°C')}`} />
        <Fact
          label="Density, melt and part"
          value={`${formatNumber(meltDensity(resin) / 1000, 3)}, ${formatNumber(solidDensity(resin) / 1000, 3)} g/cm³`}
        />
      </dl>
      <FibreFields resin={resin} />
      <div className="mt-3 grid grid-cols-2 gap-1.5">
        <Button
          onClick={() => set({ draft: { kind: 'resin', material: isOwn ? resin : copyOf(resin) }, tab: 'constants' })}
        >
          {isOwn ? <Pencil size={13} /> : <Copy size={13} />} {isOwn ? 'Edit' : 'Copy and edit'}
        </Button>
        <Button
          aria-pressed={compared === resin.id}
          onClick={() => set({ compared: compared === resin.id ? null : resin.id, tab: 'curves' })}
        >
          <GitCompareArrows size={13} /> {compared === resin.id ? 'Not compared' : 'Compare to'}
        </Button>
        <Button onClick={() => set({ tab: 'fit' })}>
          <FlaskConical size={13} /> Fit points
        </Button>
        <Button onClick={() => set({ tab: 'others' })}>
          <Library size={13} /> Metals, gases
        </Button>
        <Button
          onClick={() =>
            download(
              new Blob([JSON.stringify(materialFileOf('resin', resin), null, 2)], { type: 'application/json' }),
              `${resin.name.replace(/\W+/g, '-').toLowerCase()}.json`,
            )
          }
        >
          <Download size={13} /> Export
        </Button>
        <Button onClick={() => file.current?.click()}>
          <Upload size={13} /> Import
        </Button>
        {isOwn && (
          <Button onClick={() => void remove(resin.id)} title="The studies that use it keep their copy">
            <Trash2 size={13} /> Delete
          </Button>
        )}
      </div>
      <input
        ref={file}
        type="file"
        accept=".json,application/json"
        className="hidden"
        aria-label="Material file"
        onChange={(e) => {
          const given = e.target.files?.[0];
          e.target.value = '';
          if (given) void bring(given);
        }}
      />
      {said && (
        <p role="status" className="text-soft mt-2 text-[12px] whitespace-pre-line">
          {said}
        </p>
      )}
      {resin.origin === 'sample' && (
        <p className="text-soft mt-3 text-[12px]">Made-up grade with values typical of its family.</p>
      )}
    </>
  );
}

const celsius = (kelvin: number) => String(Math.round(told(kelvin, '°C')));
