'use client';

import { Copy, Download, Pencil, Trash2 } from 'lucide-react';
import { RadioGroup } from 'radix-ui';
import { useState } from 'react';
import { CONSTANTS, constantAt } from '@/core/material/constants';
import { materialFileOf, type Material, type MaterialKind } from '@/core/model/material';
import { format } from '@/core/units/reader';
import { formatNumber } from '@/core/units/units';
import { download } from '../ui/download';
import { Button, Choice, Fact, SectionTitle } from '../ui/controls';
import { RadioItem } from '../ui/RadioItem';
import { MaterialEditor } from './MaterialEditor';
import { copyOf, othersOf, useMaterials } from './materials';

type Kind = Exclude<MaterialKind, 'resin'>;
const KINDS: { value: Kind; label: string }[] = [
  { value: 'metal', label: 'Mould metals' },
  { value: 'gas', label: 'Gases' },
  { value: 'coolant', label: 'Coolants' },
];

/** The small libraries: what moulds are made of, what is in them and what cools them. */
export function OthersPanel() {
  const [kind, setKind] = useState<Kind>('metal');
  const [chosen, setChosen] = useState<string | null>(null);
  const [work, setWork] = useState<Material | null>(null);
  const { own, remove } = useMaterials();
  const list = othersOf(kind, own);
  const material = list.find((m) => m.id === chosen) ?? list[0];
  const isOwn = own.some((m) => m.material.id === material.id);
  if (work)
    return (
      <MaterialEditor
        key={work.id}
        kind={kind}
        material={work}
        onDone={(saved) => {
          setWork(null);
          if (saved) setChosen(saved.id);
        }}
      />
    );
  return (
    <div className="min-h-0 flex-1 overflow-y-auto px-5 py-3">
      <div className="max-w-sm">
        <Choice label="Kind" value={kind} options={KINDS} onChange={setKind} />
      </div>
      <div className="mt-3 grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-8">
        <RadioGroup.Root
          aria-label="Material"
          value={material.id}
          onValueChange={setChosen}
          className="self-start divide-y border-y"
        >
          {list.map((m) => (
            <RadioItem
              key={m.id}
              value={m.id}
              className="hover:bg-well data-[state=checked]:bg-petrol-wash flex w-full items-baseline gap-2 px-1.5 py-1.5 text-left"
            >
              <span className="min-w-0 flex-1 truncate">{m.name}</span>
              <span className="text-soft shrink-0 text-[11px]">{m.origin === 'sample' ? '' : m.origin}</span>
            </RadioItem>
          ))}
        </RadioGroup.Root>
        <div>
          <h3 className="font-semibold">{material.name}</h3>
          {material.supplier && <p className="text-soft text-[12px]">{material.supplier}</p>}
          {CONSTANTS[kind].map(({ title, constants }) => (
            <div key={title}>
              <SectionTitle>{title}</SectionTitle>
              <dl className="num grid grid-cols-[1fr_auto] gap-y-1">
                {constants.map(({ path, label, unit, si }) => {
                  const value = constantAt(material, path);
                  return (
                    <Fact
                      key={path}
                      label={label}
                      value={unit ? format(value, unit) : `${formatNumber(value, 4)} ${si}`}
                    />
                  );
                })}
              </dl>
            </div>
          ))}
          <div className="mt-3 flex flex-wrap gap-1.5">
            <Button onClick={() => setWork(isOwn ? material : copyOf(material))}>
              {isOwn ? <Pencil size={13} /> : <Copy size={13} />} {isOwn ? 'Edit' : 'Copy and edit'}
            </Button>
            <Button
              onClick={() =>
                download(
                  new Blob([JSON.stringify(materialFileOf(kind, material), null, 2)], { type: 'application/json' }),
                  `${material.id}.json`,
                )
              }
            >
              <Download size={13} /> Export
            </Button>
            {isOwn && (
              <Button onClick={() => void remove(material.id)}>
                <Trash2 size={13} /> Delete
              </Button>
            )}
          </div>
        </div>
      </div>
    </div>
  );
}
