import {
  FLAT,
  limitOf,
  STREAMS,
  TILTED,
  type Kind,
  type Lie,
  type Measured,
  type ReferenceCase,
  type Row,
} from './cases';
import * as cores from './cores';
import * as fibres from './fibres';
import * as formulas from './formulas';
import * as grid from './onGrid';
import * as moulds from './moulds';
import * as walls from './walls';

export { caseFileSchema, type ReferenceCase } from './cases';

const has = (c: ReferenceCase, key: string) => key in c.inputs;
const asks = (c: ReferenceCase, q: string) => c.expected.some((r) => r.q === q);

/** Kind of a case, by its number and by what it gives; `turns` where it depends on how the body lies in the grid. */
export function kindOf(c: ReferenceCase): { run: Kind; turns: boolean } | null {
  const plain = (run: Kind) => ({ run, turns: false });
  const turned = (run: Kind) => ({ run, turns: true });
  switch (c.case) {
    case 1:
      return plain(formulas.crossWlfPoints);
    case 2:
      return plain(formulas.taitPoints);
    case 3:
      return turned(grid.sections);
    case 4:
      return turned(grid.discPressure);
    case 5:
      if (has(c, 'visc')) return turned(walls.coldSlit);
      return turned(has(c, 'T_in') ? walls.graetz : walls.dissipation);
    case 6:
      return plain(has(c, 'A') ? walls.onBacking : walls.plate);
    case 7:
      // Latent heat at a sharp front has no case of its own in the columns.
      return has(c, 'latent') ? null : plain(walls.frozenSkin);
    case 8:
      return has(c, 'material') ? plain(formulas.packedStates) : turned(grid.closedSlit);
    case 9:
      return plain(has(c, 'segments') || has(c, 'branches') ? formulas.network : formulas.coolants);
    case 10:
      return plain(has(c, 'pitch') ? moulds.channelRow : moulds.mouldBlock);
    case 11:
      return plain(fibres.shearedFibres);
    case 12:
      return plain(fibres.fibreSolid);
    case 13:
      return plain(fibres.breakingFibres);
    case 14:
      return plain(asks(c, 'residual_stress') ? walls.solidifying : formulas.thermoelastic);
    case 15:
      return plain(formulas.airPocket);
    case 16:
      return has(c, 'prefill') ? turned(cores.shortShot) : plain(cores.films);
    case 17:
      return turned(grid.discForce);
    case 18:
      return plain(formulas.runnerBalance);
    case STREAMS:
      return turned(fibres.streams);
    default:
      return null;
  }
}

export interface Marked {
  row: Row;
  /** null where the kind is built but not this quantity. */
  measured: Measured | null;
  limit: number;
  pass: boolean;
}

export interface CaseResult {
  id: string;
  lie: string;
  /** Not built as a whole. */
  built: boolean;
  rows: Marked[];
  /** What went wrong, where the case could not be run. */
  error?: string;
}

async function runCase(c: ReferenceCase, lie: Lie, run: Kind): Promise<CaseResult> {
  try {
    const find = await run(c, lie);
    const rows = c.expected.map((row) => {
      const measured = find(row);
      const limit = limitOf(row);
      return { row, measured, limit, pass: measured !== null && Math.abs(measured.value - row.value) <= limit };
    });
    return { id: c.id, lie: lie.name, built: true, rows };
  } catch (error) {
    return { id: c.id, lie: lie.name, built: true, rows: [], error: (error as Error).message };
  }
}

/** All cases of a file, flat and, where how a body lies matters, at the given tilts. */
export async function runCases(
  cases: readonly ReferenceCase[],
  { turned }: { turned: boolean },
  report: (result: CaseResult) => void = () => {},
): Promise<CaseResult[]> {
  const results: CaseResult[] = [];
  for (const c of cases) {
    const kind = kindOf(c);
    const lies = turned && kind?.turns ? [FLAT, ...TILTED] : [FLAT];
    for (const lie of lies) {
      const result = kind ? await runCase(c, lie, kind.run) : { id: c.id, lie: lie.name, built: false, rows: [] };
      results.push(result);
      report(result);
    }
  }
  return results;
}

/** What can be read on by other programs: for every case the values in the order of its rows, null where there is none. */
export const valuesOf = (results: readonly CaseResult[]): Record<string, (number | null)[]> =>
  Object.fromEntries(
    results
      .filter((r) => r.lie === FLAT.name && r.built)
      .map((r) => [r.id, r.rows.map(({ measured }) => measured?.value ?? null)]),
  );
