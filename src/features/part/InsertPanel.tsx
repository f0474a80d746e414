'use client';

import { Crosshair, GitBranch, Trash2 } from 'lucide-react';
import { RESINS } from '@/core/material/library';
import { CERAMICS, METALS } from '@/core/material/others';
import type { Contact, InsertChoice } from '@/core/model/insert';
import { insertChoice } from '@/core/model/shots';
import type { Body } from '@/core/model/body';
import { insertMaterial } from '@/core/setup/insertMaterial';
import { format } from '@/core/units/reader';
import { useAim, useBench } from '../study/bench';
import { changeInputs, freshName, presentInputs, presentVariant, useStudy } from '../study/store';
import { Button, Choice, Fact, Row, SectionTitle, Select } from '../ui/controls';
import { QuantityField } from '../ui/QuantityField';

const CONTACT = [
  { value: 'bonded', label: 'Bonded' },
  { value: 'sliding', label: 'Sliding' },
] as const;
const OWN = 'own';

/** Sets inserts of these bodies, all alike, as one step. */
function put(label: string, ids: readonly string[], patch: Partial<Omit<InsertChoice, 'id'>>): void {
  changeInputs(label, (inputs) => ({
    inserts: [
      ...(inputs.inserts ?? []).filter((i) => !ids.includes(i.id)),
      ...ids.map((id) => ({ ...insertChoice(inputs, id), ...patch })),
    ],
  }));
}

/** A place clicked on an insert: the face there is held. */
export function holdFace(id: string, at: [number, number, number]): void {
  const { held } = insertChoice(presentInputs(useStudy.getState()), id);
  put('Hold a face', [id], { held: [...held, at] });
  useBench.getState().set({ aim: null });
}

/** What inserts are made of, how warm they are laid in, how the plastic lies against them and what holds them. */
export function InsertPanel({ bodies }: { bodies: readonly Body[] }) {
  const inputs = useStudy(presentInputs);
  const aiming = useAim('insert-face');
  const set = useBench((s) => s.set);
  const ids = bodies.map((b) => b.id);
  const choices = bodies.map((b) => insertChoice(inputs, b.id));
  const [first] = choices;
  const one = bodies.length === 1 ? bodies[0] : null;
  const named = one ? one.name : `${bodies.length} inserts`;
  const same = <K extends keyof InsertChoice>(key: K) =>
    choices.every((c) => JSON.stringify(c[key]) === JSON.stringify(first[key]));
  const material = insertMaterial(first.material);
  const id = typeof first.material === 'string' ? first.material : OWN;
  return (
    <>
      <SectionTitle>Insert</SectionTitle>
      <div className="space-y-1.5">
        <Select
          label={`Material of ${named}`}
          value={same('material') ? id : ''}
          options={[
            ...(id === OWN ? [{ value: OWN, label: 'Own values' }] : []),
            ...[...METALS, ...CERAMICS].map((m) => ({ value: m.id, label: m.name })),
            ...RESINS.map((r) => ({ value: r.id, label: `${r.family} ${r.name}` })),
          ]}
          onChange={(value) => value !== OWN && put(`Material of ${named}`, ids, { material: value })}
        />
        <QuantityField
          of="insertTemperature"
          label="Laid in at"
          value={same('temperature') ? first.temperature : null}
          emptyHint="as the mould"
          onChange={(temperature) => put(`Start temperature of ${named}`, ids, { temperature })}
        />
        <Choice
          label="Plastic on it"
          value={first.contact}
          options={CONTACT}
          onChange={(contact) => put(`Contact of ${named}`, ids, { contact: contact as Contact })}
        />
        {one && (
          <Row label="Held by">
            <Button
              className="w-full"
              look={aiming ? 'primary' : 'plain'}
              aria-pressed={aiming !== null}
              title="By the faces that are clicked; without any by what of it reaches out of the plastic"
              onClick={() => set({ aim: aiming ? null : { for: 'insert-face', insert: one.id } })}
            >
              <Crosshair size={13} /> {aiming ? 'Click a face' : 'Add a face'}
            </Button>
          </Row>
        )}
        {one && !first.held.length && (
          <p className="text-soft text-[12px]">Held where it reaches out of the plastic, until faces are chosen.</p>
        )}
        {one &&
          first.held.map((place, k) => (
            <div key={place.join()} className="num flex items-center gap-2 border-t pt-1 text-[12px]">
              <span className="font-semibold">Face {k + 1}</span>
              <span className="text-soft flex-1 truncate">at {place.map((x) => format(x, 'mm')).join(', ')}</span>
              <button
                type="button"
                className="text-soft hover:text-problem p-1"
                aria-label={`Let face ${k + 1} of ${one.name} go`}
                onClick={() => put('Let a face go', ids, { held: first.held.filter((_, j) => j !== k) })}
              >
                <Trash2 size={13} />
              </button>
            </div>
          ))}
        {material && (
          <dl className="num grid grid-cols-[1fr_auto] gap-y-1 pt-1">
            <Fact label="Conducts" value={format(material.thermal.conductivity, 'W/(m·K)')} />
            <Fact label="Stiffness" value={format(material.solid.young, 'GPa')} />
            <Fact label="Expands by" value={`${format(1e6 * material.expansion, '', 3)} µm/(m·K)`} />
          </dl>
        )}
        <Button
          className="w-full"
          title="A variant without the insert, to compare"
          onClick={() => void branchWithout(ids, named)}
        >
          <GitBranch size={13} /> Variant without it
        </Button>
      </div>
    </>
  );
}

async function branchWithout(ids: readonly string[], named: string): Promise<void> {
  const study = useStudy.getState();
  const { inputs } = presentVariant(study);
  const bodies = inputs.bodies.map((b) => (ids.includes(b.id) ? { ...b, role: 'left-out' as const } : b));
  await study.branch(freshName(study.variants, `Without ${named}`.slice(0, 50)), { ...inputs, bodies });
}
