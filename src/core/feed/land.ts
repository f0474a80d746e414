import type { Feed } from '../model/feed';
import type { Gate } from '../model/study';
import type { Section } from './section';

/** The last piece before the part: from `section` at the runner to `end` at the part (null: the same). */
export interface Land {
  length: number;
  section: Section;
  end: Section | null;
  /** Of a submarine gate against the parting plane, rad. */
  angle: number | null;
}

const round = (diameter: number): Section => ({ shape: 'round', diameter });
const slot = (width: number, height: number): Section => ({ shape: 'rectangle', width, height });

/** What the form of a gate means as a length of duct. */
export function landOf(feed: Feed, { form, diameter }: Gate): Land {
  if (!form) return { length: feed.land.length, section: feed.land.section ?? round(diameter), end: null, angle: null };
  switch (form.kind) {
    case 'edge':
    case 'film':
      return { length: form.length, section: slot(form.width, form.thickness), end: null, angle: null };
    case 'fan': {
      // The area stays about the same: what gets wider gets thinner.
      const height = Math.max(form.thickness, (form.thickness * form.width) / form.wide);
      const section = slot(form.wide, Math.min(height, form.wide));
      return { length: form.length, section, end: slot(form.width, form.thickness), angle: null };
    }
    case 'pin':
      return { length: form.length, section: round(form.wide), end: round(diameter), angle: null };
    case 'submarine':
      return { length: form.length, section: round(form.wide), end: round(diameter), angle: form.angle };
    case 'sprue':
      return { length: feed.land.length, section: round(diameter), end: null, angle: null };
  }
}

/** Opening of a gate on the part: round, or a slot with its width along the edge. m */
export function openingOf({ form, diameter }: Gate): { diameter: number; width: number } {
  if (form && (form.kind === 'edge' || form.kind === 'fan' || form.kind === 'film'))
    return { diameter: Math.min(form.thickness, form.width), width: form.width };
  return { diameter, width: diameter };
}
