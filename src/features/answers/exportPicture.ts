import { format, formatShown } from '@/core/units/reader';

import { fieldEntry } from '@/core/fields/table';
import { cssColour, type ColourMap } from '@/viewer/colour';
import { latestResult, presentVariant, useStudy } from '../study/store';
import { mainView } from '../study/view';
import { FAILED_CHECKS, failsItsChecks, fileMark, manifestOf } from '../study/runData';
import { fieldInfo, OF_SHAPE } from '../study/fields';
import { isochroneText } from './useOverlays';
import { download } from '../ui/download';
import { StripScale } from './stripScale';
import { gatesOf } from '../study/names';

const SCALE = 2;
const STRIP = 132;
const FRAMES = 90;
const FRAME_MS = 66;

/** What stands beside the picture. */
interface Caption {
  title: string;
  field: string;
  unit: string;
  ticks: { at: number; text: string }[];
  /** Empty where it does not matter. */
  time: string;
  map: ColourMap;
  note: string;
  /** Why the picture is not to be used; empty for a sound result. */
  warning: string;
}

function captionOf(legend: ShownLegend | null): Caption {
  const study = useStudy.getState();
  const run = latestResult(study);
  const view = mainView.getState();
  const info = fieldInfo(view.field, gatesOf(run, study));
  const end = run ? (manifestOf(run.id)?.history.time.at(-1) ?? 0) : 0;
  const [low, high] = legend?.range ?? [0, 1];
  const time = Math.min(view.time, end);
  // Of the whole shot, or the front at its end: there is no instant to tell.
  const still = !fieldEntry(view.field)?.overTime && (OF_SHAPE.includes(view.field) || time >= end);
  return {
    title: `${study.projectName}, ${presentVariant(study).name}`,
    field: legend?.label ?? info.label,
    unit: info.unit,
    ticks: [0, 0.25, 0.5, 0.75, 1].map((at) => ({
      at,
      text: formatShown(low + at * (high - low), info.unit),
    })),
    time: still ? '' : `${format(time, 's')} of ${format(end, 's')}`,
    map: legend?.map ?? 'sequential',
    note: [view.layers.isochrones ? `front: ${isochroneText(run?.summary?.fillTime_s ?? 0)}` : '', legend?.note ?? '']
      .filter(Boolean)
      .join(', '),
    warning: failsItsChecks(run?.id ?? null) ? FAILED_CHECKS : '',
  };
}

/** What the legend beside the view says: a picture says the same. */
interface ShownLegend {
  label: string;
  range: [number, number];
  note?: string;
  map?: ColourMap;
}

function shownLegend(): ShownLegend | null {
  const { legend, legendRange } = document.querySelector<HTMLElement>('[data-legend]')?.dataset ?? {};
  const ends = legendRange?.split(',').map(Number);
  return legend && ends?.length === 2
    ? { ...(JSON.parse(legend) as Omit<ShownLegend, 'range'>), range: [ends[0], ends[1]] }
    : null;
}

/** The view with legend, title and time, drawn for a sheet of paper: dark on pale whatever the theme. */
export function compose(target: HTMLCanvasElement): void {
  const source = document.querySelector<HTMLCanvasElement>('[data-testid="viewport"] canvas');
  if (!source) throw new Error('There is no picture to take yet.');
  const style = getComputedStyle(document.documentElement);
  const colour = (name: string) => style.getPropertyValue(name).trim();
  const width = source.clientWidth * SCALE;
  const height = source.clientHeight * SCALE;
  target.width = width + STRIP * SCALE;
  target.height = height;
  const ctx = target.getContext('2d') as CanvasRenderingContext2D;
  ctx.fillStyle = colour('--sheet');
  ctx.fillRect(0, 0, target.width, target.height);
  ctx.drawImage(source, 0, 0, width, height);
  drawCaption(ctx, captionOf(shownLegend()), width, height, {
    ink: colour('--ink'),
    soft: colour('--ink-soft'),
    problem: colour('--problem'),
  });
}

function drawCaption(
  ctx: CanvasRenderingContext2D,
  c: Caption,
  x0: number,
  height: number,
  { ink, soft, problem }: Record<'ink' | 'soft' | 'problem', string>,
): void {
  const s = SCALE;
  const font = (px: number, weight = 400) => `${weight} ${px * s}px 'Inter Variable', Inter, sans-serif`;
  const text = (value: string, x: number, y: number, px: number, weight = 400, fill = ink) => {
    ctx.font = font(px, weight);
    ctx.fillStyle = fill;
    ctx.fillText(value, x, y, (STRIP - 12) * s);
  };
  ctx.textBaseline = 'alphabetic';
  text(c.title, 12 * s, 20 * s, 13, 600);
  text(c.time, 12 * s, 38 * s, 12);
  if (c.note) text(c.note, 12 * s, 55 * s, 11, 400, soft);
  if (c.warning) {
    ctx.font = font(13, 600);
    ctx.fillStyle = problem;
    ctx.fillText(c.warning, 12 * s, height - 14 * s, x0 - 24 * s);
  }
  text(c.field, x0 + 6 * s, 20 * s, 12, 600);
  text(c.unit, x0 + 6 * s, 36 * s, 11, 400, soft);
  const [top, bottom] = [52 * s, height - 20 * s];
  for (let y = top; y < bottom; y++) {
    ctx.fillStyle = cssColour((bottom - y) / (bottom - top), c.map);
    ctx.fillRect(x0 + 8 * s, y, 16 * s, 1);
  }
  for (const { at, text: value } of c.ticks)
    text(value, x0 + 32 * s, bottom - at * (bottom - top) + 4 * s, 11, 400, ink);
}

const fileName = (extension: string) => {
  const study = useStudy.getState();
  const stem = `${study.projectName} ${presentVariant(study).name} ${mainView.getState().field}`;
  const mark = fileMark(latestResult(study)?.id ?? null);
  return `${mark}${stem.replace(/[^\p{L}\p{N}]+/gu, '-').toLowerCase()}.${extension}`;
};

export async function savePicture(): Promise<void> {
  const canvas = document.createElement('canvas');
  compose(canvas);
  const blob = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, 'image/png'));
  if (!blob) throw new Error('The browser could not make the picture.');
  download(blob, fileName('png'));
}

const nextFrame = () => new Promise<void>((resolve) => requestAnimationFrame(() => resolve()));
const wait = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));

/** Plays the filling once from the start and records it. The play head returns to where it stood. */
export async function recordAnimation(report: (share: number) => void, signal: AbortSignal): Promise<void> {
  const run = latestResult(useStudy.getState());
  const scale = new StripScale(run ? manifestOf(run.id) : null);
  if (!(scale.end > 0)) throw new Error('There is no filling to record yet. Press Run first.');
  const type = ['video/webm;codecs=vp9', 'video/webm;codecs=vp8', 'video/webm'].find((t) =>
    MediaRecorder.isTypeSupported(t),
  );
  if (!type) throw new Error('This browser cannot record WebM. Take pictures instead.');
  const before = mainView.getState().time;
  const canvas = document.createElement('canvas');
  compose(canvas);
  const recorder = new MediaRecorder(canvas.captureStream(15), { mimeType: type, videoBitsPerSecond: 6e6 });
  const chunks: Blob[] = [];
  recorder.ondataavailable = (e) => chunks.push(e.data);
  const stopped = new Promise<void>((resolve) => (recorder.onstop = () => resolve()));
  recorder.start();
  try {
    for (let f = 0; f <= FRAMES; f++) {
      if (signal.aborted) throw new Error('stopped');
      mainView.getState().set({ time: f === FRAMES ? Infinity : scale.timeAt(f / FRAMES), playing: false });
      await nextFrame();
      await nextFrame();
      compose(canvas);
      report(f / FRAMES);
      await wait(FRAME_MS);
    }
  } finally {
    recorder.stop();
    await stopped;
    mainView.getState().set({ time: before });
  }
  download(new Blob(chunks, { type: 'video/webm' }), fileName('webm'));
}
