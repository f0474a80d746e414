import { closestPoint } from '../geometry/closestPoint';
import type { TriangleMesh, Vec3 } from '../geometry/mesh';
import { SurfaceTree } from '../geometry/surfaceTree';
import { resinById } from '../material/library';
import { ATMOSPHERE } from '../material/air';
import { insertChoice } from '../model/shots';
import { mouldedInserts, type Inputs } from '../model/study';
import { NOTHING_LEFT, skinEstimate } from '../results/coreEstimate';
import type { Problem } from '../setup/problem';
import type { FillSettings, PartSize } from '../setup/settings';
import { format } from '../units/reader';
import { formatNumber } from '../units/units';

/** A needle farther from the surface than this share of the wall is off the part; as near to an insert it sits on that. */
const OFF_PART = 0.25;
const ON_INSERT = 2e-5;
/** A wall below this share of the nominal one is thin for a needle: what comes out of it stays there. */
const THIN = 0.6;

/** What of a fluid in the core can not be run, by the inputs alone. */
export function coreProblems({ core, tabs, gates, feed }: Inputs): Problem[] {
  if (!core) return [];
  const problem = (station: Problem['station'], target: string, message: string, remedy: string): Problem => ({
    station,
    target,
    message,
    remedy,
  });
  const named = core.fluid === 'melt' && typeof core.second?.resin === 'string' ? core.second.resin : null;
  if (named !== null && !resinById(named))
    return [
      problem('cycle', 'core', `The second resin "${named}" is not in the library.`, 'Choose a resin from the list.'),
    ];
  const found: Problem[] = [];
  const own = core.fluid === 'melt' ? core.second?.gate : undefined;
  if (own !== undefined && !gates.some((g) => g.id === own))
    found.push(
      problem('cycle', 'core', `The second melt comes through gate ${own}, which is gone.`, 'Choose a gate for it.'),
    );
  else if (own !== undefined && gates.length < 2)
    found.push(
      problem(
        'feed',
        own,
        `Gate ${own} is the second melt's alone: the first has none.`,
        'Place another gate, or let both melts come the same way.',
      ),
    );
  if (own !== undefined && feed)
    found.push(
      problem(
        'cycle',
        'core',
        'Runners belong to one melt: the second one can not have a gate of its own on them.',
        'Take the runners out, or let both melts come the same way.',
      ),
    );
  if (core.fluid !== 'melt' && core.through === 'needles' && !core.needles.length)
    found.push(
      problem(
        'feed',
        'needles',
        'No needle lets the fluid into the core.',
        'Choose "Place needle" at the Feed station and click on the part, or let it come through the nozzle.',
      ),
    );
  if (core.melt.by === 'share' && core.melt.share > NOTHING_LEFT && !tabs?.some((t) => t.opens === 'core'))
    found.push(
      problem(
        'cycle',
        'core',
        `Melt to ${formatNumber(100 * core.melt.share, 3)} % leaves the fluid nothing to displace.`,
        'End the melt earlier, or give the part an overflow tab whose valve opens for what is displaced.',
      ),
    );
  if (core.fluid === 'melt') return found;
  const { drive } = core;
  const most =
    drive.by === 'pressure'
      ? drive.pressure
      : drive.by === 'volume'
        ? drive.most
        : Math.max(...drive.points.map((p) => p.pressure));
  if (!(most > ATMOSPHERE))
    found.push(
      problem(
        'cycle',
        'core',
        `${format(most, 'MPa', 2)} in the core is no more than the cavity has from its air: nothing would move.`,
        'Set a pressure of some MPa.',
      ),
    );
  return found;
}

/** Needles that are not where the part is. */
export function needleProblems({ core }: Inputs, mesh: TriangleMesh, { wall }: PartSize): Problem[] {
  if (core?.through !== 'needles' || core.fluid === 'melt') return [];
  return core.needles.flatMap(({ id, position }): Problem[] => {
    const { distance } = closestPoint(mesh, position);
    if (distance <= OFF_PART * wall) return [];
    return [
      {
        station: 'feed',
        target: id,
        message: `Needle ${id} is ${format(distance, 'mm')} off the part.`,
        remedy: 'Drag it onto the surface or correct its coordinates.',
        place: position,
      },
    ];
  });
}

/** Needles that open into an insert. */
export function needlesOnInserts(inputs: Inputs, bodies: ReadonlyMap<string, TriangleMesh>): Problem[] {
  const { core } = inputs;
  if (core?.through !== 'needles' || core.fluid === 'melt') return [];
  return mouldedInserts(inputs).flatMap(({ id: body, name }) => {
    const mesh = bodies.get(body);
    if (!mesh || !insertChoice(inputs, body)) return [];
    return core.needles.flatMap(({ id, position }): Problem[] => {
      if (closestPoint(mesh, position).distance > ON_INSERT) return [];
      return [
        {
          station: 'feed',
          target: id,
          message: `Needle ${id} sits on the insert “${name}”: there is no melt behind it.`,
          remedy: 'Drag it to where the melt meets the mould.',
          place: position,
        },
      ];
    });
  });
}

/** What is worth a look before a run and does not keep from one. */
export function coreNotes({ core }: Inputs, settings: FillSettings, mesh: TriangleMesh | null, wall: number): string[] {
  if (!core || core.fluid === 'melt') return [];
  const notes: string[] = [];
  const { slit, round } = skinEstimate(settings.resin);
  const percent = (x: number) => `${formatNumber(100 * x, 2)} %`;
  if (core.melt.by === 'share' && core.melt.share < round)
    notes.push(
      `A round section keeps ${percent(round)} of its melt as skin, a wide wall ${percent(slit)}, and what freezes first besides: ` +
        `with melt to ${percent(core.melt.share)} the fluid is likely to break through.`,
    );
  if (core.melt.by === 'share' && core.melt.share > 1 - THICK_LEFT * (1 - round))
    notes.push(
      `Melt to ${percent(core.melt.share)} leaves room for a short core only: about ${percent((1 - core.melt.share) / (1 - round))} of a thick part.`,
    );
  if (core.through === 'needles' && mesh)
    for (const { id, position } of core.needles) {
      const there = wallBehind(mesh, position);
      if (there < THIN * wall)
        notes.push(
          `Needle ${id} opens into a wall of ${format(there, 'mm', 2)}, the part has ${format(wall, 'mm', 2)}: the core may not leave it.`,
        );
    }
  if (core.drive.by === 'pressure' && core.delay + core.drive.rise > settings.freezeTime)
    notes.push('The nominal wall is frozen before the fluid has its pressure.');
  return notes;
}

/** A core that is less than this share of what it could be is short. */
const THICK_LEFT = 0.25;

/** Wall behind a place of the surface, square to it, m; Infinity where nothing lies behind. */
function wallBehind(mesh: TriangleMesh, position: readonly number[]): number {
  const { point, normal, triangle } = closestPoint(mesh, position as Vec3);
  const tree = new SurfaceTree(mesh);
  const hit = tree.ray(...point, -normal[0], -normal[1], -normal[2], 0, Infinity, false, triangle);
  return hit < 0 ? Infinity : tree.distance;
}
