import { notFound } from 'next/navigation';
import { Workbench } from '@/features/shell/Workbench';
import { projectViewSchema } from '@/runtime/wire';
import { app } from '@/server/app';
import { viewProject } from '@/server/studies';

export const dynamic = 'force-dynamic';

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  const view = await viewProject((await app()).db, (await params).id);
  if (!view) notFound();
  // As over the wire: dates become text, and what is no longer known is left out.
  return <Workbench view={projectViewSchema.parse(JSON.parse(JSON.stringify(view)))} />;
}
