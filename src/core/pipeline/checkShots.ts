import type { SurfacePoint } from '../geometry/closestPoint';
import { measure, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { joined } from '../geometry/shells';
import { SurfaceTree } from '../geometry/surfaceTree';
import { dot, vertexAt } from '../geometry/vec';
import { insertChoice } from '../model/shots';
import { mouldedInserts, nCopies, type Inputs } from '../model/study';
import { mapSurface, type MapSurface } from '../partmaps/surface';
import { solvedOnce } from '../setup/feedOf';
import { insertMaterial } from '../setup/insertMaterial';
import type { Problem } from '../setup/problem';
import { partSize, resolveSettings } from '../setup/settings';
import { meltThermal } from '../material/properties';
import { format } from '../units/reader';
import { needlesOnInserts } from './checkCore';
import { checkRun, overlapsIn } from './checkRun';
import { shapeProblems } from './checkShape';

/** A shot of a study with the surface that it fills. */
export interface ShotSurfaces {
  /** From 1. */
  number: number;
  /** As this shot. */
  inputs: Inputs;
  mesh: TriangleMesh;
  /** Names the surface. */
  key: string;
}

/** Bodies that are meant to touch may be this far apart, over the wall, and never less than, m. */
const GAP = 0.02;
const LEAST_GAP = 2e-5;
/** Faces that look at each other from nearer than this share of the wall are meant to touch. */
const MEANT = 0.5;
/** Share of all volume that bodies may have in common: what different facets of one curved face make. */
const SHARED = 1e-3;

/** All problems of all shots and inserts, and the gates of every shot held against its surface. */
export function checkShots(
  whole: Inputs,
  shots: readonly ShotSurfaces[],
  bodies: ReadonlyMap<string, TriangleMesh>,
): { problems: Problem[]; surfaces: SurfacePoint[][] } {
  const problems: Problem[] = [];
  const surfaces: SurfacePoint[][] = [];
  const several = shots.length > 1;
  for (const { number, inputs, mesh } of shots) {
    if (number > 1 && !mesh.triangles.length) {
      surfaces.push([]);
      problems.push({
        station: 'part',
        target: 'roles',
        message: `Shot ${number} has no body to fill.`,
        remedy: `Give a body to shot ${number} at the Part station.`,
      });
      continue;
    }
    const checked = checkRun(inputs, mesh, several);
    surfaces.push(checked.surfaces);
    problems.push(...(several ? checked.problems.map((p) => ofShot(p, number)) : checked.problems));
  }
  if (problems.length) return { problems, surfaces };
  const wall = Math.min(...shots.map((s) => partSize(s.mesh).wall));
  const inserts = mouldedInserts(whole);
  problems.push(...insertProblems(whole, shots, bodies));
  for (const { inputs } of shots) problems.push(...needlesOnInserts(inputs, bodies));
  if (several || inserts.length) {
    problems.push(...copyProblems(whole));
    const all = [
      ...shots.map((s) => ({ name: several ? `shot ${s.number}` : 'the part', mesh: s.mesh })),
      ...inserts.flatMap((b) => {
        const mesh = bodies.get(b.id);
        return mesh ? [{ name: `insert “${b.name}”`, mesh }] : [];
      }),
    ];
    problems.push(...sharedProblems(all, wall));
    if (!problems.length) problems.push(...touchProblems(all, shots.length, wall));
  }
  if (several) problems.push(...shapeProblems(whole, joined(shots.map((s) => s.mesh)), wall));
  return { problems, surfaces };
}

/** A problem of one of several shots. */
export const ofShot = (problem: Problem, shot: number): Problem => ({
  ...problem,
  shot,
  message: `Shot ${shot}: ${problem.message}`,
});

function copyProblems(whole: Inputs): Problem[] {
  if (nCopies(whole) === 1 || solvedOnce(whole)) return [];
  return [
    {
      station: 'feed',
      target: 'cavities',
      message: 'Copies that are filled one by one can not have inserts or later shots.',
      remedy: 'Feed all copies alike, so that one stands for all, or take the copies away.',
    },
  ];
}

function insertProblems(
  whole: Inputs,
  shots: readonly ShotSurfaces[],
  bodies: ReadonlyMap<string, TriangleMesh>,
): Problem[] {
  const unknown = (whole.inserts ?? []).filter(({ id }) => !whole.bodies.some((b) => b.id === id));
  if (unknown.length)
    return unknown.map(({ id }) => ({
      station: 'part',
      target: id,
      message: `The insert “${id}” is none of the bodies.`,
      remedy: 'Choose a body that is there, or take the insert away.',
    }));
  return mouldedInserts(whole).flatMap(({ id, name }): Problem[] => {
    const choice = insertChoice(whole, id);
    const problem = (message: string, remedy: string): Problem[] => [{ station: 'part', target: id, message, remedy }];
    const material = insertMaterial(choice.material);
    if (!material)
      return problem(
        `The material “${String(choice.material)}” of insert “${name}” is not in the library.`,
        'Choose one from the list.',
      );
    if (!bodies.has(id)) return problem(`The surface of insert “${name}” is not there.`, 'Bring the body in again.');
    if (material.softens === null) return [];
    for (const { inputs, mesh } of shots) {
      const { resin, meltTemperature, mouldTemperature } = resolveSettings(inputs, partSize(mesh));
      const met = contactTemperature(
        meltThermal(resin, meltTemperature),
        meltTemperature,
        material.thermal,
        choice.temperature ?? mouldTemperature,
      );
      if (met > material.softens)
        return problem(
          `Insert “${name}” of ${material.name} would melt: the melt brings its face to ${format(met, '°C', 3)}, and it ` +
            `softens at ${format(material.softens, '°C', 3)}.`,
          'Choose a material that stands the heat, a colder melt, or mould it as a shot before.',
        );
    }
    return [];
  });
}

interface Conducting {
  conductivity: number;
  density: number;
  specificHeat: number;
}

/** Temperature of the face between two half spaces (Carslaw & Jaeger, Conduction of Heat in Solids, 2.15), K. */
export function contactTemperature(a: Conducting, Ta: number, b: Conducting, Tb: number): number {
  const effusivity = (m: Conducting) => Math.sqrt(m.conductivity * m.density * m.specificHeat);
  const [ea, eb] = [effusivity(a), effusivity(b)];
  return (ea * Ta + eb * Tb) / (ea + eb);
}

interface Named {
  name: string;
  mesh: TriangleMesh;
}

/** Bodies that share space: what each of them holds would count twice. */
function sharedProblems(all: readonly Named[], wall: number): Problem[] {
  const found = overlapsIn(joined(all.map((b) => b.mesh)), wall);
  const total = all.reduce((s, b) => s + Math.abs(measure(b.mesh).volume), 0);
  if (!found || !(found.volume > SHARED * total)) return [];
  const there = all.filter((b) => new SurfaceTree(b.mesh).inside(...found.place)).map((b) => b.name);
  const names = there.length > 1 ? listed(there) : 'Bodies';
  return [
    {
      station: 'part',
      target: 'part',
      message: `${names.charAt(0).toUpperCase()}${names.slice(1)} share space: at least ${format(found.volume, 'cm³', 2)}.`,
      remedy: 'Cut one out of the other in the drawing, or leave one of them out.',
      place: found.place,
    },
  ];
}

const listed = (names: readonly string[]): string =>
  names.length < 2 ? names.join() : `${names.slice(0, -1).join(', ')} and ${names[names.length - 1]}`;

/** Shots and inserts that touch nothing of what they belong to, or with a gap that is not meant. */
function touchProblems(all: readonly Named[], nShots: number, wall: number): Problem[] {
  const problems: Problem[] = [];
  const near = Math.max(LEAST_GAP, GAP * wall);
  for (let k = 1; k < all.length; k++) {
    const others = k < nShots ? all.slice(0, k) : all.slice(0, nShots);
    const { touched, apart, place, gap } = between(all[k].mesh, others, near, MEANT * wall);
    if (touched > apart && touched > 0) continue;
    const what = k < nShots ? 'the shots before it' : 'the plastic';
    problems.push({
      station: 'part',
      target: 'part',
      message: apart
        ? `Between ${all[k].name} and ${what} there is a gap of ${format(gap, 'mm', 2)}: melt would not meet it.`
        : `${all[k].name.charAt(0).toUpperCase()}${all[k].name.slice(1)} touches nothing of ${what}.`,
      remedy: 'Move it so that the faces lie against each other, or give its body another role.',
      ...(place ? { place } : {}),
    });
  }
  return problems;
}

/** Area [m2] of a body that touches others, and that looks at them over a gap; the widest such gap and where it is. */
function between(mesh: TriangleMesh, others: readonly Named[], near: number, far: number) {
  const surface: MapSurface = mapSurface(mesh, 4 * far);
  const trees = others.map((o) => ({ tree: new SurfaceTree(o.mesh), mesh: o.mesh }));
  let [touched, apart, gap] = [0, 0, 0];
  let place: Vec3 | null = null;
  for (let f = 0; f < surface.n; f++) {
    const at = vertexAt(surface.centroids, f);
    const normal = vertexAt(surface.normals, f);
    let best = Infinity;
    for (const { tree, mesh: other } of trees) {
      const hit = tree.closest(...at, Math.min(far, best));
      if (hit >= 0 && dot(normal, normalOf(other, hit)) < -0.8) best = tree.distance;
    }
    if (best <= near) touched += surface.areas[f];
    else if (best < far) {
      apart += surface.areas[f];
      if (best > gap) [gap, place] = [best, at];
    }
  }
  return { touched, apart, gap, place };
}

function normalOf({ positions: p, triangles: t }: TriangleMesh, triangle: number): Vec3 {
  const [a, b, c] = [0, 1, 2].map((k) => vertexAt(p, t[3 * triangle + k]));
  const u = b.map((x, d) => x - a[d]);
  const v = c.map((x, d) => x - a[d]);
  const n: Vec3 = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
  const length = Math.hypot(...n) || 1;
  return n.map((x) => x / length) as Vec3;
}
