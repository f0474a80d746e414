import type { Inputs } from '../model/study';
import type { FillSettings } from '../pipeline/settings';
import { format } from '../units/units';
import { withCycle, type Answer, type Suggestion } from './answer';
import { celsius } from './doesItPackOut';
import type { PackFacts } from './packFacts';
import { judge, VERDICT_RULES as RULES, worst, type Verdict } from './rules';

const up = (t: number) => Math.ceil(10 * t - 1e-6) / 10;

export function howLongToCool(facts: PackFacts, inputs: Inputs, settings: FillSettings): Answer {
  const verdict = verdictOf(facts);
  const { ejectableTime } = facts;
  return {
    id: 'how-long-to-cool',
    question: 'How long must it cool?',
    verdict,
    headline: headlineOf(facts, verdict),
    key: {
      label: 'Can be ejected after',
      value: ejectableTime === null ? 'never' : format(ejectableTime, 's', 3),
      note: `mould opens at ${format(facts.openTime, 's', 3)}; cycle ${format(facts.cycleTime, 's', 3)}`,
    },
    where: { label: 'Last place to be solid', position: facts.slowest.place, field: 'ejectableAt' },
    why: reasonsOf(facts, settings),
    try: suggestionsOf(facts, inputs, settings),
  };
}

/** How much later the slowest place is ready than the middle of the part, over the whole. */
const spotShare = (f: PackFacts) => (f.allEjectable > 0 ? (f.allEjectable - f.halfEjectable) / f.allEjectable : 0);

function verdictOf(f: PackFacts): Verdict {
  if (f.ejectableTime === null) return 'problem';
  return worst([
    f.openTime < f.ejectableTime - 0.05 ? 'problem' : 'good',
    f.coolingSet ? judge(RULES.spareCooling, f.openTime / f.ejectableTime) : 'good',
    judge(RULES.hotSpot, spotShare(f)),
  ]);
}

function headlineOf(f: PackFacts, verdict: Verdict): string {
  if (f.ejectableTime === null) return 'It does not get cold enough to be ejected.';
  if (f.openTime < f.ejectableTime - 0.05) return 'The mould opens before the part is solid enough.';
  if (judge(RULES.hotSpot, spotShare(f)) !== 'good') return 'One place keeps the whole part waiting.';
  if (verdict !== 'good') return 'It could be ejected sooner.';
  return 'It cools evenly and is ejected when it is ready.';
}

function reasonsOf(f: PackFacts, settings: FillSettings): string[] {
  const { resin, solidShare } = settings;
  const reasons = [
    `${Math.round(100 * solidShare)} % of the part must be below ${celsius(resin.ejectionTemperature)}; half of its places are ready after ` +
      `${format(f.halfEjectable, 's', 3)}, nearly all after ${format(f.allEjectable, 's', 3)}.`,
  ];
  const spot = spotShare(f);
  if (spot > 0.2)
    reasons.push(
      `${Math.round(100 * spot)} % of that time is for the thickest places: the last is ${format(f.slowest.thickness, 'mm', 2)} thick where ` +
        `the usual wall has ${format(f.nominalThickness, 'mm', 2)}.`,
    );
  reasons.push(
    `Of the cycle of ${format(f.cycleTime, 's', 3)} filling takes ${format(f.switchoverTime, 's', 2)}, packing ` +
      `${format(f.packingEnd - f.switchoverTime, 's', 2)}, cooling ${format(Math.max(0, f.openTime - f.packingEnd), 's', 2)}, ` +
      `opening and closing ${format(settings.openTime, 's', 2)}.`,
  );
  if (f.ejectableTime !== null && f.openTime > f.ejectableTime + 0.3)
    reasons.push(
      f.packingEnd > f.ejectableTime
        ? `The part is ready ${format(f.packingEnd - f.ejectableTime, 's', 2)} before packing ends.`
        : `${format(f.openTime - f.ejectableTime, 's', 2)} of the cooling are more than it needs.`,
    );
  return reasons;
}

function suggestionsOf(f: PackFacts, inputs: Inputs, settings: FillSettings): Suggestion[] {
  const list: Suggestion[] = [];
  const needed = f.ejectableTime === null ? null : up(Math.max(0, f.ejectableTime - f.packingEnd));
  if (needed !== null && f.coolingSet && Math.abs(needed - (settings.coolingTime as number)) > 0.3)
    list.push({
      id: 'cool-as-needed',
      label: `Cool for ${format(needed, 's', 2)} after packing`,
      why: 'The mould opens just when the part can be ejected.',
      inputs: withCycle(inputs, { coolingTime: needed }),
    });
  const colder = settings.mouldTemperature - 10;
  if (colder > settings.resin.mould.min - 1)
    list.push({
      id: 'colder-mould',
      label: `Mould at ${celsius(colder)}`,
      why: 'Heat leaves faster; the surface gets a little duller.',
      inputs: withCycle(inputs, { mouldTemperature: colder }),
    });
  const cooler = Math.max(settings.resin.melt.min, settings.meltTemperature - 10);
  if (cooler < settings.meltTemperature - 1)
    list.push({
      id: 'colder-melt',
      label: `Melt at ${celsius(cooler)}`,
      why: 'Less heat to take out, for more pressure to fill.',
      inputs: withCycle(inputs, { meltTemperature: cooler }),
    });
  return list;
}
