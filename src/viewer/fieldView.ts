import type { ColourMap } from './colour';
import type { FindingMarks } from './FindingsLayer';
import type { VectorSet } from './FlowLayer';
import type { NodeFrames, ValueFrames } from './frames';
import type { Deformed } from './PartSurface';
import type { DrawMesh } from './surfaceGeometry';
import type { ViewGrid } from '@/core/formats/viewGrid';
import type { TracerPaths } from './tracers';

export interface SectionView {
  axis: 'x' | 'y' | 'z';
  /** 0..1 between the part's ends */
  at: number;
  flipped: boolean;
  /** Degrees out of the axis. */
  tilt: number;
  swing: number;
}

export interface FieldView {
  /** At the vertices of the drawn surface. */
  values: ValueFrames;
  /** When the front passed each vertex, s; NO_VALUE where it never did. */
  times: Float32Array;
  /** At the nodes, for the section's cap. */
  nodes: NodeFrames;
  nodeTimes: Float32Array;
  grid: ViewGrid | null;
  range: [number, number];
  /** Absent: sequential. */
  map?: ColourMap;
  brush: [number, number] | null;
  /** Wall behind each vertex, mm: what the brush leaves is closed by it; absent: it is not. */
  walls?: Float32Array | null;
  /** Lines of equal value: step and one value that has a line; absent: none. */
  lines?: { step: number; from: number } | null;
  /** Last instant, s: the play head stands no later. Before it a line marks the front. */
  end: number;
  /** Drawn at its end whatever the play head says: as it is computed with the front, or as a whole. */
  still: 'front' | 'whole' | null;
  /** The part is drawn off its drawing. */
  deformed?: Deformed | null;
  /** What the vertices have holds between the faces of a wall as well, straight from one to the other. */
  through?: boolean;
  /** Inserts that carry values of their own; with `alone` the part stands faintly around them. */
  inserts?: { mesh: DrawMesh; values: Float32Array; offset: Float32Array; alone: boolean } | null;
  /** Fluid in the core; null where there is none. */
  core?: CoreDraw | null;
  /** Faces without a value are left away, so that those of the inside are seen. */
  bare?: boolean;
  /** Values through the wall, for the section. */
  profile?: NodeFrames | null;
}

/** The core as it is drawn: a body that grows, and what of a cut wall is hollow. */
export interface CoreDraw {
  mesh: DrawMesh;
  /** When the fluid came to each vertex, s. */
  times: Float32Array;
  /** Values of the shown field at its vertices, inside a faint part; null: in the colour of the fluid. */
  values: Float32Array | null;
  /** Of every node: plastic between core and wall, m, and when the fluid came, s; NaN where it did not. */
  skin: Float32Array;
  nodeTimes: Float32Array;
}

/** What is drawn over the field. */
export interface Overlays extends FindingMarks {
  /** Time between isochrones, s; 0 draws none. */
  isochrones: number;
  vectors: VectorSet | null;
  tracers: TracerPaths | null;
  /** Discs on the surface, mm: where no gate may sit. */
  patches: { position: [number, number, number]; radius: number }[];
}

/** Colours of the gates' tracers: apart in hue and in lightness. */
export const GATE_COLOURS = ['#a8481a', '#16626b', '#c79a2b', '#5b3f7a', '#4d7a35', '#8a8378'];

export interface ViewportColours {
  clay: string;
  edge: string;
  accent: string;
  select: string;
  ink: string;
  paper: string;
}
