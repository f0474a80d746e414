import { useMemo } from 'react';
import type { TriangleMesh } from '@/core/geometry/mesh';
import { warpageOf } from '@/core/model/warpage';
import { resolveSettings } from '@/core/setup/settings';
import type { Answer } from '@/core/results/answer';
import { checksOf, deviation, type ShapeFacts } from '@/core/results/shape';
import { cooledBy, whatShape } from '@/core/results/whatShape';
import type { RunView } from '@/runtime/wire';
import { useRunData, type ResultPart } from '../study/runData';
import { presentPart, presentInputs, useStudy } from '../study/store';
import { growthOf } from '../study/shownShape';
import { meshOf } from '../study/shapeField';

/** Deviations by displacement and growth of the tool: every panel asks for the same one. */
const known = new WeakMap<Float32Array, { growth: number; whole: Float32Array }>();
function wholeDeviation(surface: TriangleMesh, displacement: Float32Array, growth: number): Float32Array {
  const kept = known.get(displacement);
  if (kept?.growth === growth) return kept.whole;
  const whole = deviation(surface, displacement, growth);
  known.set(displacement, { growth, whole });
  return whole;
}

const SURFACE: readonly ResultPart[] = ['surface'];
const DISPLACEMENT = ['displacement'];

/**
 * What a run says of its shape, held against the tolerances and measures that are set now: they need no new run.
 * null while the shape is coming, or where there is none.
 */
export function useShapeNow(runId: string | null): ShapeFacts | null {
  const facts = useStudy((s) => s.runs.find((r) => r.id === runId)?.summary?.shape ?? null);
  const warpage = useStudy((s) => presentInputs(s).warpage);
  const wanted = facts !== null && warpage !== undefined;
  const data = useRunData(wanted ? runId : null, SURFACE, DISPLACEMENT);
  return useMemo(() => {
    if (!facts || !warpage) return facts;
    const displacement = data?.fields.get('displacement');
    if (!data?.surface || !displacement) return null;
    const surface = meshOf(data.surface);
    const whole = wholeDeviation(surface, displacement, growthOf(facts));
    return { ...facts, ...checksOf(surface, whole, warpageOf({ warpage })) };
  }, [facts, warpage, data]);
}

/** The answers of a run, that on the shape by what it is held against now. */
export function useAnswersNow(run: RunView | null): Answer[] | null {
  const facts = useShapeNow(run?.id ?? null);
  const warpage = useStudy((s) => presentInputs(s).warpage);
  const size = useStudy(presentPart)?.size;
  return useMemo(() => {
    if (!run?.answers) return null;
    if (!facts || !size || !warpage || !run.summary?.pack) return run.answers;
    const inputs = { ...run.inputs, warpage: { ...warpage, toolScaled: facts.toolScaled } };
    const cooled = cooledBy(run.summary.cool, run.answers);
    const now = whatShape(facts, inputs, resolveSettings(run.inputs, size), run.summary.pack, cooled);
    return run.answers.map((answer) => (answer.id === now.id ? now : answer));
  }, [run, facts, warpage, size]);
}
