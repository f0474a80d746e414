import { chargeOf } from '../model/compression';
import { emptyInputs, type Inputs } from '../model/study';
import { format } from '../units/reader';
import { resolveMachine, resolveResin, resolveSettings, type PartSize } from './settings';

/** Stations at which something is put in. */
export type InputStation = 'part' | 'resin' | 'feed' | 'cooling' | 'cycle';

/**
 * Sentences on what nobody has chosen at a station, and stands at its default. `part`: size of what is moulded; null
 * where nothing is there yet: then nothing follows from it either.
 */
export function byDefault(inputs: Inputs, station: InputStation, part: PartSize | null): string[] {
  if (!part) return [];
  return SAID[station](inputs, part);
}

const FRESH = emptyInputs();

const SAID: Record<InputStation, (inputs: Inputs, part: PartSize) => string[]> = {
  part: ({ tool }) => [
    ...(!tool.opening && JSON.stringify(tool.placement) === JSON.stringify(FRESH.tool.placement)
      ? ['The mould opens along the Z axis of the file.']
      : []),
  ],
  resin: (inputs) =>
    inputs.resin === FRESH.resin
      ? [`${resolveResin(inputs)?.name ?? inputs.resin}, with which every project begins.`]
      : [],
  feed: ({ feed, cycle, vents = [] }) => [
    ...(feed ? [] : ['No runners: the melt comes to the gates as it leaves the nozzle.']),
    ...(cycle.venting === FRESH.cycle.venting && !vents.length ? ['Air leaves along the parting line.'] : []),
  ],
  cooling: (inputs, part) => {
    if (inputs.cooling || !resolveResin(inputs) || !resolveMachine(inputs, part)) return [];
    const { mouldTemperature } = resolveSettings(inputs, part);
    return [`No lines: the mould has ${format(mouldTemperature, '°C')} everywhere.`];
  },
  cycle: (inputs, part) => {
    const { cycle } = inputs;
    if (!resolveResin(inputs) || !resolveMachine(inputs, part)) return [];
    const settings = resolveSettings(inputs, part);
    // A charge is laid in, and what a fluid or the press packs has no pressure of the nozzle.
    const injects = !chargeOf(inputs.compression);
    const packs = !inputs.compression && (!inputs.core || inputs.core.fluid === 'melt') && inputs.upTo !== 'fill';
    const packing = packs && cycle.packing.by === 'constant' ? cycle.packing : null;
    const open = injects && cycle.injection.by === 'time' && cycle.injection.time === null;
    return [
      ...(cycle.machine === null ? [`${settings.machine.name}, the smallest machine that holds the shot.`] : []),
      ...(cycle.meltTemperature === null
        ? [`Melt of ${format(settings.meltTemperature, '°C')}, as the resin asks for.`]
        : []),
      ...(cycle.mouldTemperature === null
        ? [`Mould of ${format(settings.mouldTemperature, '°C')}, as the resin asks for.`]
        : []),
      ...(open
        ? [`Filled in ${format(settings.injectionTime, 's', 2)}: a fifth of the time in which the wall freezes.`]
        : []),
      ...(packing?.pressure === null ? ['Packed with the pressure of the family of the resin.'] : []),
      ...(packing?.time === null ? ['Packed until the gates have frozen.'] : []),
      ...(cycle.coolingTime === null && inputs.upTo !== 'fill' ? ['Cooled until the part can be ejected.'] : []),
    ];
  },
};
