import { CONSTANTS } from '../material/constants';
import type { MaterialKind } from '../model/material';
import type { InputHelp } from './inputHelp';

/** What a constant of a material is; its title is made of its label and its group, so that each is found by itself. */
type ConstantHelp = Omit<InputHelp, 'title'>;

const CROSS = 'Cross, J. Colloid Sci. 20 (1965) 417; Williams, Landel & Ferry, J. Am. Chem. Soc. 77 (1955) 3701';
const ETA = 'η = η₀ / (1 + (η₀ γ̇ / τ*)^(1 − n))';
const ETA_0 = 'η₀ = D1 exp(−A1 (T − T*) / (A2 + T − T*)), T* = D2 + D3 p, A2 as D3 p larger';
const ZOLLER = 'Zoller & Walsh, Standard Pressure-Volume-Temperature Data for Polymers, Technomic 1995';
const TAIT = 'v = v₀(T) (1 − 0.0894 ln(1 + p / B(T))) + v_t';
const TAIT_0 = 'v₀ = b1 + b2 (T − b5)';
const TAIT_B = 'B = b3 exp(−b4 (T − b5))';
const SUTHERLAND = 'Sutherland, Phil. Mag. 36 (1893) 507';
const INCROPERA = 'Incropera & DeWitt, Fundamentals of Heat and Mass Transfer, 6th ed., Wiley 2007';
const FERRY = 'Ferry, Viscoelastic Properties of Polymers, 3rd ed., Wiley 1980';

const from = (means: string, use: string, more: Partial<ConstantHelp> = {}): ConstantHelp => ({ means, use, ...more });
const cross = (means: string, use: string, formula = ETA) => from(means, use, { formula, source: CROSS });
const tait = (means: string, use: string, formula = TAIT) => from(means, use, { formula, source: ZOLLER });

const DATA_SHEET = 'From the data sheet of the grade.';
const FITTED = 'Comes from a fit to measured points: the sheet “Fit” of the Resin station makes one.';

/** Of resins, by the path of the constant. */
const RESIN: Record<string, ConstantHelp> = {
  'viscosity.n': cross(
    'How steeply the viscosity falls with the shear rate: 1 not at all, 0 as steeply as can be.',
    FITTED,
  ),
  'viscosity.tauStar': cross('Shear stress at which the melt begins to thin.', FITTED),
  'viscosity.D1': cross('Viscosity at rest at the reference temperature, without pressure.', FITTED, ETA_0),
  'viscosity.D2': cross(
    'Reference temperature of the viscosity, near where the melt becomes glass.',
    'It may be fixed in a fit: D1 and A1 then follow it.',
    ETA_0,
  ),
  'viscosity.D3': cross(
    'By how much pressure raises the reference temperature: the melt thickens under it.',
    'Take 0 where it was not measured; 0.5 to 4 × 10⁻⁷ K/Pa for most plastics. It counts above some 50 MPa.',
    ETA_0,
  ),
  'viscosity.A1': cross('How strongly the viscosity at rest falls with temperature.', FITTED, ETA_0),
  'viscosity.A2': cross('Over how many kelvins that fall levels off.', 'Take 51.6 K where it was not fitted.', ETA_0),

  'pvt.b5': tait(
    'Temperature without pressure at which melt turns solid in the pvT data.',
    'Near the transition temperature.',
  ),
  'pvt.b6': tait('By how much pressure raises that temperature.', FITTED, 'T_t = b5 + b6 p'),
  'pvt.b1m': tait('Specific volume of the melt at b5, without pressure.', FITTED, TAIT_0),
  'pvt.b2m': tait('By how much that grows a kelvin.', FITTED, TAIT_0),
  'pvt.b3m': tait('How stiff the melt is against pressure at b5: the larger, the less it gives.', FITTED, TAIT_B),
  'pvt.b4m': tait('How fast that stiffness falls with temperature.', FITTED, TAIT_B),
  'pvt.b1s': tait('Specific volume of the solid at b5, without pressure.', FITTED, TAIT_0),
  'pvt.b2s': tait('By how much that grows a kelvin.', FITTED, TAIT_0),
  'pvt.b3s': tait('How stiff the solid is against pressure at b5.', FITTED, TAIT_B),
  'pvt.b4s': tait('How fast that stiffness falls with temperature.', FITTED, TAIT_B),
  'pvt.b7': tait(
    'Volume that goes when the plastic crystallises, at b5 and without pressure.',
    'Take 0 for amorphous plastics.',
    'v_t = b7 exp(b8 (T − b5) − b9 p), below T_t alone',
  ),
  'pvt.b8': tait(
    'How fast crystals form below b5.',
    'Take 0 for amorphous plastics.',
    'v_t = b7 exp(b8 (T − b5) − b9 p)',
  ),
  'pvt.b9': tait(
    'How much pressure takes off that volume.',
    'Take 0 for amorphous plastics.',
    'v_t = b7 exp(b8 (T − b5) − b9 p)',
  ),

  transitionTemperature: from(
    'Where the plastic turns from melt to solid: glass for amorphous ones, crystals for the others.',
    DATA_SHEET,
  ),
  noFlowTemperature: from(
    'A layer colder than this counts as frozen and flows no more.',
    'Some 30 K above glass, or just below the onset of crystallisation on cooling.',
  ),
  ejectionTemperature: from(
    'What is colder than this is stiff enough to be pushed out.',
    'Often the heat deflection temperature under low load, or the Vicat point.',
  ),
  'melt.min': from('Coldest melt that its maker allows.', DATA_SHEET),
  'melt.recommended': from('Melt temperature that stands as the default of a cycle.', DATA_SHEET),
  'melt.max': from('Hottest melt that its maker allows: beyond it the plastic ages.', DATA_SHEET),
  'mould.min': from('Coldest mould that its maker allows.', DATA_SHEET),
  'mould.recommended': from('Mould temperature that stands as the default of a cycle.', DATA_SHEET),
  'mould.max': from('Hottest mould that its maker allows.', DATA_SHEET),
  maxShearRate: from(
    'Above it the melt may be torn apart, in gates first.',
    'By family where the maker says nothing: 20,000 to 100,000 1/s.',
  ),
  maxShearStress: from(
    'Above it the plastic may be damaged, or its surface show it.',
    'By family where the maker says nothing: 0.1 to 0.5 MPa.',
  ),

  'elastic.E1': from(
    'Stiffness of the solid in the room, along the flow (along the fibres of a filled grade).',
    DATA_SHEET,
  ),
  'elastic.E2': from(
    'Stiffness of the solid in the room, across the flow.',
    'As along the flow for an unfilled grade.',
  ),
  strength: from('Stress at which a tensile bar yields or breaks.', 'Left empty it is 2 % of the modulus.'),
  'elastic.nu12': from(
    'How much it gets narrower across when it is pulled along the flow.',
    'Between 0.35 and 0.42 for most plastics.',
  ),
  'elastic.nu23': from('The same between the two directions across the flow.', 'As the other for an unfilled grade.'),
  'elastic.G12': from('Stiffness against shear in the plane of flow.', 'Of an unfilled grade it follows.', {
    formula: 'G = E / (2 (1 + ν))',
  }),
  'expansion.along': from('By how much the solid gets longer a kelvin, along the flow.', DATA_SHEET),
  'expansion.across': from(
    'By how much the solid gets longer a kelvin, across the flow.',
    'As along it for an unfilled grade.',
  ),

  crystalShare: from(
    'Which share of the volume that crystals take away is lost along the wall; the rest is lost in its thickness.',
    'Left empty it is that of the family. The sheet “Shrinkage” fits it to measured plates.',
  ),
  quenchLoss: from(
    'Share of the crystals that do not form for every ten times faster cooling.',
    'Left empty it is that of the family.',
  ),
  shrinkageFactor: from(
    'Measured shrinkage over that of the pvT data.',
    'The sheet “Shrinkage” fits it to measured plates; 1 leaves it as it is.',
  ),
  afterShrinkage: from(
    'How much more it shrinks in the room for every ten times as long.',
    'Left empty it is that of the family; 0 for amorphous plastics.',
  ),
};

const METAL: Record<string, ConstantHelp> = {
  density: from('Mass of a volume.', 'With the specific heat it says how fast a piece of the mould follows the melt.'),
  specificHeat: from(
    'Heat that warms a kilogram by a kelvin.',
    'With the density it says how fast a piece of the mould follows the melt.',
    { source: INCROPERA },
  ),
  conductivity: from(
    'How well heat goes through it.',
    'Copper alloys have five to ten times that of tool steel: they even out hot places.',
    { source: INCROPERA },
  ),
  modulus: from('Stiffness against pulling.', 'Of inserts and cores: how far the melt bends them.'),
  poisson: from('How much it gets narrower across when it is pulled.', 'About 0.3 for metals.'),
  expansion: from(
    'By how much it gets longer a kelvin.',
    'Of an insert: it shrinks less than the plastic around it, which is then under stress.',
  ),
};

const GAS: Record<string, ConstantHelp> = {
  molarMass: from('Mass of a mole of the gas.', 'Nitrogen has 0.028, air 0.029.'),
  heatRatio: from('Specific heat at constant pressure over that at constant volume.', 'Gases of two atoms have 1.4.'),
  viscosity: from('How thick the gas is at the temperature below.', 'It sets how fast air gets out through a vent.', {
    source: SUTHERLAND,
  }),
  at: from('Temperature at which the viscosity was measured.', 'The viscosity at others follows from it.', {
    source: SUTHERLAND,
  }),
  sutherland: from('How the viscosity of the gas grows with temperature.', 'Nitrogen has 111 K, air 120 K.', {
    formula: 'μ / μ₀ = (T / T₀)^1.5 (T₀ + S) / (T + S)',
    source: SUTHERLAND,
  }),
};

/** Of coolants; both of their states have the same constants. */
const COOLANT: Record<string, ConstantHelp> = {
  freezing: from('Below it the coolant can not be used.', 'A supply this cold is refused.'),
  boiling: from(
    'Above it the coolant can not be used.',
    'Of water under pressure it is higher: type what the circuit stands.',
  ),
  T: from(
    'Temperature at which the values below were measured.',
    'Take the two ends of where the coolant is used: between them values are read along a line, the logarithm of the viscosity against 1/T.',
  ),
  density: from('Mass of a volume.', 'With the specific heat it says by how much the coolant warms on its way.'),
  specificHeat: from(
    'Heat that warms a kilogram by a kelvin.',
    'With the density it says by how much the coolant warms on its way.',
  ),
  conductivity: from(
    'How well heat goes through it.',
    'Of oil it is a fifth of that of water: it takes up less at the same flow.',
  ),
  viscosity: from('How thick the coolant is.', 'The thinner, the sooner its flow is turbulent and cools well.'),
};

const CONSTANT: Record<MaterialKind, Record<string, ConstantHelp>> = {
  resin: RESIN,
  metal: METAL,
  gas: GAS,
  coolant: COOLANT,
};

const titleOf = (label: string, group: string) => `${label} (${group})`;

/** Of a coolant the key within either state. */
const keyOf = (kind: MaterialKind, path: string) => (kind === 'coolant' ? (path.split('.').at(-1) as string) : path);

/** Every constant of every kind of material. */
export const CONSTANT_HELP: readonly InputHelp[] = (Object.keys(CONSTANTS) as MaterialKind[]).flatMap((kind) =>
  CONSTANTS[kind].flatMap(({ title, constants }) =>
    constants.map(({ path, label }) => ({ title: titleOf(label, title), ...CONSTANT[kind][keyOf(kind, path)] })),
  ),
);

/** Under which a constant is looked up that stands in this group. */
export const helpOfConstant = (label: string, group: string): string => `input:${titleOf(label, group).toLowerCase()}`;

/** Tables of a resin, and the law by which its stress fades. */
export const TABLE_HELP = {
  specificHeat: {
    title: 'Specific heat of the resin',
    means: 'Heat that warms a kilogram by a kelvin, at temperatures; read along straight lines between them.',
    use: 'Its peak where crystals melt is their latent heat: it makes the plastic freeze later.',
  },
  conductivity: {
    title: 'Conductivity of the resin',
    means: 'How well heat goes through the plastic, at temperatures; read along straight lines between them.',
    use: 'Cooling time goes with one over it. Fillers of glass or mineral raise it.',
  },
  reference: {
    title: 'Reference of the relaxation',
    means: 'Temperature at which the times of the spectrum hold.',
    use: 'Colder or hotter, times are longer or shorter by the shift: WLF above it, Arrhenius below.',
    source: FERRY,
  },
  c1: {
    title: 'WLF c1',
    means: 'How strongly times get shorter above the reference.',
    use: 'Between 10 and 18; 17.4 where nothing is known of the grade.',
    formula: 'log a_T = −c1 (T − T_ref) / (c2 + T − T_ref)',
    source: FERRY,
  },
  c2: {
    title: 'WLF c2',
    means: 'Over how many kelvins that levels off.',
    use: 'Between 50 and 70 K; 51.6 K where nothing is known of the grade.',
    formula: 'log a_T = −c1 (T − T_ref) / (c2 + T − T_ref)',
    source: FERRY,
  },
  activation: {
    title: 'Activation of the relaxation',
    means: 'How strongly times get longer below the reference.',
    use: 'From stress that fades at several temperatures.',
    formula: 'ln a_T = E / R (1 / T − 1 / T_ref)',
    source: FERRY,
  },
  spectrum: {
    title: 'Spectrum of the relaxation',
    means: 'Which share of the stress fades over which time, at the reference.',
    use: 'A term a decade is enough; what no term takes stays for ever.',
    formula: 'E(t) / E(0) = 1 − Σ g (1 − exp(−t / τ))',
    source: FERRY,
  },
  packingPoints: {
    title: 'Points of the packing profile',
    means: 'Pressure at times from switchover on; straight between them.',
    use: 'Falling towards the end where places near the gate shrink less than those far off. Two points at one time make a step.',
  },
  corePoints: {
    title: 'Points of the core pressure',
    means: 'Pressure of the fluid at times from its start on; straight between them.',
    use: 'Rising slowly it pushes the melt along; held at the end it packs; let off slowly it does not foam.',
  },
  axisPoint: {
    title: 'Point of a centre line',
    means: 'Place of a point on the centre line that was traced in a body, and the diameter there.',
    use: 'Changed here where the trace has missed the middle; a line is then a runner or a cooling line.',
  },
} satisfies Record<string, InputHelp>;

export const helpOfTable = (id: keyof typeof TABLE_HELP): string => `input:${TABLE_HELP[id].title.toLowerCase()}`;
