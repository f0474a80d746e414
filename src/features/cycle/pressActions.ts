import { chargeOf, defaultCharge, defaultCompression, type Charge, type Compression } from '@/core/model/compression';
import { changeInputs, presentInputs, useStudy } from '../study/store';
import { useBench, type Point } from '../study/bench';
import { freshId } from '../study/shapeActions';
import type { Inputs } from '@/core/model/study';

type ChargeChoice = ReturnType<typeof defaultCharge>;

/** Pieces that lie in the open tool; none where the melt comes through gates. */
export const piecesOf = ({ compression }: Pick<Inputs, 'compression'>): readonly Charge[] =>
  chargeOf(compression)?.pieces ?? [];

/** Changes how the tool closes; where it did not, from the default way. */
export const changeCompression = (label: string, patch: (now: Compression) => Partial<Compression>): void =>
  changeInputs(label, ({ compression = defaultCompression() }) => ({
    compression: { ...compression, ...patch(compression) },
  }));

/** A tool that is closed before the melt comes. */
export function removeCompression(): void {
  const study = useStudy.getState();
  const { compression: _, ...rest } = presentInputs(study);
  study.change('Tool is closed before', rest);
  useBench.getState().set({ selectedPiece: null, aim: null });
}

export const changeCharge = (label: string, patch: (now: ChargeChoice) => Partial<ChargeChoice>): void =>
  changeCompression(label, ({ melt }) => {
    const now = melt.by === 'charge' ? melt : defaultCharge();
    return { melt: { ...now, ...patch(now) } };
  });

export function layPiece(position: Point): void {
  let id = '';
  changeCharge('Lay in a piece', ({ pieces }) => {
    id = freshId('C', pieces);
    return { pieces: [...pieces, { id, position }] };
  });
  useBench.getState().set({ selectedPiece: id });
}

export const movePiece = (id: string, position: Point): void =>
  changeCharge(`Move piece ${id}`, ({ pieces }) => ({
    pieces: pieces.map((p) => (p.id === id ? { ...p, position } : p)),
  }));

export function deletePiece(id: string): void {
  changeCharge(`Take out piece ${id}`, ({ pieces }) => ({ pieces: pieces.filter((p) => p.id !== id) }));
  useBench.getState().set({ selectedPiece: null });
}
