/* The way out of a loop of starts that a module causes, as far as the kit says what it does. */

/** @param restsAfter failed starts in a row after which the kit rests all modules; null where it says nothing */
export function loopWayOut(restsAfter: number | null): string {
  const stock =
    'write the stock image from the vault back from the bootloader: it starts without root, and without root no module is loaded.';
  return restsAfter === null
    ? `If it loops, ${stock}`
    : `If it loops, hold no keys: after ${restsAfter} failed starts its kit starts without any module. If it does not, ${stock}`;
}
