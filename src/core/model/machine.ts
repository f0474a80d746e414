import { z } from 'zod';

const positive = z.number().positive();

/** An injection moulding machine, as far as the melt notices it. SI. */
export const machineSchema = z.strictObject({
  id: z.string().min(1).max(60),
  name: z.string().min(1).max(120),
  maker: z.string().max(120),
  origin: z.enum(['sample', 'typed in']),
  /** m */
  screwDiameter: positive.max(0.5),
  /** Largest pressure on the melt in front of the screw, Pa. */
  maxPressure: positive.max(5e8),
  /** m3/s */
  maxFlowRate: positive.max(0.05),
  /** N */
  clampForce: positive.max(1e8),
  /** m3 of melt */
  shotVolume: positive.max(0.2),
});
export type Machine = z.infer<typeof machineSchema>;

/** Area of the screw, m2. */
export const screwArea = (machine: Machine): number => (Math.PI / 4) * machine.screwDiameter ** 2;
