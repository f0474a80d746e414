/** Shapes of the demo world, in millimetres. All made up. */
import type { CrossSection, Manifold, ManifoldToplevel } from 'manifold-3d';

const SEGMENTS = 48;

export interface SampleBody {
  name: string;
  colour: string | null;
  solid: Manifold;
}

type Maker = (kernel: ManifoldToplevel) => SampleBody[];

const one = (name: string, solid: Manifold): SampleBody[] => [{ name, colour: null, solid }];

const roundedRectangle = ({ CrossSection }: ManifoldToplevel, lx: number, ly: number, r: number): CrossSection =>
  CrossSection.square([lx - 2 * r, ly - 2 * r], true).offset(r, 'Round', 2, SEGMENTS);

const box = ({ Manifold }: ManifoldToplevel, size: [number, number, number], at: [number, number, number]): Manifold =>
  Manifold.cube(size, true).translate([at[0], at[1], at[2] + size[2] / 2]);

const cylinder = ({ Manifold }: ManifoldToplevel, d: number, h: number, at: [number, number, number]): Manifold =>
  Manifold.cylinder(h, d / 2, d / 2, SEGMENTS).translate(at);

/** Strip of 420 mm with a row of bee-sized slots, a finger tab and a stiffening lip on both long sides. */
const entranceSlider: Maker = (k) => {
  const [length, width, wall, lip] = [420, 24, 2.4, 5];
  const plate = roundedRectangle(k, length, width, 3).extrude(wall);
  const lips = [-1, 1].map((s) => box(k, [length - 8, 1.6, lip], [0, (s * (width - 1.6)) / 2, wall - 0.01]));
  const slots = Array.from({ length: 16 }, (_, i) =>
    roundedRectangle(k, 14, 8, 3.9)
      .extrude(wall + 2)
      .translate([-187.5 + 25 * i, 0, -1]),
  );
  const tab = box(k, [18, width - 6, 8], [length / 2 - 10, 0, wall - 0.01]).subtract(
    box(k, [14, width - 10, 8], [length / 2 - 10, 0, wall]),
  );
  return one('Entrance slider', k.Manifold.union([plate, ...lips, tab]).subtract(k.Manifold.union(slots)));
};

/** Left and right spacer of one tool: a clip with two arms, and a longer one with three. */
const frameSpacers: Maker = (k) => {
  const clip = (length: number, arms: number): Manifold => {
    const base = roundedRectangle(k, length, 14, 3).extrude(2.2);
    const fingers = Array.from({ length: arms }, (_, i) =>
      box(k, [1.8, 14, 11], [-length / 2 + 5 + ((length - 10) * i) / (arms - 1), 0, 2.19]),
    );
    return k.Manifold.union([base, ...fingers]);
  };
  return [
    { name: 'Spacer, left', colour: '#c9b458', solid: clip(34, 2).translate([-26, 0, 0]) },
    { name: 'Spacer, right', colour: '#8d9a5b', solid: clip(48, 3).translate([26, 0, 0]) },
  ];
};

/** Thick handle of a smoker: an oval bar that swells in the middle, with a hole for the strap. */
const smokerGrip: Maker = (k) => {
  const rings = [0, 12, 35, 62, 88, 106, 118];
  const radii = [7, 10, 12.5, 11, 12, 9.5, 6];
  const slices = rings.slice(1).map((z, i) => {
    const disc = (r: number, at: number) =>
      k.CrossSection.circle(r, SEGMENTS).scale([1.25, 0.85]).extrude(0.01).translate([0, 0, at]);
    return k.Manifold.hull([disc(radii[i], rings[i]), disc(radii[i + 1], z - 0.01)]);
  });
  const bar = k.Manifold.union(slices).rotate([0, 90, 0]);
  return one('Smoker grip', bar.subtract(cylinder(k, 6, 60, [108, 0, -30])));
};

/** Steel blade, a core of polyamide around its tang, and a soft grip around the core. */
const hiveTool: Maker = (k) => {
  const blade = k.Manifold.union([box(k, [120, 28, 3], [-60, 0, 6.5]), box(k, [90, 16, 3], [44, 0, 6.5])]);
  const shell = (length: number, w: number, h: number, x: number, z: number) =>
    roundedRectangle(k, w, h, Math.min(w, h) / 2.2)
      .extrude(length)
      .rotate([0, 90, 0])
      .rotate([90, 0, 0])
      .translate([x, 0, z]);
  const core = shell(94, 22, 12, 0, 8);
  const grip = shell(80, 27, 17, 8, 8).subtract(core);
  return [
    { name: 'Blade', colour: '#8b949b', solid: blade },
    { name: 'Core', colour: '#3d4a4c', solid: core.subtract(blade) },
    { name: 'Grip', colour: '#a8553a', solid: grip },
  ];
};

/** Lid with a field of small holes, a rim, a hinge eye and a snap tongue. */
const queenCageLid: Maker = (k) => {
  const [length, width, wall] = [76, 34, 1.8];
  const plate = roundedRectangle(k, length, width, 5).extrude(wall);
  const rim = roundedRectangle(k, length, width, 5)
    .subtract(roundedRectangle(k, length - 3, width - 3, 3.5))
    .extrude(6);
  const holes: Manifold[] = [];
  for (let i = -4; i <= 4; i++)
    for (let j = -1; j <= 1; j++) holes.push(cylinder(k, 3, wall + 2, [6.5 * i, 7 * j, -1]));
  const tongue = box(k, [10, 1.6, 9], [length / 2 - 8, 0, 0]);
  return one('Queen cage lid', k.Manifold.union([plate, rim, tongue]).subtract(k.Manifold.union(holes)));
};

/** Housing with screw bosses, and the circuit board assembly that sits in it. */
const hiveMonitor: Maker = (k) => {
  const [length, width, height, wall] = [96, 64, 26, 2];
  const shell = roundedRectangle(k, length, width, 6)
    .extrude(height)
    .subtract(
      roundedRectangle(k, length - 2 * wall, width - 2 * wall, 4)
        .extrude(height)
        .translate([0, 0, wall]),
    );
  const corners = [-1, 1].flatMap((i) =>
    [-1, 1].map((j) => [(i * (length - 22)) / 2, (j * (width - 20)) / 2] as const),
  );
  const bosses = corners.map(([x, y]) => cylinder(k, 6, 8, [x, y, wall - 0.01]));
  const pilots = corners.map(([x, y]) => cylinder(k, 2.4, 9, [x, y, wall + 1.2]));
  const housing = k.Manifold.union([shell, ...bosses]).subtract(k.Manifold.union(pilots));
  const z = 10;
  const bodies: SampleBody[] = [{ name: 'Housing', colour: null, solid: housing }];
  const add = (name: string, colour: string, solid: Manifold) => bodies.push({ name, colour, solid });
  const board = roundedRectangle(k, 84, 52, 3)
    .extrude(1.6)
    .translate([0, 0, z])
    .subtract(k.Manifold.union(corners.map(([x, y]) => cylinder(k, 2.9, 4, [x, y, z - 1]))));
  add('Board', '#4f6b52', board);
  const top = z + 1.6;
  for (let i = 0; i < 6; i++) add(`Capacitor ${i + 1}`, '#6f6a76', cylinder(k, 6.3, 8, [-30 + 9 * i, 18, top]));
  for (let i = 0; i < 12; i++) {
    const chip = box(k, [3.2, 1.6, 0.9], [0, 0, 0]).rotate([0, 0, 30 * i]);
    add(`Resistor ${i + 1}`, '#a99c86', chip.translate([-28 + 5 * i, 9, top]));
  }
  for (let i = 0; i < 3; i++) add(`Chip ${i + 1}`, '#3c3a3d', box(k, [11, 11, 1.8], [-22 + 20 * i, -6, top]));
  for (let i = 0; i < 4; i++) add(`Screw ${i + 1}`, '#8b949b', screw(k).translate([corners[i][0], corners[i][1], top]));
  add('Cell', '#b59b4a', cylinder(k, 18, 5.4, [26, -14, top]));
  add('Plug', '#d0c8bb', box(k, [14, 9, 7], [-33, -20, top]));
  return bodies;
};

const screw = (k: ManifoldToplevel): Manifold =>
  k.Manifold.union([cylinder(k, 4.6, 2, [0, 0, 0]), cylinder(k, 2.2, 9, [0, 0, -8.9])]).subtract(
    box(k, [3.2, 0.6, 1], [0, 0, 1.2]),
  );

export const SAMPLES: Record<string, Maker> = {
  'entrance-slider': entranceSlider,
  'frame-spacers': frameSpacers,
  'smoker-grip': smokerGrip,
  'hive-tool-handle': hiveTool,
  'queen-cage-lid': queenCageLid,
  'hive-monitor': hiveMonitor,
};
