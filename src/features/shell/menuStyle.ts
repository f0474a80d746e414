/** Look of a small menu and of its lines. */
export const MENU = 'bg-sheet z-50 min-w-44 rounded border p-1 shadow-lg';
export const MENU_ITEM =
  'data-highlighted:bg-petrol-wash data-disabled:opacity-45 flex h-7 cursor-default items-center gap-2 rounded-sm px-2 outline-none';
