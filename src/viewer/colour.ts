/**
 * Colour maps made in OKLab (Ottosson 2020), so that equal steps of value are equal steps of
 * lightness. The diverging map runs from petrol through pale paper, its zero, to copper: blue against orange, which every
 * colour vision tells apart.
 */
type Lch = [number, number, number];

/** Maps from low to high that whoever looks may choose from. */
const SEQUENTIALS = {
  /** From deep petrol through moss to pale straw. */
  moss: [
    [0.3, 0.07, 245],
    [0.42, 0.085, 210],
    [0.54, 0.09, 175],
    [0.66, 0.1, 135],
    [0.78, 0.115, 100],
    [0.9, 0.1, 78],
  ],
  /** From night blue through grey to yellow: no hue on the way that red-green blind eyes take for another. */
  dusk: [
    [0.27, 0.11, 264],
    [0.41, 0.085, 262],
    [0.55, 0.035, 262],
    [0.68, 0.05, 96],
    [0.81, 0.11, 97],
    [0.94, 0.13, 102],
  ],
  /** Greys, for paper. */
  ink: [
    [0.25, 0, 0],
    [0.95, 0, 0],
  ],
} satisfies Record<string, Lch[]>;

export type SequentialName = keyof typeof SEQUENTIALS;
export const SEQUENTIAL_NAMES = Object.keys(SEQUENTIALS) as SequentialName[];

const DIVERGING: Lch[] = [
  [0.36, 0.08, 215],
  [0.6, 0.075, 212],
  [0.93, 0.012, 85],
  [0.66, 0.11, 52],
  [0.42, 0.12, 42],
];

/** What is drawn with now: one choice for a whole page. */
const MAPS: { sequential: Lch[]; diverging: Lch[] } = { sequential: SEQUENTIALS.moss, diverging: DIVERGING };
export type ColourMap = keyof typeof MAPS;

/** Sets the maps; what is drawn from now on follows it. Turned round, high values are the dark ones. */
export function drawIn(name: SequentialName, reversed: boolean): void {
  const way = (stops: Lch[]) => (reversed ? [...stops].reverse() : stops);
  MAPS.sequential = way(SEQUENTIALS[name]);
  MAPS.diverging = way(DIVERGING);
}

function oklchToSrgb([L, C, h]: Lch): [number, number, number] {
  const a = C * Math.cos((h * Math.PI) / 180);
  const b = C * Math.sin((h * Math.PI) / 180);
  const l = (L + 0.3963377774 * a + 0.2158037573 * b) ** 3;
  const m = (L - 0.1055613458 * a - 0.0638541728 * b) ** 3;
  const s = (L - 0.0894841775 * a - 1.291485548 * b) ** 3;
  const linear = [
    4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s,
    -1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s,
    -0.0041960863 * l - 0.7034186147 * m + 1.707614701 * s,
  ];
  return linear.map((x) => {
    const c = Math.min(1, Math.max(0, x));
    return c <= 0.0031308 ? 12.92 * c : 1.055 * Math.pow(c, 1 / 2.4) - 0.055;
  }) as [number, number, number];
}

function colourOf(stops: readonly Lch[], t: number): [number, number, number] {
  const x = Math.min(0.999999, Math.max(0, t)) * (stops.length - 1);
  const i = Math.floor(x);
  const f = x - i;
  const mix = stops[i].map((v, c) => v + f * (stops[i + 1][c] - v)) as Lch;
  return oklchToSrgb(mix);
}

/** sRGB (0..1) of a map at t in 0..1. */
export const colourAt = (map: ColourMap, t: number): [number, number, number] => colourOf(MAPS[map], t);

export const sequential = (t: number): [number, number, number] => colourAt('sequential', t);

const css = (colour: readonly number[]): string => `rgb(${colour.map((x) => Math.round(255 * x)).join(' ')})`;

export const cssColour = (t: number, map: ColourMap = 'sequential'): string => css(colourAt(map, t));

const bar = (way: 'to top' | 'to right', stops: readonly Lch[]): string =>
  `linear-gradient(${way}, ${Array.from({ length: 13 }, (_, i) => css(colourOf(stops, i / 12))).join(',')})`;

/** A bar of the map, as CSS writes it. */
export const cssBar = (way: 'to top' | 'to right', map: ColourMap = 'sequential'): string => bar(way, MAPS[map]);

/** A bar of a map that may be chosen. */
export const cssBarOf = (name: SequentialName): string => bar('to right', SEQUENTIALS[name]);

/** RGBA bytes of the map, `n` texels. */
export function mapTexels(n = 256, map: ColourMap = 'sequential'): Uint8Array {
  const texels = new Uint8Array(4 * n);
  for (let i = 0; i < n; i++) {
    const [r, g, b] = colourAt(map, i / (n - 1));
    texels.set([Math.round(255 * r), Math.round(255 * g), Math.round(255 * b), 255], 4 * i);
  }
  return texels;
}
