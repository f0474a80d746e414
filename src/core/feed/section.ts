/** Cross-sections of runners, sprues and gates. Lengths in metres. */
export type Section =
  | { shape: 'round'; diameter: number }
  /** Half a circle of this diameter, flat side on the parting plane. */
  | { shape: 'half-round'; diameter: number }
  /** Symmetric trapezoid: width at the parting plane, height, draft of the flanks in rad. */
  | { shape: 'trapezoid'; width: number; height: number; draft: number }
  | { shape: 'rectangle'; width: number; height: number };

/** What one-dimensional flow needs of a section. */
export interface Duct {
  /** m2 */
  area: number;
  /** Wetted edge, m. */
  perimeter: number;
  /** Mean velocity = mobility x pressure gradient / viscosity for a Newtonian melt, m2. */
  mobility: number;
  /** Mean wall shear stress = pressure gradient x wallGap, wallGap = area / perimeter, m. */
  wallGap: number;
  /** Shape exponent s of the layers: 2 slab, 3 round; see `columnShape`. */
  shape: number;
  /** Largest size across, seen along the opening direction, m. */
  width: number;
}

/**
 * Shape exponent of the layers in a section with the given Newtonian mobility and area over perimeter:
 * layers with the measure zeta^(s-2) have mobility = wallGap^2 (s-1) / (s+1), so a slit gives 2, a round
 * tube 3, a square 3.6. The mean wall shear rate of a shear-thinning melt then follows from
 * (s + 1/n) / (s + 1); Kozicki, Chou & Tiu, Chem. Eng. Sci. 21 (1966) 665 have 3.2 for the square, which
 * is 1 % in pressure at n = 0.3.
 */
export function columnShape(mobility: number, wallGap: number): number {
  const ratio = Math.min(0.62, mobility / wallGap ** 2);
  return (1 + ratio) / (1 - ratio);
}

/** Flow constants of a section. Throws RangeError when the section has no inside. */
export function ductOf(section: Section): Duct {
  switch (section.shape) {
    case 'round': {
      const { diameter: d } = section;
      return finish((Math.PI * d * d) / 4, Math.PI * d, (d * d) / 32, d);
    }
    case 'half-round': {
      const { diameter: d } = section;
      // f Re = 15.767 on the hydraulic diameter (Shah & London, Laminar Flow Forced Convection, 1978, table 54).
      const area = (Math.PI * d * d) / 8;
      const perimeter = d * (1 + Math.PI / 2);
      return finish(area, perimeter, ((4 * area) / perimeter) ** 2 / (2 * 15.767), d);
    }
    case 'rectangle': {
      const { width, height } = section;
      return finish(width * height, 2 * (width + height), rectangleMobility(width, height), width);
    }
    case 'trapezoid': {
      const { width, height, draft } = section;
      const bottom = width - 2 * height * Math.tan(draft);
      if (!(bottom > 0))
        throw new RangeError('The flanks of the trapezoid meet before its bottom: less height or draft.');
      const outline: [number, number][] = [
        [-width / 2, 0],
        [width / 2, 0],
        [bottom / 2, -height],
        [-bottom / 2, -height],
      ];
      const area = (height * (width + bottom)) / 2;
      const flank = height / Math.cos(draft);
      return finish(area, width + bottom + 2 * flank, polygonMobility(outline), width);
    }
  }
}

function finish(area: number, perimeter: number, mobility: number, width: number): Duct {
  const wallGap = area / perimeter;
  return { area, perimeter, mobility, wallGap, shape: columnShape(mobility, wallGap), width };
}

/** Boussinesq's series for the rectangle (Shah & London 1978, eq. 333). */
function rectangleMobility(width: number, height: number): number {
  const [a, b] = [Math.max(width, height), Math.min(width, height)];
  let sum = 0;
  for (let n = 1; n < 60; n += 2) sum += Math.tanh((n * Math.PI * a) / (2 * b)) / n ** 5;
  return ((b * b) / 12) * (1 - ((192 * b) / (Math.PI ** 5 * a)) * sum);
}

const known = new Map<string, number>();
/** Points along the longer side: the mobility of a square is then within 0.1 %. */
const RESOLUTION = 72;

/**
 * Newtonian mobility of a convex polygon: mean of w with laplace(w) = -1, w = 0 on the edge. Differences
 * with true distances to the edge (Shortley & Weller 1938), successive over-relaxation.
 */
export function polygonMobility(outline: readonly [number, number][]): number {
  const key = outline.map((p) => p.map((x) => x.toPrecision(9)).join(',')).join(';');
  const found = known.get(key);
  if (found !== undefined) return found;
  const xs = outline.map((p) => p[0]);
  const ys = outline.map((p) => p[1]);
  const [x0, y0] = [Math.min(...xs), Math.min(...ys)];
  const [sizeX, sizeY] = [Math.max(...xs) - x0, Math.max(...ys) - y0];
  const h = Math.max(sizeX, sizeY) / RESOLUTION;
  const [nx, ny] = [Math.ceil(sizeX / h), Math.ceil(sizeY / h)];
  const rows: { at: number; inverse: number; near: [number, number][] }[] = [];
  const w = new Float64Array((nx + 2) * (ny + 2));
  const at = (i: number, j: number) => (j + 1) * (nx + 2) + i + 1;
  for (let j = 0; j < ny; j++)
    for (let i = 0; i < nx; i++) {
      const p: [number, number] = [x0 + (i + 0.5) * (sizeX / nx), y0 + (j + 0.5) * (sizeY / ny)];
      const [hx, hy] = [sizeX / nx, sizeY / ny];
      const [west, east] = span(outline, p, 0);
      const [south, north] = span(outline, p, 1);
      if (!(west > 0 && east > 0 && south > 0 && north > 0)) continue;
      const near: [number, number][] = [];
      let diagonal = 0;
      const pair = (low: number, high: number, step: number, before: number, after: number) => {
        const [a, b] = [Math.min(low, step), Math.min(high, step)];
        diagonal += 2 / (a * b);
        if (low > step) near.push([before, 2 / (a * (a + b))]);
        if (high > step) near.push([after, 2 / (b * (a + b))]);
      };
      pair(west, east, hx, at(i - 1, j), at(i + 1, j));
      pair(south, north, hy, at(i, j - 1), at(i, j + 1));
      rows.push({ at: at(i, j), inverse: 1 / diagonal, near });
    }
  const omega = 2 / (1 + Math.sin(Math.PI / Math.min(nx, ny)));
  for (let sweep = 0, change = 1; sweep < 2000 && change > 1e-9; sweep++) {
    change = 0;
    let largest = 0;
    for (const row of rows) {
      let sum = 1;
      for (const [k, c] of row.near) sum += c * w[k];
      const step = omega * (sum * row.inverse - w[row.at]);
      w[row.at] += step;
      change = Math.max(change, Math.abs(step));
      largest = Math.max(largest, w[row.at]);
    }
    change /= largest;
  }
  const flow = rows.reduce((s, row) => s + w[row.at], 0) * (sizeX / nx) * (sizeY / ny);
  const mobility = flow / Math.abs(signedArea(outline));
  known.set(key, mobility);
  return mobility;
}

/** Distances from p to the edge against and along an axis; negative outside. */
function span(outline: readonly [number, number][], p: [number, number], axis: 0 | 1): [number, number] {
  const other = axis === 0 ? 1 : 0;
  let [low, high] = [Infinity, -Infinity];
  for (let k = 0; k < outline.length; k++) {
    const [a, b] = [outline[k], outline[(k + 1) % outline.length]];
    if (a[other] > p[other] === b[other] > p[other]) continue;
    const x = a[axis] + ((p[other] - a[other]) / (b[other] - a[other])) * (b[axis] - a[axis]);
    low = Math.min(low, x);
    high = Math.max(high, x);
  }
  return [p[axis] - low, high - p[axis]];
}

function signedArea(outline: readonly [number, number][]): number {
  return outline.reduce((s, [x, y], k) => {
    const [u, v] = outline[(k + 1) % outline.length];
    return s + (x * v - u * y) / 2;
  }, 0);
}

/** Area of a section, m2. */
export function areaOf(section: Section): number {
  switch (section.shape) {
    case 'round':
      return (Math.PI * section.diameter ** 2) / 4;
    case 'half-round':
      return (Math.PI * section.diameter ** 2) / 8;
    case 'rectangle':
      return section.width * section.height;
    case 'trapezoid':
      return section.height * (section.width - section.height * Math.tan(section.draft));
  }
}

/** The section a share of the way from one to another of the same shape; other shapes do not blend. */
export function between(from: Section, to: Section, share: number): Section {
  const mix = (a: number, b: number) => a + (b - a) * share;
  if (from.shape === 'round' && to.shape === 'round')
    return { shape: 'round', diameter: mix(from.diameter, to.diameter) };
  if (from.shape === 'half-round' && to.shape === 'half-round')
    return { shape: 'half-round', diameter: mix(from.diameter, to.diameter) };
  if (from.shape === 'rectangle' && to.shape === 'rectangle')
    return { shape: 'rectangle', width: mix(from.width, to.width), height: mix(from.height, to.height) };
  if (from.shape === 'trapezoid' && to.shape === 'trapezoid')
    return {
      shape: 'trapezoid',
      width: mix(from.width, to.width),
      height: mix(from.height, to.height),
      draft: mix(from.draft, to.draft),
    };
  throw new RangeError('A section can only taper to one of its own shape.');
}
