import { SignIn } from '@/features/shell/SignIn';

export const dynamic = 'force-dynamic';

export default async function Page({ searchParams }: { searchParams: Promise<{ to?: string }> }) {
  const { to } = await searchParams;
  // Only a path of this server: an address of another is nowhere to be sent to.
  return <SignIn to={to && /^\/(?![/\\])/.test(to) ? to : '/'} />;
}
