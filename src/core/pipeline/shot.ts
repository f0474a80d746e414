import { nCopies } from '../model/study';
import { feedFacts } from '../results/feedFacts';
import type { Shot } from '../results/shotFound';
import { feedFields } from '../results/feedFields';
import type { FillInput } from '../solvers/fill/outcome';
import { fill } from '../solvers/fill/stage';
import type { PackInput } from '../solvers/pack/outcome';
import { pack } from '../solvers/pack/stage';
import type { ShotHistory } from '../solvers/shot/history';
import type { PhaseContext, PhaseFailure } from '../solvers/shot/phase';
import { emptyState } from '../solvers/shot/state';
import { transfer, type TransferInput } from '../solvers/shot/transfer';
import { coreOnPart, fibresOnPart, fillOnPart, packOnPart, passedOnPart, warmthOnPart } from './onPart';
import type { PhaseStore } from '../formats/phaseStore';
import { phaseStep, runProcess, type ShotPlan, type Stand } from './process';
import {
  closingOf,
  coreOfShot,
  fillInputOf,
  packInputOf,
  placeFeed,
  secondInputOf,
  transferInputOf,
  type PlacedFeed,
  type ShotInput,
} from './shotInput';
import type { StageContext } from '../stage/context';
import { gatesOfMelt, withTabsShut } from '../setup/sites';
import { SOLVER_VERSION } from '../setup/version';

async function fillUp({ state, found }: Stand, input: FillInput, ctx: PhaseContext): Promise<Stand | PhaseFailure> {
  const outcome = await fill(state, { ...input, before: found.fill?.result }, ctx);
  if (outcome.status === 'failed') return outcome;
  const { state: next, ...filled } = outcome;
  return { state: next, found: { ...found, fill: filled } };
}

/**
 * The phases of a shot of one resin: filling to switchover, the rest of it under packing pressure, then packing and
 * cooling to the opening of the mould.
 */
export function shotPlan(shot: ShotInput, { joined, network }: PlacedFeed): ShotPlan {
  const filling = fillInputOf(shot, { joined, network });
  const following = secondInputOf(shot, filling);
  return {
    phases: [
      phaseStep<FillInput>({
        name: 'fill',
        stage: 'fill',
        // Nothing of packing is read before it begins. Melt that is laid in is not injected.
        input: () =>
          filling.press?.charge
            ? null
            : {
                ...filling,
                gating: gatesOfMelt(shot.inputs, withTabsShut(shot.inputs, filling.gating), 'first'),
                control: { ...filling.control, packing: null },
              },
        run: fillUp,
      }),
      phaseStep<FillInput>({
        name: 'second',
        stage: 'fill',
        input: ({ found }) =>
          found.fill?.status === 'switched' && following
            ? { ...following, injectsOn: true, control: { ...following.control, packing: null } }
            : null,
        run: fillUp,
      }),
      phaseStep<FillInput>({
        name: 'fill-up',
        stage: 'fill',
        input: ({ found }) =>
          found.fill?.status === 'switched' && !shot.settings.core && !shot.settings.press
            ? (following ?? filling)
            : null,
        run: fillUp,
      }),
      phaseStep<FillInput>({
        name: 'core',
        stage: 'fill',
        input: (stand) => {
          const core = stand.found.fill?.status === 'switched' ? coreOfShot(shot, joined, stand) : null;
          return core && { ...filling, core };
        },
        run: fillUp,
      }),
      phaseStep<FillInput>({
        name: 'close',
        stage: 'fill',
        input: ({ found, state }) => {
          const ended = filling.press?.charge ? 0 : found.fill?.status === 'switched' ? state.time : null;
          const press = ended === null ? null : closingOf(shot, filling, ended);
          return press && { ...filling, press };
        },
        run: fillUp,
      }),
      phaseStep<PackInput>({
        name: 'pack',
        stage: 'pack',
        input: (stand) => packInputOf(shot, following ?? filling, joined, stand),
        async run({ state, found }, input, ctx) {
          const outcome = await pack(state, { ...input, before: found.fill?.result }, ctx);
          if (outcome.status === 'failed') return outcome;
          const { state: next, ...packed } = outcome;
          return { state: next, found: { ...found, pack: packed } };
        },
      }),
      phaseStep<TransferInput>({
        name: 'transfer',
        stage: 'pack',
        input: ({ found }) => transferInputOf(shot, filling, joined, found.pack?.atOpening ?? null),
        async run({ state, found }, input, ctx) {
          return { state, found: { ...found, transfer: await transfer(input, ctx) } };
        },
      }),
    ],
  };
}

/** Runs the phases of a shot, and says what came of them on the part's own nodes. */
export async function shoot(shot: ShotInput, ctx: StageContext, store?: PhaseStore): Promise<Shot | PhaseFailure> {
  const { gridResult, inputs } = shot;
  const placed = placeFeed(shot);
  const { joined, network } = placed;
  const start = { state: emptyState(joined.grid, joined.gating), found: {} };
  const done = await runProcess([shotPlan(shot, placed)], start, ctx, { version: SOLVER_VERSION, store });
  if (done.status === 'failed') return done;
  const { found } = done.stand;
  if (!found.fill || found.fill.status === 'switched') throw new Error('a shot without a filling');
  const { frames } = found.pack?.result ?? found.fill.result;
  const filled = fillOnPart(found.fill.result, gridResult.grid, joined);
  const packed = found.pack ? packOnPart(found.pack.result, joined) : null;
  const { walls } = done.stand.state;
  const whole: Shot = {
    ...found.fill,
    result: filled,
    pack: packed,
    frames: (packed ?? filled).frames,
    reused: done.reused,
    behind: found.pack?.atOpening?.behind ?? walls.behind,
    passed: passedOnPart(done.stand, joined),
    fibres: fibresOnPart(done.stand, shot, joined),
    core: coreOnPart(done.stand, coreOfShot(shot, joined, done.stand), joined),
    left: found.transfer ? warmthOnPart(found.transfer, joined) : null,
  };
  const copies = nCopies(inputs);
  if (!network) return ofAll(whole, copies);
  return {
    ...ofAll(whole, copies),
    feed: feedFacts(found.fill.result, joined, network, inputs.gates, copies),
    inFeed: feedFields({ ...found.fill.result, frames }, joined, gridResult.gridKey),
  };
}

/** What the machine sees of `n` cavities of which one was solved. Flows of single gates stay theirs. */
function ofAll(shot: Shot, n: number): Shot {
  if (n === 1) return shot;
  const all = (history: ShotHistory) => ({
    ...history,
    flowRate: history.flowRate.map((q) => n * q),
    clampForce: history.clampForce.map((f) => n * f),
  });
  const { result, pack } = shot;
  return {
    ...shot,
    result: { ...result, history: all(result.history) },
    pack: pack && { ...pack, history: all(pack.history) },
  };
}
