import type { Inputs } from '../model/study';
import type { FillSettings } from '../setup/settings';
import { format } from '../units/reader';
import { formatNumber } from '../units/units';
import { withCycle, type Answer, type Suggestion } from './answer';
import { celsius } from './doesItPackOut';
import type { TriangleMesh } from '../geometry/mesh';
import type { CoolFacts } from './coolFacts';
import { coolingTries } from './coolingTries';
import type { PackFacts } from './packFacts';
import { HEAT_TOLD } from './willItFill';
import { judge, VERDICT_RULES as RULES, worst, type Verdict } from './rules';

const up = (t: number) => Math.ceil(10 * t - 1e-6) / 10;

/** `cool`: the settled mould, null where the mould has the temperature that is set. `mesh`: the part. */
export function howLongToCool(
  facts: PackFacts,
  inputs: Inputs,
  settings: FillSettings,
  cool: CoolFacts | null,
  mesh: TriangleMesh,
): Answer {
  const verdict = verdictOf(facts, cool);
  const { ejectableTime } = facts;
  return {
    id: 'how-long-to-cool',
    question: 'How long must it cool?',
    verdict,
    headline: headlineOf(facts, verdict, cool),
    key: {
      label: 'Can be ejected after',
      value: ejectableTime === null ? 'never' : format(ejectableTime, 's', 3),
      note: `mould opens at ${format(facts.openTime, 's', 3)}; cycle ${format(facts.cycleTime, 's', 3)}`,
    },
    where: { label: 'Last place to be solid', position: facts.slowest.place, field: 'ejectableAt' },
    why: [
      ...(Math.abs(facts.heatError) > HEAT_TOLD
        ? [
            `${formatNumber(100 * Math.abs(facts.heatError), 2)} % of the heat is not accounted for: times are that rough.`,
          ]
        : []),
      ...reasonsOf(facts, settings),
      ...(cool ? mouldReasons(cool, facts) : []),
    ],
    try: suggestionsOf(facts, inputs, settings, cool, mesh),
  };
}

/** How much later the slowest place is ready than the middle of the part, over the whole. */
const spotShare = (f: PackFacts) => (f.allEjectable > 0 ? (f.allEjectable - f.halfEjectable) / f.allEjectable : 0);

function verdictOf(f: PackFacts, cool: CoolFacts | null): Verdict {
  if (f.ejectableTime === null) return 'problem';
  return worst([
    f.openTime < f.ejectableTime - 0.05 ? 'problem' : 'good',
    f.coolingSet ? judge(RULES.spareCooling, f.openTime / f.ejectableTime) : 'good',
    judge(RULES.hotSpot, spotShare(f)),
    cool ? judge(RULES.wallDifference, cool.difference_K.high) : 'good',
    cool ? judge(RULES.coolantRise, riseOf(cool)) : 'good',
    cool?.lines.some((l) => l.regime === 'laminar' && l.as !== 'hose') ? 'watch' : 'good',
  ]);
}

function headlineOf(f: PackFacts, verdict: Verdict, cool: CoolFacts | null): string {
  if (f.ejectableTime === null) return 'It does not get cold enough to be ejected.';
  if (f.openTime < f.ejectableTime - 0.05) return 'The mould opens before the part is solid enough.';
  if (judge(RULES.hotSpot, spotShare(f)) !== 'good') return 'One place keeps the whole part waiting.';
  if (cool && judge(RULES.wallDifference, cool.difference_K.high) !== 'good')
    return 'The two sides of the part are cooled unevenly.';
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

const riseOf = (cool: CoolFacts) => Math.max(0, ...cool.supplies.map((s) => s.returned_K - s.sent_K));

/** What mould and coolant have to do with it. */
function mouldReasons(cool: CoolFacts, f: PackFacts): string[] {
  const { surface_K: surface, heat_W: heat } = cool;
  const reasons = [
    `The mould's surface has ${celsius(surface.low)} to ${celsius(surface.high)}, ${celsius(surface.mean)} on average; the two sides of a wall differ ` +
      `by up to ${format(cool.difference_K.high, 'K', 2)}.`,
  ];
  const best = cool.lines.filter((l) => l.heat_W > 0).sort((a, b) => b.heat_W - a.heat_W);
  if (best.length) {
    const weak = best.filter((l) => l.as !== 'hose').at(-1);
    reasons.push(
      `Of ${format(heat.part + heat.runners, 'W', 3)} the coolant takes ${Math.round((100 * heat.coolant) / (heat.part + heat.runners))} %: line ${best[0].id} ` +
        `${Math.round(100 * best[0].share)} %${weak && weak.id !== best[0].id ? `, line ${weak.id} ${Math.round(100 * weak.share)} %` : ''}. ` +
        `It warms by ${format(riseOf(cool), 'K', 2)}.`,
    );
  } else reasons.push('No coolant flows: the heat leaves through the outside of the block alone.');
  const laminar = cool.lines.filter((l) => l.regime === 'laminar' && l.as !== 'hose');
  if (laminar.length)
    reasons.push(
      `In ${laminar.length === 1 ? `line ${laminar[0].id}` : `${laminar.length} lines`} the flow is laminar (Reynolds number ` +
        `${Math.round(Math.min(...laminar.map((l) => l.reynolds)))}): it takes up a fraction of what turbulent flow would.`,
    );
  if (Math.abs(f.openTime - cool.openTime_s) > 0.1 * f.openTime)
    reasons.push(
      `The mould was settled for a cycle that opens at ${format(cool.openTime_s, 's', 3)}; the part asks for ${format(f.openTime, 's', 3)}.`,
    );
  return reasons;
}

function suggestionsOf(
  f: PackFacts,
  inputs: Inputs,
  settings: FillSettings,
  cool: CoolFacts | null,
  mesh: TriangleMesh,
): Suggestion[] {
  const list: Suggestion[] = cool ? coolingTries(cool, inputs, mesh) : [];
  const needed = f.ejectableTime === null ? null : up(Math.max(0, f.ejectableTime - f.packingEnd));
  if (needed !== null && f.coolingSet && Math.abs(needed - (settings.coolingTime as number)) > 0.3)
    list.push({
      id: 'cool-as-needed',
      label: `Cool for ${format(needed, 's', 2)} after packing`,
      why: 'The mould opens just when the part can be ejected.',
      inputs: withCycle(inputs, { coolingTime: needed }),
    });
  const colder = settings.mouldTemperature - 10;
  if (!cool && colder > settings.resin.mould.min - 1)
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
