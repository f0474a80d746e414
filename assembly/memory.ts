// AssemblyScript: numbers of the memory that kernels and their hosts share, by address and place.

// @ts-ignore: decorator
@inline
export function int(p: usize, i: i32): i32 {
  return load<i32>(p + (<usize>i << 2));
}
// @ts-ignore: decorator
@inline
export function get(p: usize, i: i32): f64 {
  return load<f64>(p + (<usize>i << 3));
}
// @ts-ignore: decorator
@inline
export function set(p: usize, i: i32, v: f64): void {
  store<f64>(p + (<usize>i << 3), v);
}
