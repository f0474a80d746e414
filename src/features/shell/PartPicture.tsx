import { useQuery } from '@tanstack/react-query';
import { Box } from 'lucide-react';
import Image from 'next/image';
import type { ProjectEntry } from '@/runtime/wire';
import { colourOf } from '../part/bodyColours';
import { queries, storedMesh } from '../study/queries';
import { useColours } from '../ui/useColours';

/** px */
const WIDTH = 76;
const HEIGHT = 50;

type Part = ProjectEntry['part'];

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

/** What a project is about, seen small; a box where there is no part, or one that is not drawn in passing. */
export function PartPicture({ part }: { part: Part }) {
  const { edge } = useColours();
  const { data: picture } = useQuery(
    {
      queryKey: ['part-picture', edge, part],
      enabled: part.length > 0,
      queryFn: () => {
        const drawn = turn.then(() => draw(part, edge)).catch(() => null);
        turn = drawn;
        return drawn;
      },
    },
    queries,
  );
  return (
    <span className="grid shrink-0 place-items-center" style={{ width: WIDTH, height: HEIGHT }}>
      {picture ? (
        <Image src={picture} alt="" width={WIDTH} height={HEIGHT} unoptimized data-testid="part-picture" />
      ) : (
        <Box size={22} strokeWidth={1} className="text-soft" />
      )}
    </span>
  );
}
