/** So many wrong tries are free; after them each doubles the wait. */
const FREE = 5;
const FIRST_WAIT_MS = 2000;
const LONGEST_WAIT_MS = 15 * 60_000;

/**
 * Tries at the passphrase, all callers together: behind a proxy they can not be told apart. One try at a time, so that
 * many at once gain nothing.
 */
export class Attempts {
  private nWrong = 0;
  private closedUntil = 0;
  private busy = false;

  /** How long the next try has to wait, ms; 0 when it may be made, and is begun. */
  begin(now = Date.now()): number {
    if (this.busy) return FIRST_WAIT_MS;
    if (now < this.closedUntil) return this.closedUntil - now;
    this.busy = true;
    return 0;
  }

  end(right: boolean, now = Date.now()): void {
    this.busy = false;
    this.nWrong = right ? 0 : this.nWrong + 1;
    const beyond = this.nWrong - FREE;
    if (beyond >= 0) this.closedUntil = now + Math.min(LONGEST_WAIT_MS, FIRST_WAIT_MS * 2 ** beyond);
  }
}
