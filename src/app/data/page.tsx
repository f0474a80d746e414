import { DataPage } from '@/features/shell/DataPage';
import { usageSchema } from '@/runtime/wire';
import { app } from '@/server/app';
import { usageOf } from '@/store/usage';

export const dynamic = 'force-dynamic';

export default async function Page() {
  return <DataPage first={usageSchema.parse(await usageOf((await app()).db))} />;
}
