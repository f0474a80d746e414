import { cornerOf, type Link, type Piece } from './structurePieces';
import { UnionFind } from '../numerics/unionFind';
import type { StructureLattice } from './structureLattice';

/** A piece that fills less of its cell than this is carried by a neighbour's polynomial. */
const SLIVER = 0.1;
/** Down to this share a sliver keeps its own nodes where it is what holds its neighbours together. */
const LEAST_KEPT = 0.02;
/** Neighbours of a sliver that reach each other in so many links hang together without it. */
const DETOUR = 2;

/** A sliver in an edge has its host two links away; farther than that it carries itself. */
const FARTHEST = 2;
/** Share of the volume below which what hangs on nothing is left out. */
const SPECK = 1e-4;

interface Neighbour {
  to: number;
  rays: number;
}

/**
 * Sets `host` of slivers: each goes to the neighbour that it hangs on by most, those amid slivers to their
 * neighbour's host. One that joins what would else hang together by a detour only (a rib and its floor, say) keeps
 * its nodes; what hangs on nothing and holds next to nothing is left out (host -1). Parts of a sliver that lie nearer
 * to another element that it hangs on go to that one, as pieces of their own at the end of the list.
 */
export function carrySlivers(pieces: Piece[], links: readonly Link[], lattice: StructureLattice): void {
  const neighbours: Neighbour[][] = pieces.map(() => []);
  for (const { a, b, rays } of links) {
    neighbours[a].push({ to: b, rays });
    neighbours[b].push({ to: a, rays });
  }
  const slivers = pieces.map((_, p) => p).filter((p) => pieces[p].fill < SLIVER);
  const kept = new Set<number>();
  for (;;) {
    const far = giveAway(pieces, slivers, neighbours, kept);
    const parting = slivers.filter(
      (p) =>
        !kept.has(p) &&
        pieces[p].host >= 0 &&
        pieces[p].fill >= LEAST_KEPT &&
        (far.has(p) || joinsByItself(p, pieces, neighbours)),
    );
    const missing = parting.length ? parting : between(slivers, pieces, neighbours, links);
    if (!missing.length) break;
    for (const p of missing) kept.add(p);
  }
  leaveOutSpecks(pieces, links);
  shareOut(pieces, neighbours, lattice);
}

/** Elements that hang together through faces between elements. */
function setsOf(pieces: readonly Piece[], links: readonly Link[]): UnionFind {
  const sets = new UnionFind(pieces.length);
  for (const { a, b } of links) if (pieces[a].host === a && pieces[b].host === b) sets.union(a, b);
  return sets;
}

/** Carried slivers, however thin, that alone join what else falls apart: as many pieces as the solid has. */
function between(
  slivers: readonly number[],
  pieces: readonly Piece[],
  neighbours: readonly Neighbour[][],
  links: readonly Link[],
): number[] {
  const sets = setsOf(pieces, links);
  return slivers.filter((p) => {
    const { host } = pieces[p];
    if (host < 0 || host === p) return false;
    const own = sets.find(host);
    return neighbours[p].some(({ to }) => pieces[to].host >= 0 && sets.find(pieces[to].host) !== own);
  });
}

/** Leaves out what hangs on nothing and holds next to nothing. */
function leaveOutSpecks(pieces: Piece[], links: readonly Link[]): void {
  const sets = setsOf(pieces, links);
  const volume = new Map<number, number>();
  let total = 0;
  for (const { host, fill } of pieces) {
    if (host < 0) continue;
    total += fill;
    volume.set(sets.find(host), (volume.get(sets.find(host)) ?? 0) + fill);
  }
  for (const piece of pieces)
    if (piece.host >= 0 && (volume.get(sets.find(piece.host)) ?? 0) < SPECK * total) piece.host = -1;
}

/** Whether the elements around a carried sliver hang together without it by a detour only. */
function joinsByItself(p: number, pieces: readonly Piece[], neighbours: readonly Neighbour[][]): boolean {
  const around = [...new Set(neighbours[p].map((n) => pieces[n.to].host).filter((h) => h >= 0))];
  if (around.length < 2) return false;
  const { host } = pieces[p];
  const reached = new Set([host]);
  let ring = [host];
  for (let step = 0; step < DETOUR && ring.length; step++) {
    const next: number[] = [];
    for (const q of ring)
      for (const { to } of neighbours[q]) {
        if (pieces[to].host !== to || reached.has(to)) continue;
        reached.add(to);
        next.push(to);
      }
    ring = next;
  }
  return around.some((q) => !reached.has(q));
}

/** Gives every sliver a host; returns those whose host is farther than a polynomial is worth following. */
function giveAway(
  pieces: Piece[],
  slivers: readonly number[],
  neighbours: readonly Neighbour[][],
  kept: ReadonlySet<number>,
): Set<number> {
  const far = new Set<number>();
  for (const p of slivers) pieces[p].host = kept.has(p) ? p : -1;
  let waiting = slivers.filter((p) => !kept.has(p));
  for (let step = 1; waiting.length; step++) {
    const found = waiting.map((p) => hangsOn(p, pieces, neighbours));
    if (found.every((h) => h < 0)) break;
    waiting.forEach((p, i) => (pieces[p].host = found[i]));
    if (step > FARTHEST) waiting.forEach((p) => far.add(p));
    waiting = waiting.filter((p) => pieces[p].host < 0);
  }
  // Solid of nothing but slivers, a fin far thinner than the cells: each carries itself.
  for (const p of waiting)
    if (pieces[p].fill >= LEAST_KEPT) {
      pieces[p].host = p;
      far.add(p);
    }
  return far;
}

/** Host by most rays: a skin belongs to its own wall rather than to what the wall stands on. -1 amid slivers. */
function hangsOn(p: number, pieces: readonly Piece[], neighbours: readonly Neighbour[][]): number {
  const by = new Map<number, number>();
  for (const { to, rays } of neighbours[p]) {
    const { host } = pieces[to];
    if (host >= 0) by.set(host, (by.get(host) ?? 0) + rays);
  }
  let best = -1;
  for (const [host, rays] of by) {
    const most = by.get(best) ?? -1;
    if (rays < most) continue;
    if (rays > most || pieces[host].fill > pieces[best].fill) best = host;
  }
  return best;
}

/** A sliver in a corner belongs to two walls: each of its points goes to the nearest of the elements that it hangs on. */
function shareOut(pieces: Piece[], neighbours: readonly Neighbour[][], lattice: StructureLattice): void {
  for (let p = 0; p < neighbours.length; p++) {
    const piece = pieces[p];
    if (piece.host < 0 || piece.host === p) continue;
    const hosts = [...new Set([piece.host, ...neighbours[p].map((n) => n.to).filter((q) => pieces[q].host === q)])];
    if (hosts.length < 2) continue;
    const own = cornerOf(piece.cell, lattice);
    const corners = hosts.map((h) => cornerOf(pieces[h].cell, lattice));
    const shares = new Map<number, Piece>();
    for (let i = 0; i < piece.weight.length; i++) {
      const at = own.map((c, d) => c + (piece.local[3 * i + d] + 1) / 2);
      const host = hosts[nearestBox(corners, at)];
      let share = shares.get(host);
      if (!share) shares.set(host, (share = { local: [], weight: [], body: [], fill: 0, cell: piece.cell, host }));
      share.local.push(piece.local[3 * i], piece.local[3 * i + 1], piece.local[3 * i + 2]);
      share.weight.push(piece.weight[i]);
      share.body.push(piece.body[i]);
      share.fill += piece.weight[i];
    }
    const [first, ...others] = shares.values();
    pieces[p] = first;
    pieces.push(...others);
  }
}

/** Number of the unit box (lower corners given) that is nearest to a place. */
function nearestBox(corners: readonly (readonly number[])[], at: readonly number[]): number {
  let best = 0;
  let least = Infinity;
  corners.forEach((corner, k) => {
    let d = 0;
    for (let x = 0; x < 3; x++) d += Math.max(0, corner[x] - at[x], at[x] - corner[x] - 1) ** 2;
    if (d < least) [least, best] = [d, k];
  });
  return best;
}
