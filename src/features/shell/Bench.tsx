'use client';

import { CompareBench } from '../compare/CompareBench';
import { AnswersBench } from '../answers/AnswersBench';
import { CoolingBench } from '../cooling/CoolingBench';
import { CycleBench } from '../cycle/CycleBench';
import { FeedBench } from '../feed/FeedBench';
import { PartBench } from '../part/PartBench';
import { ResinBench } from '../resin/ResinBench';
import { Next, takesInputs } from '../study/Next';
import { problemsOf, useStudy } from '../study/store';
import { useTold } from '../study/names';
import { STATION_NAMES, useBench, type Station } from '../study/bench';
import { ShotSwitch } from './ShotSwitch';

const BENCHES: Record<Station, () => React.ReactNode> = {
  part: PartBench,
  resin: ResinBench,
  feed: FeedBench,
  cooling: CoolingBench,
  cycle: CycleBench,
  answers: AnswersBench,
  compare: CompareBench,
};

/** The station's inputs, with what it still misses on top. */
export function Bench() {
  const station = useBench((s) => s.station);
  const [title, Body] = [STATION_NAMES[station], BENCHES[station]];
  const missing = useStudy((s) => {
    const problem = problemsOf(s).find((p) => p.station === station);
    return problem ? `${problem.message}\n${problem.remedy}` : '';
  });
  const [message, remedy] = useTold()(missing).split('\n');
  return (
    <section aria-label={`${title} bench`} className="bg-sheet h-full overflow-y-auto px-4 py-3.5">
      <h2 className="mb-3 text-[15px] font-semibold">{title}</h2>
      {station !== 'cooling' && <ShotSwitch />}
      {missing && (
        <div className="border-problem mb-4 border-l-2 pl-2.5" role="alert">
          <p className="text-problem font-medium">{message}</p>
          <p className="text-soft">{remedy}</p>
        </div>
      )}
      <Body />
      {takesInputs(station) && <Next station={station} />}
    </section>
  );
}
