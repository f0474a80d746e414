import { createHmac, randomBytes, scryptSync, timingSafeEqual } from 'node:crypto';
import { chmodSync, readFileSync, rmSync, statSync } from 'node:fs';
import path from 'node:path';
import { z } from 'zod';
import { writeFileAtomic } from '../runtime/files';
import { dataDir } from './paths';

/** Cost of scrypt: about 60 ms and 32 MB a try. */
const COST = { N: 2 ** 15, r: 8, p: 1, maxmem: 64 * 2 ** 20 };
const KEY_BYTES = 32;
export const SHORTEST_PASSPHRASE = 10;
const LONGEST_PASSPHRASE = 1000;
/** A session lasts for so long, ms. */
export const SESSION_MS = 30 * 24 * 3_600_000;
export const SESSION_COOKIE = 'bellows-session';

const lockSchema = z.object({
  salt: z.base64(),
  /** scrypt of the passphrase. */
  hash: z.base64(),
  /** Key that sessions are signed with: a new passphrase ends them all. */
  secret: z.base64(),
});
export type Lock = z.infer<typeof lockSchema>;

export const passphrasePath = () => path.join(dataDir(), 'passphrase.json');

const hashOf = (passphrase: string, salt: Buffer) => scryptSync(passphrase.normalize('NFKC'), salt, KEY_BYTES, COST);

/** Why a passphrase will not do; null when it will. */
export function passphraseFault(passphrase: string): string | null {
  if (passphrase.length < SHORTEST_PASSPHRASE) return `A passphrase has at least ${SHORTEST_PASSPHRASE} characters.`;
  if (passphrase.length > LONGEST_PASSPHRASE) return `A passphrase has at most ${LONGEST_PASSPHRASE} characters.`;
  return null;
}

/** Sets the passphrase of the data folder; a running server asks for it from then on. */
export function setPassphrase(passphrase: string): void {
  const salt = randomBytes(16);
  const lock: Lock = {
    salt: salt.toString('base64'),
    hash: hashOf(passphrase, salt).toString('base64'),
    secret: randomBytes(KEY_BYTES).toString('base64'),
  };
  writeFileAtomic(passphrasePath(), JSON.stringify(lock));
  chmodSync(passphrasePath(), 0o600);
}

export const removePassphrase = (): void => rmSync(passphrasePath(), { force: true });

let read: { mtimeMs: number; file: string; lock: Lock } | null = null;

/**
 * The lock of the data folder, null when it has none.
 * @throws when its file can not be read: a lock that is damaged is no open door.
 */
export function lockOf(): Lock | null {
  const file = passphrasePath();
  const facts = statSync(file, { throwIfNoEntry: false });
  if (!facts) return null;
  if (read?.file !== file || read.mtimeMs !== facts.mtimeMs)
    read = { file, mtimeMs: facts.mtimeMs, lock: lockSchema.parse(JSON.parse(readFileSync(file, 'utf8'))) };
  return read.lock;
}

export function opens(lock: Lock, passphrase: string): boolean {
  if (passphrase.length > LONGEST_PASSPHRASE) return false;
  return timingSafeEqual(hashOf(passphrase, Buffer.from(lock.salt, 'base64')), Buffer.from(lock.hash, 'base64'));
}

const signed = (lock: Lock, text: string) =>
  createHmac('sha256', Buffer.from(lock.secret, 'base64')).update(text).digest('base64url');

/** A session that begins now: until when it lasts, signed. Nothing of it is kept on the server. */
export function newSession(lock: Lock, now = Date.now()): string {
  const text = `${now + SESSION_MS}.${randomBytes(9).toString('base64url')}`;
  return `${text}.${signed(lock, text)}`;
}

export function isSession(lock: Lock, session: string | undefined, now = Date.now()): boolean {
  const [until, salt, signature, ...rest] = (session ?? '').split('.');
  if (!signature || rest.length || !/^\d{13,15}$/.test(until) || Number(until) < now) return false;
  const right = Buffer.from(signed(lock, `${until}.${salt}`));
  const given = Buffer.from(signature);
  return given.length === right.length && timingSafeEqual(given, right);
}
