import { chargeOf } from '../model/compression';
import type { Gate, Inputs } from '../model/study';
import type { FillSettings } from '../setup/settings';
import type { StallReason } from '../solvers/fill/outcome';
import { format, formatShown } from '../units/reader';
import { formatNumber } from '../units/units';
import type { Vec3 } from '../geometry/mesh';
import { freshGateId, withCycle, type Answer, type Suggestion } from './answer';
import type { Hesitation } from './places';
import { judge, VERDICT_RULES as RULES, worst, type Verdict } from './rules';

/** The numbers the verdict rests on. SI. */
export interface FillFacts {
  status: 'filled' | 'stalled';
  stallReason: StallReason | null;
  pressureNeeded: number;
  /** The same when 95 % is in, before the ends close one after the other. */
  pressureBeforeEnds: number;
  /** Highest pressure that a gate takes for itself while filling. */
  gateLoss: number;
  /** Heat of the filling that is not accounted for, over what was put in. */
  heatError: number;
  pressureLimit: number;
  limitReachedAt: number | null;
  fillTime: number;
  injectionTime: number;
  freezeTime: number;
  shareFilled: number;
  emptyVolume: number;
  /** Volume that hangs together with no gate: a body apart, or one joined by less than the grid sees. */
  unreachableVolume: number;
  lastPlace: Vec3;
  /** Surface point next to the last place: where another gate could sit. */
  lastSurface: Vec3;
  flowLength: number;
  pathThickness: number;
  thinShare: number;
  thinThickness: number;
  nThinCells: number;
  thinPlace: Vec3 | null;
  /** Cooling of the front below the melt, K, exceeded in a twentieth of the part. */
  frontCooling: number;
  /** Frozen share of the wall at the end, exceeded in a twentieth of the part. */
  frozenShare: number;
  /** Largest wall shear stress and shear rate over the limits of the resin (a thousandth left out). */
  stressShare: number;
  rateShare: number;
  switchedAt: { time: number; share: number; pressure: number } | null;
  hesitation: Hesitation | null;
}

export function willItFill(facts: FillFacts, inputs: Inputs, settings: FillSettings): Answer {
  // What a tool drives that closes on the melt is no matter of the injection.
  const pressed = inputs.compression !== undefined;
  const verdict = verdictOf(facts, pressed);
  const share = Math.round((100 * facts.pressureNeeded) / facts.pressureLimit);
  const injected = pressed ? injectedKey(facts, share, inputs) : null;
  return {
    id: 'will-it-fill',
    question: 'Will it fill?',
    verdict,
    headline: headlineOf(facts, verdict),
    key: injected ?? {
      label:
        facts.status === 'stalled'
          ? 'Filled when it stopped'
          : inputs.feed
            ? 'Pressure needed at the nozzle'
            : 'Pressure needed at the gate',
      value:
        facts.status === 'stalled'
          ? `${formatNumber(100 * facts.shareFilled, 3)} %`
          : format(facts.pressureNeeded, 'MPa'),
      note:
        facts.status === 'stalled'
          ? `${format(facts.emptyVolume, 'cm³')} stay empty`
          : `${share} % of the ${format(facts.pressureLimit, 'MPa')} limit`,
    },
    where: {
      label:
        facts.status === 'stalled' || facts.unreachableVolume > 0 ? 'Place that stays empty' : 'Last place to fill',
      position: facts.lastPlace,
    },
    why: reasonsOf(facts, settings, pressed),
    try: suggestionsOf(facts, verdict, inputs, settings),
  };
}

/** Where the melt comes into an open tool there is a pressure before it closes; where it is laid in, none. */
function injectedKey(facts: FillFacts, share: number, { compression }: Inputs): Answer['key'] | null {
  if (facts.status === 'stalled') return null;
  if (compression?.melt.by === 'charge')
    return { label: 'Flow length', value: format(facts.flowLength, 'mm'), note: 'laid into the open tool' };
  return {
    label: 'Pressure needed for the open tool',
    value: format(facts.pressureNeeded, 'MPa'),
    note: `${share} % of the ${format(facts.pressureLimit, 'MPa')} limit`,
  };
}

function verdictOf(facts: FillFacts, pressed: boolean): Verdict {
  if (facts.unreachableVolume > 0) return 'problem';
  return worst([
    facts.status === 'stalled' ? 'problem' : 'good',
    pressed ? 'good' : judge(RULES.slowdown, facts.fillTime / facts.injectionTime),
    judge(RULES.pressureReserve, facts.pressureNeeded / facts.pressureLimit),
    judge(RULES.frontCooling, facts.frontCooling),
    judge(RULES.frozenShare, facts.frozenShare),
    judge(RULES.shearStress, facts.stressShare),
    judge(RULES.shearRate, facts.rateShare),
    facts.nThinCells > 0 ? 'watch' : 'good',
  ]);
}

const isHigh = (facts: FillFacts) =>
  judge(RULES.pressureReserve, facts.pressureNeeded / facts.pressureLimit) !== 'good';
const isCold = (facts: FillFacts) =>
  judge(RULES.frontCooling, facts.frontCooling) !== 'good' || judge(RULES.frozenShare, facts.frozenShare) !== 'good';
const isSheared = (facts: FillFacts) =>
  judge(RULES.shearStress, facts.stressShare) !== 'good' || judge(RULES.shearRate, facts.rateShare) !== 'good';

function headlineOf(facts: FillFacts, verdict: Verdict): string {
  if (facts.status === 'stalled') return 'Short shot: the part does not fill.';
  if (facts.unreachableVolume > 0) return 'The melt cannot reach the whole part.';
  if (verdict === 'good') return 'It fills, with reserve.';
  if (facts.limitReachedAt !== null) return 'It fills, but only at the pressure limit.';
  if (isHigh(facts)) return 'It fills, with little reserve.';
  if (isCold(facts)) return 'It fills, but the melt gets cold on the way.';
  if (isSheared(facts)) return 'It fills, but the melt is sheared hard.';
  if (facts.nThinCells > 0) return 'It fills; some places are thinner than the grid resolves.';
  return 'It fills, but slower than set.';
}

function reasonsOf(facts: FillFacts, settings: FillSettings, pressed: boolean): string[] {
  const reasons: string[] = [];
  const ratio = facts.flowLength / facts.pathThickness;
  reasons.push(
    `The melt travels ${format(facts.flowLength, 'mm')} through a ${format(facts.pathThickness, 'mm', 2)} wall, ` +
      `a flow length of ${formatNumber(ratio, 2)} times the thickness.`,
  );
  if (facts.gateLoss > TOLD_LOSS * facts.pressureNeeded)
    reasons.push(
      `Of the pressure, ${format(facts.gateLoss, 'MPa', 2)} is lost in the gate itself. A wider gate takes less.`,
    );
  if (facts.status === 'filled' && facts.pressureBeforeEnds < (1 - ILL_KNOWN) * facts.pressureNeeded)
    reasons.push(
      `Over the last 4 % the pressure rises from ${format(facts.pressureBeforeEnds, 'MPa')} to ` +
        `${format(facts.pressureNeeded, 'MPa')}: ends close one after the other there. Read it as that range.`,
    );
  if (facts.heatError > HEAT_TOLD)
    reasons.push(
      `${formatNumber(100 * facts.heatError, 2)} % of the heat is not accounted for: temperatures are that rough. A finer Detail closes it.`,
    );
  if (facts.unreachableVolume > 0)
    reasons.push(
      `${format(facts.unreachableVolume, 'cm³')} of the part has no way to any gate: ` +
        'a separate body, or one joined by a bridge thinner than a grid cell.',
    );
  if (facts.thinShare > 0.15)
    reasons.push(
      `${Math.round(100 * facts.thinShare)} % of the pressure is lost where the wall is about ` +
        `${format(facts.thinThickness, 'mm', 2)} thick.`,
    );
  if (facts.limitReachedAt !== null)
    reasons.push(
      `The pressure limit of ${format(facts.pressureLimit, 'MPa')} is reached after ` +
        `${format(facts.limitReachedAt, 's', 2)}; from there the flow slows down.`,
    );
  if (facts.status === 'stalled')
    reasons.push(
      {
        flow: 'The skin has closed the way: the flow fell below 0.2 % of the set rate.',
        closed:
          'The halves of the tool have met before the part was full: there was too little melt, or it lay too far off.',
        force: `The tool stood still on the melt after ${format(facts.fillTime, 's', 2)}: its force does not drive it any further.`,
        core: 'What is in the core does not push the melt any further: its pressure is too low, or comes too late.',
        'blow-through': `The fluid in the core broke through the front after ${format(facts.fillTime, 's', 2)}: it no longer pushes.`,
        time: `The front still crept after ${format(facts.fillTime, 's', 2)}, long past the freezing of the nominal wall.`,
      }[facts.stallReason ?? 'time'],
    );
  if (isCold(facts))
    reasons.push(
      `The front loses up to ${formatNumber(facts.frontCooling, 2)} K on the way and ` +
        `${Math.round(100 * facts.frozenShare)} % of the wall is frozen in the coldest places; filling takes ` +
        `${format(facts.fillTime, 's', 2)}, the nominal wall freezes in ${format(facts.freezeTime, 's', 2)}.`,
    );
  if (judge(RULES.shearStress, facts.stressShare) !== 'good')
    reasons.push(
      `The wall shear stress reaches ${Math.round(100 * facts.stressShare)} % of the ` +
        `${format(settings.resin.maxShearStress, 'MPa', 2)} that ${settings.resin.name} bears.`,
    );
  if (judge(RULES.shearRate, facts.rateShare) !== 'good')
    reasons.push(
      `The shear rate reaches ${Math.round(100 * facts.rateShare)} % of the limit of ${settings.resin.name}, most near the gate.`,
    );
  if (facts.switchedAt && facts.status === 'filled')
    reasons.push(
      `${pressed ? 'The melt is in' : 'Switchover'} after ${format(facts.switchedAt.time, 's', 2)} at ${format(facts.switchedAt.pressure, 'MPa')}, ` +
        `${Math.round(1000 * facts.switchedAt.share) / 10} % ${pressed ? 'of the open tool ' : ''}filled.`,
    );
  if (facts.hesitation)
    reasons.push(
      `The front hesitates at ${facts.hesitation.id}: ${format(facts.hesitation.speed, 'cm/s', 2)} where the rest runs at ` +
        `${format(facts.hesitation.medianSpeed, 'cm/s', 2)}.`,
    );
  if (facts.nThinCells > 0)
    reasons.push(
      `Some features are thinner than a grid cell${nearby(facts.thinPlace)}; their flow is estimated. A finer Detail resolves them.`,
    );
  return reasons;
}

/** Share of the pressure from which the gate's own loss is worth a line. */
const TOLD_LOSS = 0.2;
/** Rise of the pressure over the last 4 % from which it is told as a range. */
const ILL_KNOWN = 0.15;
/** Share of the heat that may be missing before it is told. */
export const HEAT_TOLD = 0.01;

const nearby = (place: Vec3 | null): string =>
  place ? `, among them near ${place.map((x) => formatShown(x, 'mm')).join(', ')} mm` : '';

function suggestionsOf(facts: FillFacts, verdict: Verdict, inputs: Inputs, settings: FillSettings): Suggestion[] {
  const { resin } = settings;
  const list: Suggestion[] = [];
  const apart = facts.unreachableVolume > 0;
  const strained = apart || facts.status === 'stalled' || isHigh(facts);
  const injection = (factor: number) =>
    ({ by: 'time', time: Number((factor * settings.injectionTime).toPrecision(2)) }) as const;
  const pressed = inputs.compression !== undefined;
  if (strained && !chargeOf(inputs.compression)) {
    const gate: Gate = {
      id: freshGateId(inputs.gates),
      position: facts.lastSurface,
      diameter: inputs.gates[0]?.diameter ?? 2e-3,
    };
    list.push({
      id: 'second-gate',
      label: apart ? 'Add a gate where it stays empty' : 'Add a gate where it fills last',
      why: apart ? 'Each separate body needs a gate of its own.' : 'It shortens the longest flow path.',
      inputs: { ...inputs, gates: [...inputs.gates, gate] },
    });
    if (!apart && settings.meltTemperature < resin.melt.max - 1)
      list.push({
        id: 'hotter-melt',
        label: `Melt at ${format(resin.melt.max, '°C')}`,
        why: `The upper end for ${resin.name}; its viscosity falls.`,
        inputs: withCycle(inputs, { meltTemperature: resin.melt.max }),
      });
  }
  if (!pressed && (isCold(facts) || facts.status === 'stalled') && facts.limitReachedAt === null)
    list.push({
      id: 'faster',
      label: `Inject in ${format(0.5 * settings.injectionTime, 's', 2)}`,
      why: 'Twice as fast, so that less of the wall freezes on the way.',
      inputs: withCycle(inputs, { injection: injection(0.5) }),
    });
  else if (!pressed && (isSheared(facts) || (strained && !apart && facts.status === 'filled')))
    list.push({
      id: 'slower',
      label: `Inject in ${format(1.5 * settings.injectionTime, 's', 2)}`,
      why: 'A slower front needs less pressure and shears the melt less.',
      inputs: withCycle(inputs, { injection: injection(1.5) }),
    });
  if (judge(RULES.shearRate, facts.rateShare) !== 'good' && inputs.gates.length)
    list.push({
      id: 'wider-gates',
      label: 'Gates half as wide again',
      why: 'The shear rate in a gate falls with its width.',
      inputs: {
        ...inputs,
        gates: inputs.gates.map((g) => ({ ...g, diameter: Math.min(0.05, tidyLength(1.5 * g.diameter)) })),
      },
    });
  if (inputs.detail !== 'fine' && (verdict === 'good' || facts.nThinCells > 0))
    list.push({
      id: 'finer',
      label: `Detail ${inputs.detail === 'quick' ? 'normal' : 'fine'}`,
      why: 'Shows how far the numbers still move with the grid.',
      inputs: { ...inputs, detail: inputs.detail === 'quick' ? 'normal' : 'fine' },
    });
  return list;
}

const tidyLength = (x: number) => Math.round(x * 1e4) / 1e4;
