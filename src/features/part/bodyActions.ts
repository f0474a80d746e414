import { toast } from 'sonner';
import type { Vec3 } from '@/core/geometry/mesh';
import { movedStandIn } from '@/core/model/standIn';
import { freshBodyId, type Body, type Role, ROLE_LABELS, type StandIn } from '@/core/model/body';
import { withShotsOf } from '@/core/model/shots';
import type { Inputs } from '@/core/model/study';
import { placed } from '@/core/geometry/placement';
import { after } from '@/core/geometry/placement';
import { format } from '@/core/units/reader';
import { presentInputs, useStudy } from '../study/store';
import { useBench } from '../study/bench';
import { mainView } from '../study/view';
import { perform } from './task';

/** What the Part station can do to bodies. Each is one undoable step of the study. */
const inputsNow = (): Inputs => presentInputs(useStudy.getState());
const change = (label: string, inputs: Inputs) => useStudy.getState().change(label, inputs);
const refOf = (b: Body) => ({ id: b.id, mesh: b.mesh });
const named = (bodies: readonly Body[]) => (bodies.length === 1 ? bodies[0].name : `${bodies.length} bodies`);

const withBodies = (inputs: Inputs, map: (b: Body) => Body): Inputs => ({ ...inputs, bodies: inputs.bodies.map(map) });

/** What bodies are; cavities with the shot that fills them, from 1. */
export function setRole(ids: readonly string[], role: Role, shot = 1): void {
  const inputs = inputsNow();
  const as = (b: Body): Body => {
    const { shot: _, ...plain } = b;
    return { ...plain, role, ...(role === 'cavity' && shot > 1 ? { shot } : {}) };
  };
  const label = role === 'cavity' && shot > 1 ? `Shot ${shot}` : ROLE_LABELS[role];
  change(
    `${label}: ${named(inputs.bodies.filter((b) => ids.includes(b.id)))}`,
    withShotsOf(withBodies(inputs, (b) => (ids.includes(b.id) ? as(b) : b))),
  );
}

export function renameBody(id: string, name: string): void {
  if (!name.trim()) return;
  change(
    'Rename body',
    withBodies(inputsNow(), (b) => (b.id === id ? { ...b, name: name.trim().slice(0, 120) } : b)),
  );
}

export function deleteBodies(ids: readonly string[]): void {
  const inputs = inputsNow();
  const gone = inputs.bodies.filter((b) => ids.includes(b.id));
  if (!gone.length) return;
  change(`Delete ${named(gone)}`, withShotsOf({ ...inputs, bodies: inputs.bodies.filter((b) => !ids.includes(b.id)) }));
  useBench.getState().set({ selectedBodies: [] });
  toast(`${named(gone)} deleted`, { action: { label: 'Undo', onClick: () => useStudy.getState().undo() } });
}

/** Shows, fades or hides; nothing here is a step of the study. */
export function showBodies(ids: readonly string[], how: 'hidden' | 'faded' | 'shown'): void {
  const { bodyView, set } = mainView.getState();
  const next = { ...bodyView };
  for (const id of ids) {
    if (how === 'shown') delete next[id];
    else next[id] = how;
  }
  set({ bodyView: next });
}

export function isolateBodies(ids: readonly string[]): void {
  const others = inputsNow().bodies.filter((b) => !ids.includes(b.id));
  const { bodyView, set } = mainView.getState();
  // A second press shows everything again.
  const isolated = others.length > 0 && others.every((b) => bodyView[b.id] === 'hidden');
  set({ bodyView: isolated ? {} : Object.fromEntries(others.map((b) => [b.id, 'hidden' as const])) });
}

export async function mendBodies(bodies: readonly Body[]): Promise<void> {
  const answer = await perform('Mend', { do: 'mend', bodies: bodies.map(refOf) });
  if (!answer) return;
  const made = new Map(answer.bodies.map((b) => [b.id, b]));
  change(
    `Mend ${named(bodies)}`,
    withBodies(inputsNow(), (b) => (made.has(b.id) ? { ...b, mesh: made.get(b.id)!.mesh } : b)),
  );
  for (const b of answer.bodies) {
    const name = bodies.find((x) => x.id === b.id)?.name ?? b.id;
    const volumes = `Volume ${format(b.before.volume, 'cm³', 4)} → ${format(b.after.volume, 'cm³', 4)}, surface ${format(b.before.area, 'cm²', 4)} → ${format(b.after.area, 'cm²', 4)}.`;
    const did = b.done.length ? `${b.done.join(', ')}.` : 'Nothing needed mending.';
    if (b.left) toast.warning(`${name}: some trouble is left`, { description: `${did} ${volumes}`, duration: 12000 });
    else toast.success(`${name} mended`, { description: `${did} ${volumes}`, duration: 12000 });
  }
}

/** Turns everything by a rigid matrix: bodies, gates, traces, stand-ins. */
export async function turnPart(label: string, matrix: number[]): Promise<void> {
  const inputs = inputsNow();
  const refs = inputs.bodies.flatMap((b) =>
    b.original ? [refOf(b), { id: `${b.id}/original`, mesh: b.original }] : [refOf(b)],
  );
  if (!refs.length) return;
  const answer = await perform('Turn', { do: 'turn', bodies: refs, matrix });
  if (!answer) return;
  const mesh = new Map(answer.bodies.map((b) => [b.id, b.mesh]));
  const now = inputsNow();
  change(label, {
    ...withBodies(now, (b) => ({
      ...b,
      mesh: mesh.get(b.id) ?? b.mesh,
      original: b.original && (mesh.get(`${b.id}/original`) ?? b.original),
      standIn: b.standIn && movedStandIn(b.standIn, matrix),
    })),
    gates: now.gates.map((g) => ({ ...g, position: placed(matrix, g.position) })),
    axes: now.axes.map((a) => ({
      ...a,
      nodes: a.nodes.map((n) => ({ ...n, position: placed(matrix, n.position) })),
    })),
    tool: { ...now.tool, placement: after(matrix, now.tool.placement), partingHeight: null },
  });
  mainView.getState().look('iso');
}

/** Rotation about an axis through the middle of the part, exact for quarter turns. */
export function rotation(axis: 0 | 1 | 2, radians: number, centre: Vec3): number[] {
  const quarter = Math.round(radians / (Math.PI / 2));
  const exact = Math.abs(radians - quarter * (Math.PI / 2)) < 1e-12;
  const c = exact ? [1, 0, -1, 0][((quarter % 4) + 4) % 4] : Math.cos(radians);
  const s = exact ? [0, 1, 0, -1][((quarter % 4) + 4) % 4] : Math.sin(radians);
  const [u, v] = [(axis + 1) % 3, (axis + 2) % 3];
  const m = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0];
  m[4 * u + u] = c;
  m[4 * u + v] = -s;
  m[4 * v + u] = s;
  m[4 * v + v] = c;
  return about(m, centre);
}

/** The rotation that takes the unit vector `from` to -z (a face down) or +z (an opening direction). */
export function turnTo(from: Vec3, to: 1 | -1, centre: Vec3): number[] {
  const target: Vec3 = [0, 0, to];
  const cosine = from[2] * to;
  if (cosine > 1 - 1e-12) return about([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0], centre);
  if (cosine < -1 + 1e-12) return about([1, 0, 0, 0, 0, -1, 0, 0, 0, 0, -1, 0], centre);
  // Frames on both vectors that share the axis of the turn.
  const axis: Vec3 = [from[1] * target[2], -from[0] * target[2], 0];
  const length = Math.hypot(...axis);
  const a = axis.map((x) => x / length) as Vec3;
  const cross = (p: Vec3, q: Vec3): Vec3 => [
    p[1] * q[2] - p[2] * q[1],
    p[2] * q[0] - p[0] * q[2],
    p[0] * q[1] - p[1] * q[0],
  ];
  const A = [a, from, cross(a, from)];
  const B = [a, target, cross(a, target)];
  const m = [0, 1, 2].flatMap((r) => [...[0, 1, 2].map((c) => B.reduce((s, b, k) => s + b[r] * A[k][c], 0)), 0]);
  return about(m, centre);
}

function about(m: number[], centre: Vec3): number[] {
  const moved = placed(m, centre);
  return m.map((x, i) => (i % 4 === 3 ? centre[(i - 3) / 4] - moved[(i - 3) / 4] : x));
}

export async function applyStandIn(
  bodyId: string,
  standIn: StandIn,
  copies: { id: string; move: number[] }[],
): Promise<void> {
  const list = [{ id: bodyId, standIn }, ...copies.map((c) => ({ id: c.id, standIn: movedStandIn(standIn, c.move) }))];
  const answer = await perform('Stand-in', { do: 'stand-in', bodies: list });
  if (!answer) return;
  const made = new Map(answer.bodies.map((b, i) => [b.id, { mesh: b.mesh, standIn: list[i].standIn }]));
  const inputs = inputsNow();
  change(
    `Stand-in for ${named(inputs.bodies.filter((b) => made.has(b.id)))}`,
    withBodies(inputs, (b) => {
      const next = made.get(b.id);
      return next ? { ...b, mesh: next.mesh, original: b.original ?? b.mesh, standIn: next.standIn } : b;
    }),
  );
  useBench.getState().set({ draft: null });
}

export function restoreOriginals(ids: readonly string[]): void {
  const inputs = inputsNow();
  const back = inputs.bodies.filter((b) => ids.includes(b.id) && b.original);
  if (!back.length) return;
  change(
    `Restore ${named(back)}`,
    withBodies(inputs, (b) =>
      ids.includes(b.id) && b.original ? { ...b, mesh: b.original, original: null, standIn: null } : b,
    ),
  );
}

export async function splitBody(body: Body): Promise<void> {
  const answer = await perform('Split', { do: 'split', body: refOf(body) });
  if (!answer) return;
  const inputs = inputsNow();
  const rest = inputs.bodies.filter((b) => b.id !== body.id);
  const pieces: Body[] = [];
  answer.meshes.forEach((mesh, i) =>
    pieces.push({
      ...body,
      id: i === 0 ? body.id : freshBodyId([...rest, ...pieces, body]),
      name: `${body.name} ${i + 1}`,
      mesh,
      original: null,
      standIn: null,
    }),
  );
  change(`Split ${body.name}`, { ...inputs, bodies: inputs.bodies.flatMap((b) => (b.id === body.id ? pieces : [b])) });
}

export async function combineBodies(a: Body, b: Body, how: 'cut' | 'join'): Promise<boolean> {
  const answer = await perform(how === 'cut' ? 'Cut' : 'Join', { do: 'combine', a: refOf(a), b: refOf(b), how });
  if (!answer) return false;
  const inputs = inputsNow();
  const changed = withBodies(inputs, (x) =>
    x.id === a.id ? { ...x, mesh: answer.mesh, original: null, standIn: null } : x,
  );
  change(how === 'cut' ? `Cut ${b.name} from ${a.name}` : `Join ${a.name} and ${b.name}`, {
    ...changed,
    bodies: how === 'join' ? changed.bodies.filter((x) => x.id !== b.id) : changed.bodies,
  });
  return true;
}

export async function removeFeaturesOf(body: Body, limit: number, features: number[]): Promise<void> {
  const answer = await perform('Remove features', { do: 'remove-features', body: refOf(body), limit, features });
  if (!answer) return;
  change(
    `Remove ${answer.removed} small ${answer.removed === 1 ? 'feature' : 'features'}`,
    withBodies(inputsNow(), (b) => (b.id === body.id ? { ...b, mesh: answer.mesh } : b)),
  );
}

export async function traceBody(body: Body): Promise<void> {
  const answer = await perform('Axis trace', { do: 'trace', body: refOf(body) });
  if (!answer) return;
  const inputs = inputsNow();
  const id = `A${inputs.axes.length + 1}`;
  change(`Axis trace of ${body.name}`, {
    ...inputs,
    axes: [
      ...inputs.axes.filter((a) => a.body !== body.id),
      { id, name: body.name, body: body.id, nodes: answer.nodes, segments: answer.segments },
    ],
  });
  showBodies([body.id], 'faded');
  toast.success(`Axis of ${body.name}: ${format(answer.length, 'mm', 4)} long`, {
    description: `${answer.segments.length} segments. The body is faded to show it.`,
  });
}

/** Directions a stand-in or view may be aligned to. */
export const AXIS_CHOICES: Record<'fit' | 'x' | 'y' | 'z', Vec3 | null> = {
  fit: null,
  x: [1, 0, 0],
  y: [0, 1, 0],
  z: [0, 0, 1],
};
