import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, utimesSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import {
  HALF_WRITTEN,
  isFull,
  keepFile,
  storageProblem,
  temporaryName,
  writeFileAtomic,
  writeGivingWay,
} from './files';

const folder = mkdtempSync(path.join(tmpdir(), 'bellows-files-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe('a file is there whole or not at all', () => {
  it('is written with its folder, and over what was there', () => {
    const file = path.join(folder, 'deep', 'file.bin');
    for (const text of ['one', 'two']) {
      writeFileAtomic(file, text);
      expect(readFileSync(file, 'utf8')).toBe(text);
    }
    expect(readdirSync(path.dirname(file))).toEqual(['file.bin']);
  });

  it('leaves nothing where it can not be', () => {
    const taken = path.join(folder, 'taken');
    mkdirSync(path.join(taken, 'inside'), { recursive: true });
    // A folder that is not empty can not be replaced by a file.
    expect(() => writeFileAtomic(taken, 'x')).toThrow();
    expect(readdirSync(folder).filter((name) => HALF_WRITTEN.test(name))).toEqual([]);
  });

  it('has no name that another has', () => {
    const names = Array.from({ length: 100 }, () => temporaryName('result.f32'));
    expect(new Set(names).size).toBe(100);
    expect(names.every((name) => HALF_WRITTEN.test(name))).toBe(true);
    expect(HALF_WRITTEN.test('result.f32')).toBe(false);
  });
});

describe('content under a name of its own', () => {
  it('is written once, and marked as in use each time', () => {
    const target = path.join(folder, 'named');
    keepFile(target, new TextEncoder().encode('one'));
    utimesSync(target, new Date(1e12), new Date(1e12));
    keepFile(target, new TextEncoder().encode('two'));
    expect(readFileSync(target, 'utf8')).toBe('one');
    expect(statSync(target).mtimeMs).toBeGreaterThan(1.6e12);
  });

  it('goes in place of what can be made again where there is no room', () => {
    const again = path.join(folder, 'again');
    mkdirSync(again);
    // Its name is taken by a folder: that is another trouble, and gives nothing away.
    mkdirSync(path.join(folder, 'folder', 'inside'), { recursive: true });
    expect(() => writeGivingWay(path.join(folder, 'folder'), 'x', again)).toThrow();
    expect(existsSync(again)).toBe(true);
    writeGivingWay(path.join(folder, 'result'), 'whole', again);
    expect([readFileSync(path.join(folder, 'result'), 'utf8'), existsSync(again)]).toEqual(['whole', true]);
    expect(isFull(new Error('x', { cause: Object.assign(new Error('y'), { code: 'ENOSPC' }) }))).toBe(true);
    expect(isFull(Object.assign(new Error('z'), { code: 'EACCES' }))).toBe(false);
  });
});

describe('a disk that takes nothing', () => {
  const failed = (code: string, depth = 0): Error => {
    const error = Object.assign(new Error('write'), { code });
    return depth ? new Error('Failed query', { cause: failed(code, depth - 1) }) : error;
  };

  it.each([
    ['ENOSPC', /no room left.*\/data/],
    ['SQLITE_FULL', /no room left/],
    ['EROFS', /may not write/],
    ['SQLITE_READONLY_DBMOVED', /may not write/],
    ['EIO', /disk .* does not work/],
    ['SQLITE_IOERR_WRITE', /disk .* does not work/],
  ])('is told with its folder: %s', (code, message) => {
    for (const depth of [0, 1, 3]) expect(storageProblem(failed(code, depth), '/data')?.message).toMatch(message);
    expect(storageProblem(failed(code), '/data')?.remedy.length).toBeGreaterThan(10);
  });

  it('is nothing else', () => {
    expect(storageProblem(failed('ENOENT'), '/data')).toBeNull();
    expect(storageProblem('ENOSPC', '/data')).toBeNull();
    expect(storageProblem(undefined, '/data')).toBeNull();
  });
});
