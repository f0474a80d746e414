import { notFound } from 'next/navigation';
import { Workbench } from '@/features/shell/Workbench';
import { overTheWire, projectViewSchema } from '@/runtime/wire';
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
  return (
    <Workbench view={overTheWire(projectViewSchema, view)} variant={typeof variant === 'string' ? variant : null} />
  );
}
