import { notFound } from 'next/navigation';
import { Workbench } from '@/features/shell/Workbench';
import type { ProjectView } from '@/runtime/wire';
import { app } from '@/server/app';
import { viewProject } from '@/server/studies';

export const dynamic = 'force-dynamic';

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  const view = await viewProject((await app()).db, (await params).id);
  if (!view) notFound();
  // Dates become text, as over the wire.
  return <Workbench view={JSON.parse(JSON.stringify(view)) as ProjectView} />;
}
