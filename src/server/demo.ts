import { readFileSync } from 'node:fs';
import path from 'node:path';
import { readFile } from '../cad/readFile';
import { trayCooling } from '../core/cooling/sample';
import { defaultCharge, defaultCompression } from '../core/model/compression';
import { defaultCore } from '../core/model/core';
import { freshBodyId, type Body, type Role } from '../core/model/body';
import { defaultFeed } from '../core/model/feed';
import { freshShot } from '../core/model/shots';
import { emptyInputs, type Inputs } from '../core/model/study';
import { scaled } from '../core/pipeline/importPart';
import { desc, eq } from 'drizzle-orm';
import type { Database } from '../store/db/client';
import { projects, variants } from '../store/db/schema';
import { loadMesh, saveGeometry } from './geometry';
import { homeDir } from '../store/paths';
import { branchVariant, createProject } from './studies';

/**
 * Puts the demo projects into an empty database; one that holds any project is left as it is. Returns the variants that
 * have come in, the one that is looked at first in front. `bare`: without the variant that shows a mistake.
 */
export async function seedDemo(db: Database, bare = false): Promise<string[]> {
  const existing = await db.select({ id: projects.id }).from(projects).limit(1);
  if (existing.length) return [];
  const monitor = await inputsOf(db, 'hive-monitor.3mf', (name) => (name === 'Housing' ? 'cavity' : 'left-out'));
  await createProject(db, 'Hive monitor', { ...monitor, resin: 'abs-corran-220' });
  const pair = await inputsOf(db, 'frame-spacers.3mf', () => 'cavity');
  await createProject(db, 'Frame spacer pair', family(pair));
  const slider = await inputsOf(db, 'entrance-slider.stl', () => 'cavity');
  await createProject(db, 'Entrance slider', inSequence(slider));
  const lid = await inputsOf(db, 'queen-cage-lid.stl', () => 'cavity');
  await createProject(db, 'Queen cage lid', fromBothEnds(lid));
  const tool = await inputsOf(db, 'hive-tool-handle.3mf', (name) => (name === 'Blade' ? 'insert' : 'cavity'));
  await createProject(db, 'Hive tool handle', overBlade(tool));
  const grip = await inputsOf(db, 'smoker-grip.stl', () => 'cavity');
  await createProject(db, 'Smoker grip', hollow(grip));
  const tray = await inputsOf(db, 'feeder-tray.stl', () => 'cavity');
  await createProject(db, 'Tray mould', inMould(tray));
  await createProject(db, 'Pressed tray', pressed(tray));
  const bodies = tray.bodies.map((b) => ({ ...b, name: 'Feeder tray' }));
  const own: Inputs = {
    ...tray,
    bodies,
    gates: [{ id: 'G1', position: [0.004, 0.003, 0], diameter: 0.0025 }],
    detail: 'quick',
  };
  const { id } = await createProject(db, 'Feeder tray', own);
  const [first] = await db.select().from(variants).where(eq(variants.projectId, id));
  if (!bare) {
    await db.update(variants).set({ starred: true }).where(eq(variants.id, first.id));
    await branchVariant(db, first.id, 'Packing let go early', letGo(own));
  }
  const all = await db.select({ id: variants.id }).from(variants).orderBy(desc(variants.createdAt));
  return [first.id, ...all.map((v) => v.id).filter((v) => v !== first.id)];
}

/** The mistake: the pressure is gone before the gate has frozen, and melt runs back. */
const letGo = (tray: Inputs): Inputs => ({
  ...tray,
  cycle: { ...tray.cycle, packing: { by: 'constant', pressure: 12e6, time: 1 } },
});

/** Fibres and a weld line in the middle: melt comes from both ends. */
function fromBothEnds(lid: Inputs): Inputs {
  const gates = [-0.034, 0.034].map((x, k) => ({
    id: `G${k + 1}`,
    position: [x, 0, 0] as [number, number, number],
    diameter: 0.0015,
  }));
  return {
    ...lid,
    bodies: lid.bodies.map((b) => ({ ...b, name: 'Queen cage lid' })),
    resin: 'pa6-lowan-n30-g30',
    gates,
    names: { 'gate G1': 'Plain end', 'gate G2': 'Tongue end' },
    detail: 'quick',
  };
}

/** The tray in a mould with a circuit above and one below, and baffles down into its core. */
function inMould(tray: Inputs): Inputs {
  const [body] = tray.bodies;
  return {
    ...tray,
    bodies: [{ ...body, name: 'Feeder tray' }],
    gates: [{ id: 'G1', position: [0.004, 0.003, 0], diameter: 0.0025 }],
    cooling: trayCooling(loadMesh(body.mesh)),
    detail: 'quick',
  };
}

/** A core of polyamide on a steel blade, and a soft grip over the core as a second shot. */
function overBlade(tool: Inputs): Inputs {
  const gate = (position: [number, number, number]) => ({ id: 'G1', position, diameter: 0.002 });
  return {
    ...tool,
    bodies: tool.bodies.map((b) => (b.name === 'Grip' ? { ...b, shot: 2 } : b)),
    gates: [gate([0.094, 0, 0.008])],
    resin: 'pa6-lowan-n30',
    later: [{ ...freshShot(), gates: [gate([0.048, 0, 0.0165])] }],
    detail: 'quick',
  };
}

/** A thick handle that nitrogen pushes hollow from the end that the melt comes in at. */
function hollow(grip: Inputs): Inputs {
  return {
    ...grip,
    bodies: grip.bodies.map((b) => ({ ...b, name: 'Smoker grip' })),
    gates: [{ id: 'G1', position: [0, 0, 0.003], diameter: 0.003 }],
    cycle: { ...grip.cycle, injection: { by: 'time', time: 5 } },
    core: {
      ...defaultCore(),
      needles: [{ id: 'N1', position: [0, 0, -0.004] }],
      melt: { by: 'share', share: 0.75 },
      delay: 1,
      drive: { by: 'pressure', pressure: 4e6, rise: 4, hold: 120, release: 2 },
    },
  };
}

/** The tray pressed from a flat charge that lies beside the middle of its floor. */
function pressed(tray: Inputs): Inputs {
  return {
    ...tray,
    bodies: tray.bodies.map((b) => ({ ...b, name: 'Feeder tray' })),
    compression: {
      ...defaultCompression(),
      melt: {
        ...defaultCharge(),
        outline: { as: 'rectangle', width: 0.11, length: 0.08, turned: 0 },
        pieces: [{ id: 'C1', position: [0.012, 0, 0] }],
      },
      speed: 0.02,
    },
    detail: 'quick',
  };
}

/** Two different parts in one tool, with equal runners to both: they do not fill together. */
function family(pair: Inputs): Inputs {
  const gates = [-0.026, 0.026].map((x, k) => ({
    id: `G${k + 1}`,
    position: [x, 0, 0] as [number, number, number],
    diameter: 0.0012,
  }));
  const feed = { ...defaultFeed(0.002, -0.012, false), runner: { shape: 'round' as const, diameter: 0.004 } };
  return { ...pair, resin: 'pom-anstey-c9', gates, feed };
}

/** m */
const SLIDER_WALL = 0.0024;

/** Three hot drops along the strip; the outer pins open when the melt from the middle has come to them. */
function inSequence(slider: Inputs): Inputs {
  const gates = [-0.125, 0, 0.125].map((x, k) => ({
    id: `G${k + 1}`,
    position: [x, 0, 0] as [number, number, number],
    diameter: 0.002,
    pin: {
      open: k === 1 ? ({ by: 'start' } as const) : ({ by: 'front', position: null } as const),
      close: null,
      over: 0.05,
    },
  }));
  return {
    ...slider,
    bodies: slider.bodies.map((b) => ({ ...b, name: 'Entrance slider' })),
    resin: 'abs-corran-220',
    gates,
    feed: { ...defaultFeed(SLIDER_WALL, -0.03, false), hot: { temperature: null } },
  };
}

async function inputsOf(db: Database, sample: string, roleOf: (name: string) => Role): Promise<Inputs> {
  const file = await readFile(sample, readFileSync(path.join(homeDir(), 'samples', sample)));
  const bodies: Body[] = [];
  for (const { name, colour, mesh } of file.bodies) {
    // Samples are drawn in millimetres.
    const { hash } = await saveGeometry(db, scaled(mesh, file.metresPerUnit ?? 1e-3));
    bodies.push({
      id: freshBodyId(bodies),
      name,
      colour,
      role: roleOf(name),
      mesh: hash,
      original: null,
      standIn: null,
    });
  }
  return { ...emptyInputs(), bodies };
}
