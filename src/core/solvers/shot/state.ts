import type { PressureGrid } from '../../grid/pressureGrid';
import type { WallSide } from '../melt/columns';
import type { DriveMemory } from '../melt/drive';
import type { CoreMemory } from '../core/core';
import type { BehindMemory } from '../melt/behind';
import type { HeatBalance } from '../melt/heat';
import type { PressMemory } from '../press/openTool';
import type { PlacesMemory } from '../melt/lastPlaces';
import type { AirMemory } from '../melt/trappedAir';
import type { Gating } from '../melt/gating';

/**
 * What cavity and feed hold at a moment of the shot, on the nodes, links and layers of the grid they share: plain typed
 * arrays, so that it can be stored, sent to another thread, and gone on from with the very same numbers.
 *
 *   node    n                 values of a node
 *   layer   n x nLayers       layers of a node's wall side by side; none where the melt keeps its temperature
 *   link    nLinks
 *   star    one a near field  of the gates that open into the part, as `gating.stars`
 */
export interface ShotState {
  /** Since the start of the shot, s. */
  time: number;
  /** Layers of a wall; 0 where heat is not followed. */
  nLayers: number;
  node: {
    /** Melt that came in while filling, m3. */
    held: Float64Array;
    /** 1 where melt has come to. */
    full: Uint8Array;
    /** When it did, s; NaN before. */
    fillTime: Float64Array;
    /** Above the atmosphere, Pa. */
    pressure: Float64Array;
    /** M, 1/(Pa s). */
    fluidity: Float64Array;
    /** Apparent shear rate of the last flow, and the least under a gate, 1/s. */
    shearRate: Float64Array;
    leastRate: Float64Array;
    /** Flow from the inlet straight into the node, m3/s. */
    attachedFlow: Float64Array;
    /** Pa; length 0 where heat is not followed, as the two that follow. */
    wallStress: Float64Array;
    /** Largest shear rate through the wall, 1/s. */
    peakRate: Float64Array;
    /** Place of no shear between the walls, -1 .. 1. */
    neutral: Float64Array;
  };
  layer: {
    /** K */
    temperature: Float64Array;
    /** Share of the node's flow in the layer. */
    flowShare: Float64Array;
    /** Heat made by shear over (wall stress)^2, 1/(Pa s). */
    shearHeat: Float64Array;
    /** 1 / zero-shear viscosity, 1/(Pa s). */
    zeroFluidity: Float64Array;
    /** Share of a second melt; length 0 where there is one melt. */
    second: Float64Array;
    /** Orientation of fibres, six a layer; length 0 where there are none. */
    orientation: Float64Array;
    /** Share of the volume that is fibres; length 0 where it is the same everywhere. */
    fibreShare: Float64Array;
    /** Fluidity over that of the melt's data; length 0 where nothing in the melt changes it. */
    relativeFluidity: Float64Array;
  };
  /** Followed as the mean of a wall. */
  ofWall: {
    /** Numbers of fibres in bins of length, those of a node side by side; length 0 where they do not break. */
    fibreLengths: Float64Array;
  };
  link: {
    /** m3/s, from -> to. */
    flow: Float64Array;
    /** What has passed since both nodes were full, m3. */
    passed: Float64Array;
  };
  star: {
    /** Of the near field and of its entry alone, 1/(Pa s); 0 before they are known. */
    fluidity: Float64Array;
    entryFluidity: Float64Array;
  };
  walls: {
    sides: WallSide[];
    /** Entry of `sides` for first and second wall of each node, length 2n; 0 where heat is not followed. */
    sideOf: Int32Array;
    /** Bodies behind them; null: the mould, everywhere. */
    behind: BehindMemory | null;
  };
  machine: {
    /** At the inlet, Pa and m3/s. */
    pressure: number;
    flow: number;
    /** Of every valve pin: times of its moves, s, and how far it is open. */
    pins: { movedAt: number[]; opening: number }[];
  };
  /** Heat that has come and gone, J. */
  heat: HeatBalance;
  /** Fluid in the core of the melt; null: none. */
  core: CoreMemory | null;
  /** Where the moving half stands; null: at the other one, all along. */
  press: PressMemory | null;
  /** While the cavity is not full: the front and what lies ahead of it. */
  front: FrontMemory | null;
}

/** What the filling goes on from beside the melt itself. */
export interface FrontMemory {
  /** Steps that were taken. */
  steps: number;
  /** Melt that came in through the gates, m3. */
  injected: number;
  /** Share of each gate in the melt, n x layers x gates; empty where there is one gate. */
  gateShare: Float64Array;
  drive: DriveMemory;
  places: PlacesMemory;
  /** null where the air is left out. */
  air: AirMemory | null;
}

/** A cavity that nothing has come into. */
export function emptyState(grid: PressureGrid, gating: Gating): ShotState {
  const perNode = () => new Float64Array(grid.n);
  const none = () => new Float64Array(0);
  return {
    time: 0,
    nLayers: 0,
    node: {
      held: perNode(),
      full: new Uint8Array(grid.n),
      fillTime: perNode().fill(NaN),
      pressure: perNode(),
      fluidity: perNode(),
      shearRate: perNode(),
      leastRate: perNode(),
      attachedFlow: perNode(),
      wallStress: none(),
      peakRate: none(),
      neutral: none(),
    },
    layer: {
      temperature: none(),
      flowShare: none(),
      shearHeat: none(),
      zeroFluidity: none(),
      second: none(),
      orientation: none(),
      fibreShare: none(),
      relativeFluidity: none(),
    },
    ofWall: { fibreLengths: none() },
    link: { flow: new Float64Array(grid.linkFrom.length), passed: new Float64Array(grid.linkFrom.length) },
    star: {
      fluidity: new Float64Array(gating.stars.length),
      entryFluidity: new Float64Array(gating.stars.length),
    },
    walls: { sides: [], sideOf: new Int32Array(0), behind: null },
    machine: { pressure: 0, flow: 0, pins: [] },
    heat: { carriedIn: 0, sheared: 0, lost: 0 },
    core: null,
    press: null,
    front: null,
  };
}

/** @throws Error when a state does not lie on the grid. */
export function checkState(
  { node, layer, ofWall, link, star, core, nLayers }: ShotState,
  grid: PressureGrid,
  gating: Gating,
): void {
  const heated = nLayers > 0;
  const OF_HEAT = new Set(['wallStress', 'peakRate', 'neutral']);
  const OPTIONAL = new Set(['second', 'orientation', 'fibreShare', 'relativeFluidity']);
  const wanted: [string, ArrayLike<number>, number][] = [
    ...Object.entries(node).map(([k, v]): [string, ArrayLike<number>, number] => [
      `node.${k}`,
      v,
      OF_HEAT.has(k) && !heated ? 0 : grid.n,
    ]),
    ...Object.entries(layer).map(([k, v]): [string, ArrayLike<number>, number] => [
      `layer.${k}`,
      v,
      OPTIONAL.has(k) && !v.length ? 0 : grid.n * nLayers * (k === 'orientation' ? 6 : 1),
    ]),
    ...Object.entries(core ?? {}).map(([k, v]): [string, ArrayLike<number>, number] => [`core.${k}`, v, grid.n]),
    ...Object.entries(link).map(([k, v]): [string, ArrayLike<number>, number] => [
      `link.${k}`,
      v,
      grid.linkFrom.length,
    ]),
    ...Object.entries(star).map(([k, v]): [string, ArrayLike<number>, number] => [`star.${k}`, v, gating.stars.length]),
  ];
  if (ofWall.fibreLengths.length % grid.n) wanted.push(['ofWall.fibreLengths', ofWall.fibreLengths, grid.n]);
  for (const [name, values, length] of wanted)
    if (values.length !== length)
      throw new Error(`the state belongs to another grid: ${name} has ${values.length} values, not ${length}`);
}
