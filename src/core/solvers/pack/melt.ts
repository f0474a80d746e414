import { ATMOSPHERE, densityInto, isPlain, TAIT_C, type DensityModel, type Tait } from '../../material/pvt';
import type { Columns } from '../melt/columns';
import { CompiledColumns } from '../melt/compiledColumns';

/** Steps of the tables: linear in between, 1e-5 of the volume. */
const T_MIN = 150;
const T_STEP = 0.25;
const T_SIZE = 3001;
/** ln(1 + p/B) up to p = 8 B in steps of a 512th: linear in between, 5e-7. */
const LN_PER_UNIT = 512;
const LN_SIZE = 8 * LN_PER_UNIT + 1;

/**
 * Mean density of columns: that of the layers by their share, each at its own temperature. Compiled columns
 * read the Tait form off tables; others work it out layer by layer.
 */
export class MeltDensity {
  /** Of the node last asked for: kg/m3, and kg/(m3 Pa). */
  density = 0;
  slope = 0;
  /** Of all nodes at the last `lookAll`. Lengths n. */
  readonly densities: Float64Array;
  readonly slopes: Float64Array;
  private readonly compiled: CompiledColumns | null = null;
  private readonly list: Int32Array;
  private readonly point = { density: 0, slope: 0 };

  constructor(
    private readonly model: DensityModel,
    private readonly columns: Columns,
    /** Nodes that `lookAll` goes over. */
    private readonly nodes: Int32Array,
    /** Of a second melt in the layers; null: there is one melt. */
    private readonly other: DensityModel | null = null,
  ) {
    const { n } = columns.grid;
    if (isPlain(model) || other || !(columns instanceof CompiledColumns)) {
      this.list = nodes;
      this.densities = new Float64Array(n);
      this.slopes = new Float64Array(n);
      return;
    }
    this.compiled = columns;
    this.list = columns.nodeList(nodes);
    this.densities = columns.perNode();
    this.slopes = columns.perNode();
    columns.layDensity(taitTables(model), T_SIZE, {
      tMin: T_MIN,
      tStep: T_STEP,
      transition: model.b5,
      transitionSlope: model.b6,
      c: TAIT_C,
      solidDecay: model.b9,
      lnSize: LN_SIZE,
      lnPerUnit: LN_PER_UNIT,
    });
  }

  /** Densities and slopes of all nodes of the list at their pressures [Pa above the atmosphere], none below 0. */
  lookAll(pressure: Float64Array): void {
    const { compiled, nodes, densities, slopes, list } = this;
    if (!compiled) {
      for (const i of nodes) {
        this.look(i, Math.max(0, pressure[i]));
        densities[i] = this.density;
        slopes[i] = this.slope;
      }
      return;
    }
    for (let k = 0; k < nodes.length; k++) slopes[nodes[k]] = Math.max(0, pressure[nodes[k]]) + ATMOSPHERE;
    compiled.kernel.sectionDensities(list.byteOffset, nodes.length, densities.byteOffset, slopes.byteOffset);
    const { hollow } = this.columns;
    if (!hollow) return;
    for (const i of nodes) {
      if (!(hollow.share[i] > 0)) continue;
      this.look(i, Math.max(0, pressure[i]));
      densities[i] = this.density;
      slopes[i] = this.slope;
    }
  }

  /** Sets `density` and `slope` to those of a node at pressure p [Pa above the atmosphere]. */
  look(node: number, p: number): void {
    const { compiled, model, columns } = this;
    const plastic = columns.isHollow(node) ? columns.hollow!.plastic(node) : null;
    if (compiled && !plastic) {
      this.density = compiled.kernel.sectionDensity(node, p + ATMOSPHERE);
      this.slope = compiled.out[0];
      return;
    }
    if (isPlain(model)) {
      densityInto(model, 0, p, this);
      return;
    }
    const { nLayers, temperature } = columns;
    const { share } = columns.layersOf(node);
    let [density, slope, whole] = [0, 0, 0];
    for (let t = 0; t < nLayers; t++) {
      this.layer(node * nLayers + t, temperature[node * nLayers + t], p + ATMOSPHERE);
      const w = plastic ? share[t] * plastic[t] : share[t];
      density += w * this.point.density;
      slope += w * this.point.slope;
      whole += w;
    }
    this.density = density / whole;
    this.slope = slope / whole;
  }

  /** Of the plastic of a node at a temperature [K] and pressure [Pa above the atmosphere], kg/m3: of both melts by their shares. */
  of(node: number, T: number, p: number): number {
    const { other, columns } = this;
    const own = this.at(T, p);
    if (!other || !columns.second) return own;
    const { share } = columns.layersOf(node);
    let part = 0;
    for (let t = 0; t < columns.nLayers; t++) part += share[t] * columns.second.share[node * columns.nLayers + t];
    densityInto(other, T, isPlain(other) ? p : p + ATMOSPHERE, this.point);
    return own + part * (this.point.density - own);
  }

  /** Density of a layer and its slope into `point`: of both melts, whose volumes add up. */
  private layer(at: number, T: number, p: number): void {
    const { point, other, columns, model } = this;
    densityInto(model, T, p, point);
    const share = other ? (columns.second?.share[at] ?? 0) : 0;
    if (!other || !(share > 0)) return;
    const { density, slope } = point;
    densityInto(other, T, p, point);
    point.density = density + share * (point.density - density);
    point.slope = slope + share * (point.slope - slope);
  }

  /** Of melt of one temperature, kg/m3. */
  at(T: number, p: number): number {
    densityInto(this.model, T, isPlain(this.model) ? p : p + ATMOSPHERE, this.point);
    return this.point.density;
  }
}

/** v0 and B of the melt, v0 and B of the solid, what crystals have not taken at no pressure; then the logarithm. */
function taitTables(m: Tait): Float64Array {
  const tables = new Float64Array(5 * T_SIZE + LN_SIZE);
  for (let k = 0; k < LN_SIZE; k++) tables[5 * T_SIZE + k] = Math.log1p(k / LN_PER_UNIT);
  for (let i = 0; i < T_SIZE; i++) {
    const x = T_MIN + i * T_STEP - m.b5;
    tables[i] = m.b1m + m.b2m * x;
    tables[T_SIZE + i] = m.b3m * Math.exp(-m.b4m * x);
    tables[2 * T_SIZE + i] = m.b1s + m.b2s * x;
    tables[3 * T_SIZE + i] = m.b3s * Math.exp(-m.b4s * x);
    // Above the transition the solid's branch is read only as far as pressure moves the transition.
    tables[4 * T_SIZE + i] = m.b7 * Math.exp(Math.min(m.b8 * x, 30));
  }
  return tables;
}
