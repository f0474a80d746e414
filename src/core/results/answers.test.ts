import { describe, expect, it } from 'vitest';
import { box } from '../../../verification/shapes';
import { RESINS } from '../material/library';
import { howStrong, type StrengthFacts } from './howStrong';
import { trayCooling } from '../cooling/sample';
import { asShot, freshShot } from '../model/shots';
import { cavityBody, emptyInputs, inputsSchema, type Inputs } from '../model/study';
import { resolveSettings } from '../setup/settings';
import { answerSchema, type Answer } from './answer';
import type { CoolFacts } from './coolFacts';
import { doesItPackOut } from './doesItPackOut';
import { doTheyHold, type FaceFacts, type InsertLoad } from './holdTogether';
import { howLongToCool } from './howLongToCool';
import type { PackFacts } from './packFacts';
import { VERDICT_RULES, type Verdict, type VerdictRule } from './rules';
import type { ShapeFacts } from './shape';
import { whatMachine, type MachineNeeds } from './whatMachine';
import { cooledBy, noShape, whatShape } from './whatShape';
import { whereFrontsMeet } from './whereFrontsMeet';
import { willItFill, type FillFacts } from './willItFill';

const inputs: Inputs = {
  ...emptyInputs(),
  bodies: [cavityBody('a'.repeat(64))],
  gates: [{ id: 'G1', position: [0.01, 0, 0.001], diameter: 0.002 }],
};
const mesh = box(0.1, 0.05, 0.002);
const settings = resolveSettings(inputs, { volume: 1e-5, wall: 0.002 });
const { machine, resin } = settings;
type Point = [number, number, number];
const HERE: Point = [0.05, 0, 0.001];

/** A filling with nothing to complain of. */
const fill: FillFacts = {
  status: 'filled',
  stallReason: null,
  pressureNeeded: 0.5 * settings.pressureLimit,
  pressureBeforeEnds: 0.5 * settings.pressureLimit,
  gateLoss: 0,
  heatError: 0,
  pressureLimit: settings.pressureLimit,
  limitReachedAt: null,
  fillTime: settings.injectionTime,
  injectionTime: settings.injectionTime,
  freezeTime: settings.freezeTime,
  shareFilled: 1,
  emptyVolume: 0,
  unreachableVolume: 0,
  lastPlace: HERE,
  lastSurface: HERE,
  flowLength: 0.1,
  pathThickness: 0.002,
  thinShare: 0,
  thinThickness: 0.002,
  nThinCells: 0,
  thinPlace: null,
  frontCooling: 5,
  frozenShare: 0.1,
  stressShare: 0.5,
  rateShare: 0.5,
  switchedAt: { time: 1, share: 0.99, pressure: 2e7 },
  hesitation: null,
};

const needs: MachineNeeds = {
  pressure: 0.5 * machine.maxPressure,
  clampForce: 0.5 * machine.clampForce,
  packingClamp: 0.4 * machine.clampForce,
  projectedArea: 0.005,
  flowRate: 0.5 * machine.maxFlowRate,
  volume: 0.5 * machine.shotVolume,
};

const pack: PackFacts = {
  switchoverTime: 1,
  packingEnd: 10,
  heldBy: 'nozzle',
  packingPressure: 3e7,
  gateFrozenAt: [9.5],
  lastGateFrozenAt: 9.5,
  lostShare: 0,
  lostPlace: null,
  shrinkage: { low: 0.012, high: 0.014, mean: 0.013, highPlace: HERE, highThickness: 0.002 },
  volumetric: { low: 0.03, high: 0.04, mean: 0.035 },
  sink: { depth: 5e-6, place: HERE },
  voids: { share: 0.001, place: HERE },
  mass: 0.01,
  massBefore: 0.0098,
  pressureAtOpening: 1e6,
  heatError: 0,
  clampForce: 1e5,
  ejectableTime: 20,
  openTime: 20,
  coolingSet: true,
  halfEjectable: 17,
  allEjectable: 20,
  slowest: { place: HERE, thickness: 0.002 },
  nominalThickness: 0.002,
  cycleTime: 25,
};

const heldAs = { switchoverTime_s: 1, lastGateFrozenAt_s: 9.5, packingEnd_s: 10, packingPressure_Pa: 3e7 };

const cool: CoolFacts = {
  block_m: { min: [-0.1, -0.1, -0.1], max: [0.2, 0.1, 0.1] },
  steel: 'Steel',
  cycleTime_s: 25,
  openTime_s: 20,
  surface_K: { mean: 315, low: 313, high: 318 },
  hotSpot: { place_m: HERE, temperature_K: 318 },
  difference_K: { middle: 2, high: 5 },
  differencePlace_m: HERE,
  heat_W: { part: 200, runners: 0, coolant: 180, air: 10, press: 10 },
  balanceError: 0,
  lines: [],
  supplies: [
    {
      id: 'W1',
      coolant: 'Water',
      flow_m3_s: 1e-4,
      pressure_Pa: 1e5,
      sent_K: 298,
      returned_K: 300,
      heat_W: 180,
      pumpPower_W: 10,
    },
  ],
  startUp: null,
  nNodes: 1000,
  passes: 3,
};

const shape: ShapeFacts = {
  meanShrinkage: 0.01,
  toolScaled: true,
  tolerance_m: 3e-4,
  largest_m: 1e-4,
  rms_m: 5e-5,
  place_m: HERE,
  largestAlong_m: [1e-5, 2e-5, 1e-4],
  causes: [
    { cause: 'corner', share: 0.7, rms_m: 4e-5 },
    { cause: 'shrinkage', share: 0.3, rms_m: 2e-5 },
  ],
  skinStress_Pa: 0.005 * resin.elastic.E1,
  coreStress_Pa: 0.002 * resin.elastic.E1,
  insertStress: [],
  unknowns: 1,
  elements: 1,
  iterations: 1,
};

const weld = (strength: number) => ({
  id: 'W1',
  points: [HERE, HERE],
  length: 0.02,
  angle: 1,
  smallestAngle: 0.8,
  temperature: 480,
  lowestTemperature: 470,
  pressure: 1e7,
  time: 1,
  strength,
});
const trap = (adiabaticTemperature: number) => ({
  id: 'A1',
  position: HERE,
  since: 0.9,
  volume: 1e-8,
  leftVolume: 1e-9,
  isothermalPressure: 1e6,
  adiabaticPressure: 2e6,
  adiabaticTemperature,
  vented: false,
  history: [],
});
const jump = { id: 'J1', gate: 'G1', time: 1, before: 0.1, after: 0.3, position: HERE, points: [HERE] };

const face: FaceFacts = {
  body: 'shot 1',
  kind: 'plastic',
  alike: true,
  area_m2: 1e-3,
  peak_K: { mean: 450, high: 470 },
  softens_K: 400,
  softShare: 0.9,
  softDepth_m: 1e-4,
  softFor_s: 0.5,
  healedShare: 0.9,
  healed: 0.8,
  dragged: 0.1,
  draggedPlace_m: HERE,
  taken_J: 100,
  passedOn_J: 50,
};
const load: InsertLoad = {
  id: 'B2',
  name: 'Blade',
  material: 'Steel',
  contact: 'bonded',
  time_s: 0.5,
  force_N: [0, 0, 200],
  moment_Nm: [0.1, 0, 0],
  area_m2: 1e-3,
  held: 'outside',
  moved_m: 2e-5,
  place_m: HERE,
  thinner_m: 1e-5,
  wall_m: 2e-3,
  course: [{ time_s: 0.5, force_N: 200 }],
};
const young = resin.elastic.E1;
const second = asShot({ ...inputs, later: [freshShot()] }, 2);

const asked = {
  hold: (f: Partial<FaceFacts>, l: Partial<InsertLoad> = {}, bond = 0) =>
    doTheyHold(
      {
        faces: [{ ...face, ...f }],
        loads: [{ ...load, ...l }],
        bondPull_Pa: bond * young,
        bondShear_Pa: 0,
        young_Pa: young,
      },
      second,
      settings,
    ),
  fill: (f: Partial<FillFacts>) => willItFill({ ...fill, ...f }, inputs, settings),
  machine: (n: Partial<MachineNeeds>) => whatMachine({ ...needs, ...n }, inputs, settings),
  pack: (p: Partial<PackFacts>) => doesItPackOut({ ...pack, ...p }, inputs, settings),
  cool: (p: Partial<PackFacts>, c: Partial<CoolFacts> | null = {}) =>
    howLongToCool(
      { ...pack, ...p },
      c ? { ...inputs, cooling: trayCooling(mesh) } : inputs,
      settings,
      c && { ...cool, ...c },
      mesh,
    ),
  shape: (s: Partial<ShapeFacts>) => whatShape({ ...shape, ...s }, inputs, settings, heldAs, null),
  fronts: (found: Partial<Parameters<typeof whereFrontsMeet>[0]>) =>
    whereFrontsMeet({ weldLines: [], airTraps: [], ...found }, inputs, settings),
  strong: (f: Partial<StrengthFacts>, s: Partial<ShapeFacts> = {}) =>
    howStrong({ ...strength, ...f }, { ...shape, skinStress_Pa: 0, ...s }, inputs, settings),
};

const strength: StrengthFacts = {
  strength_Pa: 1e8,
  known: true,
  load: 'x',
  modulus_Pa: 8e9,
  sheetModulus_Pa: 8e9,
  most_Pa: 8e9,
  least_Pa: 4e9,
  weld: null,
};

/** Those of the core and of a tool that closes are held in tests of their own. */
type OfCore = 'solidEnd' | 'thinSkin' | 'fingered' | 'gapLeft';
type Judged = Exclude<keyof typeof VERDICT_RULES, 'weldAngle' | 'speedJump' | 'shareFilled' | OfCore>;

/** The answer where what a rule looks at has a value and all else is good. */
const AT: Record<Judged, (value: number) => Answer> = {
  pressureReserve: (v) =>
    asked.fill({ pressureNeeded: v * fill.pressureLimit, pressureBeforeEnds: v * fill.pressureLimit }),
  slowdown: (v) => asked.fill({ fillTime: v * fill.injectionTime }),
  frontCooling: (v) => asked.fill({ frontCooling: v }),
  frozenShare: (v) => asked.fill({ frozenShare: v }),
  shearStress: (v) => asked.fill({ stressShare: v }),
  shearRate: (v) => asked.fill({ rateShare: v }),
  weldStrength: (v) => asked.fronts({ weldLines: [weld(v)] }),
  weldWithFibres: (v) =>
    asked.strong({
      weld: { id: 'W1', share: v, ofFibres: 0.5, healed: 0.9, flowedThrough_m: 1e-3, place_m: [0, 0, 0], tab: null },
    }),
  stressOverStrength: (v) => asked.strong({}, { skinStress_Pa: v * strength.strength_Pa }),
  alongLoad: (v) => asked.strong({ modulus_Pa: v * strength.sheetModulus_Pa }),
  fibresLeft: (v) =>
    asked.strong({
      shortest: { byWeight_m: v * 3e-3, byNumber_m: v * 2e-3, nozzle_m: 3e-3, granule_m: 0.011, place_m: [0, 0, 0] },
    }),
  burn: (v) => asked.fronts({ airTraps: [trap(v)] }),
  clamp: (v) => asked.machine({ clampForce: v * machine.clampForce }),
  shot: (v) => asked.machine({ volume: v * machine.shotVolume }),
  smallShot: (v) => asked.machine({ volume: v * machine.shotVolume }),
  flow: (v) => asked.machine({ flowRate: v * machine.maxFlowRate }),
  shrinkageSpread: (v) => asked.pack({ shrinkage: { ...pack.shrinkage, high: pack.shrinkage.low + v } }),
  sinkDepth: (v) => asked.pack({ sink: { depth: v, place: HERE } }),
  missingCore: (v) => asked.pack({ voids: { share: v, place: HERE } }),
  wastedPacking: (v) => asked.pack({ lastGateFrozenAt: 10 - v * 9 }),
  pressureAtOpening: (v) => asked.pack({ pressureAtOpening: v }),
  spareCooling: (v) => asked.cool({ openTime: v * 20 }),
  hotSpot: (v) => asked.cool({ halfEjectable: (1 - v) * 20 }),
  wallDifference: (v) => asked.cool({}, { difference_K: { middle: 1, high: v } }),
  coolantRise: (v) => asked.cool({}, { supplies: [{ ...cool.supplies[0], returned_K: cool.supplies[0].sent_K + v }] }),
  deviation: (v) => asked.shape({ largest_m: v * shape.tolerance_m }),
  buckling: (v) => asked.shape({ buckling: v }),
  frozenStress: (v) => asked.shape({ skinStress_Pa: v * resin.elastic.E1 }),
  healedBond: (v) => asked.hold({ healedShare: v }),
  dragged: (v) => asked.hold({ dragged: v }),
  bondStress: (v) => asked.hold({}, {}, v),
  insertMoved: (v) => asked.hold({}, { thinner_m: v * load.wall_m }),
};

const LIMITS = (Object.keys(AT) as Judged[]).flatMap((id) => {
  const rule: VerdictRule = VERDICT_RULES[id];
  const list: [Judged, 'watch' | 'problem', number][] = [];
  if (rule.watch !== null) list.push([id, 'watch', rule.watch]);
  if (rule.problem !== null) list.push([id, 'problem', rule.problem]);
  return list;
});

describe('verdicts at their thresholds', () => {
  it('nothing to complain of is good', () => {
    const good = [asked.fill({}), asked.machine({}), asked.pack({}), asked.cool({}), asked.cool({}, null)];
    for (const answer of [...good, asked.shape({}), asked.fronts({}), asked.hold({})]) {
      expect(answer.verdict, answer.id).toBe('good');
      expect(answer.headline).toMatch(/\.$/);
    }
  });

  it.each(LIMITS)('%s: %s lies at %d, and not before', (id, verdict, limit) => {
    const rule: VerdictRule = VERDICT_RULES[id];
    const away = (rule.worse === 'above' ? 1 : -1) * 1e-6 * Math.abs(limit);
    const before: Verdict = verdict === 'problem' && rule.watch !== null ? 'watch' : 'good';
    expect(AT[id](limit - away).verdict).toBe(before);
    expect(AT[id](limit + away).verdict).toBe(verdict);
    expect(AT[id](limit + away).id).toBe(rule.question);
  });

  it.each(LIMITS)('%s beyond %s says why, and every try is a study that can be run', (id, _, limit) => {
    const rule: VerdictRule = VERDICT_RULES[id];
    const answer = AT[id](rule.worse === 'above' ? 1.2 * limit : 0.8 * limit);
    expect(answer.headline).not.toBe('');
    for (const reason of answer.why) expect(reason).not.toMatch(/NaN|undefined|Infinity/);
    for (const { label, why, inputs: tried } of answer.try) {
      expect(label && why).toBeTruthy();
      expect(inputsSchema.safeParse(tried).error?.issues ?? []).toEqual([]);
      expect([inputs, second]).not.toContainEqual(tried);
    }
    expect(new Set(answer.try.map((t) => t.id)).size).toBe(answer.try.length);
  });
});

describe('what no threshold says', () => {
  it('a short shot, and a part that the melt can not reach', () => {
    const short = asked.fill({ status: 'stalled', stallReason: 'flow', shareFilled: 0.7, emptyVolume: 3e-6 });
    expect([short.verdict, short.key.value, short.where?.label]).toEqual([
      'problem',
      '70.0 %',
      'Place that stays empty',
    ]);
    expect(asked.fill({ unreachableVolume: 1e-7 }).verdict).toBe('problem');
    expect(asked.fill({ nThinCells: 3, thinPlace: HERE }).verdict).toBe('watch');
  });

  it('a gate that is open when packing ends, and one that never freezes', () => {
    expect(asked.pack({ lastGateFrozenAt: 12 }).headline).toContain('still open');
    expect(asked.pack({ lastGateFrozenAt: null }).verdict).toBe('watch');
    // Nothing pushes: there is nothing to flow back.
    expect(asked.pack({ lastGateFrozenAt: null, packingPressure: 0 }).verdict).toBe('good');
  });

  it('a mould that opens too early, and a part that never gets cold', () => {
    expect(asked.cool({ openTime: 15 }).verdict).toBe('problem');
    const never = asked.cool({ ejectableTime: null });
    expect([never.verdict, never.key.value]).toEqual(['problem', 'never']);
  });

  it('a jump of the front, and lines told by the weakest', () => {
    expect(asked.fronts({ speedJumps: [jump] }).verdict).toBe('watch');
    const lines = asked.fronts({ weldLines: [weld(0.95), { ...weld(0.7), id: 'W2' }] });
    expect([lines.key.value, lines.where?.label]).toEqual(['70 %', 'Weld line W2']);
    expect(asked.fronts({}).key.value).toBe('none');
  });

  it('the machine that would do, where the chosen one does not', () => {
    const large = asked.machine({ clampForce: 1.1 * machine.clampForce, packingClamp: 0 });
    expect(large.headline).toContain('is not enough');
    const other = large.try.map((t) => t.inputs.cycle.machine).filter((m) => typeof m === 'string');
    expect(other.length).toBeGreaterThan(0);
    expect(other).not.toContain(machine.id);
  });

  it('dimensions with tolerances of their own count alone where the whole has none', () => {
    const measures = [{ id: 'M1', kind: 'distance' as const, places: [HERE, [0, 0, 0] as Point], tolerance: 1e-4 }];
    const own = {
      ...inputs,
      warpage: {
        tolerance: null,
        toolScaled: true,
        supports: [],
        inserts: [],
        detail: null,
        withFeed: false,
        hold: 'tool' as const,
        large: 'never' as const,
        after: 86_400,
        measures,
      },
    };
    const measured = (error: number) =>
      whatShape(
        {
          ...shape,
          largest_m: 10 * shape.tolerance_m,
          measures: [{ id: 'M1', kind: 'distance', drawn: 0.1, made: 0.1 - error, error, tolerance: 1e-4 } as never],
        },
        own as Inputs,
        settings,
        heldAs,
        null,
      );
    expect(measured(2e-5).verdict).toBe('good');
    expect(measured(2e-4).verdict).toBe('problem');
  });

  it('tries circuits that bring both sides of walls nearer where uneven cooling bends most, and nothing else of them', () => {
    const causes = [
      { cause: 'cooling' as const, share: 0.8, rms_m: 2e-4 },
      { cause: 'shrinkage' as const, share: 0.2, rms_m: 5e-5 },
    ];
    const bent = { ...shape, largest_m: 2 * shape.tolerance_m, causes };
    const circuits = { ...inputs, cooling: trayCooling(mesh) };
    const hot = { ...cool, halves_K: { upper: 330, lower: 318 } };
    const answers = [howLongToCool(pack, circuits, settings, hot, mesh)];
    const tries = whatShape(bent, circuits, settings, heldAs, cooledBy(hot, answers)).try;
    const half = tries.find((t) => t.id === 'colder-half');
    expect(half?.label).toBe('Coolant at 13.0 °C in the upper half');
    expect(answerSchema.parse(answers[0])).toEqual(answers[0]);
    expect(half?.why).toContain('0.20 mm');
    const supplies = half?.inputs?.cooling?.supplies.map((s) => s.temperature) ?? [];
    expect(supplies[1]).toBeCloseTo(supplies[0] - 12, 9);
    // With circuits, the temperature of the mould is no setting.
    for (const id of ['cooler-mould', 'copper', 'more-flow']) expect(tries.map((t) => t.id)).not.toContain(id);
    expect(whatShape(bent, inputs, settings, heldAs, null).try.map((t) => t.id)).toContain('cooler-mould');
    // Halves that are alike, or one circuit through both, leave nothing to part.
    const none = (facts: CoolFacts, cooling: typeof circuits.cooling) =>
      howLongToCool(pack, { ...inputs, cooling }, settings, facts, mesh).try.some((t) => t.id === 'colder-half');
    expect(none({ ...hot, halves_K: { upper: 320, lower: 318 } }, circuits.cooling)).toBe(false);
    const through = {
      ...circuits.cooling.lines[0],
      id: 'H9',
      to: [0, 0, -0.08] as Point,
      kind: { as: 'hose' as const, length: null },
    };
    expect(none(hot, { ...circuits.cooling, lines: [...circuits.cooling.lines, through] })).toBe(false);
  });

  it('tries a pressure that falls where shrinkage is uneven, unless it falls as it is', () => {
    const uneven = {
      ...shape,
      largest_m: 2 * shape.tolerance_m,
      causes: [{ cause: 'shrinkage' as const, share: 1, rms_m: 1e-4 }],
    };
    const tries = (packing: Inputs['cycle']['packing'], family: string) => {
      const cycle = { ...inputs.cycle, packing };
      const resin = RESINS.find((r) => r.family === family)!;
      return whatShape(uneven, { ...inputs, cycle }, { ...settings, resin }, heldAs, null).try;
    };
    const [falling] = tries({ by: 'constant', pressure: null, time: null }, 'PP');
    expect(falling.id).toBe('falling-profile');
    const packing = falling.inputs?.cycle.packing;
    if (packing?.by !== 'profile') throw new Error('no profile');
    expect(packing.points.map((p) => p.value)).toEqual([3e7, 3e7, 1.5e7, 1.5e7]);
    expect(packing.points.every((p, k) => k === 0 || p.at > packing.points[k - 1].at)).toBe(true);
    expect(packing.points[3].at).toBeCloseTo(heldAs.packingEnd_s - heldAs.switchoverTime_s, 9);
    expect(tries({ by: 'constant', pressure: null, time: null }, 'ABS')).toEqual([]);
    expect(tries({ by: 'constant', pressure: 3e7, time: null }, 'ABS')).toHaveLength(1);
    expect(tries({ by: 'constant', pressure: 3e7, time: 2 }, 'ABS')).toHaveLength(1);
  });

  it('says whether measured shrinkage is in the shape', () => {
    const plates = [{ thickness: 0.002, pressure: 5e7, along: 0.015, across: 0.015 }];
    const why = (patch: Partial<typeof settings.resin>) =>
      whatShape(shape, inputs, { ...settings, resin: { ...settings.resin, ...patch } }, heldAs, null).why.join(' ');
    expect(why({ shrinkageFactor: 1.08, measuredShrinkage: plates })).toContain(
      '1.08 times what its pvT data give, by 1',
    );
    expect(why({ measuredShrinkage: plates })).toContain('not corrected');
    expect(why({})).not.toContain('corrected');
  });

  it('says where small deflections would mislead, and is no more than watched where no rest is found', () => {
    const told = asked.shape({ buckling: 0.8, smallLargest_m: 2 * shape.largest_m });
    expect(told.verdict).toBe('watch');
    expect(told.why.join(' ')).toMatch(/80\.0 % of it would do.*small deflections alone would say/);
    expect(asked.shape({ buckling: null }).why.join(' ')).toContain('far from buckling');
    expect(asked.shape({ buckling: 3, smallLargest_m: null }).verdict).toBe('watch');
    expect(asked.shape({ bend: 0.8 }).why.join(' ')).toContain('small deflections may mislead');
    expect(asked.shape({}).why.join(' ')).not.toMatch(/buckl|small/);
  });

  it('no shape at all is a problem with what it is likely to be', () => {
    const answer = noShape({ message: 'The structure has no solution.', likely: 'A support is off the part.' });
    expect([answer.verdict, answer.key.value, answer.key.note]).toEqual([
      'problem',
      'not calculated',
      'A support is off the part.',
    ]);
  });
});
