import { closestPoint, type SurfacePoint } from '../geometry/closestPoint';
import { edgeTable } from '../geometry/edges';
import { measure, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { findShells } from '../geometry/shells';
import { cutCells } from '../grid/cutCells';
import { latticeOver } from '../grid/lattice';
import type { Finding } from '../geometry/finding';
import { chargeOf } from '../model/compression';
import { firstBackwards } from '../model/packing';
import { cavities, type Gate, type Inputs } from '../model/study';
import { format } from '../units/reader';

import { compressionProblems, pieceProblems } from './checkCompression';
import { coreProblems, needleProblems } from './checkCore';
import { clearanceProblems, coolingProblems } from './checkCooling';
import { checkFeed } from './checkFeed';
import { fibreProblems } from './checkFibres';
import { shapeProblems } from './checkShape';
import { meshWithCopies } from '../setup/copies';
import type { Problem } from '../setup/problem';
import {
  partSize,
  resolveMachine,
  resolveResin,
  resolveSettings,
  type FillSettings,
  type PartSize,
} from '../setup/settings';

export type { Problem } from '../setup/problem';

/** A gate farther from the surface than this share of the wall is off the part. */
export const OFF_PART = 0.25;
const SAME_SPOT = 1e-4;

/** What the page and the server know of the cavities together. */
export interface PartFacts extends PartSize {
  /** Findings that keep a cavity from being run. */
  blocking: { body: string; finding: Finding }[];
}

/** Problems that need only the inputs and the part's size; the page shows them before a run. */
export function checkInputs(inputs: Inputs, part: PartSize | PartFacts | null): Problem[] {
  const problems: Problem[] = [];
  const add = (station: Problem['station'], target: string, message: string, remedy: string) =>
    problems.push({ station, target, message, remedy });
  if (!inputs.bodies.length) add('part', 'part', 'There is no part yet.', 'Bring in a file at the Part station.');
  else if (!cavities(inputs).length || !part)
    add('part', 'roles', 'No body is a cavity.', 'Give the body to be moulded the role Cavity at the Part station.');
  if (part && 'blocking' in part)
    for (const { body, finding } of part.blocking) add('part', body, `${body}: ${finding.message}`, finding.remedy);
  if (part) problems.push(...unitProblems(part));
  const resin = resolveResin(inputs);
  if (!resin)
    add(
      'resin',
      'resin',
      `The resin "${String(inputs.resin)}" is not in the library.`,
      'Choose a resin from the list.',
    );
  if (resin) problems.push(...fibreProblems(inputs, resin));
  if (inputs.gates.length === 0 && !chargeOf(inputs.compression))
    add('feed', 'gates', 'There is no gate.', 'Choose "Place gate" at the Feed station and click on the part.');
  sameSpots(inputs.gates).forEach(([a, b]) =>
    add('feed', b, `Gates ${a} and ${b} sit on the same spot.`, 'Move or delete one of them.'),
  );
  problems.push(
    ...checkFeed(inputs),
    ...coreProblems(inputs),
    ...compressionProblems(inputs),
    ...coolingProblems(inputs),
  );
  const machine = part ? resolveMachine(inputs, part) : undefined;
  if (part && !machine)
    add(
      'cycle',
      'machine',
      `The machine "${String(inputs.cycle.machine)}" is not in the library.`,
      'Choose a machine from the list.',
    );
  if (!resin || !part || !machine) return problems;
  checkCycle(inputs, resolveSettings(inputs, part), add);
  return problems;
}

/** Walls and volumes of moulded parts, m and m3: beyond them the unit is wrong far more often than the part is odd. */
const WALLS = { least: 5e-5, most: 0.15 };
const VOLUMES = { least: 1e-12, most: 0.2 };

function unitProblems({ volume, wall }: PartSize): Problem[] {
  const small = wall < WALLS.least || volume < VOLUMES.least;
  const large = wall > WALLS.most || volume > VOLUMES.most;
  if (!small && !large) return [];
  return [
    {
      station: 'part',
      target: 'part',
      message:
        `The part has walls of about ${format(wall, 'mm', 2)} and ${format(volume, 'cm³', 2)}: ` +
        `${large ? 'larger' : 'smaller'} than what is moulded. Its unit is probably wrong.`,
      remedy: `Bring it in again with ${large ? 'a smaller' : 'a larger'} unit.`,
    },
  ];
}

function checkCycle(
  inputs: Inputs,
  settings: FillSettings,
  add: (station: Problem['station'], target: string, message: string, remedy: string) => void,
): void {
  const { resin, machine } = settings;
  const celsius = (t: number) => format(t, '°C');
  if (settings.meltTemperature <= resin.noFlowTemperature)
    add(
      'cycle',
      'meltTemperature',
      `A melt of ${celsius(settings.meltTemperature)} does not flow: ${resin.name} stops flowing at ${celsius(resin.noFlowTemperature)}.`,
      `Set it between ${celsius(resin.melt.min)} and ${celsius(resin.melt.max)}.`,
    );
  for (const [target, value] of [
    ['mouldTemperature', settings.mouldTemperature],
    ['lowerMouldTemperature', settings.lowerMouldTemperature],
  ] as const)
    if (
      value >= resin.noFlowTemperature &&
      (target === 'mouldTemperature' || inputs.cycle.lowerMouldTemperature !== null)
    )
      add(
        'cycle',
        target,
        `In a mould of ${celsius(value)} the melt would never freeze.`,
        `Set it between ${celsius(resin.mould.min)} and ${celsius(resin.mould.max)}.`,
      );
  if (!(settings.pressureLimit > 0))
    add('cycle', 'pressureLimit', 'The pressure limit is zero: nothing would flow.', 'Set the limit of the machine.');
  if (settings.shotVolume > machine.shotVolume)
    add(
      'cycle',
      'machine',
      `${machine.name} holds ${format(machine.shotVolume, 'cm³')} of melt, the shot needs ${format(settings.shotVolume, 'cm³')}.`,
      'Choose a larger machine.',
    );
  const force = inputs.compression?.force ?? 0;
  if (force > machine.clampForce)
    add(
      'cycle',
      'compression',
      `The press would close with ${format(force, 'kN', 3)}, ${machine.name} has ${format(machine.clampForce, 'kN', 3)}.`,
      'Lower the force, or choose a larger machine.',
    );
  const { packing } = inputs.cycle;
  const backwards = packing.by === 'profile' ? firstBackwards(packing.points) : null;
  if (packing.by === 'profile' && backwards !== null)
    add(
      'cycle',
      'packing',
      `The packing profile goes back in time: point ${backwards + 1} at ${format(packing.points[backwards].at, 's')} ` +
        `comes after one at ${format(packing.points[backwards - 1].at, 's')}.`,
      'Give the points ascending times.',
    );
  const highest = settings.packing.as === 'pressure' ? Math.max(...settings.packing.points.map((p) => p.value)) : 0;
  if (highest > settings.pressureLimit)
    add(
      'cycle',
      'packing',
      `The packing pressure of ${format(highest, 'MPa')} is above the limit of ${format(settings.pressureLimit, 'MPa')}.`,
      'Lower it, or choose a machine with more pressure.',
    );
}

function sameSpots(gates: readonly Gate[]): [string, string][] {
  const pairs: [string, string][] = [];
  gates.forEach((a, i) => {
    for (const b of gates.slice(i + 1)) {
      if (Math.hypot(...a.position.map((x, d) => x - b.position[d])) < SAME_SPOT) pairs.push([a.id, b.id]);
    }
  });
  return pairs;
}

/** All problems, gates held against the surface, with the gates' surface points when there is none. */
export function checkRun(
  inputs: Inputs,
  mesh: TriangleMesh,
  /** One of several shots: what holds the whole part is looked at elsewhere. */
  amongOthers = false,
): { problems: Problem[]; surfaces: SurfacePoint[] } {
  const part = partSize(mesh);
  const problems = [
    ...checkInputs(inputs, part),
    ...clearanceProblems(inputs, meshWithCopies(mesh, inputs)),
    ...(amongOthers ? [] : shapeProblems(inputs, mesh, part.wall)),
  ];
  problems.push(...overlapProblems(mesh, part.wall));
  const surfaces = inputs.gates.map((gate) => {
    const surface = closestPoint(mesh, gate.position);
    if (surface.distance > OFF_PART * part.wall)
      problems.push({
        station: 'feed',
        target: gate.id,
        message: `Gate ${gate.id} is ${format(surface.distance, 'mm')} off the part.`,
        remedy: 'Drag it onto the surface or correct its coordinates.',
        place: gate.position,
      });
    return surface;
  });
  problems.push(...needleProblems(inputs, mesh, part), ...pieceProblems(inputs, mesh, part));
  if (!problems.length) problems.push(...looseGateProblems(inputs, mesh, surfaces));
  return { problems, surfaces };
}

/** Cells of half the nominal wall that overlaps are looked for with, at most so many: those inside are full twice. */
const MOST_CELLS = 4e5;
/** Share of the volume that may lie in overlaps: what rounding of a file makes. */
const OVERLAP = 1e-6;

/** Space that a surface encloses twice, m3, and a place in it; null: none. `wall` says how finely it is looked for, m. */
export function overlapsIn(mesh: TriangleMesh, wall: number): { volume: number; place: Vec3 } | null {
  let lattice = latticeOver(mesh, wall / 2);
  while (lattice.nx * lattice.ny * lattice.nz > MOST_CELLS) lattice = latticeOver(mesh, 1.5 * lattice.spacing);
  const { doubled } = cutCells(mesh, lattice);
  const { nx, ny, spacing, origin } = lattice;
  const volume = doubled.volume * spacing ** 3;
  if (!(volume > 0)) return null;
  const { cell } = doubled;
  const at = [cell % nx, Math.floor(cell / nx) % ny, Math.floor(cell / (nx * ny))];
  return { volume, place: at.map((i, d) => origin[d] + (i + 0.5) * spacing) as Vec3 };
}

/** Where the surface encloses the same space twice: volumes, weight and flow would all be wrong. */
function overlapProblems(mesh: TriangleMesh, wall: number): Problem[] {
  const found = overlapsIn(mesh, wall);
  if (!found || !(found.volume > OVERLAP * Math.abs(measure(mesh).volume))) return [];
  return [
    {
      station: 'part',
      target: 'part',
      message: `Bodies or pieces of the part overlap: at least ${format(found.volume, 'cm³', 2)} is enclosed twice.`,
      remedy: 'Join them at the Part station, or leave one out.',
      place: found.place,
    },
  ];
}

/** Every gate on small pieces while the largest has none: a part that stays empty. */
function looseGateProblems(inputs: Inputs, mesh: TriangleMesh, surfaces: readonly SurfacePoint[]): Problem[] {
  const shells = findShells(mesh, edgeTable(mesh)).filter((s) => s.volume > 0);
  if (shells.length < 2 || !surfaces.length) return [];
  const pieceOf = new Map<number, number>();
  shells.forEach((s, k) => s.triangles.forEach((t) => pieceOf.set(t, k)));
  const total = shells.reduce((s, x) => s + x.volume, 0);
  const most = Math.max(...shells.map((s) => s.volume));
  const gated = surfaces.map(({ triangle }) => shells[pieceOf.get(triangle) ?? -1]);
  // Inner skins of hollow bodies belong to no piece of their own.
  if (gated.some((s) => !s || s.volume > 0.999 * most)) return [];
  const [first] = inputs.gates;
  return [
    {
      station: 'feed',
      target: first.id,
      message:
        `The part is in ${shells.length} pieces, and gate ${first.id} sits on one of ${Math.round((100 * gated[0].volume) / total)} % ` +
        'of the volume: the largest piece has no gate and would stay empty.',
      remedy: 'Move the gate to the largest piece, or leave out the loose one at the Part station.',
      place: first.position,
    },
  ];
}
