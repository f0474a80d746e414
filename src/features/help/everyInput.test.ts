import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { describe, expect, it } from 'vitest';

const features = fileURLToPath(new URL('..', import.meta.url));

/** The opening tags of an element in a source. */
function tagsOf(source: string, element: string): string[] {
  const tags: string[] = [];
  for (let at = source.indexOf(`<${element}`); at >= 0; at = source.indexOf(`<${element}`, at + 1)) {
    let depth = 0;
    let end = at;
    for (; end < source.length; end++) {
      if (source[end] === '{') depth++;
      if (source[end] === '}') depth--;
      if (source[end] === '>' && depth === 0 && source[end - 1] !== '=') break;
    }
    tags.push(source.slice(at, end + 1));
  }
  return tags;
}

describe('every number that is asked for', () => {
  const files = readdirSync(features, { recursive: true, encoding: 'utf8' })
    .filter((f) => f.endsWith('.tsx'))
    .map((f) => f.split(path.sep).join('/'));

  it('is explained in the help', () => {
    const bare: string[] = [];
    let n = 0;
    for (const file of files) {
      const source = readFileSync(path.join(features, file), 'utf8');
      // What has a table has its help from there: types ask for it.
      n += tagsOf(source, 'QuantityField').length;
      for (const tag of tagsOf(source, 'NumberField')) {
        n++;
        if (!/\bhelp=/.test(tag)) bare.push(`${file}: ${/label=(\S+)/.exec(tag)?.[1]}`);
      }
    }
    expect(bare).toEqual([]);
    expect(n).toBeGreaterThan(80);
  });
});
