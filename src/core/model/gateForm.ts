import { z } from 'zod';
import { within } from './quantity';

const [length, wide, width] = [within('gateLength'), within('gateWide'), within('gateWidth')];
const thickness = within('gateThickness');

/**
 * Kinds of gates and their dimensions, m; `thickness` is across the wall it opens into, `wide` the end at
 * the runner. A gate without a form is a round hole as long as the feed's lands.
 */
export const gateFormSchema = z.discriminatedUnion('kind', [
  /** Rectangular land into the edge of the part. */
  z.strictObject({ kind: z.literal('edge'), length, width, thickness }),
  /** Widens from the runner to the part. */
  z.strictObject({ kind: z.literal('fan'), length, wide, width, thickness }),
  /** A thin land along the whole edge. */
  z.strictObject({ kind: z.literal('film'), length, width, thickness }),
  /** A cone onto a point of the part; its small end has the gate's diameter. */
  z.strictObject({ kind: z.literal('pin'), length, wide }),
  /** A cone that dives below the parting plane and shears off at ejection; `angle` to the plane. */
  z.strictObject({ kind: z.literal('submarine'), length, wide, angle: within('gateAngle') }),
  /** The sprue itself ends on the part with the gate's diameter. */
  z.strictObject({ kind: z.literal('sprue') }),
]);

export type GateForm = z.infer<typeof gateFormSchema>;
export type GateKind = GateForm['kind'];

export const GATE_KINDS: { kind: GateKind; label: string }[] = [
  { kind: 'edge', label: 'Edge gate' },
  { kind: 'fan', label: 'Fan gate' },
  { kind: 'film', label: 'Film gate' },
  { kind: 'pin', label: 'Pin gate' },
  { kind: 'submarine', label: 'Submarine gate' },
  { kind: 'sprue', label: 'Direct sprue' },
];

/** Dimensions in use for a wall of this thickness [m] and a runner of this width [m]. */
export function defaultForm(kind: GateKind, wall: number, runner: number): GateForm {
  const tidy = (x: number) => Number(x.toPrecision(2));
  const thickness = tidy(0.6 * wall);
  switch (kind) {
    case 'edge':
      return { kind, length: 1e-3, width: tidy(1.5 * wall), thickness };
    case 'fan':
      return { kind, length: 6e-3, wide: runner, width: tidy(8 * wall), thickness };
    case 'film':
      return { kind, length: 1e-3, width: tidy(15 * wall), thickness: tidy(0.4 * wall) };
    case 'pin':
      return { kind, length: 2e-3, wide: tidy(1.2 * wall) };
    case 'submarine':
      return { kind, length: 6e-3, wide: runner, angle: Math.PI / 4 };
    case 'sprue':
      return { kind };
  }
}
