import type { CoreChoice } from '../model/core';
import type { Inputs } from '../model/study';
import type { FillSettings } from '../setup/settings';
import { format } from '../units/reader';
import { formatNumber } from '../units/units';
import type { Answer, Suggestion } from './answer';
import type { CoreFacts } from './coreFacts';
import { skinEstimate } from './coreEstimate';
import type { FillFacts } from './willItFill';
import { judge, VERDICT_RULES as RULES, worst, type Verdict } from './rules';

const percent = (share: number, digits = 2) => `${formatNumber(100 * share, digits)} %`;

/** How far the fluid in the core has come, and what it has left around it. */
export function doesTheCoreComeRight(
  facts: CoreFacts,
  stall: FillFacts['stallReason'],
  inputs: Inputs,
  settings: FillSettings,
): Answer {
  const { broken, skin_m, thinnest_m, solid_m, finger_m } = facts;
  const verdict = verdictOf(facts, stall);
  return {
    id: 'does-core-come-right',
    question: 'Does the core come out right?',
    verdict,
    headline: headlineOf(facts, stall, verdict),
    key: {
      label: 'Length of the core',
      value: format(facts.length_m, 'mm', 3),
      note: Number.isFinite(skin_m.mean)
        ? `skin ${format(skin_m.low, 'mm', 2)} to ${format(skin_m.high, 'mm', 2)}; ${percent(facts.share)} of the part is ${facts.melt ? facts.fluid : 'hollow'}`
        : 'nothing is hollow',
    },
    where: broken
      ? { label: 'Where it breaks through', position: broken.place_m, field: 'coreShare' }
      : !facts.melt && judge(RULES.thinSkin, facts.thinnestShare) !== 'good' && thinnest_m
        ? { label: 'Thinnest skin', position: thinnest_m, field: 'skinLeft' }
        : judge(RULES.fingered, facts.fingered) !== 'good' && finger_m
          ? { label: 'Core in a thin wall', position: finger_m, field: 'coreShare' }
          : judge(RULES.solidEnd, facts.solidShare) !== 'good' && solid_m
            ? { label: 'Solid end', position: solid_m, field: 'coreShare' }
            : facts.tip_m
              ? { label: 'Tip of the core', position: facts.tip_m, field: 'coreShare' }
              : null,
    why: reasonsOf(facts, settings),
    try: inputs.core ? triesFor(facts, stall, inputs.core, inputs, settings) : [],
  };
}

function verdictOf(f: CoreFacts, stall: FillFacts['stallReason']): Verdict {
  if (f.broken || stall) return 'problem';
  return worst([
    judge(RULES.solidEnd, f.solidShare),
    // At the gate a second melt washes the first off to its frozen skin: that is no fault.
    f.melt ? 'good' : judge(RULES.thinSkin, f.thinnestShare),
    judge(RULES.fingered, f.fingered),
  ]);
}

function headlineOf(f: CoreFacts, stall: FillFacts['stallReason'], verdict: Verdict): string {
  if (f.broken && f.melt) return 'The second melt comes to the front: from there on it lies at the surface.';
  if (f.broken) return `The ${f.fluid.toLowerCase()} breaks through the front before the part is full.`;
  if (stall) return 'The core does not push the melt to the end of the part.';
  if (!(f.volume_m3 > 0)) return 'No core comes about: there was nothing to displace.';
  if (!f.melt && judge(RULES.thinSkin, f.thinnestShare) !== 'good') return 'The skin around the core is thin.';
  if (judge(RULES.fingered, f.fingered) !== 'good') return 'The core turns into thin walls.';
  if (judge(RULES.solidEnd, f.solidShare) !== 'good') return 'The core stops short: an end stays solid.';
  return verdict === 'good' ? 'The core runs where it should, with an even skin.' : 'The core comes, with differences.';
}

function reasonsOf(f: CoreFacts, { resin }: FillSettings): string[] {
  if (f.melt) return reasonsOfMelt(f);
  const { slit, round } = skinEstimate(resin);
  const reasons = [
    `The melt ends at ${percent(f.meltShare)} of the cavity after ${format(f.meltEnded_s, 's', 3)}; ${f.fluid.toLowerCase()} comes in ` +
      `at ${format(f.from_s, 's', 3)}, presses with up to ${format(f.peakPressure_Pa, 'MPa', 3)} and is let out at ${format(f.released_s ?? NaN, 's', 3)}.`,
  ];
  if (f.volume_m3 > 0)
    reasons.push(
      `The core holds ${format(f.volume_m3, 'cm³', 3)}` +
        (f.mass_kg > 0 ? ` (${format(f.mass_kg, 'g', 2)} of the fluid at its highest pressure)` : '') +
        (Number.isFinite(f.saved_kg) ? ` and saves ${format(f.saved_kg, 'g', 3)} of plastic.` : '.'),
    );
  reasons.push(
    `What flows of ${resin.name} leaves ${percent(slit)} of a wide wall and ${percent(round)} of a round section as its skin; ` +
      'what has frozen before, and a cold skin that flows little, come on top.',
  );
  if (f.broken)
    reasons.push(
      `After ${format(f.broken.time_s, 's', 3)} the tip has caught up with the front: nothing resists it any more. With more melt ` +
        'the front is farther ahead.',
    );
  if (judge(RULES.solidEnd, f.solidShare) !== 'good')
    reasons.push(
      `${percent(f.solidShare)} of the part is as thick as the walls around the core and has none: there it sinks and cools as without one.`,
    );
  if (judge(RULES.fingered, f.fingered) !== 'good')
    reasons.push(
      `${percent(f.fingered)} of the core has gone into walls thinner than half of that at the needle: they were still soft when it came.`,
    );
  return reasons;
}

function reasonsOfMelt(f: CoreFacts): string[] {
  const reasons = [
    `${f.fluid} follows from ${format(f.from_s, 's', 3)} on and makes up ${percent(f.share)} of the part, ${format(f.volume_m3, 'cm³', 3)}; ` +
      `its tip has come ${format(f.length_m, 'mm', 3)} from the gate.`,
  ];
  if (f.broken)
    reasons.push(
      `After ${format(f.broken.time_s, 's', 3)} its tip has caught up with the front: in the middle of a wall melt runs half as fast again as on average, ` +
        'and what comes to the front is laid on the wall.',
    );
  if (judge(RULES.solidEnd, f.solidShare) !== 'good')
    reasons.push(`${percent(f.solidShare)} of the part is as thick as the walls around the core and has none.`);
  return reasons;
}

/** Least that is worth a try, as a share of the cavity. */
const LEAST = 0.01;

function triesFor(
  f: CoreFacts,
  stall: FillFacts['stallReason'],
  core: CoreChoice,
  inputs: Inputs,
  settings: FillSettings,
): Suggestion[] {
  const tries: Suggestion[] = [];
  const change = (id: string, label: string, why: string, patch: Partial<CoreChoice>) =>
    tries.push({ id, label, why, inputs: { ...inputs, core: { ...core, ...patch } } });
  const melt = (share: number, id: string, why: string) => {
    const rounded = Math.round(100 * Math.min(0.98, Math.max(0.1, share))) / 100;
    if (Math.abs(rounded - f.meltShare) < LEAST) return;
    change(id, `Melt to ${percent(rounded)}`, why, { melt: { by: 'share', share: rounded } });
  };
  if (f.broken && f.melt)
    melt(
      core.melt.by === 'share' ? (1 + core.melt.share) / 2 : 0.85,
      'more-first',
      'More of the first melt keeps the front ahead of the second.',
    );
  else if (f.broken)
    melt(
      1 - 0.9 * f.share,
      'more-melt',
      'As much as the core had taken up to there leaves room enough; a little more is sure.',
    );
  else if (judge(RULES.solidEnd, f.solidShare) !== 'good') {
    // The end would be hollow as the rest is.
    const hollow = f.share / Math.max(0.05, 1 - f.solidShare);
    melt(
      f.meltShare - 0.8 * hollow * f.solidShare,
      'less-melt',
      'Less melt leaves more for the core to push: it reaches further.',
    );
  }
  if (stall === 'core' && core.drive.by === 'pressure')
    change(
      'higher-pressure',
      `${format(1.5 * core.drive.pressure, 'MPa', 3)} in the core`,
      'It pushes the melt that stands.',
      {
        drive: { ...core.drive, pressure: 1.5 * core.drive.pressure },
      },
    );
  if (stall === 'core' && core.delay > 0)
    change('sooner', 'No delay', 'The melt is still hot where it has to go on.', { delay: 0 });
  if (f.melt) return tries;
  if (stall) return tries;
  const delay = Number((core.delay + 0.05 * settings.freezeTime).toPrecision(2));
  const later = (id: string, why: string) => change(id, `Delay of ${format(delay, 's', 2)}`, why, { delay });
  if (judge(RULES.thinSkin, f.thinnestShare) !== 'good')
    later('later-core', 'What freezes meanwhile is skin that the core can not take.');
  if (judge(RULES.fingered, f.fingered) !== 'good')
    later('later-for-fingers', 'Thin walls freeze first, and keep the core out.');
  return tries;
}
