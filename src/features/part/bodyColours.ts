import type { Body, Role } from '@/core/model/body';

/** Earths and metals of the page's family; the file's own colour goes first. */
const ROLE_COLOURS: Record<Role, string> = {
  cavity: '#cdc2b1',
  'second-shot': '#b99a5f',
  insert: '#8b949b',
  runner: '#c48a63',
  'hot-runner': '#a8553a',
  channel: '#5d98a3',
  'left-out': '#b7b0a6',
};

export const colourOf = (body: Body): string => body.colour ?? ROLE_COLOURS[body.role];
