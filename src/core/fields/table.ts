import { z } from 'zod';
import type { Unit } from '../units/units';

/**
 * Nodes of the part, both sides of their walls (two values a node, first side first), cells of the feed section by
 * section, vertices of the drawn surface, or of the surfaces of the inserts in one.
 */
export const fieldLocationSchema = z.enum(['cell', 'wall', 'segment', 'vertex', 'insert']);
export type FieldLocation = z.infer<typeof fieldLocationSchema>;

/** Which list a field stands in; 'drawn' ones are arrows, displacements and tensors that others are made of. */
export type FieldGroup = 'filling' | 'packing' | 'behind' | 'core' | 'fibres' | 'shape' | 'mould' | 'drawn';

/** A moment of the shot that has a name; one that a shot has not come to is the last it has. */
export type Instant = 'switchover' | 'full' | 'packing-ends' | 'gate-frozen' | 'opening';

/** A result field: all that producers, lists, legends, exports and help need to know of it. */
export interface FieldEntry {
  /** Short, in lists. */
  label: string;
  /** In full, in exports. */
  quantity: string;
  /** Of the values. */
  si: string;
  /** In which they are shown. */
  unit: Unit;
  location: FieldLocation;
  /** Values a place; NaN where it varies (places through the wall). */
  components: number;
  group: FieldGroup;
  /** One sentence: what it is, and how it comes about. */
  means: string;
  /**
   * Of the legend: from nothing to the largest, all of it, or without the half per cent at either end, where single cells
   * at edges say little.
   */
  range: 'from-zero' | 'whole' | 'cut';
  /** Frames over the shot, or one for the whole of it. */
  overTime: boolean;
  /** The instant at which one over time says most. */
  saysMost: Instant;
  /** What a place without a value says of itself. */
  none: string;
}

const entry = (
  label: string,
  [si, unit]: readonly [string, Unit],
  group: FieldGroup,
  means: string,
  more: Partial<FieldEntry> = {},
): FieldEntry => ({
  label,
  quantity: label,
  si,
  unit,
  location: group === 'shape' ? 'vertex' : 'cell',
  components: 1,
  group,
  means,
  range: 'from-zero',
  overTime: false,
  none: 'no value',
  saysMost: 'full',
  ...more,
});

const TIME = ['s', 's'] as const;
const TEMPERATURE = ['K', '°C'] as const;
const PRESSURE = ['Pa', 'MPa'] as const;
const SHARE = ['', '%'] as const;
const LENGTH = ['m', 'mm'] as const;
const WHOLE = { range: 'whole' } as const;
const CUT = { range: 'cut' } as const;
const MOVING = { overTime: true } as const;

/** Every field of a run by its id, in the order of the lists. Shares of single gates are made by `gateShareEntry`. */
export const FIELD_TABLE = {
  fillTime: entry('Fill time', TIME, 'filling', 'When the front came: the node was half full.'),
  pressure: entry('Pressure', PRESSURE, 'filling', 'Pressure in the melt above the atmosphere.', {
    ...MOVING,
    saysMost: 'switchover',
  }),
  temperature: entry('Mean temperature', TEMPERATURE, 'filling', 'Mean over the section of the wall.', {
    ...MOVING,
    ...WHOLE,
  }),
  profile: entry(
    'Temperature through the wall',
    TEMPERATURE,
    'filling',
    'At places from the middle to the wall; on a section, all.',
    {
      ...MOVING,
      ...WHOLE,
      components: NaN,
      saysMost: 'packing-ends',
    },
  ),
  frontTemperature: entry(
    'Temperature at the front',
    TEMPERATURE,
    'filling',
    'In the middle of the wall when the front came.',
    CUT,
  ),
  frozen: entry('Frozen share of the wall', SHARE, 'filling', 'Share of the wall below the transition of the resin.', {
    ...MOVING,
    ...WHOLE,
    saysMost: 'packing-ends',
  }),
  peakStress: entry(
    'Peak wall shear stress',
    PRESSURE,
    'filling',
    'Largest shear stress at the wall while melt flowed.',
    CUT,
  ),
  peakShearRate: entry(
    'Peak shear rate',
    ['1/s', '1/s'],
    'filling',
    'Largest shear rate anywhere through the wall.',
    CUT,
  ),
  frontSpeed: entry('Front speed', ['m/s', 'cm/s'], 'filling', 'Mean velocity over the wall when the front came.', CUT),
  thickness: entry(
    'Wall thickness',
    LENGTH,
    'filling',
    'Twice the half gap sqrt(2 κ + |∇κ|²) of the wall function.',
    CUT,
  ),
  velocity: entry('Velocity', ['m/s', 'cm/s'], 'drawn', 'Mean over the wall, drawn as arrows.', {
    ...MOVING,
    components: 3,
  }),
  shrinkage: entry(
    'Volumetric shrinkage',
    SHARE,
    'packing',
    'Volume lost from the cavity to the part in the room.',
    CUT,
  ),
  linearShrinkage: entry(
    'Linear shrinkage',
    SHARE,
    'packing',
    'Shrinkage of a length, were it alike in all directions.',
    CUT,
  ),
  shrinkageAtEjection: entry(
    'Shrinkage when ejected',
    SHARE,
    'packing',
    'Volume lost when the mould opens, still warm.',
    CUT,
  ),
  holdReach: entry(
    'Hold reach',
    TIME,
    'packing',
    'Until when a molten way led from the pressed nozzle to the place.',
    CUT,
  ),
  sinkDepth: entry(
    'Sink depth',
    ['m', 'µm'],
    'packing',
    'How far the skin is drawn in by what no melt came to fill.',
    CUT,
  ),
  voidRisk: entry('Missing in the core', SHARE, 'packing', 'What the skin is too stiff to follow, over the wall.', CUT),
  frozenAt: entry('Frozen at', TIME, 'packing', 'When the middle of the wall fell below the transition.', {
    ...CUT,
    none: 'not frozen by the end',
  }),
  heldShare: entry(
    'Held by steel',
    SHARE,
    'packing',
    'Share of the contraction along the wall that steel takes away in the closed tool, in the direction held most: what the part closes around.',
    { range: 'from-zero' },
  ),
  heldAlong: entry(
    'Direction of the hold',
    SHARE,
    'drawn',
    'Along the wall, as long as the share that steel takes away in it, and the share square to it; drawn as bars.',
    { components: 4 },
  ),
  slidesAt: entry(
    'Slides from',
    TIME,
    'packing',
    'When no pressure pressed the wall on any more: from then on only steel that the part closes around holds it at its length.',
    CUT,
  ),
  ejectableAt: entry('Ejectable time', TIME, 'packing', 'When enough of the wall was below the ejection temperature.', {
    ...CUT,
    none: 'not ejectable by the end',
  }),
  density: entry(
    'Density when ejected',
    ['kg/m³', 'kg/m³'],
    'packing',
    'Mass in the place over the volume of its cavity.',
    CUT,
  ),
  deviation: entry('Deviation', LENGTH, 'shape', 'From the drawing after alignment, along the chosen direction.'),
  stressInMould: entry(
    'Layer stress, mould opens',
    PRESSURE,
    'shape',
    'Along the wall in each layer just before the mould opens, of a wall by itself; on a section, all through the wall.',
    { ...WHOLE, components: NaN },
  ),
  stressInRoom: entry(
    'Layer stress in the room',
    PRESSURE,
    'shape',
    'Along the wall in each layer when it is measured, of a wall that is free by itself; on a section, all through the wall.',
    { ...WHOLE, components: NaN },
  ),
  shrinkageAlong: entry(
    'Shrinkage along the wall',
    SHARE,
    'shape',
    'Mean over the layers of what each would lose if it were cut free.',
    {
      location: 'cell',
      ...WHOLE,
    },
  ),
  shrinkageAcross: entry(
    'Shrinkage across the wall',
    SHARE,
    'shape',
    'What the volume has lost and the plane has not.',
    {
      location: 'cell',
      ...WHOLE,
    },
  ),
  vonMises: entry(
    'von Mises stress, surface',
    PRESSURE,
    'shape',
    'Equivalent stress of the plastic in the room, at its skin.',
    {
      quantity: 'von Mises stress at the surface',
    },
  ),
  vonMisesCore: entry('von Mises stress, middle', PRESSURE, 'shape', 'The same in the middle of the wall.', {
    quantity: 'von Mises stress in the middle of the wall',
  }),
  principalStress: entry(
    'Largest principal stress',
    PRESSURE,
    'shape',
    'Largest pull at the skin, in whatever direction.',
    {
      quantity: 'Largest principal stress at the surface',
    },
  ),
  leastPrincipal: entry(
    'Least principal stress',
    PRESSURE,
    'shape',
    'Largest push at the skin, in whatever direction.',
    {
      quantity: 'Least principal stress at the surface',
    },
  ),
  stressAlong: entry('Stress along an axis', PRESSURE, 'shape', 'Pull at the skin along the chosen axis.'),
  bondPull: entry(
    'Pull at the bond',
    PRESSURE,
    'shape',
    'Stress square to the face that is bonded to another body, where it pulls: what the bond must hold.',
    { quantity: 'Pull at the bond to another body' },
  ),
  bondShear: entry('Shear at the bond', PRESSURE, 'shape', 'Stress along the face that is bonded to another body.', {
    quantity: 'Shear stress at the bond to another body',
  }),
  faceTemperature: entry(
    'Temperature of the face',
    TEMPERATURE,
    'behind',
    'Where the melt meets an insert or plastic moulded before, over time.',
    { location: 'cell', ...MOVING, ...WHOLE },
  ),
  facePeak: entry(
    'Peak temperature of the face',
    TEMPERATURE,
    'behind',
    'Hottest that the face of what lies behind the wall has been: the insert, or plastic moulded before.',
    { location: 'wall', ...WHOLE },
  ),
  softDepth: entry(
    'Softened skin',
    LENGTH,
    'behind',
    'Deepest that plastic moulded before was above its transition, from its face inwards.',
    { location: 'wall', quantity: 'Depth of the softened skin' },
  ),
  softFor: entry(
    'Time softened',
    TIME,
    'behind',
    'How long the face of plastic moulded before was above its transition.',
    { location: 'wall', quantity: 'Time that the face was softened' },
  ),
  healed: entry(
    'Healed share of the bond',
    SHARE,
    'behind',
    'Share of the strength that chains crossing the face would give in plastic of one kind: (time softened over time to relax) to the power 1/4.',
    { location: 'wall', ...WHOLE },
  ),
  wallChange: entry(
    'Wall beside the moved insert',
    LENGTH,
    'behind',
    'By how much the wall grows where the melt bends an insert away from it; less than 0 where it grows thinner. The insert is drawn moved, as much larger as the shape is.',
    { location: 'wall', quantity: 'Change of the wall by the moved insert', ...WHOLE },
  ),
  heatTaken: entry(
    'Heat taken up behind the wall',
    ['J/m²', 'kJ/m²'],
    'behind',
    'Heat that insert or earlier plastic has taken up through the wall until the mould opened.',
    { location: 'wall', ...WHOLE },
  ),
  coreShare: entry(
    'Core share',
    SHARE,
    'core',
    'Share of the section that the fluid in the core fills; the rest is skin.',
    { location: 'cell', ...MOVING, saysMost: 'opening' },
  ),
  skinLeft: entry(
    'Skin left',
    LENGTH,
    'core',
    'Thickness of the plastic between the core and the wall when the mould opens: half the wall where it is solid.',
    { location: 'cell', ...CUT },
  ),
  coreTime: entry(
    'Core comes',
    TIME,
    'core',
    'When the fluid in the core had come: half of what it takes of the place.',
    {
      location: 'cell',
      ...CUT,
    },
  ),
  fibreDegree: entry(
    'Alignment of fibres',
    SHARE,
    'fibres',
    'Share of the fibres that lie along their main direction: a third where none is before another, all where they lie alike. On a section, all through the wall.',
    { ...WHOLE, components: NaN },
  ),
  fibreOn: entry(
    'Fibres along',
    SHARE,
    'fibres',
    'Share that lies the way most fibres of the wall do, in its plane. On a section, all through the wall.',
    { ...WHOLE, components: NaN },
  ),
  fibreSquare: entry(
    'Fibres square to that',
    SHARE,
    'fibres',
    'Share that lies in the plane of the wall square to the way most do. On a section, all through the wall.',
    { ...WHOLE, components: NaN },
  ),
  fibreThrough: entry(
    'Fibres across the wall',
    SHARE,
    'fibres',
    'Share that stands across the wall. On a section, all through it.',
    { ...WHOLE, components: NaN },
  ),
  fibreOnLoad: entry(
    'Fibres along load',
    SHARE,
    'fibres',
    'Share that lies along the direction that is picked for the load. On a section, all through the wall.',
    { ...WHOLE, components: NaN },
  ),
  fibreVolume: entry(
    'Fibres by volume',
    SHARE,
    'fibres',
    'Volume of the fibres over that of the plastic and them, where they move across the flow. On a section, all through the wall.',
    { ...WHOLE, components: NaN },
  ),
  fibreWeight: entry(
    'Fibres by weight',
    SHARE,
    'fibres',
    'The same by weight: what burning a piece of the part out would leave.',
    { ...WHOLE, components: NaN },
  ),
  fibreLength: entry(
    'Length by weight',
    LENGTH,
    'fibres',
    'Mean length of the fibres, each counted by its own: what stiffness and strength go by.',
    WHOLE,
  ),
  fibreLengthNumber: entry(
    'Length by number',
    LENGTH,
    'fibres',
    'Mean length of the fibres, each counted once: what counting under a microscope gives.',
    WHOLE,
  ),
  fibreModulus: entry(
    'Largest modulus',
    ['Pa', 'GPa'],
    'fibres',
    'Young’s modulus of the wall along the direction in its plane in which it is stiffest.',
    WHOLE,
  ),
  fibreModulusLeast: entry(
    'Least modulus',
    ['Pa', 'GPa'],
    'fibres',
    'The same where it is least stiff in its plane.',
    WHOLE,
  ),
  fibreModulusAlong: entry(
    'Modulus along load',
    ['Pa', 'GPa'],
    'fibres',
    'Young’s modulus of the wall along the direction that is picked for the load.',
    WHOLE,
  ),
  shrinkageOnFibres: entry(
    'Shrinkage along the fibres',
    SHARE,
    'fibres',
    'Mean over the layers along the direction in the plane of the wall in which they shrink least.',
    WHOLE,
  ),
  shrinkageSquare: entry(
    'Shrinkage square to the fibres',
    SHARE,
    'fibres',
    'The same square to that, in the plane of the wall.',
    WHOLE,
  ),
  mouldSurface: entry(
    'Mould surface temperature',
    TEMPERATURE,
    'mould',
    'Mean over the cycle at either side of the wall.',
    {
      location: 'wall',
      ...WHOLE,
    },
  ),
  mouldDifference: entry(
    'Between both sides of the wall',
    ['K', 'K'],
    'mould',
    'Difference of the mould at the two sides.',
    CUT,
  ),
  displacement: entry('Displacement', LENGTH, 'drawn', 'From the drawing, before alignment.', {
    location: 'vertex',
    components: 3,
  }),
  'moved-shrinkage': moved('uneven shrinkage'),
  'moved-cooling': moved('uneven cooling'),
  'moved-corner': moved('spring-in of corners'),
  'moved-thickness': moved('thinner walls'),
  'moved-insert': moved('inserts'),
  'moved-shot': moved('other shots'),
  'moved-oriented': moved('fibres'),
  fibreTensor: entry(
    'Directions of fibres',
    SHARE,
    'drawn',
    'xx, yy, zz, xy, yz, xz of their second moment, at places from the middle of the wall to its face.',
    {
      components: NaN,
    },
  ),
  wallAcross: entry(
    'Across the wall',
    SHARE,
    'drawn',
    'Unit direction from the first side of the wall to its second.',
    {
      components: 3,
    },
  ),
  wallStiffness: entry(
    'Stiffness of the wall',
    PRESSURE,
    'drawn',
    'Mean over the wall of pairs xx, yy, zz, xy, yz, xz: the upper half, row by row.',
    {
      components: 21,
    },
  ),
  'moved-large': entry(
    'Displacement by large deflections',
    LENGTH,
    'drawn',
    'What large deflections change in the displacement.',
    {
      location: 'vertex',
      components: 3,
    },
  ),
  skinStress: tensor('Stress tensor at the surface', 'vertex'),
  insertMoved: {
    ...moved('inserts'),
    label: 'Displacement of inserts',
    quantity: 'Displacement of inserts',
    location: 'insert',
  },
  insertStress: tensor('Stress tensor of inserts', 'insert'),
} satisfies Record<string, FieldEntry>;

function moved(by: string): FieldEntry {
  const means = `Part of the displacement that ${by} alone would make.`;
  return entry(`Displacement by ${by}`, LENGTH, 'drawn', means, { location: 'vertex', components: 3 });
}

function tensor(label: string, location: FieldLocation): FieldEntry {
  return entry(label, PRESSURE, 'drawn', 'xx, yy, zz, xy, yz, xz.', { location, components: 6 });
}

export type KnownField = keyof typeof FIELD_TABLE;

/** Share of one gate in the melt. */
export const gateShareId = (gate: number): string => `gateShare-${gate + 1}`;
export const gateShareEntry = (name: string): FieldEntry =>
  entry(`Share from ${name}`, SHARE, 'filling', 'Part of the melt of the wall that came through this gate.', {
    quantity: `Share from gate ${name}`,
    ...WHOLE,
  });

/** Entry of any field; null where the id is of no field that is known. */
export function fieldEntry(id: string, gates: readonly { id: string }[] = []): FieldEntry | null {
  const share = /^gateShare-(\d+)$/.exec(id);
  if (share) return gateShareEntry(gates[Number(share[1]) - 1]?.id ?? `gate ${share[1]}`);
  return id in FIELD_TABLE ? FIELD_TABLE[id as KnownField] : null;
}

/** Ids of a group, in the order of the table. */
export const fieldsIn = (group: FieldGroup): KnownField[] =>
  (Object.keys(FIELD_TABLE) as KnownField[]).filter((id) => FIELD_TABLE[id].group === group);
