/** How an item of a menu looks. */
export const menuItem =
  'cursor-pointer rounded-lg px-3 py-1.5 text-[15px] outline-none data-disabled:cursor-default data-disabled:opacity-45 data-highlighted:bg-fog';
