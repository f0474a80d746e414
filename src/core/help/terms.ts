/** Words of the trade, and ours, that texts of the page use: what each means. */
export interface Term {
  name: string;
  /** Other forms under which it is found in a text. */
  also?: readonly string[];
  means: string;
}

export const TERMS: readonly Term[] = [
  {
    name: 'Detail',
    means:
      'Resolution of the hidden grid: quick, normal or fine. Every result says at which one it was made, and how far it would still move.',
  },
  { name: 'gate', also: ['gates'], means: 'Opening through which melt comes into the cavity.' },
  { name: 'runner', also: ['runners'], means: 'Channel that leads melt from the sprue to the gates.' },
  { name: 'sprue', means: 'First length of the feed, from the nozzle of the machine to the runners.' },
  {
    name: 'valve pin',
    also: ['valve pins'],
    means: 'Needle that opens and closes a hot drop at a time, a place of the front or a share.',
  },
  {
    name: 'switchover',
    means: 'Moment at which the machine goes over from pushing with a speed to pushing with a pressure.',
  },
  {
    name: 'packing',
    means: 'Pushing more melt into the full cavity to make up for shrinkage, until the gate has frozen.',
  },
  {
    name: 'short shot',
    also: ['short shots'],
    means: 'A part that is not full: the melt froze or the pressure ended before.',
  },
  { name: 'hesitation', means: 'A front that stands still in a thin place while the melt takes an easier way.' },
  {
    name: 'weld line',
    also: ['weld lines'],
    means: 'Seam where two fronts met: visible, and weaker than the plastic around it.',
  },
  {
    name: 'air trap',
    also: ['air traps', 'trapped air'],
    means: 'Air that fronts have closed in. It is pressed together and may burn the melt: put a vent there.',
  },
  { name: 'vent', also: ['vents'], means: 'Gap through which air leaves the cavity and melt does not.' },
  {
    name: 'overflow tab',
    also: ['tab', 'tabs'],
    means: 'Small pocket beside the part that draws the cold front out of a weld line; it is cut off.',
  },
  {
    name: 'clamp force',
    means:
      'Force that keeps the halves of the mould together: pressure times the area seen along the opening direction.',
  },
  {
    name: 'sink mark',
    also: ['sink', 'sinks'],
    means: 'Dent over a thick place whose core has shrunk away from its skin.',
  },
  {
    name: 'gate freeze',
    also: ['gate has frozen', 'gate froze'],
    means: 'Moment at which the gate is solid; after it packing does nothing.',
  },
  { name: 'ejectable time', means: 'When a point is cold enough to be pushed out.' },
  { name: 'hold reach', means: 'How long packing pressure still reaches a point.' },
  { name: 'gate share', means: 'Which gate the melt at a point came from.' },
  { name: 'tracers', means: 'Particles that the melt carries along.' },
  {
    name: 'baffle',
    also: ['baffles'],
    means: 'Blade in a bore that sends the coolant up one side and down the other.',
  },
  { name: 'bubbler', also: ['bubblers'], means: 'Tube in a bore: coolant rises in it and runs down around it.' },
  { name: 'circuit', also: ['circuits'], means: 'Cooling lines and hoses that one supply feeds.' },
  { name: 'warpage', means: 'What the shape of the part differs from the drawing by, beyond an even shrinkage.' },
  { name: 'shape check', means: 'Deviation after alignment against a tolerance.' },
  { name: 'spring-in', means: 'Corner that closes because the wall shrinks more across than along.' },
  { name: 'held by the tool', means: 'Of a wall that steel keeps at its length until the mould opens.' },
  { name: 'after-shrinkage', means: 'Shrinkage in the days after moulding, by crystals that go on growing.' },
  { name: 'residual stress', means: 'Stress that is frozen into the part without any load.' },
  {
    name: 'Cross-WLF',
    means: 'Model of the viscosity: falls with shear rate (Cross) and temperature (Williams, Landel, Ferry).',
  },
  {
    name: 'Tait',
    means:
      'Model of the specific volume by pressure and temperature, one set of numbers above and one below the transition.',
  },
  {
    name: 'transition',
    also: ['transition temperature'],
    means: 'Temperature at which the resin goes over from melt to solid.',
  },
  {
    name: 'fibre orientation',
    also: ['orientation tensor'],
    means: 'Second moment of the directions of the fibres at a point: its trace is 1.',
  },
  { name: 'core share', means: 'Share of the section that gas, water or a second melt fills.' },
  { name: 'skin left', means: 'Thickness of plastic between the core and the wall.' },
  { name: 'break-through', means: 'A fluid in the core that has come out through the front of the melt.' },
  { name: 'softened skin', means: 'First-shot plastic warmed above its transition by the second shot.' },
  { name: 'transfer', means: 'Time and way between two shots, in which the first part cools in the open tool.' },
  { name: 'bond figure', means: 'Strength of the face between two bodies over that of the plastic.' },
  { name: 'healed share', means: 'Share of the strength that chains crossing a seam or face have brought back.' },
  { name: 'readiness', means: 'What a station still needs before a run.' },
  { name: 'loose', means: 'Of a gate, vent or probe whose place on the geometry is gone.' },
  { name: 'stand-in', also: ['stand-ins'], means: 'Box, cylinder or sphere in place of a body.' },
  { name: 'axis trace', means: 'Centre line that a solid channel or runner body was turned into.' },
  { name: 'shot strip', means: 'Time axis of the cycle under the view, with its traces and flags.' },
  { name: 'draft', means: 'Angle of a wall against the opening direction, that lets it slide off the steel.' },
  { name: 'parting plane', means: 'Plane in which the halves of the mould meet.' },
];
