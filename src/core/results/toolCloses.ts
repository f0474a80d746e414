import type { Compression } from '../model/compression';
import type { Inputs } from '../model/study';
import type { FillSettings } from '../setup/settings';
import { format } from '../units/reader';
import { formatNumber } from '../units/units';
import type { Answer, Suggestion } from './answer';
import type { PressFacts } from './pressFacts';
import { judge, VERDICT_RULES as RULES, type Verdict } from './rules';
import type { FillFacts } from './willItFill';

const percent = (share: number) => `${formatNumber(100 * share, 3)} %`;

/** Whether the halves of a tool that closes on the melt come together, and what it takes. */
export function doesTheToolClose(
  facts: PressFacts,
  fill: FillFacts,
  { wall, area, volume }: { wall: number; area: number; volume: number },
  inputs: Inputs,
  settings: FillSettings,
): Answer {
  const apart = facts.gapLeft_m / wall;
  const stalled = fill.stallReason !== null;
  const verdict: Verdict = stalled ? 'problem' : judge(RULES.gapLeft, apart);
  return {
    id: 'does-tool-close',
    question: 'Does the tool close?',
    verdict,
    headline: headlineOf(facts, fill, apart),
    key: {
      label: 'Largest closing force',
      value: format(facts.force_N, 'kN', 3),
      note: facts.gapLeft_m > 0 ? `${format(facts.gapLeft_m, 'mm', 2)} stay between the halves` : 'the halves meet',
    },
    where: stalled ? { label: 'Place that stays empty', position: fill.lastPlace } : null,
    why: reasonsOf(facts, fill, apart, settings),
    try: inputs.compression ? triesFor(facts, fill, apart, { area, volume }, inputs.compression, inputs) : [],
  };
}

function headlineOf(f: PressFacts, { stallReason }: FillFacts, apart: number): string {
  if (stallReason === 'closed') return 'It closes before the part is full.';
  if (stallReason === 'force') return 'The force does not close it.';
  if (stallReason) return 'The melt stands before the part is full.';
  if (judge(RULES.gapLeft, apart) !== 'good') return 'The halves stay apart: the part comes out thicker.';
  return f.limitedAt_s === null
    ? 'It closes at the speed that is set.'
    : 'It closes, at the end as fast as the force allows.';
}

function reasonsOf(f: PressFacts, fill: FillFacts, apart: number, { machine }: FillSettings): string[] {
  const reasons = [
    f.by === 'charge'
      ? `A charge of ${percent(f.dose)} of the cavity lies ${format(f.gapAtStart_m, 'mm', 3)} high over the closed tool; the half moves from ${format(f.from_s, 's', 2)} on.`
      : `${percent(f.dose)} of the cavity come into a gap of ${format(f.gapAtStart_m, 'mm', 3)}; the half moves from ${format(f.from_s, 's', 2)} on.`,
  ];
  if (f.limitedAt_s !== null)
    reasons.push(
      `After ${format(f.limitedAt_s, 's', 2)} the melt takes the ${format(f.forceLimit_N, 'kN', 3)} that the press has: from there on it closes more slowly.`,
    );
  if (fill.stallReason === 'closed')
    reasons.push(`${percent(1 - fill.shareFilled)} of the cavity are empty when the halves meet.`);
  else if (fill.stallReason === null)
    reasons.push(
      `The part is full with ${format(f.gapWhenFull_m, 'mm', 2)} to go. ` +
        (f.met_s === null
          ? `What it shrinks by under pressure does not use that up: ${percent(apart)} of the wall are left.`
          : `The press follows the shrinking melt until the halves meet at ${format(f.met_s, 's', 2)}; from there on nothing packs any more.`),
    );
  reasons.push(
    `The force is ${percent(f.force_N / machine.clampForce)} of the ${format(machine.clampForce, 'kN', 4)} of ${machine.name}.`,
  );
  return reasons;
}

/** Least change of the melt that is worth a try, as a share of the cavity. */
const LEAST = 0.004;

function triesFor(
  f: PressFacts,
  { stallReason, shareFilled }: FillFacts,
  apart: number,
  { area, volume }: { area: number; volume: number },
  compression: Compression,
  inputs: Inputs,
): Suggestion[] {
  const tries: Suggestion[] = [];
  const change = (id: string, label: string, why: string, patch: Partial<Compression>) =>
    tries.push({ id, label, why, inputs: { ...inputs, compression: { ...compression, ...patch } } });
  const dose = (share: number, id: string, why: string) => {
    const rounded = Math.round(200 * share) / 200;
    if (Math.abs(rounded - compression.dose) > LEAST) change(id, `${percent(rounded)} of melt`, why, { dose: rounded });
  };
  if (stallReason === 'closed')
    dose(
      compression.dose + (1 - shareFilled) + 0.03,
      'more-melt',
      'What is missing, and a little for the press to hold.',
    );
  else if (judge(RULES.gapLeft, apart) !== 'good')
    dose(compression.dose - (f.gapLeft_m * area) / volume, 'less-melt', 'As much less as keeps the halves apart.');
  else if (f.met_s !== null && f.gapWhenFull_m > 0)
    dose(compression.dose + 0.02, 'longer-hold', 'The press holds the longer, the more there is to shrink.');
  if (stallReason === 'force' || f.limitedAt_s !== null) {
    change(
      'faster-press',
      `Closes with ${format(2 * compression.speed, 'mm/s', 2)}`,
      'The melt is hotter when it has to flow.',
      {
        speed: Math.min(0.5, 2 * compression.speed),
      },
    );
    if (compression.force !== null)
      change('more-force', `${format(1.5 * compression.force, 'kN', 3)}`, 'The press gives way to the melt later.', {
        force: 1.5 * compression.force,
      });
  }
  return tries;
}
