import { hasFibres, volumeShare } from '../material/fibres/defaults';
import { instability } from '../material/fibres/stable';
import type { Resin } from '../model/resin';
import type { Inputs } from '../model/study';
import { fibresOf } from '../setup/fibres';
import type { Problem } from '../setup/problem';
import { format } from '../units/reader';
import { formatNumber } from '../units/units';

/** Softest plastic, over the modulus of what is made of it, between whose fibres the data can be meant. */
const SOFTEST = 0.02;

const SWITCH_OFF = 'set Fibres to “Alike all over”';

/** What is wrong with how fibres are followed. */
export function fibreProblems(inputs: Inputs, resin: Resin): Problem[] {
  const { filler } = resin;
  if (!filler || !hasFibres(resin)) return [];
  const fibres = fibresOf(inputs, resin);
  if (!fibres) return [];
  const problems: Problem[] = [];
  const add = (message: string, remedy: string) =>
    problems.push({ station: 'resin', target: 'fibres', message, remedy });
  const wrong = instability(fibres.model, fibres.closure);
  if (wrong)
    add(
      `The numbers of the fibres' interaction ${wrong}.`,
      `Take those of the resin, or look at their signs and sizes; or ${SWITCH_OFF}.`,
    );
  const { matrix, aspect } = fibres.aligned;
  if (!filler.matrix && !(matrix.young > SOFTEST * resin.elastic.E1))
    add(
      `${resin.name} has a modulus of ${format(resin.elastic.E1, 'GPa', 2)}: too little for ${formatNumber(100 * volumeShare(resin), 2)} % of its volume in fibres ${formatNumber(Math.max(aspect, 1 / aspect), 3)} times as long as thick.`,
      `Look at its modulus, share and length over diameter; or ${SWITCH_OFF}.`,
    );
  return problems;
}
