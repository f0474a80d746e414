import { receiveImport } from '@/server/imports';
import { upload } from '../upload';

/** Body: a part's file. Query: its name. */
export const POST = upload((request, body, report, signal) => {
  const name = new URL(request.url).searchParams.get('name') ?? 'Part.stl';
  return receiveImport(name.slice(-120), body, report, signal);
});
