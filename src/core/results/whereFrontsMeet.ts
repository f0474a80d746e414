import { defaultVent } from '../model/outlet';
import type { Inputs } from '../model/study';
import type { FillSettings } from '../setup/settings';
import { format } from '../units/reader';
import { formatNumber, fromSi } from '../units/units';
import { freshOutletId, withCycle, type Answer, type Suggestion } from './answer';
import type { FeedFacts } from './feedFacts';
import type { TrappedAirPlace } from './places';
import { judge, VERDICT_RULES as RULES, worst } from './rules';
import type { SpeedJump } from './speedJumps';
import type { Findings } from './findings';
import type { WeldLine } from './weldLines';

const celsius = (T: number) => format(T, '°C');
const degrees = (a: number) => `${Math.round(fromSi(a, '°'))}°`;
const percent = (x: number) => `${Math.round(100 * x)} %`;

type Found = Pick<Findings, 'weldLines' | 'airTraps' | 'speedJumps'>;

export function whereFrontsMeet(
  { weldLines: lines, airTraps: traps, speedJumps: jumps = [] }: Found,
  inputs: Inputs,
  settings: FillSettings,
  feed?: FeedFacts,
): Answer {
  const weakest = lines.reduce<WeldLine | null>((w, l) => (!w || l.strength < w.strength ? l : w), null);
  const hottest = traps.reduce<TrappedAirPlace | null>(
    (h, t) => (!h || t.adiabaticTemperature > h.adiabaticTemperature ? t : h),
    null,
  );
  const weld = weakest ? judge(RULES.weldStrength, weakest.strength) : 'good';
  const burn = hottest ? judge(RULES.burn, hottest.adiabaticTemperature) : 'good';
  const jump = jumps.length ? ('watch' as const) : ('good' as const);
  const verdict = worst([weld, burn, jump]);
  const total = lines.reduce((s, l) => s + l.length, 0);
  return {
    id: 'where-fronts-meet',
    question: 'Where do fronts meet?',
    verdict,
    headline: headline(lines, traps, weld, burn, jump),
    key: weakest
      ? {
          label: 'Weakest weld line',
          value: percent(weakest.strength),
          note: `of the wall's strength; ${lines.length} ${lines.length === 1 ? 'line' : 'lines'}, ${format(total, 'mm', 3)}`,
        }
      : { label: 'Weld lines', value: 'none', note: 'fronts meet nowhere below 135°' },
    where:
      burn !== 'good' && hottest && (weld === 'good' || burn === 'problem')
        ? { label: `Air trap ${hottest.id}`, position: hottest.position, field: 'fillTime' }
        : weakest
          ? {
              label: `Weld line ${weakest.id}`,
              position: weakest.points[Math.floor(weakest.points.length / 2)],
              field: 'frontTemperature',
            }
          : jumps.length
            ? { label: `Speed jump ${jumps[0].id}`, position: jumps[0].position, field: 'frontSpeed' }
            : null,
    why: [...reasons(lines, weakest, traps, hottest), ...sequence(feed), ...jumps.map(jumpReason)],
    try: suggestions(weld !== 'good', burn !== 'good', inputs, settings, traps),
  };
}

const speed = (v: number) => `${formatNumber(v, 2)} m/s`;
const jumpReason = (j: SpeedJump): string =>
  `${j.id}: when the pin of ${j.gate} moves at ${format(j.time, 's', 2)}, the front goes from ${speed(j.before)} to ${speed(j.after)}.`;

/** What opening one pin after the other did: melt let into melt makes no new front. */
function sequence(feed: FeedFacts | undefined): string[] {
  const later = (feed?.pins ?? []).filter((p) => p.openedAt_s !== null && p.openedAt_s > 0);
  const behind = later.filter((p) => p.reachedAt_s !== null && p.reachedAt_s <= (p.openedAt_s as number) + 1e-9);
  const ahead = later.filter((p) => !behind.includes(p));
  const shut = (feed?.pins ?? []).filter((p) => p.openedAt_s === null);
  const names = (list: typeof later) => list.map((p) => p.gate).join(', ');
  const list: string[] = [];
  if (behind.length)
    list.push(
      `${names(behind)} ${behind.length === 1 ? 'opens' : 'open'} into melt that has come by already: no front meets there.`,
    );
  for (const p of ahead)
    list.push(
      `${p.gate} opens at ${format(p.openedAt_s as number, 's', 2)}, before the front has come to it: two fronts meet. Open it later.`,
    );
  if (shut.length) list.push(`${names(shut)} never ${shut.length === 1 ? 'opens' : 'open'} in this run.`);
  return list;
}

function headline(
  lines: readonly WeldLine[],
  traps: readonly TrappedAirPlace[],
  weld: string,
  burn: string,
  jump: string,
): string {
  if (burn === 'problem') return 'Air is trapped and can burn the part.';
  if (weld === 'problem') return 'A weld line hardly knits.';
  if (burn === 'watch') return 'Air is trapped; a vent is wanted.';
  if (weld === 'watch') return 'Weld lines weaken the wall.';
  if (jump === 'watch') return 'The front changes its speed when a pin moves.';
  if (lines.length || traps.length) return 'Fronts meet hot and the air gets out.';
  return 'One front runs through the whole part.';
}

function reasons(
  lines: readonly WeldLine[],
  weakest: WeldLine | null,
  traps: readonly TrappedAirPlace[],
  hottest: TrappedAirPlace | null,
): string[] {
  const list: string[] = [];
  if (weakest)
    list.push(
      `${weakest.id}, ${format(weakest.length, 'mm', 3)} long, forms after ${format(weakest.time, 's', 2)} at ` +
        `${celsius(weakest.temperature)} with ${degrees(weakest.angle)} between the fronts` +
        (weakest.pressure > 0 ? ` and sees up to ${format(weakest.pressure, 'MPa')}.` : ' and is hardly pressed.') +
        (weakest.flowedThrough === undefined
          ? ''
          : ` Melt goes ${format(weakest.flowedThrough, 'mm', 2)} through it afterwards; the notch in its skin stays.`),
    );
  const sharp = lines.reduce<WeldLine | null>((s, l) => (!s || l.smallestAngle < s.smallestAngle ? l : s), null);
  if (sharp && sharp !== weakest)
    list.push(`The sharpest meeting is on ${sharp.id}: ${degrees(sharp.smallestAngle)} between the fronts.`);
  if (hottest)
    list.push(
      `${hottest.id}: ${format(hottest.volume, 'cm³', 2)} of air is cut off after ${format(hottest.since, 's', 2)} and ` +
        `pressed to ${format(hottest.isothermalPressure, 'MPa', 2)}; without cooling it reaches ` +
        `${celsius(hottest.adiabaticTemperature)}.${hottest.vented ? ' Its vent is too small.' : ''}`,
    );
  if (traps.length > 1) list.push(`${traps.length} places hold trapped air away from the parting line.`);
  if (!lines.length && !traps.length) list.push('Air ahead of the front always has a way to the parting line.');
  return list;
}

/** Width of a vent that is proposed, m. */
const VENT_WIDTH = 0.006;

/** A vent at every trap; what air finds already stays. */
function ventThem(traps: readonly TrappedAirPlace[], inputs: Inputs): Suggestion {
  const vents = [...(inputs.vents ?? [])];
  for (const { position } of traps)
    vents.push(defaultVent(freshOutletId('V', vents), { kind: 'place', position, width: VENT_WIDTH }));
  const venting = inputs.cycle.venting === 'sealed' ? ('vents' as const) : inputs.cycle.venting;
  return {
    id: 'vents',
    label: traps.length === 1 ? `Vent at ${traps[0].id}` : `Vents at all ${traps.length} traps`,
    why: 'Air that leaves is not pressed.',
    inputs: { ...withCycle(inputs, { venting }), vents },
  };
}

function suggestions(
  weak: boolean,
  burn: boolean,
  inputs: Inputs,
  settings: FillSettings,
  traps: readonly TrappedAirPlace[],
): Suggestion[] {
  const list: Suggestion[] = [];
  const { resin } = settings;
  if (weak && settings.meltTemperature < resin.melt.max - 1)
    list.push({
      id: 'hotter-melt',
      label: `Melt at ${celsius(resin.melt.max)}`,
      why: 'Hotter fronts knit longer before the skin freezes.',
      inputs: withCycle(inputs, { meltTemperature: resin.melt.max }),
    });
  if (weak && settings.mouldTemperature < resin.mould.max - 1)
    list.push({
      id: 'hotter-mould',
      label: `Mould at ${celsius(resin.mould.max)}`,
      why: 'The skin at the line stays melt a little longer.',
      inputs: withCycle(inputs, { mouldTemperature: resin.mould.max, lowerMouldTemperature: null }),
    });
  if (weak && inputs.gates.length > 1)
    list.push({
      id: 'one-gate',
      label: `Only gate ${inputs.gates[0].id}`,
      why: 'Each gate less is a weld line less, at the price of pressure.',
      inputs: { ...inputs, gates: inputs.gates.slice(0, 1) },
    });
  if (burn && traps.length) list.push(ventThem(traps, inputs));
  if (burn)
    list.push({
      id: 'slower',
      label: `Inject in ${format(1.5 * settings.injectionTime, 's', 2)}`,
      why: 'Slower melt gives the air more time to leave and to cool.',
      inputs: withCycle(inputs, {
        injection: { by: 'time', time: Number((1.5 * settings.injectionTime).toPrecision(2)) },
      }),
    });
  return list;
}
