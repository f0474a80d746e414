import type { FeedCell } from '../feed/network';
import { add, distance } from '../geometry/vec';
import { acrossNodes } from '../grid/acrossNodes';
import type { PressureGrid } from '../grid/pressureGrid';
import { meanLengths } from '../material/fibres/breakage';
import type { ShotInput } from './shotInput';
import type { JoinedFeed } from '../solvers/melt/joinFeed';
import { releasedAt } from '../solvers/core/fluid';
import type { CoreInput } from '../solvers/core/core';
import type { CoreFound, FibresFound } from '../results/shotFound';
import { HALF_LAYERS, sectionShape } from '../solvers/melt/layers';
import { meanVelocity } from '../solvers/melt/velocity';
import type { Stand } from './process';
import type { ShotState } from '../solvers/shot/state';
import type { FillResult } from '../solvers/fill/outcome';
import type { PackResult } from '../solvers/pack/outcome';
import type { ShotFrames } from '../solvers/shot/frames';
import type { ShotHistory } from '../solvers/shot/history';
import type { Warmth } from '../solvers/shot/transfer';
import { onNodes, perNode, takenFrom, type Located, type PerNode } from '../solvers/shot/located';
import type { FeedStrain } from '../solvers/pack/wallStrain';

/** Results of the joined grid on the part's own nodes, whatever they are. */
const nodesOnPart = <T extends Located>(results: T, { nodeOf, grid }: JoinedFeed): T =>
  takenFrom(results, nodeOf, grid.n);

const framesOnPart = (frames: ShotFrames, joined: JoinedFeed): ShotFrames => ({
  ...frames,
  node: nodesOnPart(frames.node, joined),
});

/** What the filling of the joined grid says of the part; volumes without the feed. */
export function fillOnPart(result: FillResult, grid: PressureGrid, joined: JoinedFeed): FillResult {
  const { nodeOf } = joined;
  const held = onNodes(
    grid.volume.map((v, i) => {
      const [melt, whole] = [result.node.held[nodeOf[i]], joined.grid.volume[nodeOf[i]]];
      return v === whole ? melt : (v * melt) / (whole || 1);
    }),
    grid.n,
  );
  const onPart = nodesOnPart(result.node, joined);
  const { core } = onPart;
  const partNode = new Int32Array(joined.grid.n).fill(-1);
  for (let i = nodeOf.length - 1; i >= 0; i--) partNode[nodeOf[i]] = i;
  const cold = joined.cells.reduce((s, { cell, node }) => s + (cell.hot === null ? joined.grid.volume[node] : 0), 0);
  return {
    ...result,
    node: { ...onPart, held },
    frames: framesOnPart(result.frames, joined),
    brokenThrough: result.brokenThrough && { ...result.brokenThrough, node: partNode[result.brokenThrough.node] },
    traps: result.traps.flatMap((t) => (partNode[t.node] >= 0 ? [{ ...t, node: partNode[t.node] }] : [])),
    cavityVolume: result.cavityVolume - cold,
    coreVolume: joined.cells.length ? core.reduce((s, v) => s + v, 0) : result.coreVolume,
    // Without a feed all that came in is in the part.
    injectedVolume: joined.cells.length ? held.reduce((s, v) => s + v, 0) : result.injectedVolume,
  };
}

/** What packing of the joined grid says of the part. */
export function packOnPart(pack: PackResult, joined: JoinedFeed): PackResult {
  const { frozen } = pack;
  return {
    ...pack,
    node: nodesOnPart(pack.node, joined),
    frames: framesOnPart(pack.frames, joined),
    frozen: frozen && {
      ...frozen,
      node: nodesOnPart(frozen.node, joined),
      feed: feedStrain(frozen.node.mean, joined),
    },
  };
}

/** How far melt has gone through every node since the place was full, m: 3 a node of the part. */
export function passedOnPart({ state }: Stand, joined: JoinedFeed): PerNode {
  const { grid } = joined;
  const way = perNode(grid.n, 3, 0);
  for (let i = 0; i < grid.n; i++) way.set(meanVelocity(grid, state.link.passed, i), 3 * i);
  return nodesOnPart({ way }, joined).way;
}

/** Directions of fibres at the end of a shot, on the part's own nodes; null: none were followed. */
export function fibresOnPart(
  { state }: Stand,
  { mesh, gridResult: { fine, grid }, settings }: Pick<ShotInput, 'mesh' | 'gridResult' | 'settings'>,
  joined: JoinedFeed,
): FibresFound | null {
  const { orientation, fibreShare } = state.layer;
  const { fibreLengths } = state.ofWall;
  const { n } = joined.grid;
  if (!orientation.length) return null;
  const across = onNodes(Float32Array.from(acrossNodes(mesh, fine, grid)), grid.n);
  const binLength = settings.fibres?.lengths?.breakage.binLength;
  return {
    nLayers: state.nLayers,
    ...nodesOnPart({ orientation: onNodes(Float32Array.from(orientation), n) }, joined),
    across,
    ...(fibreShare.length ? nodesOnPart({ share: onNodes(Float32Array.from(fibreShare), n) }, joined) : {}),
    ...(binLength ? { lengths: nodesOnPart(meansOf(fibreLengths, n, binLength), joined) } : {}),
  };
}

function meansOf(numbers: Float64Array, n: number, binLength: number): { byNumber: PerNode; byWeight: PerNode } {
  const bins = numbers.length / n;
  const out = { byNumber: perNode(n, 1, 0), byWeight: perNode(n, 1, 0) };
  for (let i = 0; i < n; i++) {
    const { byNumber, byWeight } = meanLengths(numbers.subarray(i * bins, (i + 1) * bins), binLength);
    out.byNumber[i] = byNumber;
    out.byWeight[i] = byWeight;
  }
  return out;
}

/** Fluid in the core at the end of a shot, on the part's own nodes; null: none. */
export function coreOnPart({ state, found }: Stand, core: CoreInput | null, joined: JoinedFeed): CoreFound | null {
  const shot = (found.pack ?? found.fill)?.result ?? null;
  if (state.layer.second.length) return secondOnPart(state, shot, joined);
  if (!core || !state.core) return null;
  const { n } = joined.grid;
  const { volume, time } = state.core;
  const part = new Map([...joined.nodeOf].map((node, i) => [node, i]));
  return {
    node: nodesOnPart({ volume: onNodes(volume, n), time: onNodes(time, n) }, joined),
    needles: core.needles.flatMap((i) => part.get(i) ?? []),
    from: core.from,
    releasedAt: core.from + releasedAt(core.control),
  };
}

/** The last time at which there was nothing in the core yet, s. */
function lastWithout(history: ShotHistory | undefined): number | undefined {
  const first = history?.coreVolume.findIndex((v) => v > 0) ?? -1;
  return history?.time[Math.max(0, first - 1)];
}

/** Share of a second melt from which it counts as come. */
const COME = 0.05;

/** The same of a second melt, from its share of the layers and over the frames. */
function secondOnPart(
  state: ShotState,
  shot: { frames: ShotFrames; history: ShotHistory } | null,
  joined: JoinedFeed,
): CoreFound {
  const { grid, gating } = joined;
  const { second } = state.layer;
  const halves = state.nLayers > HALF_LAYERS ? 'whole' : 'half';
  const volume = Float64Array.from({ length: grid.n }, (_, i) => {
    const { share } = sectionShape(grid.shape[i])[halves];
    let sum = 0;
    for (let t = 0; t < state.nLayers; t++) sum += share[t] * second[i * state.nLayers + t];
    return sum * grid.volume[i];
  });
  const { coreTimes = [], node } = shot?.frames ?? {};
  const time = Float64Array.from({ length: grid.n }, (_, i) => {
    const k = node?.core.findIndex((share) => share[i] > COME) ?? -1;
    return k >= 0 ? coreTimes[k] : NaN;
  });
  const part = new Map([...joined.nodeOf].map((n, i) => [n, i]));
  // Where it comes into the part: at the gates.
  const entries = [...new Set([...gating.attached.map((a) => a.node), ...(gating.rims ?? []).map((r) => r.outer)])];
  return {
    node: nodesOnPart({ volume: onNodes(volume, grid.n), time: onNodes(time, grid.n) }, joined),
    needles: entries.flatMap((i) => part.get(i) ?? []),
    from: lastWithout(shot?.history) ?? state.time,
    releasedAt: NaN,
  };
}

/** Layers of the joined grid on the part's own nodes. */
export function warmthOnPart({ temperature, behind }: Warmth, { nodeOf, grid }: JoinedFeed): Warmth {
  const layers = temperature.length / grid.n;
  const own = new Float64Array(nodeOf.length * layers);
  nodeOf.forEach((node, i) => own.set(temperature.subarray(node * layers, (node + 1) * layers), i * layers));
  return { temperature: own, behind };
}

/** Cold pieces of the feed with the mean strain of their cells. Slices of ducts that serve more cavities have no body. */
function feedStrain(mean: Float32Array, { cells }: JoinedFeed): FeedStrain[] {
  const pieces = new Map<number, { first: FeedCell; last: FeedCell; volume: number; strain: number }>();
  for (const { node, cell } of cells) {
    const strain = mean[node];
    if (cell.hot !== null || cell.alike !== 1 || strain !== strain) continue;
    const piece = pieces.get(cell.segment) ?? { first: cell, last: cell, volume: 0, strain: 0 };
    piece.last = cell;
    piece.volume += cell.duct.area * cell.length;
    piece.strain += cell.duct.area * cell.length * strain;
    pieces.set(cell.segment, piece);
  }
  return [...pieces.values()].map(({ first, last, volume, strain }) => {
    const from = add(first.position, first.direction, -first.length / 2);
    const to = add(last.position, last.direction, last.length / 2);
    return { from, to, area: volume / distance(from, to), strain: strain / volume };
  });
}
