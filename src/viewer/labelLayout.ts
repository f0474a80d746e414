/** A label before it is laid out: lengths in px of the screen, y down. */
export interface Plate {
  /** What it points at. */
  x: number;
  y: number;
  w: number;
  h: number;
  /** Where the point lies in the plate, as shares of width and height from its lower left corner. */
  anchor: readonly [x: number, y: number];
  /** Labels of a smaller one are laid first. */
  rank: number;
  /** Labels of one group stand for each other where there is no room for all; null: of none. */
  group: string | null;
}

/** Where a label came to lie. */
export interface Laid {
  /** As `Plate.anchor`; null where it is not shown. */
  anchor: readonly [x: number, y: number] | null;
  /** How many of its group it stands for besides itself. */
  more: number;
}

/** Free room around a plate, px. */
const MARGIN = 2;
/** Points of one group nearer than this are one on the screen, px. */
const TOGETHER = 40;
/** A label stands for others of its group up to this far, px. */
const REACH = 140;

/** The places a plate may take about its point, best first: as it wants, then over, under, beside. Farther off it would not be known whose it is. */
function placesOf({ w, anchor }: Plate): (readonly [number, number])[] {
  const aside = 9 / w;
  return [
    anchor,
    [0.5, -0.35],
    [0.5, 1.35],
    [-aside, 0.5],
    [1 + aside, 0.5],
    [-aside, -0.3],
    [1 + aside, -0.3],
    [-aside, 1.3],
    [1 + aside, 1.3],
  ];
}

interface Rect {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

const rectOf = ({ x, y, w, h }: Plate, [ax, ay]: readonly [number, number]): Rect => {
  const left = x - ax * w;
  const bottom = y + ay * h;
  return { left, right: left + w, top: bottom - h, bottom };
};

const meet = (a: Rect, b: Rect): boolean =>
  a.left < b.right + MARGIN && b.left < a.right + MARGIN && a.top < b.bottom + MARGIN && b.top < a.bottom + MARGIN;

/** The shown label of the same group whose point is nearest, and how far off that is, px. */
function nearestOf(plate: Plate, shown: readonly number[], plates: readonly Plate[]) {
  if (plate.group === null) return null;
  let best: { at: number; away: number } | null = null;
  for (const at of shown) {
    if (plates[at].group !== plate.group) continue;
    const away = Math.hypot(plates[at].x - plate.x, plates[at].y - plate.y);
    if (!best || away < best.away) best = { at, away };
  }
  return best;
}

/**
 * Labels laid so that none covers another: those of a group whose points
 * fall together are one, each takes the first free place about its point, one for which there is none goes into the nearest
 * of its group, else it is not shown. Points outside of the view have no label.
 * @param width Of the view, px.
 * @param height Of the view, px.
 */
export function layOutLabels(plates: readonly Plate[], width: number, height: number): Laid[] {
  const laid: Laid[] = plates.map(() => ({ anchor: null, more: 0 }));
  const taken: Rect[] = [];
  const shown: number[] = [];
  const order = plates.map((_, k) => k).sort((a, b) => plates[a].rank - plates[b].rank || a - b);
  for (const k of order) {
    const plate = plates[k];
    if (!(plate.x >= 0 && plate.x <= width && plate.y >= 0 && plate.y <= height)) continue;
    const host = nearestOf(plate, shown, plates);
    if (host && host.away < TOGETHER) {
      laid[host.at] = { ...laid[host.at], more: laid[host.at].more + 1 };
      continue;
    }
    const free = placesOf(plate).filter((place) => !taken.some((rect) => meet(rect, rectOf(plate, place))));
    const inside = free.find((place) => {
      const { left, right, top, bottom } = rectOf(plate, place);
      return left >= 0 && right <= width && top >= 0 && bottom <= height;
    });
    const stoodFor = host !== null && host.away <= REACH;
    // Cut off by the edge only where nothing else tells of it.
    const place = inside ?? (stoodFor ? null : free[0]);
    if (place) {
      laid[k] = { anchor: place, more: 0 };
      taken.push(rectOf(plate, place));
      shown.push(k);
    } else if (host && stoodFor) laid[host.at] = { ...laid[host.at], more: laid[host.at].more + 1 };
  }
  return laid;
}
