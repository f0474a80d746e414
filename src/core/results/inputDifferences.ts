import { machineById } from '../machine/library';
import { resinById } from '../material/library';
import { type Unit } from '../units/units';
import { NAMES, ofOneKind, isList, isTable, same } from '../model/mergeInputs';
import { CYCLE_NUMBERS } from '../model/parameters';
import { WAY_NUMBERS } from '../model/wayNumbers';
import type { Parameter } from '../model/parameter';
import { inputsSchema, type Inputs } from '../model/study';
import { shownUnit, told } from '../units/reader';

/** Where a value stands in the inputs: names of tables, and ids of the members of lists. */
export type InputPath = readonly string[];

/** One thing in which two studies differ, in words: "Gate G1 diameter", "2.5 mm", "3.3 mm". */
export interface InputDifference {
  path: InputPath;
  label: string;
  /** In the first study and in the second; "none" where it is not there. */
  from: string;
  to: string;
}

/** Of the page alone: they change no number. */
const NOT_OF_RUNS: ReadonlySet<keyof Inputs> = new Set(['probes', 'noGate', 'rules', 'axes', 'names', 'shot']);

/** What the second of two studies has otherwise than the first, in the order of the stations. */
export function inputDifferences(first: Inputs, second: Inputs): InputDifference[] {
  const out: InputDifference[] = [];
  for (const key of Object.keys(NAMES) as (keyof Inputs)[])
    if (!NOT_OF_RUNS.has(key)) walk(first[key], second[key], [key], out);
  return out;
}

/** Inputs that say how a study is calculated, not what is made. */
const HOW: ReadonlySet<string> = new Set(['detail', 'upTo', 'instants']);

/** The same without what only says how it is calculated. */
export const madeOtherwise = (first: Inputs, second: Inputs): InputDifference[] =>
  inputDifferences(first, second).filter(({ path }) => !HOW.has(path[0]));

/** Value at a place of the inputs; undefined where there is none. */
export function valueAt(inputs: Inputs, path: InputPath): unknown {
  let value: unknown = inputs;
  for (const key of path) {
    if (isList(value)) value = value.find((e) => e.id === key);
    else if (isRow(value)) value = value[Number(key)];
    else value = isTable(value) ? value[key] : undefined;
  }
  return value;
}

/** Later shots have no ids: they are told apart by their order. */
const isRow = (x: unknown): x is Record<string, unknown>[] => Array.isArray(x) && x.length > 0 && x.every(isTable);
const WITH_NAMES: ReadonlySet<string> = new Set(['resin', 'machine']);

function walk(a: unknown, b: unknown, path: InputPath, out: InputDifference[]): void {
  if (same(a ?? null, b ?? null)) return;
  const [list, others] = [a ?? (isList(b) ? [] : a), b ?? (isList(a) ? [] : b)];
  if (isList(list) && isList(others)) {
    for (const id of new Set([...list, ...others].map((e) => e.id))) {
      const of = (l: readonly { id: string }[]) => l.find((e) => e.id === id);
      walk(of(list), of(others), [...path, id], out);
    }
    return;
  }
  if (isRow(a) && isRow(b) && a.length === b.length) {
    a.forEach((x, k) => walk(x, b[k], [...path, String(k)], out));
    return;
  }
  // A material or a press with another name is another one, whatever its numbers.
  const other = isTable(a) && isTable(b) && WITH_NAMES.has(path[path.length - 1]) && a.name !== b.name;
  if (isTable(a) && isTable(b) && ofOneKind(a, b) && !other) {
    for (const key of new Set([...Object.keys(a), ...Object.keys(b)])) walk(a[key], b[key], [...path, key], out);
    return;
  }
  out.push({
    path,
    label: labelOf(path),
    from: said(a, path),
    to: said(b, path),
  });
}

/** Numbers of the table that belong to one way of doing a thing, by where they stand; members of lists are all alike. */
export const WAY_PATHS: Record<string, keyof typeof WAY_NUMBERS> = {
  'tool.partingHeight': 'partingHeight',
  'gates.*.diameter': 'gateDiameter',
  'warpage.after': 'measuredAfter',
  'cycle.injection.time': 'injectionTime',
  'cycle.injection.flowRate': 'flowRate',
  'cycle.switchover.share': 'switchoverShare',
  'cycle.switchover.pressure': 'switchoverPressure',
  'cycle.switchover.time': 'switchoverTime',
  'cycle.packing.pressure': 'packingPressure',
  'cycle.packing.time': 'packingTime',
  'core.melt.share': 'coreShare',
  'core.delay': 'coreDelay',
  'core.drive.pressure': 'corePressure',
  'core.drive.rise': 'coreRise',
  'core.drive.hold': 'coreHold',
  'core.drive.release': 'coreRelease',
  'core.drive.volume': 'coreVolume',
  'compression.melt.gap': 'pressGap',
  'compression.melt.outline.diameter': 'chargeSize',
  'compression.melt.outline.width': 'chargeSize',
  'compression.melt.outline.length': 'chargeSize',
  'compression.melt.outline.turned': 'chargeTurned',
  'compression.dose': 'pressDose',
  'compression.delay': 'pressDelay',
  'compression.speed': 'pressSpeed',
  'compression.force': 'pressForce',
  'compression.hold': 'pressHold',
  'fibres.aspect': 'fibreAspect',
  'fibres.granule': 'fibreGranule',
  'fibres.screwStrain': 'fibreScrewStrain',
  'fibres.turning.interaction.CI': 'fibreInteraction',
  'fibres.turning.slowing': 'fibreSlowing',
};

/** Units of numbers without a table, by their names. */
const UNIT_BY_NAME: readonly [names: RegExp, unit: Unit][] = [
  [/temperature$/i, '°C'],
  [/pressure$/i, 'MPa'],
  [/(time|delay|opening|closing|ejection|after)$/i, 's'],
  [/share$/i, '%'],
  [/flow(rate)?$/i, 'cm³/s'],
  [/angle$|draft$/i, '°'],
  [/(young|modulus|E1|E2|G12)$/, 'GPa'],
  [
    /(diameter|length|width|wide|thickness|height|radius|gap|land|position|direction|from|to|at|size|distance|pitch|depth|nozzle|runner|gate|slug|outline|tolerance)$/i,
    'mm',
  ],
];
const PLAIN = /direction$/i;

const parameterOf = (path: InputPath): Parameter | null => {
  const shot = path[0] === 'later' ? path.slice(2) : path;
  if (shot[0] === 'cycle' && shot.length === 2 && shot[1] in CYCLE_NUMBERS)
    return CYCLE_NUMBERS[shot[1] as keyof typeof CYCLE_NUMBERS];
  const [group, , ...rest] = shot;
  const id = WAY_PATHS[shot.join('.')] ?? WAY_PATHS[[group, '*', ...rest].join('.')];
  return id ? WAY_NUMBERS[id] : null;
};

/** "meltTemperature" as "melt temperature". */
const words = (key: string) => key.replace(/([a-z])([A-Z])/g, (_, a: string, b: string) => `${a} ${b.toLowerCase()}`);

/** What one member of a list is called. */
const ONE: Partial<Record<keyof Inputs, string>> = {
  bodies: 'Body',
  gates: 'Gate',
  vents: 'Vent',
  tabs: 'Overflow tab',
  inserts: 'Insert',
};

function labelOf(path: InputPath): string {
  const [group, ...rest] = path;
  if (group === 'later' && rest.length > 1) return `Shot ${Number(rest[0]) + 2}: ${labelOf(rest.slice(1))}`;
  const parameter = parameterOf(path);
  const one = ONE[group as keyof Inputs];
  if (parameter && !one) return parameter.named ?? parameter.label;
  const head = one && rest.length ? `${one} ${rest[0]}` : NAMES[group as keyof Inputs];
  const tail = (one ? rest.slice(1) : rest).map(words).join(' ');
  return tail ? `${head}, ${tail}` : head;
}

function said(value: unknown, path: InputPath): string {
  const key = path[path.length - 1];
  const parameter = parameterOf(path);
  if (value === undefined) return 'none';
  if (value === null) return parameter ? 'default' : 'as it follows';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (typeof value === 'number') return numberSaid(value, parameter?.unit ?? unitOf(key));
  if (typeof value === 'string') return nameOf(value, key);
  if (Array.isArray(value) && value.every((x): x is number => typeof x === 'number'))
    return value.length > 6 ? `${value.length} numbers` : placeSaid(value, PLAIN.test(key) ? '' : unitOf(key));
  if (Array.isArray(value)) return `${value.length} ${value.length === 1 ? 'entry' : 'entries'}`;
  return isTable(value) ? tableSaid(value, path) : String(value);
}

const unitOf = (key: string): Unit => UNIT_BY_NAME.find(([names]) => names.test(key))?.[1] ?? '';
/** Without zeros that say nothing, as one types it. */
const short = (x: number) => String(Number(x.toPrecision(4))).replace('-', '−');
const numberSaid = (si: number, unit: Unit) => `${short(told(si, unit))}${unit && ` ${shownUnit(unit)}`}`;
const placeSaid = (list: readonly number[], unit: Unit) =>
  `${list.map((x) => short(told(x, unit))).join(', ')}${unit && ` ${shownUnit(unit)}`}`;

function nameOf(value: string, key: string): string {
  if (key === 'resin') return resinById(value)?.name ?? value;
  if (key === 'machine') return machineById(value)?.name ?? value;
  // Surfaces are named by the hash of their content.
  if (/^[0-9a-f]{64}$/.test(value)) return `surface ${value.slice(0, 6)}`;
  return value;
}

/** A whole table: its name, what kind it is, and the numbers that say most. */
function tableSaid(table: Record<string, unknown>, path: InputPath): string {
  if (typeof table.name === 'string') return table.name;
  const kind = ['by', 'kind', 'shape', 'layout', 'role'].map((k) => table[k]).find((v) => typeof v === 'string');
  const numbers = Object.entries(table)
    .filter((e): e is [string, number] => typeof e[1] === 'number')
    .slice(0, 3)
    .map(([key, v]) => `${words(key)} ${numberSaid(v, parameterOf([...path, key])?.unit ?? unitOf(key))}`);
  const place = Array.isArray(table.position) ? [`at ${placeSaid(table.position as number[], 'mm')}`] : [];
  const text = [...(kind ? [String(kind)] : []), ...place, ...numbers].join(', ');
  return text || 'set';
}

/** `inputs` with one difference taken over from `other`; null where that is no study. */
export function takeDifference(inputs: Inputs, other: Inputs, path: InputPath): Inputs | null {
  const parsed = inputsSchema.safeParse(put(inputs, other, path));
  return parsed.success ? parsed.data : null;
}

function put(into: unknown, from: unknown, path: InputPath): unknown {
  const [key, ...rest] = path;
  if (key === undefined) return from;
  if (isList(into) || isList(from)) {
    const [own, theirs] = [isList(into) ? into : [], isList(from) ? from : []];
    const before = own.find((e) => e.id === key);
    const value = put(
      before,
      theirs.find((e) => e.id === key),
      rest,
    ) as (typeof own)[0] | undefined;
    if (value === undefined) return own.filter((e) => e.id !== key);
    return before ? own.map((e) => (e.id === key ? value : e)) : [...own, value];
  }
  if (isRow(into) && isRow(from)) return into.map((x, k) => (String(k) === key ? put(x, from[k], rest) : x));
  const table = isTable(into) ? into : {};
  const value = put(table[key], isTable(from) ? from[key] : undefined, rest);
  const { [key]: _, ...others } = table;
  return value === undefined ? others : { ...table, [key]: value };
}
