import type { Inputs } from '../model/study';
import type { FillSettings } from '../setup/settings';
import { format } from '../units/reader';
import { formatNumber } from '../units/units';
import { withCycle, type Answer, type Suggestion } from './answer';
import type { PackFacts } from './packFacts';
import { judge, VERDICT_RULES as RULES, worst, type Verdict } from './rules';

const percent = (share: number, digits = 2) => `${formatNumber(100 * share, digits)} %`;

/** Packing time beyond the freezing of the last gate, over the packing time; 0 while a gate is open. */
const wastedShare = (f: PackFacts): number =>
  f.heldBy !== 'nozzle' || f.lastGateFrozenAt === null
    ? 0
    : Math.max(0, f.packingEnd - f.lastGateFrozenAt) / (f.packingEnd - f.switchoverTime || 1);

/** Melt flows back out of a gate that is still soft; not where the nozzle is shut because a fluid in the core packs. */
const openAtEnd = (f: PackFacts): boolean =>
  f.heldBy === 'nozzle' && (f.lastGateFrozenAt === null || f.lastGateFrozenAt > f.packingEnd + 1e-6);

export function doesItPackOut(facts: PackFacts, inputs: Inputs, settings: FillSettings): Answer {
  const verdict = verdictOf(facts);
  const { low, high } = facts.shrinkage;
  return {
    id: 'does-it-pack-out',
    question: 'Does it pack out?',
    verdict,
    headline: headlineOf(facts, verdict),
    key: {
      label: 'Linear shrinkage in the room',
      value: `${formatNumber(100 * low, 2)} to ${percent(high)}`,
      note: `${percent(facts.shrinkage.mean)} on average; part ${format(facts.mass, 'g', 3)}`,
    },
    where:
      judge(RULES.sinkDepth, facts.sink.depth) !== 'good'
        ? { label: 'Deepest sink mark', position: facts.sink.place, field: 'sinkDepth' }
        : { label: 'Largest shrinkage', position: facts.shrinkage.highPlace, field: 'shrinkage' },
    why: reasonsOf(facts, inputs),
    try: suggestionsOf(facts, inputs, settings),
  };
}

function verdictOf(f: PackFacts): Verdict {
  return worst([
    judge(RULES.shrinkageSpread, f.shrinkage.high - f.shrinkage.low),
    judge(RULES.sinkDepth, f.sink.depth),
    judge(RULES.missingCore, f.voids.share),
    judge(RULES.wastedPacking, wastedShare(f)),
    judge(RULES.pressureAtOpening, f.pressureAtOpening),
    openAtEnd(f) && f.packingPressure > 0 ? 'watch' : 'good',
  ]);
}

function headlineOf(f: PackFacts, verdict: Verdict): string {
  if (judge(RULES.shrinkageSpread, f.shrinkage.high - f.shrinkage.low) === 'problem')
    return 'It packs out unevenly: some places shrink far more than others.';
  if (judge(RULES.sinkDepth, f.sink.depth) === 'problem') return 'Sink marks will show.';
  if (judge(RULES.missingCore, f.voids.share) === 'problem') return 'Thick places will have voids.';
  if (openAtEnd(f)) return 'The gate is still open when packing ends: melt flows back.';
  if (judge(RULES.wastedPacking, wastedShare(f)) !== 'good') return 'Packing goes on long after the gate has frozen.';
  return verdict === 'good' ? 'It packs out evenly.' : 'It packs out, with differences.';
}

function reasonsOf(f: PackFacts, inputs: Inputs): string[] {
  const reasons: string[] = [];
  const packing = f.packingEnd - f.switchoverTime;
  if (f.heldBy === 'core')
    reasons.push(
      `The fluid in the core packs from inside, with up to ${format(f.packingPressure, 'MPa', 2)} until ${format(f.packingEnd, 's', 2)}; the nozzle is shut.`,
    );
  else if (f.heldBy === 'press')
    reasons.push(
      `The tool packs all over the part at once, with up to ${format(f.packingPressure, 'MPa', 2)} in the melt, as long as its halves have not met; the nozzle is shut.`,
    );
  else if (f.lastGateFrozenAt === null)
    reasons.push('A gate was still open when the calculation ended: thick, or kept hot.');
  else if (openAtEnd(f))
    reasons.push(
      `The gate freezes at ${format(f.lastGateFrozenAt, 's', 2)}, packing ends at ${format(f.packingEnd, 's', 2)}: ` +
        'in between melt flows back out of the cavity.',
    );
  else {
    const spare = f.packingEnd - f.lastGateFrozenAt;
    reasons.push(
      `The gate freezes at ${format(f.lastGateFrozenAt, 's', 2)} while packing is set to ${format(packing, 's', 2)}` +
        (spare > 0.1 ? `, so ${format(spare, 's', 2)} are wasted or the gate is too small.` : '.'),
    );
  }
  if (!inputs.feed && f.heldBy === 'nozzle')
    reasons.push(
      'Without a feed the melt comes straight to the wall: the gate stays open as long as the wall behind it.',
    );
  if (f.lostShare > 0.02)
    reasons.push(`${Math.round(100 * f.lostShare)} % of the part lost its pressure before it was frozen.`);
  reasons.push(
    `Volumetric shrinkage lies between ${percent(f.volumetric.low)} and ${percent(f.volumetric.high)}; most where the wall is ` +
      `${format(f.shrinkage.highThickness, 'mm', 2)} thick.`,
  );
  if (f.sink.depth > 1e-6)
    reasons.push(
      `The faces sink by up to ${formatNumber(1e6 * f.sink.depth, 2)} µm against their surroundings` +
        (f.voids.share > 0.001 ? `; ${percent(f.voids.share)} of the wall are missing in the core.` : '.'),
    );
  reasons.push(
    f.heldBy === 'core'
      ? `The part weighs ${format(f.mass, 'g', 4)}: what it shrinks by, the core takes.`
      : f.heldBy === 'press'
        ? `The part weighs ${format(f.mass, 'g', 4)}: what was in the tool when it closed.`
        : `Packing brings ${format(Math.max(0, f.mass - f.massBefore), 'g', 2)} more into the part: ${format(f.mass, 'g', 4)} in all.`,
  );
  if (judge(RULES.pressureAtOpening, f.pressureAtOpening) !== 'good')
    reasons.push(
      `${format(f.pressureAtOpening, 'MPa')} are left in the part when the mould opens: it sticks, and grows when it is let go.`,
    );
  return reasons;
}

const packsWeakly = (f: PackFacts): boolean =>
  judge(RULES.sinkDepth, f.sink.depth) !== 'good' ||
  judge(RULES.missingCore, f.voids.share) !== 'good' ||
  judge(RULES.shrinkageSpread, f.shrinkage.high - f.shrinkage.low) !== 'good';

/** What the machine holds is not read while a fluid packs: only that fluid's pressure helps. */
function coreTries(f: PackFacts, inputs: Inputs): Suggestion[] {
  const { core } = inputs;
  if (!core || core.drive.by !== 'pressure' || !packsWeakly(f)) return [];
  const pressure = Math.round(1.25e-5 * core.drive.pressure) * 1e5;
  return [
    {
      id: 'press-core-harder',
      label: `${format(pressure, 'MPa', 2)} in the core`,
      why: 'It holds the skin against the wall the harder while that shrinks.',
      inputs: { ...inputs, core: { ...core, drive: { ...core.drive, pressure } } },
    },
  ];
}

/** More melt keeps the halves apart for longer: so long the press holds. */
function pressTries(f: PackFacts, inputs: Inputs): Suggestion[] {
  const { compression } = inputs;
  if (!compression || !packsWeakly(f)) return [];
  const dose = Math.round(100 * (compression.dose + 0.03)) / 100;
  return [
    {
      id: 'more-melt',
      label: `${formatNumber(100 * dose, 3)} % of melt`,
      why: 'The press follows for longer what shrinks.',
      inputs: { ...inputs, compression: { ...compression, dose } },
    },
  ];
}

function suggestionsOf(f: PackFacts, inputs: Inputs, settings: FillSettings): Suggestion[] {
  if (f.heldBy === 'core') return coreTries(f, inputs);
  if (f.heldBy === 'press') return pressTries(f, inputs);
  const list: Suggestion[] = [];
  const packing = f.packingEnd - f.switchoverTime;
  const pressure = Math.round(f.packingPressure / 1e5) * 1e5;
  const constant = (p: number | null, time: number | null) =>
    withCycle(inputs, { packing: { by: 'constant', pressure: p, time } });
  const present = inputs.cycle.packing.by === 'constant' ? inputs.cycle.packing.pressure : pressure;
  if (f.lastGateFrozenAt !== null) {
    const wanted = Math.ceil(10 * (f.lastGateFrozenAt - f.switchoverTime)) / 10;
    if (Math.abs(wanted - packing) > Math.max(0.2, 0.08 * packing))
      list.push({
        id: 'pack-to-gate-freeze',
        label: `Pack for ${format(wanted, 's', 2)}`,
        why:
          wanted < packing
            ? 'Until the gate has frozen; longer does nothing.'
            : 'Until the gate has frozen, so that nothing flows back.',
        inputs: constant(present, wanted),
      });
  }
  const weak = packsWeakly(f);
  if (weak && inputs.gates.length)
    list.push({
      id: 'bigger-gate',
      label: 'Gates a third wider',
      why: 'A thicker gate freezes later and lets melt follow for longer.',
      inputs: {
        ...inputs,
        gates: inputs.gates.map((g) => ({ ...g, diameter: Math.min(0.05, Math.round(1.33e4 * g.diameter) / 1e4) })),
      },
    });
  if (weak && 1.25 * f.packingPressure < settings.pressureLimit)
    list.push({
      id: 'pack-harder',
      label: `Pack with ${format(1.25 * pressure, 'MPa', 2)}`,
      why: 'More melt is pressed in before the gate freezes.',
      inputs: constant(
        Math.round(1.25 * pressure),
        inputs.cycle.packing.by === 'constant' ? inputs.cycle.packing.time : packing,
      ),
    });
  return list;
}

export const celsius = (T: number): string => format(T, '°C');
