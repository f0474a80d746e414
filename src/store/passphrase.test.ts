import { statSync, writeFileSync } from 'node:fs';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import {
  isSession,
  lockOf,
  newSession,
  opens,
  passphraseFault,
  passphrasePath,
  removePassphrase,
  SESSION_MS,
  setPassphrase,
  type Lock,
} from './passphrase';
import { freshData } from './testData';

let end: () => void;
beforeEach(async () => void ({ end } = await freshData()));
afterEach(() => end());
const WORDS = 'nine bees on a tray';

describe('a passphrase', () => {
  it('opens with its own words alone, written in any form of the same letters', () => {
    expect(lockOf()).toBeNull();
    setPassphrase('Käfig Käfig');
    const lock = lockOf() as Lock;
    expect(opens(lock, 'Käfig Käfig')).toBe(true);
    expect(['Käfig', 'käfig käfig', '', 'Käfig Käfig ', 'x'.repeat(5000)].map((p) => opens(lock, p))).toEqual(
      Array(5).fill(false),
    );
    removePassphrase();
    expect(lockOf()).toBeNull();
  });

  it('is kept as a hash that only its owner may read', () => {
    setPassphrase(WORDS);
    expect(JSON.stringify(lockOf())).not.toContain('bees');
    expect(statSync(passphrasePath()).mode & 0o777).toBe(0o600);
  });

  it('whose file is damaged is no open door', () => {
    writeFileSync(passphrasePath(), '{ "salt": 1');
    expect(() => lockOf()).toThrow();
  });

  it('is neither short nor endless', () => {
    expect(passphraseFault('short')).toMatch(/at least 10/);
    expect(passphraseFault('x'.repeat(2000))).toMatch(/at most 1000/);
    expect(passphraseFault(WORDS)).toBeNull();
  });
});

describe('a session', () => {
  it('lasts its time, and ends with a new passphrase', () => {
    setPassphrase(WORDS);
    const lock = lockOf() as Lock;
    const now = 1.7e12;
    const session = newSession(lock, now);
    expect([0, SESSION_MS - 1, SESSION_MS + 1].map((ms) => isSession(lock, session, now + ms))).toEqual([
      true,
      true,
      false,
    ]);
    setPassphrase(WORDS);
    expect(isSession(lockOf() as Lock, session, now)).toBe(false);
  });

  it('is not one that was made up or drawn out', () => {
    setPassphrase(WORDS);
    const lock = lockOf() as Lock;
    const session = newSession(lock);
    const [until, salt, signature] = session.split('.');
    const forged = [
      undefined,
      '',
      'x',
      `${Number(until) + 1}.${salt}.${signature}`,
      `${until}.${salt}x.${signature}`,
      `${until}.${salt}.${signature.slice(1)}`,
      `${until}.${salt}.`,
      `${session}.x`,
      `NaN.${salt}.${signature}`,
    ];
    expect(forged.map((s) => isSession(lock, s))).toEqual(forged.map(() => false));
    expect(isSession(lock, session)).toBe(true);
  });
});
