import type { Answer } from '@/core/results/answer';
import { VerdictIcon } from '../ui/VerdictIcon';

type Told = Pick<Answer, 'id' | 'question' | 'verdict'>;

/** Verdicts of a variant as small marks, one a question. */
export function Verdicts({ answers }: { answers: readonly Told[] | null }) {
  return (
    <span className="flex gap-0.5" role="img" aria-label={verdictWords(answers)}>
      {answers?.map((a) => (
        <VerdictIcon key={a.id} verdict={a.verdict} title={`${a.question} ${a.verdict}`} />
      ))}
    </span>
  );
}

const verdictWords = (answers: readonly Told[] | null): string =>
  answers ? answers.map((a) => `${a.question} ${a.verdict}`).join(', ') : 'No verdicts yet';
