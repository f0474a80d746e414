import { StartPage } from '@/features/shell/StartPage';
import { app } from '@/server/app';
import { hasPassphrase } from '@/server/session';
import { overTheWire, ROUTES } from '@/runtime/wire';
import { listProjects } from '@/server/studies';
import { roomOf } from '@/store/usage';

export const dynamic = 'force-dynamic';

export default async function Page() {
  const projects = await listProjects((await app()).db);
  return (
    <StartPage room={roomOf()} canSignOut={hasPassphrase()} projects={overTheWire(ROUTES.projects.answer, projects)} />
  );
}
