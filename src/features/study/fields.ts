import { fieldEntry, fieldsIn, gateShareId } from '@/core/fields/table';
import type { Gate } from '@/core/model/study';
import type { Unit } from '@/core/units/units';
import { shownUnit } from '@/core/units/reader';
import type { FieldId } from './view';

export interface FieldInfo {
  label: string;
  /** The reader's. */
  unit: Unit;
  /** One sentence on what it is. */
  means: string;
}

/** Fields of the shape that comes out. */
export const OF_SHAPE: readonly FieldId[] = fieldsIn('shape');

export function fieldInfo(id: FieldId, gates: readonly Gate[] = []): FieldInfo {
  const { label, unit, means } = fieldEntry(id, gates) ?? { label: id, unit: '', means: '' };
  return { label, unit: shownUnit(unit), means };
}

/** Fields that are shown in full, or cut at their ends; see FieldEntry. */
export const rangeRule = (id: FieldId) => fieldEntry(id)?.range ?? 'whole';

/** Fields of faces that are bonded to something. */
const AT_BONDS: ReadonlySet<FieldId> = new Set(['bondPull', 'bondShear']);

/** Fields of fibres that come with the shape. */
const OF_STRAIN: ReadonlySet<FieldId> = new Set(['shrinkageOnFibres', 'shrinkageSquare']);

/** Fields of fibres that break, or move across the flow. */
const OF_WAY: ReadonlySet<FieldId> = new Set(['fibreVolume', 'fibreWeight', 'fibreLength', 'fibreLengthNumber']);

/** Whether a field is known on faces that touch another body alone. */
export const onSomeFaces = (id: FieldId): boolean => AT_BONDS.has(id) || fieldEntry(id)?.group === 'behind';

/** Fields whose name, or else whose meaning, has all of the words asked for; those that begin with them come first. */
export function fieldsFound(asked: string, ids: readonly FieldId[], gates: readonly Gate[]): FieldId[] {
  const words = asked.toLowerCase().split(/\s+/).filter(Boolean);
  const rank = (id: FieldId): number => {
    const { label, means } = fieldInfo(id, gates);
    const [name, all] = [label.toLowerCase(), `${label} ${means}`.toLowerCase()];
    if (words.every((w) => name.includes(w))) return name.startsWith(words[0]) ? 0 : 1;
    return words.every((w) => all.includes(w)) ? 2 : 3;
  };
  return ids
    .map((id) => ({ id, at: rank(id) }))
    .filter(({ at }) => at < 3)
    .sort((a, b) => a.at - b.at)
    .map(({ id }) => id);
}

/** Fields of a run by the question they help to answer, in the order of the list. */
export function fieldGroups(
  nGates: number,
  {
    packed,
    mould,
    shape,
    behind = [],
    core = false,
    fibres = false,
  }: {
    packed: boolean;
    mould: boolean;
    shape: boolean;
    /** Fields that only some runs have, those that this one has. */
    behind?: readonly string[];
    core?: boolean;
    fibres?: boolean;
  },
): { title: string; ids: FieldId[] }[] {
  const shares = nGates > 1 ? Array.from({ length: nGates }, (_, g) => gateShareId(g)) : [];
  const there = (id: FieldId) => behind.includes(id);
  const touching = fieldsIn('behind').filter(there);
  const ofShape = fieldsIn('shape').filter((id) => !AT_BONDS.has(id) || there(id));
  const ofFibres = fieldsIn('fibres').filter((id) => (OF_WAY.has(id) ? there(id) : shape || !OF_STRAIN.has(id)));
  return [
    { title: 'Will it fill?', ids: [...fieldsIn('filling'), ...shares] },
    ...(packed ? [{ title: 'Does it pack out?', ids: fieldsIn('packing') }] : []),
    ...(core ? [{ title: 'Does the core come out right?', ids: fieldsIn('core') }] : []),
    ...(fibres ? [{ title: 'How strong is it?', ids: ofFibres }] : []),
    ...(touching.length ? [{ title: 'Do they hold together?', ids: touching }] : []),
    ...(packed && shape ? [{ title: 'What shape comes out?', ids: ofShape }] : []),
    ...(mould ? [{ title: 'How long must it cool?', ids: fieldsIn('mould') }] : []),
  ];
}
