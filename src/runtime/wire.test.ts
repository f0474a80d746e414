import { describe, expect, it } from 'vitest';
import { emptyInputs } from '../core/model/study';
import { real } from '../core/numerics/real';
import { ROUTES, runEventSchema } from './wire';

const overTheWire = (what: unknown): unknown => JSON.parse(JSON.stringify(what));

describe('what server and page say to each other', () => {
  it.each([1.5, -0, 0, NaN, 1e300])('a number of a result comes back as it was: %d', (x) =>
    expect(real.parse(overTheWire([x])?.[0 as never])).toEqual(x === 0 ? 0 : x),
  );

  it('what JSON can not hold comes back as no number, and null stays null where it says something', () => {
    expect(real.parse(overTheWire({ x: Infinity })?.['x' as never])).toBeNaN();
    expect(real.nullable().parse(null)).toBeNull();
    expect(real.safeParse('7').success).toBe(false);
    expect(real.safeParse(undefined).success).toBe(false);
  });

  it('a result that an earlier version has written otherwise is not there; its run still is', () => {
    const run = {
      id: 'r',
      variantId: 'v',
      inputs: emptyInputs(),
      inputKey: 'k',
      status: 'filled',
      problems: null,
      summary: { fillTime: 3 },
      answers: [{ question: 'How long?' }],
      createdAt: '2030-01-01T00:00:00.000Z',
      startedAt: null,
      finishedAt: null,
    };
    expect(ROUTES.run.answer.parse(run)).toMatchObject({ id: 'r', summary: null, answers: null });
    expect(ROUTES.run.answer.safeParse({ ...run, status: 'melting' }).success).toBe(false);
  });

  it.each([
    ['a name of blanks', ROUTES.createProject.sent, { name: '   ' }],
    ['more than is asked for', ROUTES.startRun.sent, { variantId: 'v', force: true }],
    ['a placement of eleven numbers', ROUTES.acceptImport.sent, { unit: 'mm', placement: new Array(11).fill(0) }],
    ['a unit of no length', ROUTES.acceptImport.sent, { unit: 'kg', placement: new Array(12).fill(0) }],
    ['a shape asked for as something else', ROUTES.structure.sent, { ask: 'soup' }],
    ['inputs that are none', ROUTES.cycle.sent, { inputs: { detail: 'coarse' } }],
  ])('%s is refused', (_name, sent, what) => expect(sent.safeParse(what).success).toBe(false));

  it.each([
    ['an event of no kind', { id: 1, type: 'melted' }],
    ['a front that is no base64', { id: 1, type: 'filled', nodes: 'AAA?', times: '' }],
    ['a status that is none', { id: 1, type: 'status', status: 'melting' }],
  ])('%s is refused', (_name, event) => expect(runEventSchema.safeParse(event).success).toBe(false));

  it('an event of a run comes through as it is', () => {
    const event = { id: 3, type: 'progress', share: 0.25, message: 'Filling', remaining_s: null };
    expect(runEventSchema.parse(overTheWire(event))).toEqual(event);
  });
});
