/** What helps to set an input that stands in no table of parameters. */
export interface InputHelp {
  title: string;
  means: string;
  /** What to do about it. */
  use: string;
  formula?: string;
  source?: string;
  also?: readonly string[];
}

const MENGES = 'Menges, Michaeli & Mohren, How to Make Injection Molds, 3rd ed., Hanser 2001';
const INCROPERA = 'Incropera & DeWitt, Fundamentals of Heat and Mass Transfer, 6th ed., Wiley 2007';

const entry = (title: string, means: string, use: string, more: Partial<InputHelp> = {}): InputHelp => ({
  title,
  means,
  use,
  ...more,
});

/** Inputs of part, feed, cooling and press, by what the code calls them. */
const TABLE = {
  place: entry(
    'Place',
    'Coordinates in the axes of the part as it lies now.',
    'A place off the surface goes to the nearest place on it, or is told how far off it is.',
    { also: ['X', 'Y', 'Z', 'coordinates'] },
  ),

  gateLength: entry(
    'Gate length',
    'Way of the melt through the gate, from the runner to the part.',
    'As short as the tool bears, 0.5 to 1.5 mm: pressure is lost over the length, and steel is left standing between.',
  ),
  gateWide: entry(
    'Gate at the runner',
    'Width of the gate where it leaves the runner.',
    'At least as wide as at the part, so that it tears off there and not in the runner.',
  ),
  gateWidth: entry(
    'Gate width',
    'Extent of the gate along the edge that it opens on.',
    'A wider gate lowers pressure and shear without staying open for longer: how long it feeds hangs on its thickness.',
  ),
  gateThickness: entry(
    'Gate thickness',
    'The smaller side of the gate.',
    'It sets when the gate freezes: 0.5 to 0.8 of the wall feeds the part for most of its cooling.',
    { source: MENGES },
  ),
  gateAngle: entry(
    'Angle of the gate',
    'Between a submarine gate and the parting plane.',
    'Steep ones shear off and are drawn out more easily, flat ones reach farther below the parting line: 30 to 50°.',
  ),
  pinTime: entry(
    'Time of the pin',
    'When the valve pin moves, from the start of the injection.',
    'Gates that open one after the other move weld lines; a pin that opens before the front has come to it makes a new one.',
  ),
  pinShare: entry(
    'Share at which the pin moves',
    'The pin moves when this much of the cavity is full.',
    'Does not hang on how fast it is filled, unlike a time.',
  ),
  pinPressure: entry(
    'Pressure at which the pin moves',
    'The pin moves when the machine comes to this pressure.',
    'Take a value that the filling passes in any case: else the pin never moves, which is told.',
  ),
  pinTakes: entry(
    'Duration of the pin',
    'From shut to fully open, or back.',
    'A slow pin lets the front behind it go on more evenly: jumps of its speed are marked on the part.',
  ),

  runnerHeight: entry(
    'Height of runners',
    'Where the runners lie along z.',
    'In the parting plane where it is a tool of two plates; drops lead from there to gates at other heights.',
  ),
  runnerWidth: entry(
    'Width of the section',
    'Diameter of a round section, else its width at the parting line.',
    'About one and a half times the wall, and no thinner than the thickest wall it feeds, so that it stays open for packing.',
    { source: MENGES, also: ['runner diameter'] },
  ),
  runnerDepth: entry(
    'Depth of the section',
    'How deep the section is cut into its half of the tool.',
    'A trapezoid as deep as wide loses little more pressure than a round runner and is cut in one half alone.',
    { also: ['runner height'] },
  ),
  runnerEnd: entry(
    'Diameter at its end',
    'Of a runner that narrows along its way.',
    'A narrowing runner saves material where less melt passes.',
  ),
  hotTemperature: entry(
    'Temperature of the hot runners',
    'Melt in hot sprue, runners and drops is kept at it.',
    'As the melt, or a little less: what is hotter ages while it waits for the next shot.',
  ),
  sprueAt: entry(
    'Place of the sprue',
    'Where the nozzle sits, in the parting plane.',
    'In the middle of the gates: off it the clamp force pulls the press askew.',
  ),
  sprueLength: entry(
    'Sprue length',
    'From the nozzle to the runners.',
    'As short as plate and nozzle let it be: it is thick, cools last and is waste.',
  ),
  sprueNozzle: entry(
    'Sprue at the nozzle',
    'Diameter at its small end.',
    'Half a millimetre wider than the bore of the nozzle, so that the sprue is drawn out.',
  ),
  sprueRunner: entry(
    'Sprue at the runners',
    'Diameter at its large end.',
    'A taper of 2 to 4° draws well; no thinner than the runner that begins there.',
  ),
  dropRunner: entry(
    'Drop at the runner',
    'Diameter of the way down to the gate where it leaves the runner.',
    'As wide as the runner.',
  ),
  dropGate: entry(
    'Drop at the gate',
    'Diameter of the way down at its lower end.',
    'Wider than the gate: the gate must be the narrowest place, where it tears off.',
  ),
  landLength: entry(
    'Land length',
    'Of gates that are round holes without a kind of their own.',
    'As short as the tool bears: the pressure it costs grows with it.',
  ),
  slug: entry(
    'Cold-slug ends',
    'How far runners go on past bends and junctions.',
    'Catches the cold tip of the melt: one runner diameter to one and a half.',
  ),

  ventWidth: entry(
    'Vent width',
    'Extent of the vent along the edge.',
    'Air flow grows with it: 5 to 10 mm, and several of them at a trap.',
  ),
  ventGap: entry(
    'Vent gap',
    'Thickness of the gap that air leaves through.',
    'As thick as the resin does not flash into: 0.01 to 0.02 mm for thin-flowing melts, 0.03 to 0.05 mm for others.',
    { source: MENGES },
  ),
  ventLand: entry(
    'Vent land',
    'Length of the thin gap before it opens into a deep channel.',
    'Take 1 to 2 mm: air flow falls with it.',
  ),
  ventPressure: entry(
    'Pressure behind the vent',
    'Absolute, at the far end of the gap.',
    'It is 101 kPa in the open, less where the tool is evacuated, which keeps trapped air from burning.',
  ),
  tabLand: entry(
    'Land of the tab',
    'Way from the part into the overflow tab.',
    'Half a wall thick and two to four walls wide: it must not freeze before the tab has filled.',
  ),
  tabSize: entry(
    'Size of the tab',
    'Length, width and thickness of what takes up the cold melt.',
    'As large as the melt of the front that shall leave the part: a few per cent of what meets there.',
  ),

  cavityPitch: entry(
    'Pitch of the cavities',
    'From one copy to the next.',
    'Room for cooling lines and steel between them: at least 20 mm, more for deep parts.',
  ),
  cavityCount: entry(
    'Number of cavities',
    'Copies with gates alike; those alike in their feed are calculated once.',
    'Clamp force, shot and feed grow with it, the price of a part falls.',
  ),
  cavityTurned: entry(
    'Copy turned',
    'By how much a copy is turned about z against the first.',
    'So that all gates look to the sprue.',
  ),
  balancePressure: entry(
    'Nozzle pressure up to',
    'What the machine may be asked for while branches are made narrower.',
    'Four fifths of what it has leave room for a batch that flows badly.',
  ),
  balanceLeast: entry(
    'Least diameter',
    'No branch is made narrower.',
    'The smallest cutter, or what still feeds the part while it packs.',
  ),
  balanceLargest: entry(
    'Largest diameter',
    'No branch is made wider.',
    'What is thick cools last: let it be no more than the cycle bears.',
  ),
  noGateBrush: entry(
    'Brush',
    'Radius around the pointer within which no gate may sit.',
    'Paint faces that are seen, seal or are printed on; the search leaves them out.',
  ),

  channelDiameter: entry(
    'Bore',
    'Inside diameter of a channel.',
    'Take 8 to 12 mm for walls of 2 to 4 mm. A narrower one is turbulent at less flow and costs more pressure.',
    { source: MENGES },
  ),
  channelPitch: entry(
    'Pitch of channels',
    'From the middle of one channel to that of the next.',
    'Two to three bores: wider, and the wall between runs warmer.',
    { source: MENGES },
  ),
  channelDistance: entry(
    'Distance from the part',
    'From the surface of the part to the middle of the channels.',
    'One to two bores: nearer cools faster and less evenly, and steel must bear the pressure.',
    { source: MENGES },
  ),
  channelCount: entry(
    'Channels a side',
    'How many lie side by side on one side of the part.',
    'As many as their pitch needs to cover the part.',
  ),
  channelHeight: entry('Height of lines', 'Plane along z in which lines are drawn.', 'One to two bores off the part.'),
  wellHeight: entry(
    'Height of the well',
    'How far a baffle or a bubbler reaches up from its channel.',
    'To within one bore of the surface that it is to cool.',
  ),
  blade: entry(
    'Blade thickness',
    'Of the sheet that divides the bore of a baffle.',
    'Take 1 to 2 mm: what is left on either side is what coolant passes through.',
  ),
  tubeOutside: entry(
    'Tube outside',
    'Outside diameter of the tube in a bubbler.',
    'Leaves a ring of about the same area as the inside of the tube: then neither throttles.',
  ),
  tubeInside: entry(
    'Tube inside',
    'Inside diameter of the tube in a bubbler.',
    'About 0.7 of the bore makes tube and ring alike.',
  ),
  hoseLength: entry(
    'Length of the hose',
    'Of a hose outside of the mould; empty for a loose loop.',
    'Its friction counts, its heat does not.',
  ),
  loss: entry(
    'Loss coefficient',
    'Pressure lost in bends and fittings over the dynamic pressure; empty for what follows from the shape.',
    'About 1 for a sharp bend, 1.5 for a fitting, 2 for the turn at the tip of a well.',
    { source: INCROPERA, also: ['zeta'] },
  ),
  glycol: entry(
    'Glycol by mass',
    'Share of glycol in the water.',
    'No more than frost wants: it thickens the coolant, which then turns laminar and takes up less heat.',
  ),
  coolantSent: entry(
    'Coolant temperature',
    'As the coolant comes to the mould.',
    'Some 10 K below the mould temperature that is wanted. What follows for the mould is the answer “How long must it cool?”.',
  ),
  coolantFlow: entry(
    'Coolant flow',
    'What the pump gives, whatever it takes.',
    'So that the flow is turbulent (Reynolds number above 4,000 to 10,000) and the coolant warms by no more than 3 K; more brings little.',
    { source: MENGES },
  ),
  coolantPressure: entry(
    'Pressure of the pump',
    'Between the way in and the way out of the mould.',
    'Lines side by side then share the flow by their resistance.',
  ),
  pumpShut: entry(
    'Pressure at no flow',
    'Where the curve of the pump begins.',
    'From the data sheet of the temperature unit.',
  ),
  pumpFree: entry(
    'Flow at no pressure',
    'Where the curve of the pump ends.',
    'From the data sheet of the temperature unit.',
  ),
  supplyHose: entry(
    'Hose to the mould',
    'Length of the hose there and back together with the mould, each way.',
    'Long thin hoses take a good part of the pressure of the pump.',
  ),
  supplyBore: entry('Hose inside', 'Inside diameter of the hoses.', 'No narrower than the channels.'),
  blockCorner: entry(
    'Corner of the block',
    'Lowest and highest corner of the mould block.',
    'By default it goes around part, feed and channels with room to spare.',
  ),
  air: entry(
    'Air around the mould',
    'Temperature of the air, or of the plates of the press, that the block gives heat to.',
    'Counts for hot moulds: at 100 °C a quarter of the heat may leave that way.',
    { also: ['plates of the press', 'ambient'] },
  ),
  airTransfer: entry(
    'Heat to the air',
    'Heat that passes per area and kelvin between block and air, or plates.',
    'It is 5 to 15 W/(m²·K) to still air, some hundreds to plates that touch, less through an insulating sheet.',
    { source: INCROPERA },
  ),
  moves: entry(
    'Single moves of the press',
    'How long it opens, ejects and closes.',
    'From the press: they are part of the cycle, and the mould cools meanwhile.',
    { also: ['opening', 'ejection', 'closing'] },
  ),
  roughness: entry(
    'Roughness',
    'Of the drilled bores, for their friction.',
    'It is 0.02 to 0.05 mm when new; rust and lime make it grow.',
  ),
  startUp: entry(
    'Cycles of the start-up',
    'How many cycles are followed from a mould as warm as the coolant.',
    'Until the wall temperature settles: parts of the cycles before are scrap.',
  ),
  keepOut: entry(
    'Spot without channels',
    'Where an ejector or a screw sits, with the radius that channels keep off its axis.',
    'Radius of the pin and 3 to 4 mm of steel around it.',
  ),
  metalPiece: entry(
    'Size of a piece of metal',
    'Of a piece of the block made of another metal.',
    'Copper alloys carry heat out of places that no channel reaches.',
  ),

  screw: entry(
    'Screw diameter',
    'Turns the travel of the screw into volume.',
    'Profiles that go by the stroke, and the machine’s data sheet, read it.',
  ),
  machinePressure: entry(
    'Largest pressure of the machine',
    'What it can give the melt before the nozzle.',
    'The pressure limit of the cycle can not pass it.',
  ),
  machineFlow: entry(
    'Largest flow rate of the machine',
    'What the screw can give.',
    'The filling is slower where more is asked for, which is told.',
  ),
  machineClamp: entry(
    'Clamp force of the machine',
    'What it can hold the halves together with.',
    'The answer “What machine does it need?” compares it with pressure times shadow.',
  ),
  machineShot: entry(
    'Largest shot',
    'Volume that the screw can hold.',
    'A shot between a fifth and four fifths of it doses evenly and does not wait for long.',
    { source: MENGES },
  ),
  tolerance: entry(
    'Tolerance',
    'By how much the shape, or a measure, may be off its drawing after best fit; empty for what is usual at its size.',
    'From the drawing. It changes the verdict alone, and no number.',
    { also: ['may be off by'] },
  ),
  transfer: entry(
    'Transfer',
    'From the opening after one shot to the closing for the next.',
    'The longer, the colder the part is that the next melt has to bond to.',
  ),
  profileFrom: entry(
    'Step of the profile',
    'From where on a flow rate holds.',
    'Slow at the gate against jetting, fast in the middle, slow at the end against trapped air.',
  ),
  fluidTemperature: entry(
    'Temperature of what is let in',
    'Of the fluid in the core, the second melt or the charge as it comes.',
    'Empty for what the library has for it.',
  ),

  partAngle: entry(
    'Angle',
    'By how much a press of the button turns the part.',
    'The tool opens along z unless told otherwise: turn the part, or choose another opening.',
  ),
  smallFeatures: entry(
    'Size of features',
    'Rounds, holes or bodies up to this size are found.',
    'What is smaller than a third of the wall changes no flow and costs cells.',
  ),
  standIn: entry(
    'Size of the stand-in',
    'Of the simple solid that stands for a body.',
    'As close to the body as counts for the flow; the original is kept.',
  ),
  insertTemperature: entry(
    'Insert laid in at',
    'Temperature of the insert when the mould closes.',
    'A warm insert bonds better and pulls less at the plastic around it.',
  ),
  opening: entry(
    'Opening direction',
    'Which way the upper half moves, as the lengths of an arrow along the axes.',
    'Its length does not matter.',
  ),
  load: entry(
    'Direction of the load',
    'Which way the part is pulled in use, as an arrow along the axes.',
    'The modulus along it is compared with that of the data sheet.',
  ),
} satisfies Record<string, InputHelp>;

export type HelpedInput = keyof typeof TABLE;
export const INPUT_HELP: Readonly<Record<HelpedInput, InputHelp>> = TABLE;

/** Under which such an input is looked up. */
export const helpOf = (id: HelpedInput): string => `input:${TABLE[id].title.toLowerCase()}`;
