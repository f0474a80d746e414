const UNITS = ['B', 'kB', 'MB', 'GB', 'TB'];

/** "4.2 MB": two figures below 10, whole numbers above. */
export function formatBytes(bytes: number): string {
  let value = bytes;
  let unit = 0;
  while (value >= 999.5 && unit < UNITS.length - 1) {
    value /= 1000;
    unit++;
  }
  return `${unit > 0 && value < 9.95 ? value.toFixed(1) : Math.round(value)} ${UNITS[unit]}`;
}
