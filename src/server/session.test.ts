import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { removePassphrase, SESSION_COOKIE, setPassphrase } from '../store/passphrase';
import { freshData } from '../store/testData';
import { Attempts } from './attempts';
import { isLockedOut, sessionOf, signIn, signOut } from './session';

let end: () => void;
beforeEach(async () => {
  ({ end } = await freshData());
  delete (globalThis as { bellowsAttempts?: Attempts }).bellowsAttempts;
});
afterEach(() => {
  vi.useRealTimers();
  end();
});
const WORDS = 'nine bees on a tray';
const valueOf = (cookie: string) => sessionOf(new Headers({ cookie: `a=b; ${cookie.split(';')[0]}; c=d` }));

describe('signing in', () => {
  it('opens what is shut, and stays open for who has the cookie', () => {
    expect(isLockedOut(undefined)).toBe(false);
    setPassphrase(WORDS);
    expect(isLockedOut(undefined)).toBe(true);
    const cookie = signIn(new Headers(), WORDS);
    expect(cookie).toMatch(/HttpOnly; SameSite=Lax; Max-Age=2592000$/);
    expect(isLockedOut(valueOf(cookie))).toBe(false);
    expect(valueOf(signOut(new Headers()))).toBe('');
    expect(signOut(new Headers())).toContain('Max-Age=0');
  });

  it('over TLS sets a cookie that goes over TLS alone', () => {
    setPassphrase(WORDS);
    expect(signIn(new Headers({ 'x-forwarded-proto': 'https, http' }), WORDS)).toMatch(/; Secure$/);
    expect(sessionOf(new Headers({ cookie: `x${SESSION_COOKIE}=1` }))).toBeUndefined();
  });

  it('is refused with what to do: wrong words, too many tries, no passphrase', () => {
    expect(() => signIn(new Headers(), WORDS)).toThrow(/No passphrase is set/);
    setPassphrase(WORDS);
    for (let k = 0; k < 5; k++) expect(() => signIn(new Headers(), 'guess')).toThrow(/not the passphrase/);
    const late = (() => {
      try {
        return signIn(new Headers(), WORDS);
      } catch (error) {
        return error;
      }
    })();
    expect(late).toMatchObject({ status: 429, headers: { 'retry-after': '2' } });
    vi.useFakeTimers({ toFake: ['Date'], now: Date.now() + 2100 });
    expect(signIn(new Headers(), WORDS)).toContain(SESSION_COOKIE);
    removePassphrase();
  });
});

describe('tries', () => {
  it('wait twice as long after each wrong one, a quarter of an hour at most, and begin anew after a right one', () => {
    const attempts = new Attempts();
    let now = 0;
    const waits: number[] = [];
    for (let k = 0; k < 20; k++) {
      expect(attempts.begin(now)).toBe(0);
      attempts.end(false, now);
      const wait = attempts.begin(now);
      if (wait === 0) attempts.end(false, now);
      waits.push(wait);
      now += wait;
    }
    const told = waits.filter((w) => w > 0).map((w) => w / 1000);
    expect(told.slice(0, 5)).toEqual([2, 4, 8, 16, 32]);
    expect(Math.max(...told)).toBe(900);
    expect(attempts.begin(now)).toBe(0);
    attempts.end(true, now);
    expect(attempts.begin(now)).toBe(0);
  });

  it('go one at a time', () => {
    const attempts = new Attempts();
    expect([attempts.begin(0), attempts.begin(0)]).toEqual([0, 2000]);
  });
});
