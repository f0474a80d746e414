import { mendBody } from '../cad/mendBody';
import { combine, projectedArea, sharedVolume } from '../cad/solids';
import { packArrays } from '../core/formats/arrays';
import { FormatError } from '../core/formats/formatError';
import { traceAxis } from '../core/partmaps/axisTrace';
import { inspect } from '../core/geometry/check';
import { placeOf } from '../core/geometry/finding';
import { edgeTable } from '../core/geometry/edges';
import { findFeatures, removeFeatures } from '../core/geometry/features';
import { identicalBodies } from '../core/geometry/identical';
import { isClosed } from '../core/geometry/mend';
import { boundsOf, type Bounds, type TriangleMesh } from '../core/geometry/mesh';
import { findShells, joined, subMesh } from '../core/geometry/shells';
import { fitStandIn, standInMesh, standInVolume } from '../core/model/standIn';
import { openingOf } from '../core/model/body';
import type { GeometryResults, GeometryTask, Size, TaskName } from '../core/model/geometryTask';
import { drawable } from '../core/partmaps/drawable';
import { MAP_IDS } from '../core/partmaps/mapKinds';
import { partMaps } from '../core/partmaps/maps';
import { openingChoices } from '../core/partmaps/moulding';
import { rulesWith } from '../core/partmaps/rules';
import { mapSurface } from '../core/partmaps/surface';
import { placedMesh } from '../core/geometry/placement';

/** Where surfaces come from and go to, and how far the work is. */
export interface GeometryStore {
  load(hash: string): TriangleMesh;
  /** Checks and keeps a surface; returns its hash. */
  save(mesh: TriangleMesh): string;
  /** Keeps a blob under a name that follows from the task. */
  keep(task: GeometryTask, bytes: Uint8Array): string;
  report(fraction: number, message: string): void;
}

type Handlers = {
  [K in TaskName]: (task: Extract<GeometryTask, { do: K }>, store: GeometryStore) => Promise<GeometryResults[K]>;
};

const sizeOf = (mesh: TriangleMesh): Size => {
  const { volume, area, nTriangles } = inspect(mesh);
  return { volume, area, nTriangles };
};

/** A refusal: what is wrong and what to do. */
const refuse = (message: string, remedy: string) => new FormatError(message, remedy);

const HANDLERS: Handlers = {
  async mend({ bodies }, store) {
    const out: GeometryResults['mend']['bodies'] = [];
    for (const [i, body] of bodies.entries()) {
      store.report(i / bodies.length, `Mending ${i + 1} of ${bodies.length}`);
      const before = store.load(body.mesh);
      const { mesh: after, done, left } = await mendBody(before);
      out.push({ id: body.id, mesh: store.save(after), done, before: sizeOf(before), after: sizeOf(after), left });
    }
    return { bodies: out };
  },

  async turn({ bodies, matrix }, store) {
    const turned = new Map<string, string>();
    for (const { mesh } of bodies)
      if (!turned.has(mesh)) turned.set(mesh, store.save(placedMesh(store.load(mesh), matrix)));
    return { bodies: bodies.map(({ id, mesh }) => ({ id, mesh: turned.get(mesh)! })) };
  },

  async fit({ body, shape, axis }, store) {
    const standIn = fitStandIn(store.load(body.mesh), shape, axis);
    return { standIn, volume: standInVolume(standIn) };
  },

  async 'stand-in'({ bodies }, store) {
    return { bodies: bodies.map(({ id, standIn }) => ({ id, mesh: store.save(standInMesh(standIn)) })) };
  },

  async identical({ bodies }, store) {
    store.report(0.1, `Comparing ${bodies.length} bodies`);
    const groups = identicalBodies(bodies.map((b) => store.load(b.mesh)));
    return { groups: groups.map((g) => ({ ids: g.members.map((i) => bodies[i].id), moves: g.moves })) };
  },

  async overlaps({ bodies }, store) {
    const meshes = bodies.map((b) => store.load(b.mesh));
    const boxes = meshes.map((m) => boundsOf(m.positions));
    const closed = meshes.map(isClosed);
    const pairs: GeometryResults['overlaps']['pairs'] = [];
    for (let i = 0; i < bodies.length; i++) {
      store.report(i / bodies.length, 'Looking for overlaps');
      for (let j = i + 1; j < bodies.length; j++) {
        const common = meeting(boxes[i], boxes[j]);
        if (!common || !closed[i] || !closed[j]) continue;
        const volume = (await sharedVolume(meshes[i], meshes[j])) ?? 0;
        const smaller = Math.min(sizeOf(meshes[i]).volume, sizeOf(meshes[j]).volume);
        // Bodies that only touch share rounding: less than a millionth.
        if (volume > 1e-6 * smaller) pairs.push({ a: bodies[i].id, b: bodies[j].id, volume, place: placeOf(common) });
      }
    }
    pairs.sort((p, q) => q.volume - p.volume);
    return { pairs, notClosed: bodies.filter((_, i) => !closed[i]).map((b) => b.id) };
  },

  async combine({ a, b, how }, store) {
    const mesh = await combine(store.load(a.mesh), store.load(b.mesh), how);
    if (!mesh)
      throw refuse(
        'These bodies cannot be combined: one of them is not closed, or nothing would be left.',
        'Mend both bodies first.',
      );
    return { mesh: store.save(mesh) };
  },

  async split({ body }, store) {
    const mesh = store.load(body.mesh);
    const shells = findShells(mesh, edgeTable(mesh));
    // A hollow stays with the piece around it.
    const root = (i: number): number => (shells[i].inside < 0 ? i : root(shells[i].inside));
    const groups = new Map<number, number[]>();
    shells.forEach((s, i) => groups.set(root(i), [...(groups.get(root(i)) ?? []), ...s.triangles]));
    if (groups.size < 2) throw refuse('This body is in one piece.', 'There is nothing to split.');
    return { meshes: [...groups.values()].map((list) => store.save(subMesh(mesh, list))) };
  },

  async features({ body, limit }, store) {
    const features = findFeatures(store.load(body.mesh), limit);
    return {
      features: features.map(({ triangles, fillet: _fillet, ...f }) => ({ ...f, nTriangles: triangles.length })),
    };
  },

  async 'remove-features'({ body, limit, features }, store) {
    const mesh = store.load(body.mesh);
    const chosen = findFeatures(mesh, limit).filter((f) => features.includes(f.id));
    const result = chosen.length ? removeFeatures(mesh, chosen) : null;
    if (!result)
      throw refuse('These features cannot be removed together.', 'Remove them one by one, or choose a smaller limit.');
    return { mesh: store.save(result), removed: chosen.length };
  },

  async trace({ body }, store) {
    store.report(0.1, 'Following the channel');
    const axis = traceAxis(store.load(body.mesh));
    if (!axis)
      throw refuse(
        'No centre line was found: the body is not a long round channel.',
        'Choose a solid body shaped like a drilled line or a runner.',
      );
    return axis;
  },

  async maps(task, store) {
    const mesh = cavityOf(task.bodies, store);
    const maps = partMaps(
      {
        mesh,
        opening: openingOf(task),
        partingHeight: task.partingHeight,
        gates: task.gates,
        rules: rulesWith(task.rules),
      },
      (fraction, message) => store.report(fraction, message),
    );
    const { positions, corner } = drawable(maps);
    const arrays: Record<string, Float32Array> = { positions, areas: Float32Array.from(maps.surface.areas) };
    for (const id of MAP_IDS) {
      arrays[id] = corner(id);
      arrays[`${id}.facets`] = Float32Array.from(maps.values[id]);
    }
    const { surface: _surface, values: _values, ...numbers } = maps;
    const shadow = await projectedArea(
      task.bodies.map((b) => store.load(b.mesh)),
      openingOf(task),
    );
    const key = store.keep(task, packArrays({ nFacets: maps.surface.n }, arrays));
    return { key, ...numbers, projectedArea: shadow };
  },

  async openings({ bodies }, store) {
    const mesh = cavityOf(bodies, store);
    const surface = mapSurface(mesh, Infinity);
    return { choices: openingChoices(surface).slice(0, 4), area: inspect(mesh).area };
  },
};

function cavityOf(bodies: { mesh: string }[], store: GeometryStore): TriangleMesh {
  const meshes = bodies.map((b) => store.load(b.mesh));
  if (!meshes.every(isClosed))
    throw refuse('The surface is not closed: wall thickness cannot be measured.', 'Mend the body first.');
  return joined(meshes);
}

function meeting(a: Bounds, b: Bounds): Bounds | null {
  const min = a.min.map((x, d) => Math.max(x, b.min[d])) as Bounds['min'];
  const max = a.max.map((x, d) => Math.min(x, b.max[d])) as Bounds['max'];
  return min.every((x, d) => x < max[d]) ? { min, max } : null;
}

/** Does the task. Throws FormatError where it cannot be done, with what to do instead. */
export function performTask<K extends TaskName>(
  task: Extract<GeometryTask, { do: K }>,
  store: GeometryStore,
): Promise<GeometryResults[K]> {
  return (HANDLERS[task.do] as Handlers[K])(task, store);
}
