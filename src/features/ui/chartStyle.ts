import type { ChartOptions } from 'chart.js';

/** Colours and type of the page for a chart. */
export function chartStyle() {
  const style = typeof document === 'undefined' ? null : getComputedStyle(document.documentElement);
  const read = (name: string) => style?.getPropertyValue(name).trim();
  return { soft: read('--ink-soft'), line: read('--line'), font: { family: "'Inter Variable', sans-serif", size: 11 } };
}

/** Names beside a chart. */
export const sideLegend = ({ soft, font }: Pick<ReturnType<typeof chartStyle>, 'soft' | 'font'>) => ({
  display: true,
  position: 'right' as const,
  labels: { boxWidth: 10, boxHeight: 2, color: soft, font },
});

/** What all small charts have in common: straight lines between given points, nothing that moves or answers. */
export const PLAIN_CHART = {
  responsive: true,
  maintainAspectRatio: false,
  animation: false,
  parsing: false,
  events: [],
  plugins: { legend: { display: false }, tooltip: { enabled: false } },
} as const satisfies ChartOptions<'line'>;
