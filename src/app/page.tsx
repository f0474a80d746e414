import { StartPage } from '@/features/shell/StartPage';
import { app } from '@/server/app';
import { listProjects } from '@/server/studies';

export const dynamic = 'force-dynamic';

export default async function Page() {
  const projects = await listProjects((await app()).db);
  return (
    <StartPage
      projects={projects.map((p) => ({
        id: p.id,
        name: p.name,
        nVariants: p.nVariants,
        changedAt: p.changedAt.toISOString(),
      }))}
    />
  );
}
