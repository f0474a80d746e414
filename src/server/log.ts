import pino from 'pino';

/**
 * Log of the server as lines of JSON on standard error; BELLOWS_LOG sets the level (info). It is written at once, so that
 * the last line before a crash is there. Nothing that was sent by a page is in it but paths and ids.
 */
export const log = pino(
  {
    base: undefined,
    level: process.env.BELLOWS_LOG ?? (process.env.VITEST ? 'silent' : 'info'),
    timestamp: pino.stdTimeFunctions.isoTime,
    serializers: { error: pino.stdSerializers.errWithCause },
  },
  pino.destination({ dest: 2, sync: true }),
);
