import type { MapId } from './mapKinds';
import type { PartMaps } from './maps';
import { CREASE, type MapSurface } from './surface';

/**
 * A surface ready to draw, three vertices a facet so that values may jump at creases. `corner(id)`: values
 * per drawn vertex; those of thickness, step and flow ratio are smoothed within each face.
 */
export function drawable({ surface, values }: PartMaps): {
  positions: Float32Array;
  corner: (id: MapId) => Float32Array;
} {
  const { mesh, n, areas } = surface;
  const { positions: p, triangles: t } = mesh;
  const positions = new Float32Array(9 * n);
  for (let c = 0; c < 3 * n; c++) for (let d = 0; d < 3; d++) positions[3 * c + d] = p[3 * t[c] + d];
  const corner = (id: MapId): Float32Array => {
    const v = values[id];
    const out = new Float32Array(3 * n);
    if (id === 'side' || id === 'draft' || id === 'rib') {
      for (let c = 0; c < 3 * n; c++) out[c] = v[Math.floor(c / 3)];
      return out;
    }
    return smoothed(surface, v, areas, out);
  };
  return { positions, corner };
}

function smoothed(surface: MapSurface, v: Float64Array, areas: Float64Array, out: Float32Array): Float32Array {
  const { mesh, n, normals: m } = surface;
  const { triangles: t } = mesh;
  const { start, corner } = surface.corners;
  for (let c = 0; c < 3 * n; c++) {
    const i = Math.floor(c / 3);
    let [sum, weight] = [0, 0];
    for (let k = start[t[c]]; k < start[t[c] + 1]; k++) {
      const j = Math.floor(corner[k] / 3);
      if (v[j] !== v[j]) continue;
      if (m[3 * i] * m[3 * j] + m[3 * i + 1] * m[3 * j + 1] + m[3 * i + 2] * m[3 * j + 2] < CREASE) continue;
      sum += areas[j] * v[j];
      weight += areas[j];
    }
    out[c] = weight > 0 ? sum / weight : NaN;
  }
  return out;
}
