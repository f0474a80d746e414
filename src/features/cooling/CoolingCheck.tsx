import { CircleAlert, CircleCheck, CircleX } from 'lucide-react';
import { useBench } from '../study/bench';
import { useView } from '../study/view';
import { useTold } from '../study/names';
import { SectionTitle } from '../ui/controls';
import { useCoolingCheck } from './useCooling';

const SHOWN = 8;

/** What is wrong or close, with its place and what to do. */
export function CoolingCheck() {
  const findings = useCoolingCheck();
  const set = useBench((s) => s.set);
  const tell = useTold();
  const flyTo = useView((s) => s.flyTo);
  const list = [...findings].sort((a, b) => Number(b.severity === 'problem') - Number(a.severity === 'problem'));
  return (
    <>
      <SectionTitle>Check</SectionTitle>
      {!list.length ? (
        <p className="text-good flex items-center gap-1.5 text-[12px]">
          <CircleCheck size={13} /> Nothing crosses, every circuit is closed.
        </p>
      ) : (
        <ul className="space-y-1.5 text-[12px]" aria-label="Cooling check">
          {list.slice(0, SHOWN).map((f, k) => {
            const Icon = f.severity === 'problem' ? CircleX : CircleAlert;
            return (
              <li key={k} className="flex gap-1.5">
                <Icon
                  size={13}
                  className={`mt-0.5 shrink-0 ${f.severity === 'problem' ? 'text-problem' : 'text-watch'}`}
                />
                <button
                  type="button"
                  className="text-left enabled:hover:underline"
                  disabled={!f.place && !f.line}
                  onClick={() => {
                    if (f.line) set({ selectedChannel: f.line });
                    if (f.place) flyTo(f.place, tell(f.message));
                  }}
                >
                  {tell(f.message)} <span className="text-soft">{tell(f.remedy)}</span>
                </button>
              </li>
            );
          })}
        </ul>
      )}
      {list.length > SHOWN && <p className="text-soft mt-1 text-[12px]">and {list.length - SHOWN} more.</p>}
    </>
  );
}
