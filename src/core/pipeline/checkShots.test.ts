import { describe, expect, it } from 'vitest';
import { box } from '../../../verification/shapes';
import { mapVertices, type TriangleMesh } from '../geometry/mesh';
import { DEFAULT_INSERT } from '../model/insert';
import { freshShot } from '../model/shots';
import { cavityBody, emptyInputs, type Inputs } from '../model/study';
import { plainContext } from '../stage/context';
import { contactTemperature } from './checkShots';
import { runPipeline } from './pipeline';

const plate = (z: number, height = 0.002): TriangleMesh =>
  mapVertices(box(0.04, 0.02, height), ([x, y, h]) => [x, y, h + z + height / 2]);
const lower = plate(-0.002);
const gate = (z: number) => ({ id: 'G1', position: [0.02, 0, z] as [number, number, number], diameter: 0.0015 });
const second = { ...cavityBody('upper', 'Grip'), id: 'B2', shot: 2 };
const insert = { ...cavityBody('insert', 'Blade'), id: 'B3', role: 'insert' as const };
const two: Partial<Inputs> = {
  bodies: [cavityBody('lower', 'Core'), second],
  later: [{ ...freshShot(), gates: [gate(0.002)] }],
};
/** With the gate of the second shot at another height. */
const over = (z: number): Partial<Inputs> => ({ ...two, later: [{ ...freshShot(), gates: [gate(z)] }] });

async function problems(change: Partial<Inputs>, bodies: Record<string, TriangleMesh>) {
  const inputs: Inputs = { ...emptyInputs('lower'), detail: 'quick', gates: [gate(-0.002)], ...change };
  const outcome = await runPipeline(lower, 'lower', inputs, plainContext(), {
    bodies: new Map(Object.entries(bodies)),
  });
  return outcome.status === 'refused' ? outcome.problems : [];
}
const messages = async (...given: Parameters<typeof problems>) => (await problems(...given)).map((p) => p.message);

describe('shots and inserts that can not be run say why, and what to do', () => {
  it.each<[string, Partial<Inputs>, Record<string, TriangleMesh>, RegExp]>([
    [
      'a second shot that nothing feeds',
      { ...two, later: [freshShot()] },
      { B2: plate(0) },
      /^Shot 2: There is no gate/,
    ],
    ['a shot without a body', { later: [{ ...freshShot(), gates: [gate(0)] }] }, {}, /^Shot 2 has no body to fill/],
    [
      'shots that share space',
      over(0.0015),
      { B2: plate(-0.0005) },
      /Shot 1 and shot 2 share space: at least 0\.\d+ cm³/,
    ],
    [
      'a gap between them',
      two,
      { B2: plate(0.0003) },
      /Between shot 2 and the shots before it there is a gap of 0\.30 mm/,
    ],
    [
      'a second shot somewhere else',
      two,
      { B2: plate(0.02) },
      /Gate G1 is .* off the part|touches nothing of the shots/,
    ],
    [
      'an insert outside',
      { bodies: [cavityBody('lower'), insert] },
      { B3: plate(0.03) },
      /Insert “Blade” touches nothing of the plastic/,
    ],
    [
      'three bodies in one place',
      { ...over(0.001), bodies: [...two.bodies!, insert] },
      { B2: plate(-0.001), B3: plate(-0.001) },
      /share space/,
    ],
    [
      'an insert that its melt would melt',
      {
        bodies: [cavityBody('lower'), insert],
        resin: 'pa66-lowan-s40',
        inserts: [{ ...DEFAULT_INSERT, id: 'B3', material: 'peld-sedge-l4', temperature: 353 }],
      },
      { B3: plate(0) },
      /Insert “Blade” of Sedge L4 would melt: the melt brings its face to/,
    ],
    [
      'an insert of nothing that is known',
      { bodies: [cavityBody('lower'), insert], inserts: [{ ...DEFAULT_INSERT, id: 'B3', material: 'moonstone' }] },
      { B3: plate(0) },
      /The material “moonstone” of insert “Blade” is not in the library/,
    ],
    [
      'an insert whose surface is gone',
      { bodies: [cavityBody('lower'), insert] },
      {},
      /surface of insert “Blade” is not there/,
    ],
    [
      'settings of an insert that is none of the bodies',
      { inserts: [{ ...DEFAULT_INSERT, id: 'B9' }] },
      {},
      /“B9” is none of the bodies/,
    ],
  ])('%s', async (_, change, bodies, said) => {
    const found = await problems(change, bodies);
    expect(found.map((p) => p.message).join('\n')).toMatch(said);
    for (const { remedy } of found) expect(remedy).toMatch(/^[A-Z].*\.$/);
  });

  it('problems of a later shot say which, those of the only one do not', async () => {
    const [problem] = await problems({ ...two, later: [freshShot()] }, { B2: plate(0) });
    expect([problem.shot, problem.station]).toEqual([2, 'feed']);
    expect(await messages({ gates: [] }, {})).toContain('There is no gate.');
  });

  it('copies that are filled one by one can not have inserts', async () => {
    const places = { by: 'row' as const, columns: 2, rows: 1, pitch: [0.08, 0.05] as [number, number], facing: false };
    const cavities: Inputs['cavities'] = { middle: [0.02, 0], places, solveOnce: false };
    const found = await messages({ bodies: [cavityBody('lower'), insert], cavities }, { B3: plate(0) });
    expect(found.join('\n')).toMatch(/Copies that are filled one by one can not have inserts/);
  });
});

it('two half spaces meet at the temperature that their effusivities weigh', () => {
  const melt = { conductivity: 0.2, density: 1000, specificHeat: 2000 };
  expect(contactTemperature(melt, 500, melt, 300)).toBeCloseTo(400, 9);
  const steel = { conductivity: 45, density: 7800, specificHeat: 470 };
  expect(contactTemperature(melt, 500, steel, 300)).toBeLessThan(315);
});
