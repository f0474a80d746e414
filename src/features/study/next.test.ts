import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { emptyInputs } from '@/core/model/study';
import { nextStation, takesInputs } from './Next';
import { useStudy } from './store';
import { openStudy } from './testServer';

vi.mock('sonner', () => ({ toast: Object.assign(vi.fn(), { error: vi.fn() }) }));
vi.mock('../ui/controls', () => ({ Button: () => null, SectionTitle: () => null }));

beforeEach(() => void openStudy(emptyInputs()));
afterEach(() => vi.unstubAllGlobals());
const from = (station: Parameters<typeof nextStation>[1]) => nextStation(useStudy.getState(), station);

describe('the way on from a station', () => {
  it('leads back to what is missing before it, and forward from there', () => {
    // Nothing is there yet: no part, and so no gate.
    expect(from('part')).toEqual({ to: 'resin', missing: false });
    expect(from('resin')).toEqual({ to: 'part', missing: true });
    expect(from('cycle')).toEqual({ to: 'part', missing: true });
  });

  it('is there at every station that takes inputs', () => {
    expect((['part', 'cycle', 'answers', 'compare'] as const).map(takesInputs)).toEqual([true, true, false, false]);
  });
});
