import { eq } from 'drizzle-orm';
import { app } from '@/server/app';
import { runs } from '@/server/db/schema';
import { notFound, respond } from '../../respond';

export const GET = (_request: Request, { params }: { params: Promise<{ id: string }> }) =>
  respond(async () => {
    const [run] = await (
      await app()
    ).db
      .select()
      .from(runs)
      .where(eq(runs.id, (await params).id));
    if (!run) throw notFound('This run');
    return run;
  });
