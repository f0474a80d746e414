import { useEffect, useState } from 'react';
import { Box } from 'lucide-react';
import type { ProjectEntry } from '@/runtime/wire';
import { colourOf } from '../part/bodyColours';
import { queries, storedMesh } from '../study/queries';
import { useColours } from '../ui/useColours';

/** px */
const WIDTH = 76;
const HEIGHT = 50;

type Part = ProjectEntry['part'];

/** Pictures made on this page, by what is on them. */
const made = new Map<string, string>();
/** One after the other: the page stays free. */
let turn: Promise<unknown> = Promise.resolve();

async function draw(part: Part, edge: string): Promise<string> {
  const [{ partPicture }, ...meshes] = await Promise.all([
    import('@/viewer/partPicture'),
    ...part.map((b) => queries.fetchQuery(storedMesh(b.mesh))),
  ]);
  return partPicture(
    part.map((body, k) => ({ mesh: meshes[k], colour: colourOf(body) })),
    edge,
    WIDTH,
    HEIGHT,
  );
}

/** What a project is about, seen small; a box where there is no part, or one too large to be drawn in passing. */
export function PartPicture({ part }: { part: Part }) {
  const { edge } = useColours();
  const key = part.length ? `${edge} ${part.map((b) => `${b.mesh} ${colourOf(b)}`).join()}` : '';
  const [picture, setPicture] = useState<string | null>(made.get(key) ?? null);
  useEffect(() => {
    if (!key) return setPicture(null);
    let here = true;
    const show = (url: string) => {
      made.set(key, url);
      if (here) setPicture(url);
    };
    const known = made.get(key);
    if (known) show(known);
    else
      turn = turn
        .then(() => (here ? draw(part, edge).then(show) : null))
        .catch(() => {
          // A part that can not be drawn is a box.
        });
    return () => {
      here = false;
    };
    // `key` says what is on it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key]);
  return (
    <span className="grid shrink-0 place-items-center" style={{ width: WIDTH, height: HEIGHT }}>
      {picture ? (
        // Made here: there is nothing to be fetched or sized.
        // eslint-disable-next-line @next/next/no-img-element
        <img src={picture} alt="" width={WIDTH} height={HEIGHT} data-testid="part-picture" />
      ) : (
        <Box size={22} strokeWidth={1} className="text-soft" />
      )}
    </span>
  );
}
