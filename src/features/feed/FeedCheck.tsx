import { Eye } from 'lucide-react';
import { useShallow } from 'zustand/react/shallow';
import { problemsOf, useStudy } from '../study/store';
import { useView } from '../study/view';
import { useTold } from '../study/names';
import { SectionTitle } from '../ui/controls';
import { Terms } from '../ui/Terms';

/** Everything that is missing or contradictory in the feed, with place and remedy. */
export function FeedCheck() {
  // Compared by content: the list is made anew each time.
  const texts = useStudy(
    useShallow((s) =>
      problemsOf(s)
        .filter((p) => p.station === 'feed')
        .map((p) => JSON.stringify([p.message, p.remedy, p.place ?? null, p.target])),
    ),
  );
  const tell = useTold();
  const flyTo = useView((s) => s.flyTo);
  if (texts.length < 2 && !texts.some((t) => (JSON.parse(t) as unknown[])[2])) return null;
  return (
    <>
      <SectionTitle>Before a run</SectionTitle>
      <ul className="divide-y border-y" aria-label="What the feed still needs">
        {texts.map((text) => {
          const [message, remedy, place, target] = JSON.parse(text) as [
            string,
            string,
            [number, number, number] | null,
            string,
          ];
          return (
            <li key={text} className="flex items-start gap-2 py-1.5">
              <div className="flex-1">
                <p className="text-problem">{tell(message)}</p>
                <p className="text-soft text-[12px]">
                  <Terms>{tell(remedy)}</Terms>
                </p>
              </div>
              {place && (
                <button
                  type="button"
                  className="text-petrol mt-0.5"
                  aria-label={`Look at ${target}`}
                  title="Look at the place"
                  onClick={() => flyTo(place, target)}
                >
                  <Eye size={15} />
                </button>
              )}
            </li>
          );
        })}
      </ul>
    </>
  );
}
