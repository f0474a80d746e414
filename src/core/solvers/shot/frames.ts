import type { PressureGrid } from '../../grid/pressureGrid';
import type { Columns } from '../melt/columns';
import { meanVelocity } from '../melt/velocity';
import { PROFILE_PLACES } from '../melt/profilePlaces';
import { perNode, type PerNode } from './located';
import type { Observer, Sight } from './phase';
import { PLACES } from './profile';

/** Fields over the time of the shot; NaN where there was no melt yet. */
export interface ShotFrames {
  times: number[];
  /** Velocities have times of their own: those at which melt flows in. */
  velocityTimes: number[];
  /** Those at which there is a fluid in the core. */
  coreTimes: number[];
  /** Profiles are kept at fewer times: with every so many frames; 0 before there are any. */
  profileTimes: number[];
  profileEvery: number;
  node: {
    /** Pa above the atmosphere. */
    pressure: PerNode[];
    /** Mean over the wall, K. */
    temperature: PerNode[];
    /** Share of the wall that is frozen. */
    frozen: PerNode[];
    /** Mean over the wall, m/s; three a node. */
    velocity: PerNode[];
    /** Temperatures through the wall, K: PROFILE_PLACES per half, first half reversed. */
    profile: PerNode[];
    /** Where melt meets an insert or plastic moulded before, K; NaN elsewhere. Empty where there is no such face. */
    face: PerNode[];
    /** Share of the section that a fluid fills. Empty where there is none. */
    core: PerNode[];
  };
}

export const emptyFrames = (): ShotFrames => ({
  times: [],
  velocityTimes: [],
  coreTimes: [],
  profileTimes: [],
  profileEvery: 0,
  node: { pressure: [], temperature: [], frozen: [], velocity: [], profile: [], face: [], core: [] },
});

/** The same frames in lists of their own. */
const copied = ({ times, velocityTimes, coreTimes, profileTimes, profileEvery, node }: ShotFrames): ShotFrames => ({
  profileEvery,
  times: times.slice(),
  velocityTimes: velocityTimes.slice(),
  coreTimes: coreTimes.slice(),
  profileTimes: profileTimes.slice(),
  node: {
    pressure: node.pressure.slice(),
    temperature: node.temperature.slice(),
    frozen: node.frozen.slice(),
    velocity: node.velocity.slice(),
    profile: node.profile.slice(),
    face: node.face.slice(),
    core: node.core.slice(),
  },
});

/** Profiles are the largest part of a result: at most this many values are kept. */
const PROFILE_VALUES = 6e6;
const PROFILE_FRAMES = 15;

/** Keeps frames of a shot, from where the phases before have left them. */
export class FrameObserver implements Observer {
  readonly frames: ShotFrames;
  /** Frames of this phase. */
  private saved: number;
  private readonly perProfile: number;

  constructor(
    private readonly grid: PressureGrid,
    private readonly nHalves: number,
    private readonly transitionTemperature: number,
    nFrames: number,
    before: ShotFrames = emptyFrames(),
    /** Of them, those of the phase that goes on. */
    already = 0,
  ) {
    this.frames = copied(before);
    this.saved = already;
    this.perProfile = PROFILE_PLACES.length * Math.max(1, nHalves);
    const affordable = Math.max(3, Math.min(PROFILE_FRAMES, Math.floor(PROFILE_VALUES / (grid.n * this.perProfile))));
    this.frames.profileEvery ||= Math.max(1, Math.ceil(nFrames / affordable));
  }

  look(sight: Sight): void {
    if (!sight.last && !(this.saved < sight.frame)) return;
    this.saved++;
    this.save(sight);
  }

  private save({ time, cavity, full, last, flows }: Sight): void {
    const { grid, frames } = this;
    const { columns, solver } = cavity;
    const { n } = grid;
    const [pressure, temperature, frozen] = [perNode(n), perNode(n), perNode(n)];
    const velocity = flows || this.flowed() ? perNode(n, 3) : null;
    for (let i = 0; i < n; i++) {
      if (!full[i]) continue;
      // What the solver leaves below nothing is its tolerance.
      pressure[i] = Math.max(0, solver.pressure[i]);
      if (flows) velocity?.set(meanVelocity(grid, solver.linkFlow, i), 3 * i);
      if (!columns) continue;
      temperature[i] = columns.meanTemperature(i);
      frozen[i] = columns.colderShare(i, this.transitionTemperature);
    }
    if (columns && (last || frames.times.length % frames.profileEvery === 0)) this.saveProfile(time, columns, full);
    frames.times.push(time);
    frames.node.pressure.push(pressure);
    frames.node.temperature.push(temperature);
    frames.node.frozen.push(frozen);
    if (columns && cavity.heat?.behind) frames.node.face.push(facesOf(columns, full));
    if (cavity.core || columns?.second) {
      const share = perNode(n);
      for (let i = 0; i < n; i++) if (full[i]) share[i] = cavity.coreShare(i);
      frames.coreTimes.push(time);
      frames.node.core.push(share);
    }
    if (!velocity) return;
    frames.velocityTimes.push(time);
    frames.node.velocity.push(velocity);
  }

  /** The last velocities say that something flows: one frame more has to say that nothing does any longer. */
  private flowed(): boolean {
    const last = this.frames.node.velocity.at(-1);
    return last !== undefined && last.some((v) => v === v);
  }

  private saveProfile(time: number, columns: Columns, full: Uint8Array): void {
    const { grid, perProfile, frames } = this;
    const nPlaces = PROFILE_PLACES.length;
    const profile = perNode(grid.n, perProfile);
    for (let i = 0; i < grid.n; i++) {
      if (!full[i]) continue;
      const at = i * perProfile;
      if (this.nHalves === 1) columns.profileInto(i, 0, PLACES, profile, at, 1);
      else {
        columns.profileInto(i, 0, PLACES, profile, at + nPlaces - 1, -1);
        columns.profileInto(i, 1, PLACES, profile, at + nPlaces, 1);
      }
    }
    frames.profileTimes.push(time);
    frames.node.profile.push(profile);
  }
}

/** Temperature where each node meets a body behind its walls, K: the hotter one of two. */
function facesOf(columns: Columns, full: Uint8Array): PerNode {
  const face = perNode(full.length);
  for (let i = 0; i < full.length; i++)
    for (let h = 0; h < 2; h++) {
      if (!full[i] || columns.side(i, h).behind === undefined) continue;
      const T = columns.surfaceTemperature(i, h);
      if (!(T <= face[i])) face[i] = T;
    }
  return face;
}
