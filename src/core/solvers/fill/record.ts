import type { PressureGrid } from '../../grid/pressureGrid';
import { placesBetween, type Columns } from './columns';
import type { FlowSolver } from './pressure';
import { PROFILE_PLACES } from './profilePlaces';

/** Fields over time; NaN where there was no melt yet. One entry per time. */
export interface FillFrames {
  times: number[];
  /** Pa above the atmosphere. n each. */
  pressure: Float32Array[];
  /** Mean over the wall, K. n each. */
  temperature: Float32Array[];
  /** Share of the wall that is frozen. n each. */
  frozen: Float32Array[];
  /** Mean velocity while melt flows in, m/s, with times of its own. 3n each. */
  velocityTimes: number[];
  velocity: Float32Array[];
  /** Temperatures through the wall at fewer times, K: PROFILE_PLACES per half, first half reversed. */
  profileTimes: number[];
  profile: Float32Array[];
}

/** Profiles are the largest part of a result: at most this many values are kept. */
const PROFILE_VALUES = 6e6;
const PROFILE_FRAMES = 15;
const PLACES = placesBetween(PROFILE_PLACES);

export class FrameRecorder {
  readonly frames: FillFrames = {
    times: [],
    pressure: [],
    temperature: [],
    frozen: [],
    velocityTimes: [],
    velocity: [],
    profileTimes: [],
    profile: [],
  };
  /** The frame has been saved that says nothing flows any more. */
  private stopped = false;
  private readonly perProfile: number;
  private readonly profileEvery: number;

  constructor(
    private readonly grid: PressureGrid,
    private readonly columns: Columns | null,
    private readonly transitionTemperature: number,
    nFrames: number,
  ) {
    this.perProfile = PROFILE_PLACES.length * (columns?.nHalves ?? 1);
    const affordable = Math.max(3, Math.min(PROFILE_FRAMES, Math.floor(PROFILE_VALUES / (grid.n * this.perProfile))));
    this.profileEvery = Math.max(1, Math.ceil(nFrames / affordable));
  }

  /** A frame of the present state; `flows` false leaves the velocity out. */
  save(time: number, solver: FlowSolver, full: Uint8Array, last = false, flows = true): void {
    const { grid, columns, frames } = this;
    const { n } = grid;
    const field = () => new Float32Array(n).fill(NaN);
    const [pressure, temperature, frozen] = [field(), field(), field()];
    const velocity = flows ? new Float32Array(3 * n).fill(NaN) : null;
    for (let i = 0; i < n; i++) {
      if (!full[i]) continue;
      // What the solver leaves below nothing is its tolerance.
      pressure[i] = Math.max(0, solver.pressure[i]);
      velocity?.set(meanVelocity(grid, solver.linkFlow, i), 3 * i);
      if (!columns) continue;
      temperature[i] = columns.meanTemperature(i);
      frozen[i] = columns.colderShare(i, this.transitionTemperature);
    }
    if (columns && (last || frames.times.length % this.profileEvery === 0)) this.saveProfile(time, full);
    frames.times.push(time);
    frames.pressure.push(pressure);
    frames.temperature.push(temperature);
    frames.frozen.push(frozen);
    if (velocity) {
      frames.velocityTimes.push(time);
      frames.velocity.push(velocity);
    } else if (!this.stopped) {
      this.stopped = true;
      frames.velocityTimes.push(time);
      frames.velocity.push(new Float32Array(3 * n).fill(NaN));
    }
  }

  /** The frames up to now; later ones are not added to these lists. */
  sofar(): FillFrames {
    return Object.fromEntries(
      Object.entries(this.frames).map(([key, list]) => [key, list.slice()]),
    ) as unknown as FillFrames;
  }

  private saveProfile(time: number, full: Uint8Array): void {
    const { grid, perProfile, frames } = this;
    const columns = this.columns as Columns;
    const nPlaces = PROFILE_PLACES.length;
    const profile = new Float32Array(grid.n * perProfile).fill(NaN);
    for (let i = 0; i < grid.n; i++) {
      if (!full[i]) continue;
      const at = i * perProfile;
      if (columns.nHalves === 1) columns.profileInto(i, 0, PLACES, profile, at, 1);
      else {
        columns.profileInto(i, 0, PLACES, profile, at + nPlaces - 1, -1);
        columns.profileInto(i, 1, PLACES, profile, at + nPlaces, 1);
      }
    }
    frames.profileTimes.push(time);
    frames.profile.push(profile);
  }
}

const velocity: [number, number, number] = [0, 0, 0];

/**
 * Mean velocity [m/s] over the wall at a node: flow over open area, component by component; the area
 * of a link is transmissibility x spacing / mobility. The result is overwritten by the next call.
 */
export function meanVelocity(grid: PressureGrid, linkFlow: Float64Array, node: number): [number, number, number] {
  let [fx, fy, fz, tx, ty, tz] = [0, 0, 0, 0, 0, 0];
  for (let k = grid.rowStart[node], end = grid.rowStart[node + 1]; k < end; k++) {
    const l = grid.rowLink[k];
    const flow = linkFlow[l];
    // Closed or dry faces carry nothing and say nothing about the speed in the open ones.
    if (flow === 0) continue;
    const t = grid.transmissibility[l];
    const axis = grid.linkAxis[l];
    if (axis === 0) {
      fx += flow;
      tx += t;
    } else if (axis === 1) {
      fy += flow;
      ty += t;
    } else if (axis === 2) {
      fz += flow;
      tz += t;
    }
  }
  const scale = grid.thickness[node] ** 2 / 12 / grid.spacing;
  velocity[0] = tx > 0 ? (fx / tx) * scale : 0;
  velocity[1] = ty > 0 ? (fy / ty) * scale : 0;
  velocity[2] = tz > 0 ? (fz / tz) * scale : 0;
  return velocity;
}
