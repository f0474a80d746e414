/** A body before its vertices are shared: 9 coordinates a triangle. */
export interface RawBody {
  name: string;
  colour: string | null;
  soup: ArrayLike<number>;
}
