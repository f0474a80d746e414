import { CircleAlert, CircleCheck, CircleX } from 'lucide-react';
import { VERDICT_WORDS } from '@/core/results/compare';
import type { Verdict } from '@/core/results/rules';

/** Sign, colour and word of a verdict: never told by colour alone. */
export const VERDICT_LOOKS: Record<Verdict, { word: string; Icon: typeof CircleCheck; colour: string }> = {
  good: { word: VERDICT_WORDS.good, Icon: CircleCheck, colour: 'text-good' },
  watch: { word: VERDICT_WORDS.watch, Icon: CircleAlert, colour: 'text-watch' },
  problem: { word: VERDICT_WORDS.problem, Icon: CircleX, colour: 'text-problem' },
};

export function VerdictIcon({ verdict, title }: { verdict: Verdict; title?: string }) {
  const { Icon, colour } = VERDICT_LOOKS[verdict];
  return (
    <span title={title} className={colour}>
      <Icon size={13} />
    </span>
  );
}
