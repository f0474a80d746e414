import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { HALF_WRITTEN, storageProblem, temporaryName, writeFileAtomic } from './files';

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
