/** Disjoint sets over 0..n-1 with path halving (Tarjan 1975). */
export class UnionFind {
  private readonly parent: Int32Array;

  constructor(n: number) {
    this.parent = new Int32Array(n);
    for (let i = 0; i < n; i++) this.parent[i] = i;
  }

  find(i: number): number {
    const parent = this.parent;
    while (parent[i] !== i) {
      parent[i] = parent[parent[i]];
      i = parent[i];
    }
    return i;
  }

  /** Joins the sets of `i` and `j`; the smaller root stays, so labels follow the numbering. */
  union(i: number, j: number): void {
    const a = this.find(i);
    const b = this.find(j);
    if (a < b) this.parent[b] = a;
    else if (b < a) this.parent[a] = b;
  }
}
