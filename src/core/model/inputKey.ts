import { shotOf } from './body';
import type { Compression } from './compression';
import type { CoreChoice } from './core';
import { insertChoice, wholeOf } from './shots';
import { geometryKey, type Inputs, type ShotInputs } from './study';
import { warpageOf } from './warpage';

/** JSON with the keys of every object in order: what was set first makes no other text. */
const textOf = (value: unknown): string =>
  JSON.stringify(value, (_key, part: unknown) =>
    part && typeof part === 'object' && !Array.isArray(part)
      ? Object.fromEntries(Object.entries(part).sort(([a], [b]) => (a < b ? -1 : 1)))
      : part,
  );

/** Branches are kept by the names of their gates; a name changes no number. */
function feedKey({ feed, gates }: Pick<ShotInputs, 'feed' | 'gates'>) {
  if (!feed) return null;
  const { branches, ...rest } = feed;
  const numbers = new Map(gates.map((g, k) => [g.id, k]));
  const byNumber = Object.entries(branches).map(([key, b]) => [
    key
      .split('+')
      .map((id) => numbers.get(id) ?? id)
      .join('+'),
    b.diameter,
  ]);
  return { ...rest, branches: byNumber.sort((a, b) => (String(a[0]) < String(b[0]) ? -1 : 1)) };
}

/** Tolerances and measures judge a shape, they do not change it. */
const shapeKey = (inputs: Pick<Inputs, 'warpage'>): string => {
  const { toolScaled, supports, detail, withFeed } = warpageOf(inputs);
  return textOf([toolScaled, supports, detail, withFeed]);
};
const UNTOUCHED = shapeKey({});

/** Inserts by their surfaces. */
const insertKey = (inputs: Inputs) =>
  inputs.bodies.flatMap((b) => {
    if (b.role !== 'insert') return [];
    const { id: _, ...choice } = insertChoice(inputs, b.id);
    return [[b.mesh, choice]];
  });

/** Shots after the first, each with the surfaces that it fills. */
const laterKey = ({ bodies, later = [] }: Inputs) =>
  later.map(({ transfer, ...shot }, k) => [
    bodies.flatMap((b) => (shotOf(b) === k + 2 ? [b.mesh] : [])),
    gateKey(shot),
    shot.resin,
    shot.cycle,
    transfer,
    shot.gates.length ? feedKey(shot) : null,
    shot.vents ?? [],
    shot.tabs ?? [],
    ...(shot.core ? [coreKey(shot.core, shot.gates)] : []),
    ...(shot.compression ? [{ compression: compressionKey(shot.compression) }] : []),
    ...(shot.fibres ? [{ fibres: shot.fibres }] : []),
  ]);

const gateKey = ({ gates }: Pick<ShotInputs, 'gates'>) =>
  gates.map((g) => [...g.position, g.diameter, ...(g.pin ? [g.pin] : []), ...(g.form ? [g.form] : [])]);

/** Needles by their places, the gate of a second melt by its number. */
const coreKey = ({ needles, ...core }: CoreChoice, gates: ShotInputs['gates']) => ({
  ...core,
  ...(core.second?.gate
    ? { second: { ...core.second, gate: gates.findIndex((g) => g.id === core.second?.gate) } }
    : {}),
  needles: needles.map((n) => n.position),
});

/** Pieces of the charge by their places. */
const compressionKey = ({ melt, ...rest }: Compression) => ({
  ...rest,
  melt: melt.by === 'charge' ? { ...melt, pieces: melt.pieces.map((p) => p.position) } : melt,
});

/** Stations at which inputs are set. */
export const INPUT_STATIONS = ['part', 'resin', 'feed', 'cooling', 'cycle'] as const;

/** Text of everything that is set at a station and that changes a number: together they cover `inputKey`. */
export const stationKey = (inputs: Inputs, station: (typeof INPUT_STATIONS)[number]): string =>
  textOf(
    {
      part: () => [
        geometryKey(inputs),
        inputs.detail,
        ...(inputs.instants ? [inputs.instants] : []),
        inputs.tool.partingHeight,
        inputs.tool.opening,
        insertKey(inputs),
        laterKey(wholeOf(inputs)),
      ],
      resin: () => [inputs.resin, inputs.fibres ?? null],
      feed: () => [
        inputs.gates.map(({ id: _, ...gate }) => gate),
        feedKey(inputs),
        inputs.vents?.length ? inputs.vents : null,
        inputs.tabs?.length ? inputs.tabs : null,
      ],
      cooling: () => inputs.cooling ?? null,
      cycle: () => [
        inputs.cycle,
        inputs.upTo,
        shapeKey(inputs),
        inputs.core ? coreKey(inputs.core, inputs.gates) : null,
        inputs.compression ? compressionKey(inputs.compression) : null,
      ],
    }[station](),
  );

/**
 * Text that is equal exactly when two inputs would give the same numbers: the cavities' surfaces, gates
 * in order without their names, everything else that a run reads. Probes only read. A run is out of
 * date when its key differs from its variant's.
 */
export function inputKey(study: Inputs): string {
  const inputs = wholeOf(study);
  const inserts = insertKey(inputs);
  return textOf([
    geometryKey(inputs),
    gateKey(inputs),
    inputs.resin,
    inputs.cycle,
    inputs.tool.partingHeight,
    inputs.detail,
    // Last and only when there is one: keys of studies without a feed stay what they were.
    ...(inputs.feed && inputs.gates.length ? [feedKey(inputs)] : []),
    ...(inputs.cooling ? [inputs.cooling] : []),
    ...(shapeKey(inputs) === UNTOUCHED ? [] : [shapeKey(inputs)]),
    ...(inputs.upTo ? [inputs.upTo] : []),
    ...(inputs.vents?.length ? [inputs.vents] : []),
    ...(inputs.tabs?.length ? [inputs.tabs] : []),
    ...(inputs.core ? [{ core: coreKey(inputs.core, inputs.gates) }] : []),
    ...(inputs.compression ? [{ compression: compressionKey(inputs.compression) }] : []),
    ...(inputs.fibres ? [{ fibres: inputs.fibres }] : []),
    ...(inputs.tool.opening ? [{ opening: inputs.tool.opening }] : []),
    ...(inputs.instants ? [{ instants: inputs.instants }] : []),
    ...(inserts.length ? [{ inserts }] : []),
    ...(inputs.later ? [{ later: laterKey(inputs) }] : []),
  ]);
}
