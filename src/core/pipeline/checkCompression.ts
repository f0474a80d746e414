import { closestPoint } from '../geometry/closestPoint';
import type { TriangleMesh } from '../geometry/mesh';
import { chargeOf } from '../model/compression';
import type { Inputs } from '../model/study';
import type { Problem } from '../setup/problem';
import type { PartSize } from '../setup/settings';
import { format } from '../units/reader';
import { formatNumber } from '../units/units';

/** A piece whose middle is farther from the surface than this share of the wall lies beside the part. */
const OFF_PART = 0.25;

/** What of a tool that closes on the melt can not be run, by the inputs alone. */
export function compressionProblems({ compression, core }: Inputs): Problem[] {
  if (!compression) return [];
  const found: Problem[] = [];
  const add = (message: string, remedy: string) =>
    found.push({ station: 'cycle', target: 'compression', message, remedy });
  if (core)
    add(
      'A fluid in the core and a tool that closes on the melt exclude each other.',
      'Choose "None" for one of them at the Cycle station.',
    );
  const charge = chargeOf(compression);
  if (charge && !charge.pieces.length)
    add(
      'No piece of melt lies in the open tool.',
      'Choose "Lay in a piece" at the Cycle station and click on the part, or let the melt come through the gates.',
    );
  return found;
}

/** Pieces of the charge that do not lie on the part. */
export function pieceProblems({ compression }: Inputs, mesh: TriangleMesh, { wall }: PartSize): Problem[] {
  return (chargeOf(compression)?.pieces ?? []).flatMap(({ id, position }): Problem[] => {
    const { distance } = closestPoint(mesh, position);
    if (distance <= OFF_PART * wall) return [];
    return [
      {
        station: 'cycle',
        target: id,
        message: `Piece ${id} of the charge is ${format(distance, 'mm')} off the part.`,
        remedy: 'Drag it onto the part or correct its coordinates.',
        place: position,
      },
    ];
  });
}

/** Why the open tool does not hold the melt that is meant for it; null: it does. `gap` in m, volumes in m3. */
export function doseProblem(
  { compression }: Inputs,
  gap: number,
  space: number,
  melt: number,
): { message: string; likely: string } | null {
  if (!compression) return null;
  const percent = formatNumber(100 * compression.dose, 3);
  if (compression.melt.by === 'charge') {
    if (gap > 0 && Number.isFinite(gap)) return null;
    return Number.isFinite(gap)
      ? {
          message: `A charge of ${percent} % of the cavity is flatter than the walls it lies in: the tool could not stand open on it.`,
          likely: 'Make its outline smaller, or lay in more melt.',
        }
      : {
          message: 'The charge lies on no wall that the tool closes on.',
          likely: 'Lay it on a wall that faces the opening direction, and look at that direction at the Part station.',
        };
  }
  if (melt < space) return null;
  return {
    message: `With a gap of ${format(gap, 'mm', 3)} the tool holds ${format(space, 'cm³', 3)}; ${percent} % of the cavity are ${format(melt, 'cm³', 3)}.`,
    likely: 'Open it wider, or inject less.',
  };
}
