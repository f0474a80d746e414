import { describe, expect, it } from 'vitest';
import { box } from '../../../../verification/shapes';
import { closestPoint } from '../../geometry/closestPoint';
import { mapVertices, type Vec3 } from '../../geometry/mesh';
import { buildFineGrid } from '../../grid/grid';
import { latticeFor } from '../../grid/lattice';
import { buildPressureGrid } from '../../grid/pressureGrid';
import { resinById } from '../../material/library';
import { meltThermal } from '../../material/properties';
import { emptyInputs, type Inputs } from '../../model/study';
import { resolveSettings } from '../../setup/settings';
import { plainContext } from '../../stage/context';
import { constantFlow, flowRateAt, MachineDrive, type MachineControl } from '../melt/drive';
import { placeGating } from '../melt/gating';
import type { FillInput, FillResult } from './outcome';
import { PROFILE_PLACES } from '../melt/profilePlaces';
import { runFill } from './stage';

const mesh = box(0.06, 0.03, 0.002);
const fine = buildFineGrid(mesh, latticeFor(mesh, 'quick'));
const grid = buildPressureGrid(fine);
const library = resinById('pp-hollin-h14')!;
const resin = { ...library, ...meltThermal(library) };
const gating = placeGating(fine, grid, [{ id: 'G1', surface: closestPoint(mesh, [0.005, 0, 0.001]), diameter: 0.003 }]);
const FLOW = 5e-6;

async function fill(control: Partial<MachineControl>, patch: Partial<FillInput> = {}): Promise<FillResult> {
  const outcome = await runFill(
    {
      grid,
      gating,
      nGates: 1,
      viscosity: resin.viscosity,
      meltTemperature: 503.15,
      control: { ...constantFlow(FLOW), ...control },
      heat: {
        ...resin,
        sides: [{ temperature: 313.15, transfer: 3500 }],
        sideOf: new Uint8Array(2 * grid.n),
      },
      air: null,
      projectedArea: null,
      timeLimit: 10,
      nSteps: 40,
      ...patch,
    },
    plainContext(),
  );
  if (outcome.status === 'failed') throw new Error(outcome.message);
  return outcome.result;
}

describe('the machine', () => {
  it('holds the flow up to the limit, then the limit', async () => {
    const free = await fill({});
    const peak = Math.max(...free.history.pressure);
    const held = await fill({ pressureLimit: 0.6 * peak });
    expect(Math.max(...held.history.pressure)).toBeLessThanOrEqual(0.6 * peak * 1.0001);
    const { flowRate, phase, time } = held.history;
    const limited = phase.indexOf('limited');
    expect(limited).toBeGreaterThan(5);
    for (let i = 2; i < limited; i++) expect(Math.abs(flowRate[i] / FLOW - 1)).toBeLessThan(2e-3);
    expect(flowRate[limited + 10]).toBeLessThan(0.95 * FLOW);
    expect(held.limitReachedAt).toBeLessThanOrEqual(time[limited]);
  });

  it.each([
    [{ by: 'share', share: 0.7 } as const, (r: FillResult) => [r.switchedAt?.share, 0.7]],
    [{ by: 'time', time: 0.4 } as const, (r: FillResult) => [r.switchedAt?.time, 0.4]],
    [{ by: 'automatic' } as const, (r: FillResult) => [r.switchedAt?.share, 0.99]],
  ])('switches over by %j', async (switchover, what) => {
    const result = await fill({ switchover, packing: { as: 'pressure', value: 2e6 } });
    const [found, wanted] = what(result);
    expect(found).toBeCloseTo(wanted as number, 6);
    // From there on the packing pressure stands at the inlet.
    const { phase, pressure } = result.history;
    phase.forEach((p, i) => p === 'packing' && i > 0 && phase[i - 1] === p && expect(pressure[i]).toBeCloseTo(2e6, 0));
  });

  it('switches over by pressure, as soon as it is there', async () => {
    const result = await fill({
      switchover: { by: 'pressure', pressure: 3e6 },
      packing: { as: 'pressure', value: 3e6 },
    });
    expect(result.switchedAt?.pressure).toBeGreaterThan(3e6);
    expect(result.switchedAt?.pressure).toBeLessThan(3.6e6);
  });

  it('near the end takes the pressure there is before more is asked for, and all of it once the flow has stopped', () => {
    const control: MachineControl = {
      ...constantFlow(FLOW),
      switchover: { by: 'share', share: 0.97 },
      packing: { as: 'pressure', value: 4e7 },
    };
    const drive = new MachineDrive(control, 1e-5);
    expect(drive.follow(0.97e-5, 1, 1e7, FLOW, new Uint8Array(0))).toBe(true);
    expect(drive.packingPressure).toBe(4e7);
    expect(drive.wanted(0.98e-5)).toEqual({ pressure: 1e7 });
    expect(drive.corrected(0.98e-5, 1e7, 0.5 * FLOW)).toBeNull();
    expect(drive.corrected(0.99e-5, 1e7, 0.02 * FLOW)).toEqual({ pressure: 4e7 });
    expect(drive.corrected(0.99e-5, 4e7, 0.04 * FLOW)).toBeNull();
    // Switched over early, the whole pressure does the rest.
    const early = new MachineDrive({ ...control, switchover: { by: 'share', share: 0.6 } }, 1e-5);
    early.follow(0.6e-5, 1, 1e7, FLOW, new Uint8Array(0));
    expect(early.wanted(0.7e-5)).toEqual({ pressure: 4e7 });
  });

  it('too little packing pressure leaves a short shot with the empty volume', async () => {
    const result = await fill({ switchover: { by: 'share', share: 0.6 }, packing: { as: 'pressure', value: 1e5 } });
    expect(result.injectedVolume).toBeLessThan(0.95 * result.cavityVolume);
    expect(result.massError).toBeLessThan(1e-12);
  });

  it('follows a profile against share and against stroke alike', () => {
    const size = { volume: 4e-5, wall: 0.002 };
    const inputs = (injection: Inputs['cycle']['injection']): Inputs => ({
      ...emptyInputs('x'),
      cycle: { ...emptyInputs().cycle, injection, machine: 'hask-60' },
    });
    const rates = [2e-5, 6e-5];
    const byShare = resolveSettings(
      inputs({
        by: 'profile',
        against: 'share',
        points: rates.map((flowRate, i) => ({ at: 0.5 * i, flowRate })),
      }),
      size,
    );
    const stroke = (0.5 * size.volume) / ((Math.PI / 4) * 0.028 ** 2);
    const byStroke = resolveSettings(
      inputs({
        by: 'profile',
        against: 'stroke',
        points: rates.map((flowRate, i) => ({ at: stroke * i, flowRate })),
      }),
      size,
    );
    for (const settings of [byShare, byStroke]) {
      expect(flowRateAt(settings.control, 0.4 * size.volume)).toBe(rates[0]);
      expect(flowRateAt(settings.control, 0.6 * size.volume)).toBe(rates[1]);
      expect(settings.injectionTime).toBeCloseTo(2e-5 / rates[0] + 2e-5 / rates[1], 6);
    }
  });
});

describe('heat while filling', () => {
  it('heat put in is lost to the walls or still there, within 1 %', async () => {
    const { heatBalance } = await fill({});
    expect(heatBalance?.error).toBeLessThan(0.01);
    expect(heatBalance?.lost).toBeGreaterThan(0);
    expect(heatBalance?.sheared).toBeGreaterThan(0);
  });

  it('a slow shot freezes on the way, a fast one does not', async () => {
    const frozen = (r: FillResult) => Math.max(...r.frames.node.frozen.at(-1)!.filter((x) => x === x));
    const [slow, fast] = [await fill(constantFlow(5e-7)), await fill(constantFlow(2e-5))];
    expect(frozen(slow)).toBeGreaterThan(2 * frozen(fast));
    expect(Math.max(...slow.history.pressure.slice(0, -5))).toBeGreaterThan(0);
  });

  it('unequal walls: the warmer side has the thinner skin, and mirroring them changes nothing', async () => {
    const heat = (first: number, second: number): FillInput['heat'] => ({
      ...resin,
      sides: [
        { temperature: first, transfer: 3500 },
        { temperature: second, transfer: 3500 },
      ],
      sideOf: Uint8Array.from({ length: 2 * grid.n }, (_, i) => i % 2),
    });
    const [one, other] = [await fill({}, { heat: heat(300, 350) }), await fill({}, { heat: heat(350, 300) })];
    const at = (r: FillResult, share: number) => r.history.pressure[r.history.shareFilled.findIndex((s) => s > share)];
    expect(Math.abs(at(one, 0.8) / at(other, 0.8) - 1)).toBeLessThan(1e-6);
    const node = grid.nodeOfCell[Math.floor(fine.cells.n / 2)];
    const places = PROFILE_PLACES.length;
    const nearWall = PROFILE_PLACES.findLastIndex((z) => z <= 0.95);
    const surface = (r: FillResult, half: number) =>
      r.frames.node.profile.at(-1)![2 * places * node + (half ? places + nearWall : places - 1 - nearWall)];
    expect(surface(one, 1)).toBeGreaterThan(surface(one, 0) + 10);
    expect(surface(one, 1)).toBeCloseTo(surface(other, 0), 4);
  });

  it('half the time step moves pressure and temperature by little', async () => {
    const [coarse, finer] = [await fill({}, { nSteps: 40 }), await fill({}, { nSteps: 80 })];
    const at = (r: FillResult) => r.history.pressure[r.history.shareFilled.findIndex((s) => s > 0.9)];
    expect(Math.abs(at(coarse) / at(finer) - 1)).toBeLessThan(0.03);
    const mean = (r: FillResult) => {
      const T = r.frames.node.temperature.at(-1)!;
      let sum = 0;
      let volume = 0;
      T.forEach((x, i) => {
        if (x !== x) return;
        sum += x * grid.volume[i];
        volume += grid.volume[i];
      });
      return sum / volume;
    };
    expect(Math.abs(mean(coarse) - mean(finer))).toBeLessThan(1);
  });

  it('a part turned about the opening direction fills alike', async () => {
    const turn = ([x, y, z]: Vec3): Vec3 => [0.8 * x - 0.6 * y, 0.6 * x + 0.8 * y, z];
    const turned = mapVertices(mesh, turn);
    const fine2 = buildFineGrid(turned, latticeFor(turned, 'normal'));
    const grid2 = buildPressureGrid(fine2);
    const fine1 = buildFineGrid(mesh, latticeFor(mesh, 'normal'));
    const grid1 = buildPressureGrid(fine1);
    const run = async (f: typeof fine, g: typeof grid, m: typeof mesh, at: Vec3) => {
      const gate = [{ id: 'G1', surface: closestPoint(m, at), diameter: 0.003 }];
      return fill(
        {},
        {
          grid: g,
          gating: placeGating(f, g, gate),
          heat: { ...resin, sides: [{ temperature: 313.15, transfer: 3500 }], sideOf: new Uint8Array(2 * g.n) },
        },
      );
    };
    const a = await run(fine1, grid1, mesh, [0.005, 0, 0.001]);
    const b = await run(fine2, grid2, turned, turn([0.005, 0, 0.001]));
    const at = (r: FillResult) => r.history.pressure[r.history.shareFilled.findIndex((s) => s > 0.8)];
    expect(Math.abs(at(a) / at(b) - 1)).toBeLessThan(0.04);
  });
});
