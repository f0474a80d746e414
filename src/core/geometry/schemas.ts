import { z } from 'zod';
import { real } from '../numerics/real';

/** A place or direction: x, y, z. */
export const vec3Schema = z.tuple([real, real, real]);

/** A box along the axes. */
export const boundsSchema = z.object({ min: vec3Schema, max: vec3Schema });
