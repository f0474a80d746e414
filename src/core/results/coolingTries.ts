import { blockOf } from '../cooling/block';
import { freshLineId, layOutChannels, withLayout } from '../cooling/layout';
import { wellRoom } from '../cooling/wells';
import { boundsOf, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { SurfaceTree } from '../geometry/surfaceTree';
import { add, distance, dot, scale, sub } from '../geometry/vec';
import { facet } from '../geometry/edges';
import type { Cooling, CoolingLine, LayoutPlan } from '../model/cooling';
import { openingOf } from '../model/body';
import type { Inputs } from '../model/study';
import { format } from '../units/reader';
import type { Suggestion } from './answer';
import type { CoolFacts } from './coolFacts';

const withCooling = (inputs: Inputs, patch: Partial<Cooling>): Inputs => ({
  ...inputs,
  cooling: { ...(inputs.cooling as Cooling), ...patch },
});

/** A well shorter than this does nothing, m. */
const LEAST_WELL = 0.008;
const BLADE = 0.0015;
/** Bores of wells, and places along a channel that are tried. */
const BORES = [0.01, 0.008, 0.006];
const STATIONS = 24;
/** Clear of the surface, m. */
const OFF_SURFACE = 1e-5;
/** Bores come in steps of this, up to what is drilled for parts of this kind, m. */
const WIDER = 0.002;
const MOST_BORE = 0.014;
/** Coolant that warms by more than this cools unevenly, K. */
const MUCH_RISE = 3;

/** Changes of the cooling that the places and flows of a run suggest, the most telling first. */
export function coolingTries(facts: CoolFacts, inputs: Inputs, mesh: TriangleMesh): Suggestion[] {
  const cooling = inputs.cooling as Cooling;
  const list: Suggestion[] = [];
  const spot = facts.hotSpot.place_m;
  const apart = colderHalf(facts, cooling, openingOf(inputs.tool), mesh);
  if (apart) {
    const { cooling: patch, ...said } = apart;
    list.push({ ...said, inputs: withCooling(inputs, patch) });
  }
  const well = wellTowards(spot, cooling, mesh);
  if (well)
    list.push({
      id: 'add-baffle',
      label: `A baffle ${format(Math.abs(well.to[2] - well.from[2]), 'mm', 2)} high next to the hot spot`,
      why: `It takes the coolant from line ${well.host} to where the mould is hottest.`,
      inputs: withCooling(inputs, { lines: [...cooling.lines, well.line] }),
    });
  list.push({
    id: 'copper',
    label: 'Copper alloy at the hot spot',
    why: 'It leads heat away four times as well as the steel, at the price of a softer surface.',
    inputs: withCooling(inputs, {
      inserts: [
        ...cooling.inserts,
        {
          id: freshLineId('M', cooling.inserts),
          name: 'Pin at the hot spot',
          shape: { shape: 'cylinder', centre: spot, axis: [0, 0, 1], diameter: 0.016, length: 0.05 },
          metal: 'copper-hw-b',
        },
      ],
    }),
  });
  const slow = facts.lines.filter((l) => l.regime === 'laminar' || l.regime === 'transition');
  const [first] = cooling.supplies;
  if (slow.length && first.pump.by === 'flow-rate')
    list.push({
      id: 'more-flow',
      label: `Pump ${format(2 * first.pump.flowRate, 'l/min', 3)} through ${first.id}`,
      why: `In ${slow.length === 1 ? `line ${slow[0].id}` : `${slow.length} lines`} the flow is not turbulent: twice as much takes up far more heat.`,
      inputs: withCooling(inputs, {
        supplies: cooling.supplies.map((s) =>
          s.id === first.id
            ? { ...s, pump: { by: 'flow-rate', flowRate: 2 * (first.pump as { flowRate: number }).flowRate } }
            : s,
        ),
      }),
    });
  const { plan } = cooling;
  const relaid = (next: LayoutPlan): Inputs => {
    const part = boundsOf(mesh.positions);
    const laid = layOutChannels(next, mesh, part, blockOf(cooling, part), cooling.supplies[0].id);
    return { ...inputs, cooling: withLayout(cooling, next, laid) };
  };
  const closer = plan && Math.round(Math.max(1.6 * plan.diameter, 0.8 * plan.distance) * 2000) / 2000;
  if (plan && closer && closer < plan.distance - 1e-4)
    list.push({
      id: 'closer-layout',
      label: `Channels ${format(closer, 'mm', 3)} from the part`,
      why: 'Less steel between coolant and part; the mould gets cooler, and a little less even.',
      inputs: relaid({ ...plan, distance: closer }),
    });
  const wider = plan && plan.diameter + WIDER;
  if (plan && wider && wider < 0.45 * plan.pitch && wider <= MOST_BORE)
    list.push({
      id: 'wider-layout',
      label: `Channels ${format(wider, 'mm', 3)} wide`,
      why: 'More wall for the heat to go through, for more flow to keep it turbulent.',
      inputs: relaid({ ...plan, diameter: wider, distance: plan.distance + WIDER / 2 }),
    });
  if (facts.supplies.some((s) => s.returned_K - s.sent_K > MUCH_RISE))
    list.push({
      id: 'other-way',
      label: 'Coolant the other way round',
      why: `It warms by ${format(Math.max(...facts.supplies.map((s) => s.returned_K - s.sent_K)), 'K', 2)} on its way: what is now last would be cooled first.`,
      inputs: withCooling(inputs, {
        ends: cooling.ends.map((e) => (e.as === 'plug' ? e : { ...e, as: e.as === 'inlet' ? 'outlet' : 'inlet' })),
      }),
    });
  list.push({
    id: 'colder-coolant',
    label: `Coolant at ${format(first.temperature - 10, '°C', 3)}`,
    why: 'The whole mould gets cooler by as much; look that it does not sweat.',
    inputs: withCooling(inputs, {
      supplies: cooling.supplies.map((s) => (s.id === first.id ? { ...s, temperature: s.temperature - 10 } : s)),
    }),
  });
  return list.filter((s) => s.id !== 'colder-coolant' || first.temperature - 10 > 278);
}

/** Halves nearer than this count as alike, and the coldest coolant that a try asks for, K. */
const ALIKE = 4;
const COLDEST = 278;

/**
 * A supply of its own, colder by what the halves are apart, for the circuits in the hotter half; null where the halves are
 * alike, where a circuit runs through both, or where the coolant is as cold as it may be.
 */
function colderHalf({ halves_K: halves }: CoolFacts, cooling: Cooling, opening: Vec3, mesh: TriangleMesh) {
  if (!halves || Math.abs(halves.upper - halves.lower) < ALIKE) return null;
  const half = halves.upper > halves.lower ? 'upper' : 'lower';
  const { min, max } = boundsOf(mesh.positions);
  const middle = dot(opening, scale(add(min, max), 0.5));
  const isIn = (p: Vec3) => dot(opening, p) > middle === (half === 'upper');
  if (cooling.lines.some((l) => l.kind.as === 'hose' && isIn(l.from) !== isIn(l.to))) return null;
  const ends = cooling.ends.filter((e) => e.as !== 'plug' && isIn(e.at));
  const from = cooling.supplies.find((s) => s.id === ends[0]?.supply) ?? cooling.supplies[0];
  const temperature = Math.max(COLDEST, from.temperature - Math.abs(halves.upper - halves.lower));
  if (!ends.length || from.temperature - temperature < ALIKE / 2) return null;
  const id = freshLineId('U', cooling.supplies);
  return {
    id: 'colder-half',
    label: `Coolant at ${format(temperature, '°C', 3)} in the ${half} half`,
    why: `That half is ${format(Math.abs(halves.upper - halves.lower), 'K', 2)} hotter on average; a supply of its own brings the two nearer, and with them both sides of the walls.`,
    cooling: {
      supplies: [...cooling.supplies, { ...from, id, temperature }],
      ends: cooling.ends.map((e) => (ends.includes(e) ? { ...e, supply: id } : e)),
    },
  };
}

interface Well {
  line: CoolingLine;
  host: string;
  from: Vec3;
  to: Vec3;
}

/** The baffle on any channel whose top comes nearest to a place, as high as the part lets it; null where none helps. */
function wellTowards(spot: Vec3, cooling: Cooling, mesh: TriangleMesh): Well | null {
  const tree = new SurfaceTree(mesh);
  const { normal } = facet(mesh.positions, mesh.triangles, tree.closest(...spot));
  // On the side of the wall that is hot: a well beyond the wall would cool its cold side.
  const faces = (tip: Vec3) => {
    const way = sub(tip, spot);
    const far = Math.hypot(...way);
    const [x, y, z] = add(spot, normal, OFF_SURFACE);
    return dot(way, normal) > 0 && tree.ray(x, y, z, ...scale(way, 1 / far), 0, far, true) < 0;
  };
  const wells = cooling.lines.filter((l) => l.kind.as === 'baffle');
  let best: Well | null = null;
  let nearest = Infinity;
  for (const line of cooling.lines) {
    if (line.kind.as !== 'channel') continue;
    for (let k = 1; k < STATIONS; k++) {
      const foot = line.from.map((x, d) => x + (k / STATIONS) * (line.to[d] - x)) as Vec3;
      const sign = spot[2] > foot[2] ? 1 : -1;
      for (const bore of BORES) {
        // No height brings it nearer than it stands beside the place.
        if (Math.hypot(foot[0] - spot[0], foot[1] - spot[1]) - bore / 2 >= nearest) continue;
        // Another well on the foot has done what can be done.
        if (wells.some((l) => distance(l.from, foot) < l.diameter + bore)) continue;
        const height = Math.min(wellRoom(tree, foot, sign, bore), Math.abs(spot[2] - foot[2]));
        const to: Vec3 = [foot[0], foot[1], foot[2] + sign * height];
        const off = distance(to, spot) - bore / 2;
        // A well that comes no nearer to the place than its foot is none.
        if (height < LEAST_WELL || off >= nearest || off > distance(foot, spot) - LEAST_WELL / 2 || !faces(to))
          continue;
        nearest = off;
        const id = freshLineId('W', cooling.lines);
        best = {
          line: { id, from: foot, to, diameter: bore, kind: { as: 'baffle', blade: BLADE }, loss: null },
          host: line.id,
          from: foot,
          to,
        };
      }
    }
  }
  return best;
}
