import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import {
  bimetalCurvature,
  capHeight,
  clampedPlateStress,
  heldBarStress,
  heldPlateStress,
  parabolicStress,
  plateCurvature,
  sagOverChord,
  springIn,
  springInThermal,
  tipDeflection,
} from '../src/core/solvers/warp/equations';
import { WallStrain } from '../src/core/solvers/pack/wallStrain';
import { CENTRES, EDGES, HALF_LAYERS } from '../src/core/solvers/melt/layers';
import { coolingPlate } from './channel';
import { relative } from './run';

interface Block {
  inputs: Record<string, number>;
  rows: [string, Record<string, number>, number, { rel?: number; abs?: number }][];
}
const reference = JSON.parse(
  readFileSync(new URL('./reference/thermoelastic.json', import.meta.url), 'utf8'),
) as Record<'bimetal' | 'linearPlate' | 'corner' | 'heldPlate' | 'solidifying', Block>;

/** Value of a row; the place it belongs to tells rows of one quantity apart. */
const row = (block: Block, q: string) => block.rows.find((r) => r[0] === q)![2];

describe('closed forms', () => {
  it('bimetal strip', () => {
    const { inputs: i } = reference.bimetal;
    const layer = (k: 1 | 2) => ({ young: i[`E${k}`], thickness: i[`t${k}`], expansion: i[`alpha${k}`] });
    const curvature = bimetalCurvature(layer(1), layer(2), i.dT);
    expect(relative(curvature, row(reference.bimetal, 'curvature'))).toBeLessThan(1e-10);
    expect(relative(tipDeflection(curvature, i.L), row(reference.bimetal, 'tip_deflection_cantilever'))).toBeLessThan(
      1e-10,
    );
  });

  it('plate with a temperature difference through it', () => {
    const block = reference.linearPlate;
    const { alpha, dT, h, E, nu, L, B } = block.inputs;
    const curvature = plateCurvature(alpha, dT, h);
    expect(relative(curvature, row(block, 'curvature_free'))).toBeLessThan(1e-10);
    expect(relative(sagOverChord(curvature, L), row(block, 'centre_sag_over_length_L'))).toBeLessThan(1e-10);
    expect(relative(capHeight(curvature, L, B), row(block, 'corner_to_centre_height'))).toBeLessThan(1e-10);
    expect(relative(clampedPlateStress(E, nu, alpha, dT), row(block, 'max_stress_clamped_edges'))).toBeLessThan(1e-10);
  });

  it('spring-in of a corner', () => {
    const block = reference.corner;
    const i = block.inputs;
    const thermal = springInThermal(i.angle_deg, i.alpha_in_plane, i.alpha_thickness, i.dT);
    expect(relative(thermal, row(block, 'delta_theta'))).toBeLessThan(1e-10);
    const shrunk = springIn(i.angle_deg, i.S_in_plane, i.S_thickness);
    expect(relative(shrunk, row(block, 'delta_theta_from_shrinkages'))).toBeLessThan(1e-10);
  });

  it('plates and bars that are held, and a parabola frozen in', () => {
    const block = reference.heldPlate;
    const { E, nu, alpha, dT, dT0 } = block.inputs;
    expect(relative(heldPlateStress(E, nu, alpha, dT), row(block, 'stress_fully_constrained'))).toBeLessThan(1e-10);
    expect(relative(heldBarStress(E, alpha, dT), row(block, 'stress_uniaxial_constraint'))).toBeLessThan(1e-10);
    for (const [q, at, value, tolerance] of block.rows) {
      if (q !== 'parabolic_residual_stress') continue;
      const stress = parabolicStress(E, nu, alpha, dT0, at.y_over_half_thickness);
      expect(Math.abs(stress - value)).toBeLessThan(0.01 * (tolerance.abs ?? 0));
    }
  });
});

describe('a plate that turns solid from its faces, free to shrink', () => {
  const { inputs: i, rows } = reference.solidifying;
  const thermal = { conductivity: i.k, density: i.rho, specificHeat: i.cp };
  const plate = coolingPlate(thermal, i.s, i.T_melt, [i.T_wall, i.T_wall], i.h);
  // Elastic as soon as it is solid: the limit of a plastic that does not relax.
  const resin = {
    density: { density0: i.rho, compressibility: 0 },
    transition: i.T_solid,
    expansion: i.alpha,
    poisson: i.nu,
    relaxation: null,
    crystalShare: 0,
  };
  const wall = new WallStrain(plate.columns, resin, [plate.node], plate.columns.grid.n, i.T_melt);
  const none = new Float64Array(plate.columns.grid.n);
  const { node, columns } = plate;
  const at = node * columns.nLayers;
  const times = { surface: NaN, centre: NaN };
  // Small steps at first, then ever longer ones: the skin freezes within the first second.
  let [time, dt] = [0, 0.002];
  while (time < 400) {
    plate.rest(dt);
    time += dt;
    wall.look(dt, none, 'sliding');
    if (Number.isNaN(times.surface) && columns.surfaceTemperature(node, 0) < i.T_solid) times.surface = time;
    if (Number.isNaN(times.centre) && plate.middle() < i.T_solid) times.centre = time;
    dt = Math.min(0.25, dt * 1.01);
  }
  plate.columns.temperature.fill(i.T_end);
  wall.look(1, none, 'free', true);
  const own = wall.finish().node.inPlane.subarray(at, at + HALF_LAYERS);
  const mean = own.reduce((s, e, l) => s + e * (EDGES[l + 1] - EDGES[l]), 0);
  /** Stress at a place: a parabola through the three layers nearest to it. */
  const stressAt = (xi: number) => {
    let l = 0;
    while (l < HALF_LAYERS - 3 && CENTRES[l + 1] < xi && Math.abs(CENTRES[l + 2] - xi) > 0) l++;
    const first = Math.max(0, Math.min(HALF_LAYERS - 3, l));
    const [a, b, c] = [0, 1, 2].map((k) => CENTRES[first + k]);
    const [fa, fb, fc] = [0, 1, 2].map((k) => own[first + k]);
    const e =
      (fa * (xi - b) * (xi - c)) / ((a - b) * (a - c)) +
      (fb * (xi - a) * (xi - c)) / ((b - a) * (b - c)) +
      (fc * (xi - a) * (xi - b)) / ((c - a) * (c - b));
    return (i.E / (1 - i.nu)) * (mean - e);
  };

  it('faces and middle turn solid when they should', () => {
    expect(relative(times.surface, row(reference.solidifying, 't_surface_solid'))).toBeLessThan(0.02);
    expect(relative(times.centre, row(reference.solidifying, 't_centre_solid'))).toBeLessThan(0.02);
  });

  it.each(rows.filter(([q]) => q === 'residual_stress'))('%s at %o', (_q, place, value, { rel = 0, abs = 0 }) => {
    expect(Math.abs(stressAt(place.y_over_half_thickness) - value)).toBeLessThan(Math.max(rel * Math.abs(value), abs));
  });
});
