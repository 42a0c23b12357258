import { isOfSize, writesDone } from './deeds';
import type { WantedPart, WrittenPart } from './expectation';
import type { Found, Sights } from './found';
import { both, held, NOTHING, splitName } from './found';

/* Images that are written one after another: which of them a tool said that it wrote. */

interface Read {
  readonly written: WrittenPart[];
  readonly found: Found[];
}

/** The slots of a part that a name without or with a slot speaks of. */
const slotsMeant = (part: WantedPart, slot: 'a' | 'b' | null) =>
  part.slots.filter((one) => one === slot || (slot === null && part.slots.length === 1));

function read(sights: Sights, parts: readonly WantedPart[]): Read {
  const [written, found]: [WrittenPart[], Found[]] = [[], []];
  for (const { name, line, kib, left } of writesDone(sights, 'write')) {
    const { partition, slot } = splitName(name);
    const part = parts.find((one) => one.partition === partition);
    const slots = part ? slotsMeant(part, slot) : [];
    if (!part) found.push(held('partition', partition, line, '', false));
    else if (slots.length === 0)
      found.push(held('slot', slot ?? '', line, part.slots.map((one) => one ?? '').join(' '), false));
    else if (part.size !== null && kib !== null && !isOfSize(part.size, kib))
      found.push(held('size', `${kib} KiB`, line, String(part.size), false));
    // a part of an image is not yet the image
    else if (left === 0) written.push(...slots.map((one) => ({ partition, slot: one, line })));
  }
  return { written, found };
}

/** Which images were said to be written, in the order in which they were. */
export const writtenParts = (sights: Sights, parts: readonly WantedPart[]): WrittenPart[] =>
  read(sights, parts).written;

/** All of them, or it is not enough; whatever else was written is otherwise. */
export function partsFound(sights: Sights, parts: readonly WantedPart[]): Found {
  const { written, found } = read(sights, parts);
  const all = parts.every(({ partition, slots }) =>
    slots.every((slot) => written.some((one) => one.partition === partition && one.slot === slot)),
  );
  const last = written.at(-1);
  return both([
    ...found,
    all && last && found.length === 0 ? held('transfer', 'done', last.line, undefined, true) : NOTHING,
  ]);
}
