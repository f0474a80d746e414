/** Order of two cells: numbers by size, what is not known last, texts by their words with numbers in them by size. */
export function inOrder(a: string | number, b: string | number): number {
  if (typeof a === 'string' || typeof b === 'string')
    return String(a).localeCompare(String(b), 'en', { numeric: true });
  if (a !== a || b !== b) return Number(a !== a) - Number(b !== b);
  return a - b;
}
