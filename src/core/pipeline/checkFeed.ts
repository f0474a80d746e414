import { gatePointOf, lineGraph } from '../feed/drawn';
import { layOut, type LaidFeed } from '../feed/layout';
import type { Section } from '../feed/section';
import type { Vec3 } from '../geometry/mesh';
import { movesOf, type PinEvent } from '../model/pin';
import type { Gate, Inputs } from '../model/study';
import { format } from '../units/reader';
import { allGates } from '../setup/copies';
import type { Problem } from '../setup/problem';

type Add = (target: string, message: string, remedy: string, place?: Vec3) => void;

/** A gate farther from the drawn runners than this many times its land, and than this [m], is not fed. */
const REACH = { lands: 3, least: 5e-3 };

/** What is missing or contradictory in the feed, with place and remedy. */
export function checkFeed(inputs: Inputs): Problem[] {
  const problems: Problem[] = [];
  const add: Add = (target, message, remedy, place) =>
    problems.push({ station: 'feed', target, message, remedy, ...(place ? { place } : {}) });
  checkPins(inputs, add);
  checkForms(inputs, add);
  if (inputs.feed && inputs.gates.length && checkLines(inputs, add)) {
    const gates = allGates(inputs);
    const network = layOut(inputs.feed, gates, 0);
    checkOverlaps(network, gates, add);
    checkWidths(inputs, network, gates, add);
  }
  return problems;
}

function checkPins({ feed, gates }: Inputs, add: Add): void {
  for (const gate of gates) {
    if (!gate.pin) continue;
    if (!feed?.hot)
      add(
        gate.id,
        `Gate ${gate.id} has a valve pin, but no hot drop to put it in.`,
        'Make the runners hot, or take the pin out.',
        gate.position,
      );
    const never = whyNever(gate.pin.open);
    if (never) add(gate.id, `The pin of gate ${gate.id} never opens: ${never}.`, 'Let it open earlier.', gate.position);
    const moves = movesOf(gate.pin);
    const wrong = moves.findIndex((move, m) => m > 0 && comesFirst(moves[m - 1], move));
    if (wrong > 0)
      add(
        gate.id,
        wrong % 2
          ? `The pin of gate ${gate.id} closes before it opens.`
          : `The pin of gate ${gate.id} opens again before it has closed.`,
        'Let every move come later than the one before.',
        gate.position,
      );
  }
  if (gates.length && gates.every((g) => g.pin && g.pin.open.by !== 'start' && g.pin.open.by !== 'time'))
    add(gates[0].id, 'No valve pin opens by itself: nothing would flow.', 'Let one pin open at the start.');
}

function whyNever(open: PinEvent): string | null {
  if (open.by === 'share' && open.share >= 1) return 'the part is full by then';
  if (open.by === 'front' && open.position && !open.position.every(Number.isFinite)) return 'its place is gone';
  return null;
}

/** A move that is set to come no later than the one before it. */
const comesFirst = (before: PinEvent, move: PinEvent): boolean =>
  (before.by === 'time' && move.by === 'time' && move.time <= before.time) ||
  (before.by === 'share' && move.by === 'share' && move.share <= before.share);

function checkForms({ feed, gates }: Inputs, add: Add): void {
  for (const gate of gates) {
    if (!gate.form) continue;
    if (!feed)
      add(
        gate.id,
        `Gate ${gate.id} has a form, but there is no runner before it.`,
        'Lay out runners, or make it an open gate.',
        gate.position,
      );
    if (gate.form.kind === 'sprue' && gates.length > 1)
      add(
        gate.id,
        `A direct sprue feeds one gate; there are ${gates.length}.`,
        'Give the gate another kind, or remove the other gates.',
        gate.position,
      );
    if ('wide' in gate.form && gate.form.kind !== 'fan' && gate.form.wide < gate.diameter)
      add(
        gate.id,
        `Gate ${gate.id} is wider at the part than at the runner.`,
        'A cone breaks off where it is narrowest: make it narrow at the part.',
        gate.position,
      );
  }
}

/** The drawn lines; false when there is nothing to lay out yet. */
function checkLines(inputs: Inputs, add: Add): boolean {
  const feed = inputs.feed as NonNullable<Inputs['feed']>;
  const direct = inputs.gates.length === 1 && inputs.gates[0].form?.kind === 'sprue';
  if (feed.layout !== 'drawn' || direct) return true;
  const { lines = [] } = feed;
  if (!lines.length) {
    add('runners', 'There is no runner yet.', 'Draw one, trace a body, import lines, or let the tool lay them out.');
    return false;
  }
  const graph = lineGraph(lines, feed.at);
  const middle = (k: number) => lines[k].from.map((x, d) => (x + lines[k].to[d]) / 2) as Vec3;
  for (const k of graph.loops)
    add('runners', `Runner ${lines[k].id} closes a loop.`, 'Delete one runner of the loop.', middle(k));
  for (const k of graph.loose)
    add(
      'runners',
      `Runner ${lines[k].id} does not hang together with the sprue.`,
      'Move its end onto another runner, or delete it.',
      middle(k),
    );
  lines.forEach((line, k) => {
    if (Math.hypot(...line.from.map((x, d) => x - line.to[d])) < 1e-4)
      add('runners', `Runner ${line.id} has no length.`, 'Move one of its ends, or delete it.', middle(k));
  });
  for (const gate of allGates(inputs)) {
    const { away } = gatePointOf(graph, gate);
    const length = gate.form && 'length' in gate.form ? gate.form.length : feed.land.length;
    if (away > Math.max(REACH.least, REACH.lands * length))
      add(
        gate.id,
        `Gate ${gate.id} has no feed: the nearest runner ends ${format(away, 'mm')} away.`,
        'Draw a runner to it, or move the gate.',
        gate.position,
      );
  }
  return true;
}

/**
 * How thick a runner and the gate behind it are, m: what freezes last. A wide and thin gate may carry more
 * area than its runner and still close first.
 */
function thinness(runner: Section, gate: Section): [number, number] {
  const least = (s: Section) => ('diameter' in s ? s.diameter : Math.min(s.width, s.height));
  return [least(runner), least(gate)];
}

/** Runners that leave a point in the same direction would lie one in the other. */
function checkOverlaps(network: LaidFeed, gates: readonly Gate[], add: Add): void {
  const way = (k: number): Vec3 => {
    const { from, to } = network.segments[k];
    const d = network.points[to].map((x, i) => x - network.points[from][i]);
    const length = Math.hypot(...d);
    return d.map((x) => x / length) as Vec3;
  };
  const runners = network.segments.flatMap((_, k) => (network.kinds[k] === 'runner' ? [k] : []));
  for (const [i, a] of runners.entries())
    for (const b of runners.slice(i + 1)) {
      if (network.segments[a].from !== network.segments[b].from) continue;
      const [u, v] = [way(a), way(b)];
      if (u[0] * v[0] + u[1] * v[1] + u[2] * v[2] < Math.cos(TOO_CLOSE)) continue;
      const names = [a, b].map((k) => network.feeds[k].map((g) => gates[g].id).join(', '));
      return add(
        'runners',
        `The runners to ${names[0]} and to ${names[1]} lie one in the other.`,
        'Choose the layout Trunk, or move the sprue.',
        network.points[network.segments[a].to],
      );
    }
}

/** Runners that part by less than this have no steel between them, rad. */
const TOO_CLOSE = (8 * Math.PI) / 180;

/** No runner may be thinner than the gate behind it: the gate must be the narrowest place. */
function checkWidths(inputs: Inputs, network: LaidFeed, gates: readonly Gate[], add: Add): void {
  network.segments.forEach((segment, k) => {
    if (network.kinds[k] !== 'land') return;
    const gate: Gate = gates[network.feeds[k][0]];
    const before = network.segments.find((s) => s.to === segment.from);
    if (!before) return;
    // Copies say the same again.
    if (!inputs.gates.includes(gate)) return;
    const [wide, narrow] = thinness(before.endSection ?? before.section, segment.endSection ?? segment.section);
    if (wide < 0.999 * narrow)
      add(
        gate.id,
        `The runner before gate ${gate.id} is thinner than the gate: ${format(wide, 'mm')} before ${format(narrow, 'mm')}.`,
        'Make the section before it wider, or the gate smaller: the gate must be the narrowest place.',
        gate.position,
      );
  });
}
