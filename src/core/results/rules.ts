import { z } from 'zod';
import { CLAMP_SHARE } from '../model/packing';
import type { Unit } from '../units/units';

/** A threshold of a verdict: where it lies, in the unit it is read in, and why there. */
export interface VerdictRule {
  id: string;
  question:
    | 'will-it-fill'
    | 'where-fronts-meet'
    | 'what-machine'
    | 'does-it-pack-out'
    | 'how-long-to-cool'
    | 'what-shape'
    | 'do-they-hold'
    | 'does-core-come-right'
    | 'does-tool-close'
    | 'how-strong';
  /** What is looked at. */
  quantity: string;
  watch: number | null;
  problem: number | null;
  unit: Unit;
  /** Whether larger or smaller values are worse. */
  worse: 'above' | 'below';
  reason: string;
}

/** Every threshold behind the verdicts. Values in SI (shares 0..1, kelvin differences). */
export const VERDICT_RULES = {
  pressureReserve: {
    id: 'pressureReserve',
    question: 'will-it-fill',
    quantity: 'Pressure needed over the limit',
    watch: 0.8,
    problem: null,
    unit: '%',
    worse: 'above',
    reason: 'A machine at its limit has nothing left for a colder day, a worn valve or a stiffer batch.',
  },
  shareFilled: {
    id: 'shareFilled',
    question: 'will-it-fill',
    quantity: 'Share filled at the end',
    watch: null,
    problem: 1,
    unit: '%',
    worse: 'below',
    reason: 'Anything short of full is a short shot.',
  },
  slowdown: {
    id: 'slowdown',
    question: 'will-it-fill',
    quantity: 'Fill time over the set time',
    watch: 1.2,
    problem: null,
    unit: '%',
    worse: 'above',
    reason: 'The pressure limit, not the setting, then rules the speed, and it will differ from shot to shot.',
  },
  frontCooling: {
    id: 'frontCooling',
    question: 'will-it-fill',
    quantity: 'Cooling of the front below the melt, slowest twentieth of the part',
    watch: 20,
    problem: null,
    unit: 'K',
    worse: 'above',
    reason: 'Viscosity about doubles over this range; the surface turns dull and weld lines stay weak.',
  },
  frozenShare: {
    id: 'frozenShare',
    question: 'will-it-fill',
    quantity: 'Frozen share of the wall when full, thickest skins (upper twentieth)',
    watch: 0.4,
    problem: 0.8,
    unit: '%',
    worse: 'above',
    reason:
      'Flow goes with the third power of the open gap: at 40 % skin a fifth of it is left, too little to pack through.',
  },
  shearStress: {
    id: 'shearStress',
    question: 'will-it-fill',
    quantity: 'Wall shear stress over the limit of the resin',
    watch: 1,
    problem: 2,
    unit: '%',
    worse: 'above',
    reason:
      'Above the limit of the resin the flow can slip and the surface crack later; twice the limit is beyond its scatter.',
  },
  shearRate: {
    id: 'shearRate',
    question: 'will-it-fill',
    quantity: 'Shear rate over the limit of the resin',
    watch: 1,
    problem: 2,
    unit: '%',
    worse: 'above',
    reason: 'Above the limit of the resin chains and additives begin to break.',
  },
  weldAngle: {
    id: 'weldAngle',
    question: 'where-fronts-meet',
    quantity: 'Angle between the fronts, for a line to be told',
    watch: (135 * Math.PI) / 180,
    problem: null,
    unit: '°',
    worse: 'below',
    reason: 'Fronts that meet more bluntly run on side by side and knit while they flow.',
  },
  weldStrength: {
    id: 'weldStrength',
    question: 'where-fronts-meet',
    quantity: 'Estimated strength of the weakest line',
    watch: 0.9,
    problem: 0.6,
    unit: '%',
    worse: 'below',
    reason: 'Below 90 % a line is the weakest place of the wall; below 60 % the skins hardly joined.',
  },
  weldWithFibres: {
    id: 'weldWithFibres',
    question: 'how-strong',
    quantity: 'What the weakest weld line bears over the wall along its fibres',
    watch: 0.7,
    problem: 0.35,
    unit: '%',
    worse: 'below',
    reason: 'Fibres lie along a line, not across it; below a third little but the plastic itself holds.',
  },
  stressOverStrength: {
    id: 'stressOverStrength',
    question: 'how-strong',
    quantity: 'Stress frozen in over the strength',
    watch: 0.3,
    problem: 0.6,
    unit: '%',
    worse: 'above',
    reason: 'It adds to every load; beyond a third, oils and solvents crack some plastics.',
  },
  alongLoad: {
    id: 'alongLoad',
    question: 'how-strong',
    quantity: 'Modulus along the load over that of the data sheet',
    watch: 0.75,
    problem: 0.45,
    unit: '%',
    worse: 'below',
    reason: 'Data sheets tell of bars whose fibres lie along: who reckons with them all over is wrong by so much.',
  },
  fibresLeft: {
    id: 'fibresLeft',
    question: 'how-strong',
    quantity: 'Length by weight of the shortest fibres over that at the nozzle',
    watch: 0.7,
    problem: 0.4,
    unit: '%',
    worse: 'below',
    reason: 'Who pays for long fibres wants them long: toughness goes with what is left of them.',
  },
  speedJump: {
    id: 'speedJump',
    question: 'where-fronts-meet',
    quantity: 'Front speed after a pin moved over before, or the other way round',
    watch: 1.8,
    problem: null,
    unit: '',
    worse: 'above',
    reason: 'Where the front suddenly runs faster or slower the surface shows a band.',
  },
  burn: {
    id: 'burn',
    question: 'where-fronts-meet',
    quantity: 'Trapped air pressed without cooling',
    watch: 473.15,
    problem: 673.15,
    unit: '°C',
    worse: 'above',
    reason: 'Vapours ignite and plastics char from about 400 °C; from 200 °C on a vent costs less than the risk.',
  },
  clamp: {
    id: 'clamp',
    question: 'what-machine',
    quantity: 'Largest clamp force over what the machine has',
    watch: CLAMP_SHARE,
    problem: 1,
    unit: '%',
    worse: 'above',
    reason: 'Above it the halves part and the melt flashes; a fifth is kept for uneven pressure and packing.',
  },
  shot: {
    id: 'shot',
    question: 'what-machine',
    quantity: 'Part over the shot of the machine',
    watch: 0.8,
    problem: 1,
    unit: '%',
    worse: 'above',
    reason: 'The screw needs a cushion and metering reserve.',
  },
  smallShot: {
    id: 'smallShot',
    question: 'what-machine',
    quantity: 'Part over the shot of the machine',
    watch: 0.1,
    problem: null,
    unit: '%',
    worse: 'below',
    reason: 'A tenth of a shot means many cycles in the barrel: the melt ages and metering is coarse.',
  },
  flow: {
    id: 'flow',
    question: 'what-machine',
    quantity: 'Set flow rate over what the machine can push',
    watch: 0.9,
    problem: 1,
    unit: '%',
    worse: 'above',
    reason: 'The drive cannot follow a setting at its limit; beyond it the part fills slower than set.',
  },
  shrinkageSpread: {
    id: 'shrinkageSpread',
    question: 'does-it-pack-out',
    quantity: 'Largest less smallest linear shrinkage, a hundredth of the part left out at either end',
    watch: 0.006,
    problem: 0.015,
    unit: '%',
    worse: 'above',
    reason: 'Walls that shrink differently pull on each other: the part warps by about as much over its length.',
  },
  sinkDepth: {
    id: 'sinkDepth',
    question: 'does-it-pack-out',
    quantity: 'Depth of the deepest sink mark against its surroundings',
    watch: 1.5e-5,
    problem: 5e-5,
    unit: 'mm',
    worse: 'above',
    reason: 'A glossy face shows a dip from about 15 µm on; 50 µm are seen on a grained one as well.',
  },
  missingCore: {
    id: 'missingCore',
    question: 'does-it-pack-out',
    quantity: 'Share of the wall missing in its core',
    watch: 0.004,
    problem: 0.02,
    unit: '%',
    worse: 'above',
    reason: 'What the stiff skin does not follow opens as a void; two hundredths of a wall are a hole one can see.',
  },
  wastedPacking: {
    id: 'wastedPacking',
    question: 'does-it-pack-out',
    quantity: 'Packing after the last gate has frozen, over the packing time',
    watch: 0.25,
    problem: null,
    unit: '%',
    worse: 'above',
    reason: 'Pressure behind a frozen gate does nothing but cost time and clamp force.',
  },
  pressureAtOpening: {
    id: 'pressureAtOpening',
    question: 'does-it-pack-out',
    quantity: 'Largest pressure left in the part when the mould opens',
    watch: 5e6,
    problem: 2e7,
    unit: 'MPa',
    worse: 'above',
    reason: 'A part that still presses on the walls sticks to them and cracks or is scratched on ejection.',
  },
  spareCooling: {
    id: 'spareCooling',
    question: 'how-long-to-cool',
    quantity: 'Time of opening over the time the part can be ejected',
    watch: 1.25,
    problem: null,
    unit: '×',
    worse: 'above',
    reason: 'Cooling is most of the cycle: a quarter more of it is a quarter fewer parts.',
  },
  hotSpot: {
    id: 'hotSpot',
    question: 'how-long-to-cool',
    quantity: 'Time from half of the places ready to nearly all, over the latter',
    watch: 0.5,
    problem: null,
    unit: '%',
    worse: 'above',
    reason: 'When half of the time is spent on a few thick places, coring them out or cooling them pays most.',
  },
  wallDifference: {
    id: 'wallDifference',
    question: 'how-long-to-cool',
    quantity: 'Mould temperature between both sides of a wall, upper hundredth',
    watch: 15,
    problem: null,
    unit: 'K',
    worse: 'above',
    reason: 'The warmer side shrinks later and draws the wall to itself: some 10 K bend a flat wall visibly.',
  },
  coolantRise: {
    id: 'coolantRise',
    question: 'how-long-to-cool',
    quantity: 'Coolant from inlet to outlet',
    watch: 5,
    problem: null,
    unit: 'K',
    worse: 'above',
    reason: 'What the coolant warms by, the end of the circuit is warmer than its beginning.',
  },
  deviation: {
    id: 'deviation',
    question: 'what-shape',
    quantity: 'Largest deviation after best fit over the tolerance',
    watch: 0.75,
    problem: 1,
    unit: '×',
    worse: 'above',
    reason: 'A quarter of the tolerance is left for what varies from shot to shot.',
  },
  buckling: {
    id: 'buckling',
    question: 'what-shape',
    quantity: 'Shrinkage that would buckle the part over the one it has',
    watch: 1.5,
    problem: null,
    unit: '×',
    worse: 'below',
    reason: 'Near it a little more shrinkage, or less wall, makes another shape; which way it goes is chance.',
  },
  frozenStress: {
    id: 'frozenStress',
    question: 'what-shape',
    quantity: 'Stress frozen in at the surface over the stiffness, upper hundredth',
    watch: 0.012,
    problem: null,
    unit: '%',
    worse: 'above',
    reason: 'Plastics yield at strains of some percent; a strain above one percent for good invites cracks.',
  },
  healedBond: {
    id: 'healedBond',
    question: 'do-they-hold',
    quantity: 'Share of the bonded face that healed by half, plastics of one kind',
    watch: 0.8,
    problem: 0.3,
    unit: '%',
    worse: 'below',
    reason: 'Chains must cross a face that both plastics have softened; where they do not, it peels off.',
  },
  dragged: {
    id: 'dragged',
    question: 'do-they-hold',
    quantity: 'How far the softened skin was dragged along, over its depth',
    watch: 0.5,
    problem: 3,
    unit: '×',
    worse: 'above',
    reason: 'A skin that is dragged farther than it is deep is washed away, and seen through the second shot.',
  },
  gapLeft: {
    id: 'gapLeft',
    question: 'does-tool-close',
    quantity: 'Gap that stays between the halves of the tool over the nominal wall',
    watch: 0.01,
    problem: 0.04,
    unit: '%',
    worse: 'above',
    reason: 'The part comes out thicker by it, and melt gets into the parting plane.',
  },
  solidEnd: {
    id: 'solidEnd',
    question: 'does-core-come-right',
    quantity: 'Share of the part that is as thick as the walls around the core and has none',
    watch: 0.1,
    problem: 0.35,
    unit: '%',
    worse: 'above',
    reason: 'Where the core does not come the wall sinks, and the mould stays shut, as without one.',
  },
  thinSkin: {
    id: 'thinSkin',
    question: 'does-core-come-right',
    quantity: 'Thinnest skin around the core over half the wall (a twentieth is thinner)',
    watch: 0.15,
    problem: 0.08,
    unit: '%',
    worse: 'below',
    reason: 'A skin of a few layers follows every unevenness of flow and temperature, and breaks where it is loaded.',
  },
  fingered: {
    id: 'fingered',
    question: 'does-core-come-right',
    quantity: 'Share of the core in walls thinner than half of that at the needle',
    watch: 0.02,
    problem: 0.1,
    unit: '%',
    worse: 'above',
    reason: 'Fingers of the core weaken thin walls where nobody looks for them, and take the pressure off the channel.',
  },
  bondStress: {
    id: 'bondStress',
    question: 'do-they-hold',
    quantity: 'Pull and shear at the bond over the stiffness of the softer side, upper twentieth',
    watch: 0.02,
    problem: null,
    unit: '%',
    worse: 'above',
    reason:
      'What two bodies would like to differ by has to be borne at their face; beyond two hundredths it creeps open.',
  },
  insertMoved: {
    id: 'insertMoved',
    question: 'do-they-hold',
    quantity: 'How far the melt bends an insert, over the wall beside it',
    watch: 0.05,
    problem: 0.2,
    unit: '%',
    worse: 'above',
    reason: 'A wall that grows a twentieth thinner on one side fills and shrinks otherwise; a fifth shows the insert.',
  },
} as const satisfies Record<string, VerdictRule>;

export const verdictSchema = z.enum(['good', 'watch', 'problem']);
export type Verdict = z.infer<typeof verdictSchema>;

/** Verdict of one rule for a value in SI. */
export function judge(rule: VerdictRule, value: number): Verdict {
  const beyond = (limit: number | null) => limit !== null && (rule.worse === 'above' ? value > limit : value < limit);
  return beyond(rule.problem) ? 'problem' : beyond(rule.watch) ? 'watch' : 'good';
}

const RANK: Record<Verdict, number> = { good: 0, watch: 1, problem: 2 };

export const worst = (verdicts: readonly Verdict[]): Verdict =>
  verdicts.reduce<Verdict>((w, v) => (RANK[v] > RANK[w] ? v : w), 'good');
