import type { Gate, Inputs } from '../model/study';
import type { FillSettings } from '../pipeline/settings';
import { format, formatNumber, fromSi } from '../units/units';
import type { Vec3 } from '../geometry/mesh';

export type Verdict = 'good' | 'watch' | 'problem';

/** A change worth trying: what it is, why, and the inputs with it. */
export interface Suggestion {
  id: string;
  label: string;
  why: string;
  inputs: Inputs;
}

export interface Answer {
  id: 'will-it-fill';
  question: string;
  verdict: Verdict;
  headline: string;
  key: { label: string; value: string; note: string };
  where: { label: string; position: Vec3 } | null;
  why: string[];
  try: Suggestion[];
}

/** The numbers the verdict rests on. SI. */
export interface FillFacts {
  status: 'filled' | 'stalled';
  stallReason: 'time' | 'flow' | null;
  pressureNeeded: number;
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
}

/**
 * Verdict rules. Above 80 % of the limit a machine has no reserve for a colder day or a tighter
 * batch; a fill slower than 1.2 times the set time means that the limit, not the setting, sets the
 * speed; beyond 40 % of the freezing time the skin that this isothermal solution leaves out would
 * raise the pressure noticeably.
 */
export const RULES = { pressureReserve: 0.8, slowdown: 1.2, freezeShare: 0.4 } as const;

export function willItFill(facts: FillFacts, inputs: Inputs, settings: FillSettings): Answer {
  const verdict = verdictOf(facts);
  const share = Math.round((100 * facts.pressureNeeded) / facts.pressureLimit);
  return {
    id: 'will-it-fill',
    question: 'Will it fill?',
    verdict,
    headline: headlineOf(facts, verdict),
    key: {
      label: facts.status === 'stalled' ? 'Filled when it stopped' : 'Pressure needed at the gate',
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
    why: reasonsOf(facts, settings),
    try: suggestionsOf(facts, verdict, inputs, settings),
  };
}

function verdictOf(facts: FillFacts): Verdict {
  if (facts.status === 'stalled' || facts.unreachableVolume > 0) return 'problem';
  const slow = facts.fillTime > RULES.slowdown * facts.injectionTime;
  const cold = facts.fillTime > RULES.freezeShare * facts.freezeTime;
  const high = facts.pressureNeeded > RULES.pressureReserve * facts.pressureLimit;
  return slow || cold || high || facts.nThinCells > 0 ? 'watch' : 'good';
}

function headlineOf(facts: FillFacts, verdict: Verdict): string {
  if (facts.status === 'stalled') return 'Short shot: the part does not fill.';
  if (facts.unreachableVolume > 0) return 'The melt cannot reach the whole part.';
  if (verdict === 'good') return 'It fills, with reserve.';
  if (facts.limitReachedAt !== null) return 'It fills, but only at the pressure limit.';
  if (facts.pressureNeeded > RULES.pressureReserve * facts.pressureLimit) return 'It fills, with little reserve.';
  if (facts.fillTime > RULES.freezeShare * facts.freezeTime) return 'It fills, but slowly for this wall.';
  return 'It fills; some places are thinner than the grid resolves.';
}

function reasonsOf(facts: FillFacts, settings: FillSettings): string[] {
  const reasons: string[] = [];
  const ratio = facts.flowLength / facts.pathThickness;
  reasons.push(
    `The melt travels ${format(facts.flowLength, 'mm')} through a ${format(facts.pathThickness, 'mm', 2)} wall, ` +
      `a flow length of ${formatNumber(ratio, 2)} times the thickness.`,
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
  if (facts.stallReason === 'time')
    reasons.push(
      `After ${format(facts.freezeTime, 's', 2)} the melt in the nominal wall has cooled to its no-flow ` +
        `temperature of ${formatNumber(fromSi(settings.resin.noFlowTemperature, '°C'), 3)} °C.`,
    );
  if (facts.stallReason === 'flow') reasons.push('At the pressure limit the flow falls below 1 % of the set rate.');
  if (facts.status === 'filled' && facts.fillTime > RULES.freezeShare * facts.freezeTime)
    reasons.push(
      `Filling takes ${format(facts.fillTime, 's', 2)}, the nominal wall freezes in ${format(facts.freezeTime, 's', 2)}; ` +
        'the growing skin, not yet part of this solution, will raise the pressure.',
    );
  if (facts.nThinCells > 0)
    reasons.push(
      `Some features are thinner than a grid cell${nearby(facts.thinPlace)}; their flow is estimated. A finer Detail resolves them.`,
    );
  return reasons;
}

const nearby = (place: Vec3 | null): string =>
  place ? `, among them near ${place.map((x) => formatNumber(fromSi(x, 'mm'), 3)).join(', ')} mm` : '';

function suggestionsOf(facts: FillFacts, verdict: Verdict, inputs: Inputs, settings: FillSettings): Suggestion[] {
  const { resin } = settings;
  const list: Suggestion[] = [];
  const cycle = (patch: Partial<Inputs['cycle']>): Inputs => ({ ...inputs, cycle: { ...inputs.cycle, ...patch } });
  const apart = facts.unreachableVolume > 0;
  const strained =
    apart || facts.status === 'stalled' || facts.pressureNeeded > RULES.pressureReserve * facts.pressureLimit;
  if (strained) {
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
        label: `Melt at ${formatNumber(fromSi(resin.melt.max, '°C'), 3)} °C`,
        why: `The upper end for ${resin.name}; its viscosity falls.`,
        inputs: cycle({ meltTemperature: resin.melt.max }),
      });
  }
  const cold = facts.fillTime > RULES.freezeShare * facts.freezeTime || facts.stallReason === 'time';
  if (cold && facts.limitReachedAt === null)
    list.push({
      id: 'faster',
      label: `Inject in ${format(0.5 * settings.injectionTime, 's', 2)}`,
      why: 'Twice as fast, so that less of the wall freezes on the way.',
      inputs: cycle({ injection: { by: 'time', time: Number((0.5 * settings.injectionTime).toPrecision(2)) } }),
    });
  else if (strained && !apart && facts.status === 'filled')
    list.push({
      id: 'slower',
      label: `Inject in ${format(1.5 * settings.injectionTime, 's', 2)}`,
      why: 'A slower front needs less pressure.',
      inputs: cycle({ injection: { by: 'time', time: Number((1.5 * settings.injectionTime).toPrecision(2)) } }),
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

export function freshGateId(gates: readonly Gate[]): string {
  for (let n = gates.length + 1; ; n++) if (!gates.some((g) => g.id === `G${n}`)) return `G${n}`;
}
