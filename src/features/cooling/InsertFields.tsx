import { Trash2 } from 'lucide-react';
import { freshLineId } from '@/core/cooling/layout';
import type { Cooling, MouldInsert } from '@/core/model/cooling';
import { presentInputs, useStudy } from '../study/store';
import { useBench } from '../study/bench';
import { Button, Row, SectionTitle, Select } from '../ui/controls';
import { QuantityField } from '../ui/QuantityField';
import { PlaceFields } from '../ui/PlaceFields';
import { metalOptions } from './BlockFields';
import { patchCooling, useMouldSpace } from './useCooling';

/** Pieces of another metal in the block. */
export function InsertFields({ cooling }: { cooling: Cooling }) {
  const bodies = useStudy((s) => presentInputs(s).bodies);
  const space = useMouldSpace();
  const selected = useBench((s) => s.selectedChannel);
  const set = useBench((s) => s.set);
  const { inserts } = cooling;
  const chosen = inserts.find((i) => i.id === selected);
  const put = (label: string, next: MouldInsert[]) => patchCooling(label, { inserts: next });
  const others = bodies.filter((b) => b.role !== 'cavity');
  const add = (shape: MouldInsert['shape'], name: string) => {
    const id = freshLineId('M', inserts);
    put(`Add insert ${id}`, [...inserts, { id, name, shape, metal: 'copper-hw-b' }]);
    set({ selectedChannel: id });
  };
  const centre = (space ? space.part.min.map((x, d) => (x + space.part.max[d]) / 2) : [0, 0, 0]) as [
    number,
    number,
    number,
  ];
  return (
    <>
      <SectionTitle>Inserts of another metal</SectionTitle>
      <ul className="divide-y border-y">
        {inserts.map((insert) => (
          <li key={insert.id}>
            <button
              type="button"
              aria-pressed={insert.id === selected}
              onClick={() => set({ selectedChannel: insert.id === selected ? null : insert.id })}
              className={`-mx-2 flex w-[calc(100%+1rem)] items-baseline gap-2 rounded px-2 py-1.5 text-left ${insert.id === selected ? 'bg-petrol-wash' : 'hover:bg-well'}`}
            >
              <span className="w-8 font-semibold">{insert.id}</span>
              <span className="flex-1 truncate">{insert.name}</span>
            </button>
          </li>
        ))}
        {!inserts.length && <li className="text-soft py-2">None yet.</li>}
      </ul>
      <div className="mt-1.5 grid grid-cols-2 gap-1">
        <Button
          onClick={() => add({ shape: 'cylinder', centre, axis: [0, 0, 1], diameter: 0.012, length: 0.04 }, 'Pin')}
        >
          Add pin
        </Button>
        <Button
          onClick={() =>
            add(
              {
                shape: 'box',
                centre,
                axes: [
                  [1, 0, 0],
                  [0, 1, 0],
                  [0, 0, 1],
                ],
                size: [0.03, 0.03, 0.03],
              },
              'Block',
            )
          }
        >
          Add box
        </Button>
        {others.map((body) => (
          <Button
            key={body.id}
            className="col-span-2"
            onClick={() => add({ shape: 'body', body: body.id }, body.name.slice(0, 80))}
          >
            Make “{body.name}” an insert
          </Button>
        ))}
      </div>
      {chosen && (
        <InsertForm
          key={chosen.id}
          insert={chosen}
          onChange={(next) =>
            put(
              `Insert ${chosen.id}`,
              inserts.map((i) => (i.id === chosen.id ? next : i)),
            )
          }
          onDelete={() => {
            put(
              `Delete insert ${chosen.id}`,
              inserts.filter((i) => i.id !== chosen.id),
            );
            set({ selectedChannel: null });
          }}
        />
      )}
    </>
  );
}

function InsertForm({
  insert,
  onChange,
  onDelete,
}: {
  insert: MouldInsert;
  onChange: (next: MouldInsert) => void;
  onDelete: () => void;
}) {
  const { shape } = insert;
  return (
    <div className="mt-2 space-y-1.5 border-l-2 pl-2.5">
      <div className="flex items-center justify-between">
        <span className="text-soft text-[12px]">Insert {insert.id}</span>
        <button
          type="button"
          aria-label={`Delete insert ${insert.id}`}
          className="text-soft hover:text-problem"
          onClick={onDelete}
        >
          <Trash2 size={13} />
        </button>
      </div>
      <Row label="Metal">
        <Select
          label={`Metal of insert ${insert.id}`}
          value={typeof insert.metal === 'string' ? insert.metal : 'own'}
          options={[
            ...metalOptions,
            ...(typeof insert.metal === 'string' ? [] : [{ value: 'own', label: insert.metal.name }]),
          ]}
          onChange={(metal) => metal !== 'own' && onChange({ ...insert, metal })}
        />
      </Row>
      {shape.shape !== 'body' && (
        <PlaceFields
          name="Middle"
          place={shape.centre}
          onChange={(centre) => onChange({ ...insert, shape: { ...shape, centre } })}
        />
      )}
      {shape.shape === 'cylinder' &&
        (['diameter', 'length'] as const).map((key) => (
          <QuantityField
            key={key}
            of="metalPiece"
            label={key === 'diameter' ? 'Diameter' : 'Length'}
            value={shape[key]}
            onChange={(v) => v !== null && onChange({ ...insert, shape: { ...shape, [key]: v } })}
          />
        ))}
      {shape.shape === 'box' &&
        (['X', 'Y', 'Z'] as const).map((axis, d) => (
          <QuantityField
            key={axis}
            of="metalPiece"
            label={`Size ${axis}`}
            value={shape.size[d]}
            onChange={(v) =>
              v !== null &&
              onChange({
                ...insert,
                shape: { ...shape, size: shape.size.map((x, k) => (k === d ? v : x)) as [number, number, number] },
              })
            }
          />
        ))}
    </div>
  );
}
