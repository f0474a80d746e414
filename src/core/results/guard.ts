import { measure, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import type { FineGrid } from '../grid/grid';
import type { PressureGrid } from '../grid/pressureGrid';
import { ATMOSPHERE, ROOM, specificVolume } from '../material/pvt';
import { meltThermal } from '../material/properties';
import type { FillSettings } from '../setup/settings';
import type { Answer } from './answer';
import type { FillFound } from '../solvers/fill/outcome';
import type { PackResult } from '../solvers/pack/outcome';
import type { WarpResult } from '../solvers/warp/stage';
import type { ShapeFacts } from './shape';
import { eigenOf, frame } from '../numerics/eigen';
import { format } from '../units/reader';
import type { FibresFound } from './shotFound';
import { breach, GUARD_RULES, type Breach, type GuardRule } from './guardRules';

const at = (grid: Pick<PressureGrid, 'centroid'>, i: number): Vec3 => [
  grid.centroid[3 * i],
  grid.centroid[3 * i + 1],
  grid.centroid[3 * i + 2],
];

/** Breaches of a grid against the surface it was cut from. */
export function guardGrid(mesh: TriangleMesh, fine: FineGrid, grid: PressureGrid): Breach[] {
  const found: Breach[] = [];
  const volume = fine.cells.volume.reduce((s, v) => s + v, 0);
  const off = Math.abs(volume / Math.abs(measure(mesh).volume) - 1);
  if (!(off <= GUARD_RULES.gridVolume.limit))
    found.push(
      breach(
        'gridVolume',
        off,
        `The cells hold ${format(off, '%', 2)} more or less than the surface encloses: it crosses or covers itself.`,
        null,
        'Join overlapping bodies or Mend the part at the Part station.',
      ),
    );
  const empty: number[] = [];
  for (let i = 0; i < grid.n; i++) if (!(grid.volume[i] > 0) && grid.rowStart[i + 1] > grid.rowStart[i]) empty.push(i);
  if (empty.length)
    found.push(
      breach('emptyNodes', empty.length, `${empty.length} nodes of the grid hold no melt.`, at(grid, empty[0])),
    );
  return found;
}

/** Breaches of the directions of fibres: shares of a whole in every layer. */
export function guardFibres(grid: PressureGrid, { orientation, nLayers, share, lengths }: FibresFound): Breach[] {
  const spectrum = frame();
  const wrong = (what: string, values: Float32Array, per: number, good: (v: number) => boolean): Breach[] => {
    const k = values.findIndex((v) => !good(v));
    if (k < 0) return [];
    return [breach('fibres', Infinity, `${what} is ${values[k].toPrecision(2)}.`, at(grid, Math.floor(k / per)))];
  };
  const others = [
    ...(share ? wrong('The share of fibres in a layer', share, nLayers, (v) => v >= 0 && v < 1) : []),
    ...(lengths ? wrong('The length of the fibres at a place', lengths.byWeight, 1, (v) => v > 0) : []),
  ];
  let [most, layer] = [0, -1];
  for (let k = 0; k < orientation.length / 6; k++) {
    const a = orientation.subarray(6 * k, 6 * k + 6);
    const { values } = eigenOf(a, spectrum);
    const off = Math.max(Math.abs(a[0] + a[1] + a[2] - 1), -values[2], values[0] - 1);
    // No number is worse than any.
    if (off <= most) continue;
    [most, layer] = [off === off ? off : Infinity, k];
  }
  if (most <= GUARD_RULES.fibres.limit) return others;
  const place = at(grid, Math.floor(layer / nLayers));
  return [
    breach('fibres', most, `The directions of the fibres are off a whole by ${most.toPrecision(2)}.`, place),
    ...others,
  ];
}

/** Most that the layer of a wall is heated by shear over the mean of the section. */
const UNEVEN_HEATING = 4;
const KELVIN = 5;

/** Temperatures [K] that a wall's mean can have: coldest mould to melt heated by the pressure spent. */
function temperatureRange(settings: FillSettings, highestPressure: number, coldest: number): [number, number] {
  const { density, specificHeat } = meltThermal(settings.resin, settings.meltTemperature);
  const heating = (UNEVEN_HEATING * highestPressure) / (density * specificHeat);
  return [
    Math.min(settings.mouldTemperature, settings.lowerMouldTemperature, settings.meltTemperature, coldest) - COLD_WATER,
    settings.meltTemperature + heating + KELVIN,
  ];
}

/** A cooled mould may be colder than the set temperature of its wall, K. */
const COLD_WATER = 60;

/** Breaches of a filling; `grid` is the one its arrays belong to, `coldest` [K] of what was laid into the mould. */
export function guardFill(
  grid: PressureGrid,
  outcome: FillFound,
  settings: FillSettings,
  coldest = Infinity,
): Breach[] {
  const { result } = outcome;
  const found: Breach[] = [];
  const { frames, history } = result;
  const last = frames.times.length - 1;
  const isFull = (i: number) => grid.volume[i] > 0 && result.node.held[i] >= grid.volume[i] * (1 - 1e-6);
  const broken = (values: ArrayLike<number>) => {
    for (let i = 0; i < grid.n; i++) if (isFull(i) && !Number.isFinite(values[i])) return i;
    return -1;
  };
  const node = [
    frames.node.temperature[last],
    frames.node.frozen[last],
    result.node.peakShearRate,
    result.node.peakStress,
    result.node.held,
  ]
    .map(broken)
    .find((i) => i >= 0);
  const scalars = [history.nozzlePressure, history.clampForce, history.flowRate, history.time].flat();
  if (node !== undefined || !scalars.every(Number.isFinite))
    found.push(
      breach('finite', 1, 'The filling holds values that are no numbers.', node === undefined ? null : at(grid, node)),
    );
  if (!(result.massError <= GUARD_RULES.fillMass.limit))
    found.push(
      breach(
        'fillMass',
        result.massError,
        `The melt in the cavity misses ${format(result.massError, '%', 2)} of what was injected.`,
        null,
      ),
    );
  if (result.unsettled > GUARD_RULES.fillSettled.limit)
    found.push(
      breach(
        'fillSettled',
        result.unsettled,
        `In ${result.unsettled} steps the filling pressure did not settle.`,
        null,
      ),
    );
  const heat = result.heatBalance?.error ?? 0;
  if (!(heat <= GUARD_RULES.fillHeat.limit))
    found.push(
      breach('fillHeat', heat, `${format(heat, '%', 2)} of the heat of the filling is not accounted for.`, null),
    );
  let [highest, where] = [0, -1];
  for (const frame of frames.node.pressure)
    for (let i = 0; i < grid.n; i++) if (frame[i] > highest) [highest, where] = [frame[i], i];
  const given = Math.max(0, ...history.nozzlePressure);
  const inCore = Math.max(0, ...history.corePressure);
  const most = Math.max(inCore, Math.min(settings.pressureLimit, given * (1 + 1e-6)));
  // Between halves that close, the press gives the pressure: its force is looked at instead.
  const pushed = settings.press ? 0 : highest / Math.max(most, 1e5);
  const over = Math.max(pushed, given / settings.pressureLimit);
  if (over > GUARD_RULES.fillPressure.limit)
    found.push(
      breach(
        'fillPressure',
        over,
        `The filling has ${format(Math.max(highest, given), 'MPa')} where the machine gives ${format(most, 'MPa')}.`,
        where < 0 ? null : at(grid, where),
      ),
    );
  const [low, high] = temperatureRange(settings, given, coldest);
  for (const frame of frames.node.temperature) {
    const i = frame.findIndex((T) => T < low || T > high);
    if (i < 0) continue;
    const off = Math.max(low - frame[i], frame[i] - high);
    found.push(breach('fillTemperature', off, `A wall has ${format(frame[i], '°C', 4)} while filling.`, at(grid, i)));
    break;
  }
  return found;
}

/** Breaches of packing and cooling, results on the part's own nodes. */
export function guardPack(grid: PressureGrid, pack: PackResult, settings: FillSettings): Breach[] {
  const found: Breach[] = [];
  const { history, course } = pack;
  const scalars = [history.nozzlePressure, history.clampForce, course.mass, course.highestPressure].flat();
  if (!scalars.every(Number.isFinite) || !Number.isFinite(pack.mass))
    found.push(breach('finite', 1, 'Packing holds values that are no numbers.', null));
  if (!(pack.massError <= GUARD_RULES.packMass.limit))
    found.push(
      breach(
        'packMass',
        pack.massError,
        `A step of packing misses ${format(pack.massError, '%', 2)} of the mass.`,
        null,
      ),
    );
  if (!(Math.abs(pack.heatError) <= GUARD_RULES.packHeat.limit))
    found.push(
      breach(
        'packHeat',
        pack.heatError,
        `${format(pack.heatError, '%', 2)} of the heat of packing is not accounted for.`,
        null,
      ),
    );
  const given = Math.max(1e6, ...history.nozzlePressure, ...history.corePressure);
  const highest = Math.max(0, ...course.highestPressure);
  if (!settings.press && highest / given > GUARD_RULES.packPressure.limit)
    found.push(
      breach(
        'packPressure',
        highest / given,
        `The part holds ${format(highest, 'MPa')} where the machine gave ${format(given, 'MPa')}.`,
        null,
      ),
    );
  const { pvt } = settings.resin;
  const room = specificVolume(pvt, ROOM, ATMOSPHERE);
  const { limit } = GUARD_RULES.shrinkage;
  const loosest = 1 - room / specificVolume(pvt, settings.meltTemperature, ATMOSPHERE) + limit;
  const tightest = 1 - room / specificVolume(pvt, settings.mouldTemperature, given + ATMOSPHERE) - limit;
  let [worst, where] = [0, -1];
  for (let i = 0; i < grid.n; i++) {
    const s = pack.node.shrinkage[i];
    const off = Math.max(s - loosest, tightest - s);
    if (off > worst) [worst, where] = [off, i];
  }
  if (where >= 0)
    found.push(
      breach(
        'shrinkage',
        pack.node.shrinkage[where],
        `A place shrinks by ${format(pack.node.shrinkage[where], '%', 3)}; the pvT data allow ${format(tightest, '%', 2)} to ${format(loosest, '%', 2)}.`,
        at(grid, where),
      ),
    );
  return found;
}

/** Breaches of a shape; `pieces` is how many loose pieces the part and its inserts have. */
export function guardShape(
  { largest_m, place_m, skinStress_Pa, stressPlace_m }: ShapeFacts,
  { residual, structurePieces }: Pick<WarpResult, 'residual' | 'structurePieces'>,
  { pieces, size, young }: { pieces: number; size: number; young: number },
): Breach[] {
  const found: Breach[] = [];
  const finer = 'Choose a finer Detail, or look at the place: walls much thinner than the others may be cut there.';
  if (![largest_m, skinStress_Pa].every(Number.isFinite))
    found.push({ ...breach('finite', 1, 'The shape holds values that are no numbers.', null), stage: 'shape' });
  if (!(residual <= GUARD_RULES.shapeSettled.limit))
    found.push(
      breach(
        'shapeSettled',
        residual,
        `The shape has not settled: ${format(residual, '%', 2)} is out of balance.`,
        null,
      ),
    );
  const extra = structurePieces.length - pieces;
  if (extra > GUARD_RULES.shapePieces.limit)
    found.push(
      breach(
        'shapePieces',
        extra,
        `The structure falls into ${structurePieces.length} pieces where the part has ${pieces}.`,
        structurePieces[structurePieces.length - 1].place,
        finer,
      ),
    );
  const share = largest_m / size;
  if (share > GUARD_RULES.shapeSize.limit)
    found.push(
      breach(
        'shapeSize',
        share,
        `A place moves by ${format(largest_m, 'mm', 3)}, ${format(share, '%', 2)} of the size of the part.`,
        place_m,
        finer,
      ),
    );
  const strain = skinStress_Pa / young;
  if (strain > GUARD_RULES.shapeStress.limit)
    found.push(
      breach(
        'shapeStress',
        strain,
        `The stress frozen in reaches ${format(skinStress_Pa, 'MPa', 3)}, ${format(strain, '%', 2)} of the stiffness.`,
        stressPlace_m ?? null,
        finer,
      ),
    );
  return found;
}

/** Questions that rest on a stage: what fails in it, or before it, leaves them without an answer. */
const RESTS_ON: Record<Answer['id'], readonly GuardRule['stage'][]> = {
  'will-it-fill': ['grid', 'fill'],
  'where-fronts-meet': ['grid', 'fill'],
  'what-machine': ['grid', 'fill', 'pack'],
  'does-it-pack-out': ['grid', 'fill', 'pack'],
  'how-long-to-cool': ['grid', 'fill', 'pack'],
  'what-shape': ['grid', 'fill', 'pack', 'shape'],
  'do-they-hold': ['grid', 'fill', 'pack', 'shape'],
  'does-core-come-right': ['grid', 'fill', 'pack'],
  'does-tool-close': ['grid', 'fill', 'pack'],
  'how-strong': ['grid', 'fill', 'pack', 'shape'],
};

/** Answers in which those that rest on a broken bound are none, whatever they say. */
export function failed(answers: readonly Answer[], breaches: readonly Breach[]): Answer[] {
  return answers.map((answer) => {
    const own = breaches.filter((b) => RESTS_ON[answer.id].includes(b.stage));
    if (!own.length) return answer;
    const place = own.find((b) => b.place)?.place;
    return {
      ...answer,
      verdict: 'problem',
      headline: 'The result fails its own checks: take no number from it.',
      where: place ? { label: 'Where a check fails', position: place } : answer.where,
      why: [...own.map((b) => `${b.message} ${b.remedy}`), ...answer.why],
      try: [],
    };
  });
}
