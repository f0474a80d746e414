import type { Machine } from '../model/machine';

const press = (
  id: string,
  name: string,
  maker: string,
  clamp_kN: number,
  screw_mm: number,
  pressure_MPa: number,
  flow_cm3_s: number,
  shot_cm3: number,
): Machine => ({
  id,
  name,
  maker,
  origin: 'sample',
  screwDiameter: screw_mm * 1e-3,
  maxPressure: pressure_MPa * 1e6,
  maxFlowRate: flow_cm3_s * 1e-6,
  clampForce: clamp_kN * 1e3,
  shotVolume: shot_cm3 * 1e-6,
});

/** Made-up presses with proportions typical of their size, small to large. */
export const MACHINES: readonly Machine[] = [
  press('hask-30', 'Hask 30', 'Oxenholme Presses', 300, 22, 220, 75, 36),
  press('hask-60', 'Hask 60', 'Oxenholme Presses', 600, 28, 210, 110, 72),
  press('hask-110', 'Hask 110', 'Oxenholme Presses', 1100, 35, 200, 165, 150),
  press('brundle-180', 'Brundle 180', 'Brundle Machinery', 1800, 45, 190, 240, 310),
  press('brundle-280', 'Brundle 280', 'Brundle Machinery', 2800, 55, 180, 330, 560),
  press('brundle-450', 'Brundle 450', 'Brundle Machinery', 4500, 70, 175, 480, 1180),
  press('teviot-800', 'Teviot 800', 'Teviot Heavy', 8000, 95, 170, 760, 2900),
  press('teviot-1600', 'Teviot 1600', 'Teviot Heavy', 16000, 130, 165, 1300, 7400),
];

export const machineById = (id: string): Machine | undefined => MACHINES.find((m) => m.id === id);

/** A press should not use more than this share of its shot for one part: the rest is cushion and metering. */
export const SHOT_SHARE = 0.8;

/** The smallest press whose shot holds a part of `volume` [m3] with some to spare; the largest when none does. */
export const machineFor = (volume: number): Machine =>
  MACHINES.find((m) => SHOT_SHARE * m.shotVolume >= volume) ?? MACHINES[MACHINES.length - 1];
