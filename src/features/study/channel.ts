/** Pages of one browser hear each other here, without a connection each: a browser has few of those. */
const NAME = 'bellows.changed';

let channel: BroadcastChannel | null = null;

/** The channel of this page; null where the browser has none. */
export const openChannel = (): BroadcastChannel | null =>
  typeof BroadcastChannel === 'undefined' ? null : (channel ??= new BroadcastChannel(NAME));

/** Tells other pages that something of a project is on the server now. */
export const announce = (projectId: string): void => openChannel()?.postMessage(projectId);
