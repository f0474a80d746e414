import { X } from 'lucide-react';
import { Dialog } from 'radix-ui';
import { VERDICT_RULES, type VerdictRule } from '@/core/results/rules';
import { formatShown, shownUnit } from '@/core/units/reader';

const QUESTIONS: Record<VerdictRule['question'], string> = {
  'will-it-fill': 'Will it fill?',
  'where-fronts-meet': 'Where do fronts meet?',
  'what-machine': 'What machine does it need?',
  'does-it-pack-out': 'Does it pack out?',
  'how-long-to-cool': 'How long must it cool?',
  'what-shape': 'What shape comes out?',
  'do-they-hold': 'Do they hold together?',
  'does-core-come-right': 'Does the core come out right?',
  'does-tool-close': 'Does the tool close?',
  'how-strong': 'How strong is it?',
};

/** The table of thresholds behind the verdicts, each with its reason. */
export function RulesDialog() {
  const rules: VerdictRule[] = Object.values(VERDICT_RULES);
  const limit = (rule: VerdictRule, value: number | null) =>
    value === null
      ? '–'
      : `${rule.worse === 'above' ? '>' : '<'} ${formatShown(value, rule.unit)} ${shownUnit(rule.unit)}`;
  return (
    <Dialog.Root>
      <Dialog.Trigger className="text-petrol mt-4 text-[12px] underline">How verdicts are made</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/25" />
        <Dialog.Content
          aria-describedby={undefined}
          className="bg-sheet fixed top-1/2 left-1/2 z-50 max-h-[86vh] w-[52rem] max-w-[94vw] -translate-1/2 overflow-y-auto rounded-lg border p-5 shadow-xl"
        >
          <div className="flex items-center justify-between">
            <Dialog.Title className="text-[15px] font-semibold">How verdicts are made</Dialog.Title>
            <Dialog.Close aria-label="Close" className="text-soft hover:text-ink p-1">
              <X size={15} />
            </Dialog.Close>
          </div>
          <p className="text-soft mt-1">The worst of its rules decides an answer.</p>
          <table className="num mt-3 w-full text-left text-[12.5px]">
            <thead className="text-soft text-[11px]">
              <tr>
                <th className="py-1 pr-3 font-semibold">What is looked at</th>
                <th className="py-1 pr-3 font-semibold">Watch</th>
                <th className="py-1 pr-3 font-semibold">Problem</th>
                <th className="py-1 font-semibold">Because</th>
              </tr>
            </thead>
            {Object.entries(QUESTIONS).map(([id, question]) => (
              <tbody key={id}>
                <tr>
                  <th colSpan={4} className="pt-3 pb-1 text-[13px] font-semibold">
                    {question}
                  </th>
                </tr>
                {rules
                  .filter((r) => r.question === id)
                  .map((r) => (
                    <tr key={r.id} className="border-t align-top">
                      <td className="py-1 pr-3">{r.quantity}</td>
                      <td className="text-watch py-1 pr-3 whitespace-nowrap">{limit(r, r.watch)}</td>
                      <td className="text-problem py-1 pr-3 whitespace-nowrap">{limit(r, r.problem)}</td>
                      <td className="text-soft py-1">{r.reason}</td>
                    </tr>
                  ))}
              </tbody>
            ))}
          </table>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
