import type { ShotHistory } from '../solvers/shot/history';

/** History of a fill as CSV: one row per step, units in the column names; gates by what they are called. */
export function historyCsv(history: ShotHistory, gateNames: readonly string[]): string {
  const cored = history.coreVolume.some((v) => v > 0);
  const head = [
    'time_s',
    'pressure_MPa',
    'nozzlePressure_MPa',
    'flowRate_cm3_s',
    'shareFilled',
    'clampForce_kN',
    'phase',
    ...(cored ? ['corePressure_MPa', 'coreVolume_cm3'] : []),
    ...gateNames.map((g) => `flow_${g.replace(/[^\p{L}\p{N}]+/gu, '_')}_cm3_s`),
  ];
  const rows = history.time.map((t, i) =>
    [
      t,
      history.pressure[i] / 1e6,
      history.nozzlePressure[i] / 1e6,
      history.flowRate[i] * 1e6,
      history.shareFilled[i],
      history.clampForce[i] / 1e3,
      history.phase[i],
      ...(cored ? [history.corePressure[i] / 1e6, history.coreVolume[i] * 1e6] : []),
      ...history.gateFlow[i].map((q) => q * 1e6),
    ]
      .map((x) => (typeof x === 'number' ? Number(x.toPrecision(9)) : x))
      .join(','),
  );
  return [head.join(','), ...rows, ''].join('\n');
}
