import { describe, expect, it } from 'vitest';
import { callRefusal, contentPolicy } from './callers';

const refused = (method: string, headers: Record<string, string>, allowed?: string) =>
  callRefusal(method, new Headers(headers), allowed) !== null;

describe('who may call', () => {
  it.each(['localhost:3000', '127.0.0.1:3000', '[::1]:3000', 'LOCALHOST'])('this machine, as %s', (host) => {
    expect(refused('GET', { host })).toBe(false);
    expect(refused('POST', { host, origin: `http://${host}` })).toBe(false);
  });

  it('names that were set up, and no others', () => {
    expect(refused('GET', { host: 'mould.example' })).toBe(true);
    expect(refused('GET', { host: 'mould.example:443' }, 'other.example, Mould.example')).toBe(false);
    expect(refused('GET', { host: 'mould.example.org' }, 'mould.example')).toBe(true);
    expect(refused('GET', {})).toBe(true);
    for (const host of ['', ':3000']) expect(refused('GET', { host }, 'mould.example,')).toBe(true);
  });

  it('changes by the page itself or by no page at all', () => {
    const host = 'localhost:3000';
    expect(refused('POST', { host })).toBe(false);
    expect(refused('PATCH', { host, origin: 'http://localhost:3001' })).toBe(true);
    expect(refused('DELETE', { host, origin: 'https://elsewhere.example' })).toBe(true);
    expect(refused('POST', { host, origin: 'null' })).toBe(true);
    expect(refused('POST', { host, 'sec-fetch-site': 'same-site' })).toBe(true);
    expect(refused('POST', { host, 'sec-fetch-site': 'same-origin' })).toBe(false);
    // Looking is nobody's change.
    expect(refused('GET', { host, origin: 'https://elsewhere.example' })).toBe(false);
  });

  it('pages run no script but their own', () => {
    expect(contentPolicy('abc', false)).toMatch(/script-src 'self' 'nonce-abc'/);
    expect(contentPolicy('abc', false)).not.toContain("'unsafe-eval'");
    expect(contentPolicy('abc', true)).toContain("'unsafe-eval'");
  });
});
