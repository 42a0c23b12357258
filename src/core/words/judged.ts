import { wordsBy } from './words-by';

/* What is held against the stock image when an image was patched elsewhere, and what was seen of it. */

/** One thing that was looked at; what was seen stands in its fields. */
export type JudgedPoint =
  | { readonly code: 'partition'; readonly stock: string; readonly patched: string }
  | { readonly code: 'stock-whole' }
  | { readonly code: 'section'; readonly name: string; readonly became: string }
  | {
      readonly code: 'header' | 'property';
      readonly field: string;
      readonly stock: string | null;
      readonly patched: string | null;
    }
  | { readonly code: 'surviving'; readonly kept: number; readonly of: number }
  | { readonly code: 'gone'; readonly names: readonly string[] }
  | { readonly code: 'note'; readonly kits: readonly string[]; readonly names: readonly string[] }
  | { readonly code: 'times'; readonly times: number };

/** What was looked at, as a statement that holds or does not. */
export const pointWords = wordsBy<JudgedPoint>({
  partition: ({ stock }) => `it is an image of ${stock}`,
  'stock-whole': () => 'the stock image has the hash that it states itself',
  section: ({ name }) => `the ${name} is the stock’s`,
  header: ({ field }) => `the ${field} is the stock’s`,
  property: ({ field }) => `${field} is the stock’s`,
  surviving: () => 'most of the stock’s entries are there',
  gone: () => 'nothing is gone without a copy',
  note: () => 'a note in it names this stock image',
  times: () => 'it was patched once at most',
});

const became = ({ stock, patched }: { readonly stock: string | null; readonly patched: string | null }) =>
  patched === null
    ? `the image does not say; the stock says ${stock ?? 'nothing'}`
    : `${stock ?? 'none'} became ${patched}`;

/** What was seen, where it does not hold or nobody can tell. */
export const pointSeen = wordsBy<JudgedPoint>({
  partition: ({ patched }) => `it is an image of ${patched}`,
  'stock-whole': () => 'it was changed since it was signed',
  section: (point) => point.became,
  header: became,
  property: became,
  surviving: ({ kept, of }) => `${kept} of ${of}`,
  gone: ({ names }) => names.join(', '),
  note: ({ kits, names }) =>
    names.length === 0
      ? 'it has no note'
      : `${kits.length > 0 ? kits.join(', ') : 'its note'} names ${names.map((name) => name.slice(0, 12)).join(', ')}`,
  times: ({ times }) => `${times} times`,
});

/** Something in it that a patch has no reason to change. */
export type Unexpected =
  | { readonly code: 'section'; readonly name: string; readonly became: string }
  | {
      readonly code: 'field';
      readonly field: string;
      readonly stock: string | null;
      readonly patched: string | null;
    }
  | { readonly code: 'entry'; readonly name: string; readonly what: readonly string[] };

export const unexpectedWords = wordsBy<Unexpected>({
  section: ({ name, became: how }) => `the ${name} is not the stock’s: ${how}`,
  field: (field) => `the ${field.field} is not the stock’s: ${became(field)}`,
  entry: ({ name, what }) => `${name} is changed (${what.join(', ')}), and no copy of the stock’s is kept`,
});
