/** How long what is being answered may take before the process ends, ms. */
const GRACE_MS = 8000;

/** Called by the framework once, before the first request: the server is got ready, and a stop asked for leaves nothing half done. */
export async function register(): Promise<void> {
  if (process.env.NEXT_RUNTIME !== 'nodejs') return;
  const { app, stopApp } = await import('./server/app');
  // Whatever is wrong is told by the first request, which tries again.
  app().catch(() => {});
  const stop = () => {
    // The framework waits for open connections, and some do not end by themselves.
    setTimeout(() => process.exit(0), GRACE_MS).unref();
    void stopApp();
  };
  process.once('SIGTERM', stop);
  process.once('SIGINT', stop);
}
