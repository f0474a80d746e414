import { app } from '@/server/app';
import { receiveStudy } from '@/server/imports';
import { upload } from '../upload';

/** Body: a study with its surfaces, as it was exported; it becomes a project. */
export const POST = upload(async (_request, body, report, signal) =>
  receiveStudy((await app()).db, body, report, signal),
);
