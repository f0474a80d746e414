import { MACHINES, SHOT_SHARE } from '../machine/library';
import type { Machine } from '../model/machine';
import { chargeOf } from '../model/compression';
import type { Inputs } from '../model/study';
import type { FillSettings } from '../setup/settings';
import { format } from '../units/reader';
import { withCycle, type Answer, type Suggestion } from './answer';
import { judge, VERDICT_RULES as RULES, worst } from './rules';

/** What a run asks of the machine. SI. */
export interface MachineNeeds {
  pressure: number;
  /** Largest clamp force while filling, and what the packing pressure would need all over the part, N. */
  clampForce: number;
  packingClamp: number;
  projectedArea: number;
  /** Largest set flow rate, m3/s. */
  flowRate: number;
  volume: number;
}

const percent = (x: number) => `${Math.round(100 * x)} %`;

export function whatMachine(needs: MachineNeeds, inputs: Inputs, settings: FillSettings): Answer {
  const { machine } = settings;
  const force = Math.max(needs.clampForce, needs.packingClamp);
  const shares = {
    clamp: force / machine.clampForce,
    pressure: needs.pressure / machine.maxPressure,
    flow: needs.flowRate / machine.maxFlowRate,
    shot: needs.volume / machine.shotVolume,
  };
  const laidIn = chargeOf(inputs.compression) !== null;
  const verdicts = [
    // What a press closes with is its setting, which is held against the machine before the run.
    inputs.compression ? 'good' : judge(RULES.clamp, shares.clamp),
    judge(RULES.pressureReserve, shares.pressure),
    judge(RULES.flow, shares.flow),
    judge(RULES.shot, shares.shot),
    laidIn ? 'good' : judge(RULES.smallShot, shares.shot),
  ];
  const verdict = worst(verdicts);
  const fitting = MACHINES.find((m) => fits(needs, force, m));
  return {
    id: 'what-machine',
    question: 'What machine does it need?',
    verdict,
    headline:
      verdict === 'good'
        ? `${machine.name} does it.`
        : verdict === 'watch'
          ? `${machine.name} does it, near a limit.`
          : `${machine.name} is not enough.`,
    key: {
      label: 'Clamp force',
      value: format(force, 'kN', 3),
      note: `${percent(shares.clamp)} of the ${format(machine.clampForce, 'kN', 4)} of ${machine.name}`,
    },
    where: null,
    why: [
      `${format(needs.projectedArea, 'cm²', 3)} face the opening direction; filling opens the mould with ` +
        `${format(needs.clampForce, 'kN', 3)}` +
        (inputs.compression
          ? ', which is what the press closes with.'
          : `, packing pressure all over it would with ${format(needs.packingClamp, 'kN', 3)}.`),
      `Pressure ${percent(shares.pressure)} of ${format(machine.maxPressure, 'MPa')}, flow rate ${percent(shares.flow)} of ` +
        `${format(machine.maxFlowRate, 'cm³/s')}, shot ${percent(shares.shot)} of ${format(machine.shotVolume, 'cm³')}.`,
      ...(verdicts[4] === 'watch' && shares.shot < 0.1
        ? ['The part is a small share of the shot: melt waits long in the barrel.']
        : []),
    ],
    try: suggestions(verdict === 'good', fitting, inputs, settings, shares.clamp),
  };
}

function fits(needs: MachineNeeds, force: number, m: Machine): boolean {
  return (
    force <= RULES.clamp.watch * m.clampForce &&
    needs.pressure <= RULES.pressureReserve.watch * m.maxPressure &&
    needs.flowRate <= RULES.flow.watch * m.maxFlowRate &&
    needs.volume <= SHOT_SHARE * m.shotVolume
  );
}

function suggestions(
  good: boolean,
  fitting: Machine | undefined,
  inputs: Inputs,
  settings: FillSettings,
  clamp: number,
): Suggestion[] {
  const list: Suggestion[] = [];
  if (!good && fitting && fitting.id !== settings.machine.id)
    list.push({
      id: 'fitting-machine',
      label: fitting.name,
      why: `The smallest press of the library with reserve in everything: ${format(fitting.clampForce, 'kN', 4)}.`,
      inputs: withCycle(inputs, { machine: fitting.id }),
    });
  if (!inputs.compression && clamp > RULES.clamp.watch)
    list.push({
      id: 'slower',
      label: `Inject in ${format(1.5 * settings.injectionTime, 's', 2)}`,
      why: 'Less pressure over the same area needs less force.',
      inputs: withCycle(inputs, {
        injection: { by: 'time', time: Number((1.5 * settings.injectionTime).toPrecision(2)) },
      }),
    });
  return list;
}
