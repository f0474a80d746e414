import { notFound } from 'next/navigation';
import { Workbench } from '@/features/shell/Workbench';
import { projectViewSchema } from '@/runtime/wire';
import { app } from '@/server/app';
import { viewProject } from '@/server/studies';

export const dynamic = 'force-dynamic';

interface Asked {
  params: Promise<{ id: string }>;
  searchParams: Promise<{ variant?: string | string[] }>;
}

export default async function Page({ params, searchParams }: Asked) {
  const view = await viewProject((await app()).db, (await params).id);
  if (!view) notFound();
  const { variant } = await searchParams;
  // As over the wire: dates become text, and what is no longer known is left out.
  return (
    <Workbench
      view={projectViewSchema.parse(JSON.parse(JSON.stringify(view)))}
      variant={typeof variant === 'string' ? variant : null}
    />
  );
}
