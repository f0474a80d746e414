import { boundsOf, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { defaultCooling, type Cooling, type CoolingLine } from '../model/cooling';
import { blockOf } from './block';
import { DEFAULT_PLAN, layOutChannels, withLayout } from './layout';

/** Where the baffles of the Feeder tray stand along the channels above it, and the height of their tips, m. */
const BAFFLES = { channels: ['A2', 'A3'], along: [-0.045, 0.045], tip: 0.024 };

/** Cooling of the sample Feeder tray: a circuit above and one below, and four baffles down into its core. */
export function trayCooling(mesh: TriangleMesh): Cooling {
  const part = boundsOf(mesh.positions);
  const plan = DEFAULT_PLAN(part);
  const fresh = defaultCooling();
  const laid = layOutChannels(plan, mesh, part, blockOf(fresh, part), fresh.supplies[0].id);
  const cooling = withLayout(fresh, plan, laid);
  const feet = BAFFLES.channels.flatMap((id) => {
    const host = cooling.lines.find((l) => l.id === id);
    return host ? BAFFLES.along.map((x): Vec3 => [x, host.from[1], host.from[2]]) : [];
  });
  const baffles = feet.map((foot, k): CoolingLine => ({
    id: `W${k + 1}`,
    from: foot,
    to: [foot[0], foot[1], BAFFLES.tip],
    diameter: 0.01,
    kind: { as: 'baffle', blade: 0.0015 },
    loss: null,
  }));
  return { ...cooling, lines: [...cooling.lines, ...baffles] };
}
