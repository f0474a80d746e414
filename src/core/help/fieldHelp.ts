import { fieldEntry, type KnownField } from '../fields/table';

/** What helps to read a field beyond what it is. */
export interface FieldHelp {
  /** How it is worked out, where one line can say it. */
  formula?: string;
  /** Where that is published. */
  source?: string;
  /** What to look for in it, and what to do about it. */
  use: string;
}

const KENNEDY = 'Kennedy & Zheng, Flow Analysis of Injection Molds, 2nd ed., Hanser 2013';
const ADVANI = 'Advani & Tucker, J. Rheol. 31 (1987) 751';

/** Help of every field that stands in a list. */
const FIELD_HELP: Partial<Record<KnownField, FieldHelp>> = {
  fillTime: {
    formula: 'd(mass)/dt = ρ (h³ / 3 η) ∇p through the faces of each place, front by front',
    source: `Hele-Shaw flow: ${KENNEDY}, ch. 5`,
    use: 'Fronts should reach the ends together. Bent lines that lie close mark hesitation; places that fill long after their neighbours want a gate nearer or a thicker way to them.',
  },
  pressure: {
    formula: '∇·(S ∇p) = 0 with the fluidity S of the wall, by the melt in every layer',
    source: `${KENNEDY}, ch. 5`,
    use: 'At switchover it is what the machine must give. Steep falls sit in thin or cold places: widen those first. While packing, an even pressure means even shrinkage.',
  },
  temperature: {
    formula: 'mean over the wall of T(z), from conduction, flow and shear heat layer by layer',
    use: 'At the end of filling it should lie within some 20 K everywhere. Cold ends fill badly and weld badly; hot spots cool last.',
  },
  profile: {
    formula: 'ρ c (∂T/∂t + v·∇T) = ∂/∂z(k ∂T/∂z) + η γ̇²',
    use: 'On a section it shows the frozen skin and the hot core. Two skins of different thickness will bend the wall.',
  },
  frontTemperature: {
    use: 'Above the temperature of the melt, shear heats; far below it, the front has hesitated. Weld lines where it is low are weak and visible.',
  },
  frozen: {
    formula: 'share of the layers below the transition temperature of the resin',
    use: 'Full before the place has been packed means shrinkage that nothing fills. A gate that is full while its surroundings are not is too thin.',
  },
  peakStress: {
    formula: 'τ = |∇p| · h, h half the wall that is open',
    use: 'Compare with the limit of the resin, a few tenths of a MPa. Above it the skin tears or streaks: slower there, or a wider gate.',
  },
  peakShearRate: {
    use: 'Largest in gates. Tens of thousands 1/s are usual, above the limit of the resin it degrades and fibres break: widen the gate or inject more slowly.',
  },
  frontSpeed: {
    use: 'Jumps of it leave flow marks. Where it is small the skin grows; a profile of the speed evens it.',
  },
  thickness: {
    formula: 'h = √(2κ + |∇κ|²), Δκ = −1 in the section',
    source: 'wall distance by a Poisson equation: Spalding 1994; Tucker, Appl. Math. Modelling 22 (1998) 293',
    use: 'Even walls shrink evenly. What is more than a quarter thicker than its neighbours cools last, sinks and holds voids: core it out.',
  },
  shrinkage: {
    formula: '1 − v(room) / v(p, T) as each layer froze',
    source: `two-domain Tait: ${KENNEDY}, ch. 4`,
    use: 'Differences matter more than height: they bend the part. Packing longer or higher, or a gate nearer to thick places, lowers it there.',
  },
  linearShrinkage: {
    formula: '1 − ∛(1 − volumetric shrinkage)',
    use: 'For comparing with the shrinkage of a data sheet, which is along the wall: fields of the shape say that one.',
  },
  shrinkageAtEjection: {
    use: 'What has been lost while the mould holds the part: high values let go of the wall early.',
  },
  holdReach: {
    use: 'Where it ends long before the place has frozen, packing did nothing for it. The gate, or a thin wall on the way, froze first.',
  },
  sinkDepth: {
    use: 'From some 10 µm on a glossy face shows it; a grain hides more. Thinner ribs, longer packing, or a gate beside the thick place.',
  },
  voidRisk: {
    use: 'Shrinkage that neither melt nor a sinking skin made up: a hollow in the wall. Pack longer through a wider gate.',
  },
  frozenAt: {
    use: 'Places that freeze after the gate are cut off from packing. Thick ones freeze with the square of their wall.',
  },
  heldShare: {
    use: 'Where it is high the tool keeps the length until it opens: less shrinkage along the wall, and stress that relaxes only in part.',
  },
  slidesAt: {
    use: 'Early values mean pressure is lost early: shrinkage begins against the steel. Longer packing holds the wall on.',
  },
  ejectableAt: {
    use: 'The last places set the cycle. Thin them, or bring a channel nearer. Small remains near the gate need not be waited for.',
  },
  density: { use: 'Uneven density is uneven shrinkage. Low in thick places that were cut off from packing.' },
  deviation: {
    formula: '|u − best rigid fit of u| along the chosen direction',
    source: 'alignment: Kabsch, Acta Cryst. A32 (1976) 922',
    use: 'Against the tolerance of the shape. The causes beside it say which share even shrinkage, uneven shrinkage, cooling, corners or fibres have: work on the largest.',
  },
  stressInMould: {
    use: 'Pull at the skin and push in the core are usual. What pulls when the mould opens lets go as shrinkage.',
  },
  stressInRoom: {
    use: 'Pull at the skin opens cracks, with chemicals more so. Slower cooling and less packing lower it.',
  },
  shrinkageAlong: {
    use: 'This is the shrinkage of a data sheet, and what the tool is cut larger by. Differences between places bend the part.',
  },
  shrinkageAcross: {
    use: 'A wall may shrink several times as much across as along: steel and its own plane hold the length, nothing holds the thickness.',
  },
  vonMises: {
    use: 'Compare with the yield stress of the resin: above a third of it a part creeps, near it it breaks in use.',
  },
  vonMisesCore: { use: 'As at the surface; a large difference between both is frozen bending.' },
  principalStress: { use: 'Where it pulls near a weld line or a sharp corner, cracks begin.' },
  leastPrincipal: { use: 'Push does no harm to plastics but buckles thin walls.' },
  stressAlong: { use: 'Choose the axis in which the part is loaded: what is frozen in adds to the load.' },
  bondPull: {
    use: 'Against the strength of the bond: rims of inserts come off first. Grooves and holes hold what a bond does not.',
  },
  bondShear: { use: 'From shrinkage of one body against the other; largest at the ends of a long bond.' },
  faceTemperature: {
    use: 'Above the transition of the earlier plastic its skin softens: then a bond forms, and the melt may drag it along.',
  },
  facePeak: {
    use: 'A bond of two plastics needs it above the transition of the first. Hotter melt, a warmer insert or a thicker second wall raises it.',
  },
  softDepth: { use: 'Some hundredths of a millimetre bond well. Deeper, the first shot is dragged or pushed in.' },
  softFor: { use: 'Longer than chains take to cross the face, and the bond is as good as the plastic.' },
  healed: {
    formula: '(time softened / time to relax)^(1/4)',
    source: 'Wool & O’Connor, J. Appl. Phys. 52 (1981) 5953',
    use: 'Below a half, do not count on the bond: add a mechanical hold, or raise the temperature of the face.',
  },
  wallChange: {
    use: 'Where it is negative the wall grows thin and freezes early: hold the insert on both sides, or fill both sides alike.',
  },
  heatTaken: {
    use: 'An insert that takes up much cools the wall from within; warm it before if the skin freezes too early.',
  },
  coreShare: {
    use: 'It should fall smoothly to the end of the part. Islands without core sink; a core at the front has broken through.',
  },
  skinLeft: { use: 'The wall that carries. Thin where the core turns a corner on its inner side: round it.' },
  coreTime: { use: 'Shows the way of the fluid: it takes the hot, thick way. What it comes to late gets little.' },
  fibreDegree: {
    formula:
      'largest eigenvalue of the second moment a of the directions, by da/dt = Ω a − a Ω + λ (D a + a D − 2 D : A) + 2 C_I γ̇ (1 − 3 a)',
    source: `${ADVANI}; Folgar & Tucker, J. Reinf. Plast. Compos. 3 (1984) 98`,
    use: 'High near the skin and behind thin places: stiff along, shrinking across. Low in weld lines: weak.',
  },
  fibreOn: {
    source: ADVANI,
    use: 'With “square to that” it says how uneven the plane is: the larger, the more the part bends by fibres.',
  },
  fibreSquare: { source: ADVANI, use: 'In the core fibres stand square to the flow; thick walls have more of it.' },
  fibreThrough: {
    source: ADVANI,
    use: 'Large only at fronts that met and in thick cores: there the wall is weak across.',
  },
  fibreOnLoad: { source: ADVANI, use: 'A third is as good as none: move the gate so that melt flows along the load.' },
  fibreVolume: { use: 'Ends of long ways lose fibres of the core. Stiffness follows.' },
  fibreWeight: { use: 'Compare with the ash of a piece that is cut out of a moulding.' },
  fibreLength: {
    use: 'Below the critical length a fibre pulls out and does not break: strength falls before stiffness does.',
  },
  fibreLengthNumber: { use: 'Smaller than by weight: short ones are many. Compare with what counting gives.' },
  fibreModulus: {
    source: 'Halpin & Kardos, Polym. Eng. Sci. 16 (1976) 344',
    use: 'How stiff the wall is at best. Far above the least: the part is as directed as wood.',
  },
  fibreModulusLeast: { use: 'What to count on where the direction of the load is not known.' },
  fibreModulusAlong: { use: 'What a structural calculation should use there, in place of one number for the grade.' },
  shrinkageOnFibres: { use: 'With “square to the fibres”: their difference is what bends parts of filled grades.' },
  shrinkageSquare: {
    use: 'Up to several times that along the fibres. Gates at the end of long parts keep both even across them.',
  },
  mouldSurface: {
    use: 'Differences along the face make differences of shrinkage. Bring lines nearer to hot places, or use a steel that conducts better.',
  },
  mouldDifference: { use: 'A wall bends hollow on its hot side. Cool that side more, or warm the other.' },
};

const SHARE_HELP: FieldHelp = {
  use: 'Shares of two gates meet in a weld line; a gate with little share does little: close it, or widen the way to it.',
};

/** Help of a field of a list; null of those that are drawn alone. */
export function fieldHelp(id: string): FieldHelp | null {
  if (/^gateShare-\d+$/.test(id)) return SHARE_HELP;
  return fieldEntry(id) ? (FIELD_HELP[id as KnownField] ?? null) : null;
}
