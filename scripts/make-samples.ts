/**
 * Makes the demo parts: `npm run samples`. The shapes are made up; the results are written as STL
 * (millimetres), 3MF and STEP into samples/ and are part of the repository, so starting the demo needs no
 * booleans.
 */
import { writeFileSync } from 'node:fs';
import Module, { type CrossSection, type Manifold, type ManifoldToplevel } from 'manifold-3d';
import { inspect } from '../src/core/geometry/check';
import { weld } from '../src/core/geometry/mesh';
import { joined } from '../src/core/geometry/shells';
import { writeStl } from '../src/core/formats/stl';
import { write3mf } from '../src/core/formats/threemf';
import { SAMPLES, type SampleBody } from './sampleParts';
import { writeStepSamples } from './stepSamples';

const SEGMENTS = 48;

const tray = {
  length: 180,
  width: 120,
  height: 45,
  wall: 2.2,
  cornerRadius: 9,
  draft_deg: 1,
  rib: { thickness: 1.3, height: 7 },
  boss: { outer: 9, hole: 4, height: 9, x: 58, y: 34 },
};

const folder = new URL('../samples/', import.meta.url);

const main = async () => {
  const wasm = await Module();
  wasm.setup();
  write('feeder-tray', [{ name: 'Feeder tray', colour: null, solid: feederTray(wasm) }]);
  for (const [name, make] of Object.entries(SAMPLES)) write(name, make(wasm));
  await writeStepSamples(folder);
};

/** STL of all bodies together; several bodies also as 3MF, which keeps their names and colours. */
function write(name: string, bodies: SampleBody[]): void {
  const meshes = bodies.map((b) => ({ name: b.name, colour: b.colour, mesh: weld(soupOf(b.solid)).mesh }));
  for (const { name: body, mesh } of meshes) {
    const report = inspect(mesh);
    if (!report.watertight || report.insideOut) throw new Error(`${name}: ${body} is not closed`);
  }
  const all = joined(meshes.map((m) => m.mesh));
  writeFileSync(new URL(`${name}.stl`, folder), writeStl(all));
  if (bodies.length > 1) writeFileSync(new URL(`${name}.3mf`, folder), write3mf(meshes));
  const { nTriangles, bounds, volume } = inspect(all);
  const size = [0, 1, 2].map((d) => (1000 * (bounds.max[d] - bounds.min[d])).toFixed(1));
  console.log(
    `${name}: ${bodies.length} bodies, ${nTriangles} triangles, ${size.join(' x ')} mm, ${(volume * 1e6).toFixed(1)} cm3`,
  );
}

/** Open box with floor ribs and drain bosses, opening upwards (+z), floor underside at z = 0. */
function feederTray({ Manifold, CrossSection }: ManifoldToplevel): Manifold {
  const { length, width, height, wall, cornerRadius, rib, boss } = tray;
  const slope = Math.tan((tray.draft_deg * Math.PI) / 180);
  const spread = 2 * height * slope;
  /** Rounded rectangle at the height z, moved in by `inset` on every side. */
  const outline = (z: number, inset: number): CrossSection => {
    const grow = 2 * z * slope - spread - 2 * inset;
    const r = cornerRadius - inset;
    return CrossSection.square([length + grow - 2 * r, width + grow - 2 * r], true).offset(r, 'Round', 2, SEGMENTS);
  };
  const frustum = (z0: number, z1: number, inset: number): Manifold =>
    Manifold.hull([
      outline(z0, inset).extrude(0.001).translate([0, 0, z0]),
      outline(z1, inset)
        .extrude(0.001)
        .translate([0, 0, z1 - 0.001]),
    ]);
  const shell = frustum(0, height, 0).subtract(frustum(wall, height + 1, wall));
  const ribBar = (lx: number, ly: number): Manifold => {
    const base = CrossSection.square([lx, ly], true).extrude(0.001);
    const taper = 2 * rib.height * slope;
    const top = CrossSection.square([lx, ly].map((l) => (l < 5 ? l - taper : l)) as [number, number], true).extrude(
      0.001,
    );
    return Manifold.hull([base.translate([0, 0, wall - 0.4]), top.translate([0, 0, wall + rib.height])]);
  };
  const ribs = [-30, 0, 30]
    .map((x) => ribBar(rib.thickness, width - spread - 2.5 * wall).translate([x, 0, 0]))
    .concat([-1, 1].map((side) => ribBar(length - spread - 2.5 * wall, rib.thickness).translate([0, side * 18, 0])));
  const posts: Manifold[] = [];
  const holes: Manifold[] = [];
  for (const x of [-boss.x, boss.x]) {
    for (const y of [-boss.y, boss.y]) {
      const top = boss.outer / 2 - boss.height * slope;
      posts.push(Manifold.cylinder(boss.height + 0.4, boss.outer / 2, top, SEGMENTS).translate([x, y, wall - 0.4]));
      holes.push(
        Manifold.cylinder(boss.height + wall + 2, boss.hole / 2, boss.hole / 2, SEGMENTS).translate([x, y, -1]),
      );
    }
  }
  return Manifold.union([shell, ...ribs, ...posts]).subtract(Manifold.union(holes));
}

function soupOf(part: Manifold): number[] {
  const mesh = part.getMesh();
  const soup: number[] = [];
  for (const v of mesh.triVerts) {
    for (let d = 0; d < 3; d++) soup.push(Math.fround(mesh.vertProperties[v * mesh.numProp + d]) / 1000);
  }
  return soup;
}

await main();
