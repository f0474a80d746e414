import { z } from 'zod';
import { within } from './quantity';

/** An injection moulding machine, as far as the melt notices it. SI. */
export const machineSchema = z.strictObject({
  id: z.string().min(1).max(60),
  name: z.string().min(1).max(120),
  maker: z.string().max(120),
  origin: z.enum(['sample', 'typed in']),
  /** m */
  screwDiameter: within('screw'),
  /** Largest pressure on the melt in front of the screw, Pa. */
  maxPressure: within('machinePressure'),
  /** m3/s */
  maxFlowRate: within('machineFlow'),
  /** N */
  clampForce: within('machineClamp'),
  /** m3 of melt */
  shotVolume: within('machineShot'),
});
export type Machine = z.infer<typeof machineSchema>;

/** Area of the screw, m2. */
export const screwArea = (machine: Machine): number => (Math.PI / 4) * machine.screwDiameter ** 2;
