'use client';

import { z } from 'zod';
import { create } from 'zustand';
import type { Answer } from '@/core/results/answer';
import { METRIC, readIn, READER_UNITS } from '@/core/units/reader';
import { drawIn, SEQUENTIAL_NAMES } from '@/viewer/colour';

const readerSchema = z.object({
  units: z.object({
    length: z.enum(READER_UNITS.length),
    pressure: z.enum(READER_UNITS.pressure),
    temperature: z.enum(READER_UNITS.temperature),
    mass: z.enum(READER_UNITS.mass),
  }),
  /** Map of fields that run from low to high. */
  colours: z.enum(SEQUENTIAL_NAMES),
  reversed: z.boolean(),
});
export type Reader = z.infer<typeof readerSchema>;

const PLAIN: Reader = { units: METRIC, colours: 'moss', reversed: false };
const KEY = 'bellows.reader';

function recall(): Reader {
  try {
    return readerSchema.parse(JSON.parse(localStorage.getItem(KEY) ?? 'null'));
  } catch {
    // Nothing is remembered yet, or nonsense, or there is no storage.
    return PLAIN;
  }
}

function apply(reader: Reader): Reader {
  readIn(reader.units);
  drawIn(reader.colours, reader.reversed);
  return reader;
}

/** How whoever looks at the page on this browser wants to be told things. */
export const useReader = create<Reader>(() => apply(recall()));

export function setReader(patch: Partial<Reader>): void {
  const reader = { ...useReader.getState(), ...patch };
  localStorage.setItem(KEY, JSON.stringify(reader));
  useReader.setState(apply(reader));
}

/** An answer as the reader is told it: `tell` says a text in the units and by the names of the reader. */
export const answerTold = (answer: Answer, tell: (text: string) => string): Answer => ({
  ...answer,
  headline: tell(answer.headline),
  key: {
    label: tell(answer.key.label),
    value: tell(answer.key.value),
    note: tell(answer.key.note),
  },
  where: answer.where && { ...answer.where, label: tell(answer.where.label) },
  why: answer.why.map(tell),
  try: answer.try.map((t) => ({ ...t, label: tell(t.label), why: tell(t.why) })),
});

/** Another one where anything would be told or drawn in another way. */
export const readerKey = (reader: Reader): string => JSON.stringify(reader);
