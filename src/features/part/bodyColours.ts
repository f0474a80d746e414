import { shotOf, type Body, type Role } from '@/core/model/body';

/** Earths and metals of the page's family; the file's own colour goes first. */
const ROLE_COLOURS: Record<Role, string> = {
  cavity: '#cdc2b1',
  insert: '#8b949b',
  runner: '#c48a63',
  'hot-runner': '#a8553a',
  channel: '#5d98a3',
  'left-out': '#b7b0a6',
};

/** Of what the second and third shot fill. */
const LATER = ['#b99a5f', '#8f8f6a'];

export const colourOf = (body: Pick<Body, 'role' | 'colour' | 'shot'>): string =>
  body.colour ?? LATER[shotOf(body) - 2] ?? ROLE_COLOURS[body.role];
