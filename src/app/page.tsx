import { StartPage } from '@/features/shell/StartPage';
import { app } from '@/server/app';
import { hasPassphrase } from '@/server/session';
import { listProjects } from '@/server/studies';
import { usageOf } from '@/store/usage';

export const dynamic = 'force-dynamic';

export default async function Page() {
  const { db } = await app();
  const projects = await listProjects(db);
  const { total, limit, available } = await usageOf(db);
  return (
    <StartPage
      room={{ total, limit, available }}
      canSignOut={hasPassphrase()}
      projects={projects.map((p) => ({
        id: p.id,
        name: p.name,
        nVariants: p.nVariants,
        changedAt: p.changedAt.toISOString(),
      }))}
    />
  );
}
