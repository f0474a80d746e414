import * as THREE from 'three';
import type { PointMap } from '@/core/grid/surfaceMap';
import { NO_VALUE, valuesAt } from './results';

/** Values at the points of something drawn, frame by frame; linear in time between them. */
export interface ValueFrames {
  /** Number of points. */
  n: number;
  /** Time of each frame, s, ascending; one frame stands for all times. */
  times: readonly number[];
  /** Puts the values of a frame into `out`; NO_VALUE where there is none. */
  write: (frame: number, out: Float32Array) => void;
  /** What they are means of: another thread can make them. */
  of?: { map: PointMap; nodes: NodeFrames };
}

/** Values of nodes, frame by frame, `components` a node; NaN where there is none. */
export interface NodeFrames {
  times: readonly number[];
  components: number;
  at: (frame: number) => Float32Array;
}

/** Frames that lie one behind the other in a block, each of `n` nodes. */
export function nodeFrames(data: Float32Array, n: number, times: readonly number[], components = 1): NodeFrames {
  const size = n * components;
  const count = Math.max(1, Math.round(data.length / size));
  return {
    times: count === 1 ? [0] : times,
    components,
    at: (frame) => (count === 1 ? data : data.subarray(frame * size, (frame + 1) * size)),
  };
}

/** Frames made of other ones. The two that the play head stands between are kept: it moves over them many times. */
export function derived(
  { times, at }: NodeFrames,
  components: number,
  make: (values: Float32Array, frame: number) => Float32Array,
): NodeFrames {
  const kept = new Map<number, Float32Array>();
  const made = (frame: number): Float32Array => {
    let values = kept.get(frame);
    if (!values) {
      if (kept.size > 1) kept.delete(kept.keys().next().value!);
      kept.set(frame, (values = make(at(frame), frame)));
    }
    return values;
  };
  return { times, components, at: made };
}

/** Node values at a time, linear between frames; a node that fills between two of them takes the later one's value. */
export function nodesAt(frames: NodeFrames, time: number): Float32Array {
  const place = placeAmong(frames.times, time);
  const a = frames.at(Math.floor(place));
  const share = place % 1;
  if (!share) return a;
  const b = frames.at(Math.ceil(place));
  const now = new Float32Array(a.length);
  for (let i = 0; i < a.length; i++) now[i] = a[i] === a[i] ? a[i] + share * (b[i] - a[i]) : b[i];
  return now;
}

/** Frames of nodes at the points of a map. */
export const onPoints = (map: PointMap, nodes: NodeFrames, n: number): ValueFrames => ({
  n,
  times: nodes.times,
  write: (frame, out) => valuesAt(map, nodes.at(frame), out),
  of: { map, nodes },
});

/** Values that are the same at all times. */
export const stillFrames = (values: Float32Array): ValueFrames => ({
  n: values.length,
  times: [0],
  write: (_frame, out) => out.set(values),
});

/** Times of two sets of frames together; one frame of either stands for all times. */
function bothTimes(a: readonly number[], b: readonly number[]): readonly number[] {
  if (a.length < 2 || b.length < 2) return a.length < 2 ? b : a;
  return [...new Set([...a, ...b])].sort((x, y) => x - y);
}

/** What a second set of values is more than a first one at the same points: exact wherever either is linear in time. */
export function differenceFrames(first: ValueFrames, second: ValueFrames): ValueFrames {
  const times = bothTimes(first.times, second.times);
  const { n } = first;
  const valuesOf = ({ times: own, write }: ValueFrames, time: number): Float32Array => {
    const place = placeAmong(own, time);
    const [low, high] = [Math.floor(place), Math.ceil(place)].map((frame) => {
      const values = new Float32Array(n);
      write(frame, values);
      return values;
    });
    return place % 1 ? low.map((v, p) => between(v, high[p], place % 1)) : low;
  };
  return {
    n,
    times,
    write: (frame, out) => {
      const [a, b] = [first, second].map((of) => valuesOf(of, times[frame]));
      for (let p = 0; p < n; p++) out[p] = a[p] >= NO_VALUE / 2 || b[p] >= NO_VALUE / 2 ? NO_VALUE : b[p] - a[p];
    },
  };
}

/** The same of nodes, as many values each as the first has: NaN where either has none. */
export function differenceOfNodes(first: NodeFrames, second: NodeFrames): NodeFrames {
  const times = bothTimes(first.times, second.times);
  const made = (_: Float32Array, frame: number): Float32Array => {
    const b = nodesAt(second, times[frame]);
    return nodesAt(first, times[frame]).map((a, i) => b[i] - a);
  };
  const { components } = first;
  return derived({ times, components, at: () => NOTHING }, components, made);
}

const NOTHING = new Float32Array(0);

/** Place of a time among those of the frames: 2.25 stands a quarter of the way from the third to the fourth. */
export function placeAmong(times: readonly number[], t: number): number {
  const after = times.findIndex((time) => time > t);
  if (after < 0) return Math.max(0, times.length - 1);
  if (after === 0) return 0;
  return after - 1 + (t - times[after - 1]) / (times[after] - times[after - 1]);
}

/** Value at a place between two frames; one that has none takes the value of the other, or has none with it. */
export function between(low: number, high: number, share: number): number {
  if (!(share > 0) || high >= NO_VALUE / 2) return share > 0 ? NO_VALUE : low;
  return low >= NO_VALUE / 2 ? high : low + share * (high - low);
}

/** Texels in a row: the height then stays far below what every GPU takes. */
const WIDTH = 1024;

/** Layers that are written before they are shown: all of them are handed to the GPU with the next picture. */
const AHEAD = 6;

/** What a shader reads the frames from. */
interface FrameUniforms {
  uFrames: THREE.IUniform<THREE.DataArrayTexture | null>;
  uPlace: THREE.IUniform<number>;
}

/** Where there are none yet. */
export const NO_FRAMES: Readonly<FrameUniforms> = { uFrames: { value: null }, uPlace: { value: 0 } };

/**
 * Frames as the layers of a texture, a texel a point (point p at column p % WIDTH, row p / WIDTH): the shader mixes the
 * two around a place in time, so that a moment later takes a new uniform and nothing else. A layer is written when it
 * is shown for the first time, or ahead of that when there is nothing else to do.
 */
export class FrameTexture {
  readonly uniforms: FrameUniforms & { uFrames: { value: THREE.DataArrayTexture } };
  private readonly data: Float32Array;
  private readonly layer: number;
  private readonly written: boolean[];

  constructor(private readonly frames: ValueFrames) {
    const height = Math.max(1, Math.ceil(frames.n / WIDTH));
    this.layer = WIDTH * height;
    this.written = frames.times.map(() => false);
    this.data = new Float32Array(this.layer * frames.times.length);
    const texture = new THREE.DataArrayTexture(this.data, WIDTH, height, frames.times.length);
    texture.format = THREE.RedFormat;
    texture.type = THREE.FloatType;
    this.uniforms = { uFrames: { value: texture }, uPlace: { value: 0 } };
  }

  /** Moves to a time, s. */
  show(time: number): void {
    const place = placeAmong(this.frames.times, time);
    this.uniforms.uPlace.value = place;
    this.need(Math.floor(place));
    this.need(Math.ceil(place));
  }

  /** Value of a point where the frames stand now; NO_VALUE where there is none. */
  at(point: number): number {
    const place = this.uniforms.uPlace.value;
    const [low, high] = [Math.floor(place), Math.ceil(place)].map((frame) => this.data[frame * this.layer + point]);
    return between(low, high, place % 1);
  }

  /** Values of all points where the frames stand now. */
  now(): Float32Array {
    const place = this.uniforms.uPlace.value;
    const [low, high] = [Math.floor(place), Math.ceil(place)].map((frame) =>
      this.data.subarray(frame * this.layer, frame * this.layer + this.frames.n),
    );
    const share = place % 1;
    const out = low.slice();
    if (share) for (let p = 0; p < out.length; p++) out[p] = between(low[p], high[p], share);
    return out;
  }

  /** Writes the next layer of those that are shown soon; false when all of them stand. */
  writeAhead(): boolean {
    const from = Math.floor(this.uniforms.uPlace.value);
    for (let k = 0; k <= AHEAD; k++) {
      // Past the end the clock begins anew.
      const frame = (from + k) % this.written.length;
      if (this.written[frame]) continue;
      this.need(frame);
      return true;
    }
    return false;
  }

  /** The frame that is missing next, from the play head on and round; null when all of them stand. */
  missing(): number | null {
    const n = this.written.length;
    const from = Math.floor(this.uniforms.uPlace.value);
    for (let k = 0; k < n; k++) if (!this.written[(from + k) % n]) return (from + k) % n;
    return null;
  }

  /** Takes a frame that was made elsewhere, unless it stands by now. */
  take(frame: number, values: Float32Array): void {
    if (!this.written[frame]) this.put(frame, (layer) => layer.set(values));
  }

  dispose(): void {
    this.uniforms.uFrames.value.dispose();
  }

  private need(frame: number): void {
    if (!this.written[frame]) this.put(frame, (layer) => this.frames.write(frame, layer));
  }

  private put(frame: number, write: (layer: Float32Array) => void): void {
    this.written[frame] = true;
    const from = frame * this.layer;
    write(this.data.subarray(from, from + this.frames.n));
    const texture = this.uniforms.uFrames.value;
    texture.addLayerUpdate(frame);
    texture.needsUpdate = true;
  }
}

/** Reads the value of a point in a vertex shader: the twin of `between`. */
export const FRAME_VALUE = /* glsl */ `
precision highp sampler2DArray;
uniform sampler2DArray uFrames;
uniform float uPlace;
float frameTexel(int point, int frame) {
  return texelFetch(uFrames, ivec3(point % ${WIDTH}, point / ${WIDTH}, frame), 0).r;
}
float frameValue(int point) {
  float low = frameTexel(point, int(floor(uPlace)));
  float share = fract(uPlace);
  if (share <= 0.0) return low;
  float high = frameTexel(point, int(ceil(uPlace)));
  if (high > 5e29) return high;
  return low > 5e29 ? high : mix(low, high, share);
}`;

/** The moment that is drawn, s: followed without drawing the page anew. */
export interface Head {
  now: () => number;
  follow: (moved: (time: number) => void) => () => void;
}

/** A moment that stays. */
export const stillHead = (time: number): Head => ({ now: () => time, follow: () => () => {} });
