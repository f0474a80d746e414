import { Wand } from 'lucide-react';
import { Button } from '../ui/controls';
import { awaitsFirstAnswer, firstAnswer } from './firstAnswer';
import { useStudy } from './store';

/** The way from a part to an answer in one press; nothing once a gate or a result is there. */
export function FirstAnswer() {
  const awaits = useStudy(awaitsFirstAnswer);
  if (!awaits) return null;
  return (
    <section aria-label="First answer" className="border-copper bg-paper mb-4 rounded border p-3">
      <p>
        Nothing chosen yet? A search puts one gate where it does best, all else has a default, and Detail is quick:
        enough to see what the part asks for.
      </p>
      <Button look="primary" className="mt-2 w-full" onClick={() => void firstAnswer()}>
        <Wand size={13} /> First answer
      </Button>
    </section>
  );
}
