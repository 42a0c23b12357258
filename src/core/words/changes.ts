import { wordsBy } from './words-by';

/* What a patch changed of a stock image, line by line. */

export type PatchChange =
  | { readonly code: 'added' | 'removed'; readonly entry: string }
  /** `keptAs` is where the stock's own went; null where it is gone. */
  | { readonly code: 'replaced'; readonly entry: string; readonly keptAs: string | null }
  /** Its rights, owner or time, and not its content. */
  | { readonly code: 'marked'; readonly entry: string; readonly differs: readonly string[] }
  | { readonly code: 'moved'; readonly entry: string; readonly to: string }
  | {
      readonly code: 'section';
      readonly section: string;
      readonly verdict: 'changed' | 'added' | 'removed';
      /** Bytes more than before; negative where there are fewer. */
      readonly grewBytes: number;
    }
  | { readonly code: 'field'; readonly field: string };

/** `name` is a path or a field as it stands in the image. */
export interface ChangeWords {
  readonly does: string;
  readonly name: string;
  readonly more: string;
}

const entry = (does: string, name: string, more = ''): ChangeWords => ({ does, name, more });

export const changeWords = wordsBy<PatchChange, ChangeWords>({
  replaced: ({ entry: name, keptAs }) =>
    entry('replaced', name, keptAs === null ? '' : `the stock’s is kept as ${keptAs}`),
  added: (change) => entry('added', change.entry),
  removed: (change) => entry('removed', change.entry),
  marked: (change) => entry('kept, with another', change.entry, change.differs.join(', ')),
  moved: (change) => entry('moved', change.entry, `to ${change.to}`),
  section: ({ section, verdict, grewBytes }) =>
    entry(
      section === 'kernel' && verdict === 'changed' ? 'changed in the' : verdict,
      section,
      grewBytes === 0
        ? 'as many bytes as before'
        : `${Math.abs(grewBytes).toLocaleString('en')} bytes ${grewBytes > 0 ? 'more' : 'less'}`,
    ),
  field: ({ field }) => entry('changed', field),
});
