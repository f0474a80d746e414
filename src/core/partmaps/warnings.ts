import { z } from 'zod';
import { real } from '../numerics/real';
import { placeSchema } from '../geometry/finding';
import { MAP_IDS } from './mapKinds';
import type { Place } from '../geometry/finding';
import type { Vec3 } from '../geometry/mesh';
import { UnionFind } from '../numerics/unionFind';
import { format } from '../units/reader';
import type { MapId } from './mapKinds';
import type { MapInput } from './mapKinds';
import { SIDE, type Moulding } from './moulding';
import type { RibFoot } from './ribs';
import { DESIGN_RULES, RULE_IDS, type RuleId } from './rules';
import type { MapSurface } from './surface';

/** A design rule that is broken somewhere. */
export const warningSchema = z.object({
  rule: z.enum([...RULE_IDS, 'undercut']),
  map: z.enum(MAP_IDS),
  message: z.string(),
  why: z.string(),
  /** Area concerned, m2; ribs: 0 */
  area: real,
  places: z.array(placeSchema),
});
export type Warning = z.infer<typeof warningSchema>;

/** The design rules a part breaks, with how much of it and where. `wall`: typical wall, m. */
export function warningsOf(
  surface: MapSurface,
  values: Record<MapId, Float64Array>,
  mould: Moulding,
  feet: RibFoot[],
  wall: number,
  { rules }: MapInput,
): Warning[] {
  const warnings: Warning[] = [];
  const add = (rule: RuleId, map: MapId, chosen: (i: number) => boolean, message: (area: string) => string) => {
    const { area, places } = patches(surface, chosen);
    if (area > 0)
      warnings.push({ rule, map, area, places, why: DESIGN_RULES[rule].why, message: message(format(area, 'cm²')) });
  };
  const undercut = patches(surface, (i) => mould.side[i] === SIDE.undercut);
  if (undercut.area > 0)
    warnings.push({
      rule: 'undercut',
      map: 'side',
      ...undercut,
      message: `${format(undercut.area, 'cm²')} cannot be freed along the opening direction.`,
      why: 'Part of the mould would be locked in: turn the part, change the face, or plan a slide or a lifter.',
    });
  const percent = (share: number) => format(share, '%', 2);
  add(
    'thinWall',
    'thickness',
    (i) => values.thickness[i] < rules.thinWall * wall,
    (area) => `${area} thinner than ${percent(rules.thinWall)} of the typical wall of ${format(wall, 'mm')}.`,
  );
  add(
    'thickWall',
    'thickness',
    (i) => values.thickness[i] > rules.thickWall * wall,
    (area) => `${area} thicker than ${percent(rules.thickWall)} of the typical wall of ${format(wall, 'mm')}.`,
  );
  add(
    'thicknessStep',
    'step',
    (i) => values.step[i] > rules.thicknessStep,
    (area) => `${area} where the wall changes by more than ${format(rules.thicknessStep, '×', 2)} within one wall.`,
  );
  const thick = feet.filter((f) => f.ratio > rules.ribToWall);
  if (thick.length)
    warnings.push({
      rule: 'ribToWall',
      map: 'rib',
      area: 0,
      places: ribPlaces(thick),
      message: `Ribs up to ${percent(Math.max(...thick.map((f) => f.ratio)))} of the wall they stand on; the rule is ${percent(rules.ribToWall)}.`,
      why: DESIGN_RULES.ribToWall.why,
    });
  add(
    'draft',
    'draft',
    (i) => mould.side[i] !== SIDE.undercut && values.draft[i] < rules.draft - 1e-4,
    (area) => `${area} with less than ${format(rules.draft, '°', 2)} of draft.`,
  );
  add(
    'flowRatio',
    'flowRatio',
    (i) => values.flowRatio[i] > rules.flowRatio,
    (area) => `${area} farther from the gate than ${format(rules.flowRatio, '×')} the wall.`,
  );
  return warnings;
}

/** Connected patches of chosen facets, largest first; specks of less than a thousandth of the part are left out. */
function patches(surface: MapSurface, chosen: (i: number) => boolean): { area: number; places: Place[] } {
  const { n, areas, across, centroids: c } = surface;
  const sets = new UnionFind(n);
  const on = new Uint8Array(n);
  let whole = 0;
  for (let i = 0; i < n; i++) {
    whole += areas[i];
    if (chosen(i)) on[i] = 1;
  }
  for (let h = 0; h < across.length; h++) {
    if (across[h] < h) continue;
    const [a, b] = [Math.floor(h / 3), Math.floor(across[h] / 3)];
    if (on[a] && on[b]) sets.union(a, b);
  }
  const found = new Map<number, { area: number; sum: Vec3; facet: number }>();
  for (let i = 0; i < n; i++) {
    if (!on[i]) continue;
    const root = sets.find(i);
    const patch = found.get(root) ?? { area: 0, sum: [0, 0, 0] as Vec3, facet: i };
    patch.area += areas[i];
    for (let d = 0; d < 3; d++) patch.sum[d] += areas[i] * c[3 * i + d];
    found.set(root, patch);
  }
  const large = [...found.values()].filter((p) => p.area > 1e-4 * whole).sort((a, b) => b.area - a.area);
  return {
    area: large.reduce((s, p) => s + p.area, 0),
    places: large.slice(0, 24).map((p) => {
      // On the surface: the middle of a ring would float in the air.
      const middle = p.sum.map((x) => x / p.area) as Vec3;
      surface.tree.closest(...middle);
      return { position: [...surface.tree.point] as Vec3, size: Math.sqrt(p.area) };
    }),
  };
}

/** One place a rib: feet farther apart than twenty rib thicknesses, worst first. */
function ribPlaces(feet: RibFoot[]): Place[] {
  const places: Place[] = [];
  for (const foot of [...feet].sort((a, b) => b.ratio - a.ratio)) {
    if (places.length >= 24) break;
    if (places.every((p) => Math.hypot(...p.position.map((x, d) => x - foot.position[d])) > 20 * foot.rib))
      places.push({ position: foot.position, size: foot.rib });
  }
  return places;
}
