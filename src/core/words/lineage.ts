import { wordsBy } from './words-by';

/* What an image is among those that are known, and what changed since last month's. Builds are build numbers. */

/** `build`, `kit` and `from` are null where the image names none. */
export interface LineageSays {
  readonly partition: string;
  readonly role: 'stock' | 'patched' | 'recovery' | 'unknown';
  readonly build: string | null;
  readonly kit: string | null;
  /** The image it was patched from; its role where it is in the vault. */
  readonly from: { readonly sha256: string; readonly role: string | null } | null;
}

export function lineageWords({ partition, role, build, kit, from }: LineageSays): string {
  const of = build ?? 'a build it does not name';
  if (role === 'unknown') return `${partition} of ${of}; nothing shows that it is stock.`;
  if (role !== 'patched') return `${role} ${partition} of ${of}.`;
  const origin =
    from === null
      ? 'an image it does not name'
      : `${from.role === null ? '' : `the ${from.role} image `}${from.sha256.slice(0, 8)}…`;
  return `${partition} of ${of}, patched by ${kit ?? 'a kit it does not name'} from ${origin}.`;
}

export type LineageNote =
  | { readonly code: 'build-renamed' | 'partition-renamed'; readonly name: string; readonly content: string }
  | { readonly code: 'wrong-partition'; readonly partition: string; readonly wanted: string }
  | { readonly code: 'wrong-handset'; readonly image: Variant; readonly handset: Variant }
  | { readonly code: 'stale'; readonly build: string; readonly installed: string }
  | { readonly code: 'doubly-patched'; readonly kit: string | null }
  | { readonly code: 'stock-missing'; readonly sha256: string };

interface Variant {
  readonly product: string;
  readonly device: string;
}
const variant = ({ product, device }: Variant) => `${product} (${device})`;

/** What kind of thing a note is about, in a word or two. */
export const LINEAGE_NOTE_TITLES: Readonly<Record<LineageNote['code'], string>> = {
  'build-renamed': 'renamed',
  'partition-renamed': 'renamed',
  'wrong-partition': 'wrong shelf',
  'wrong-handset': 'wrong shelf',
  stale: 'stale',
  'doubly-patched': 'doubly patched',
  'stock-missing': 'stock not in the vault',
};

export const lineageNoteWords = wordsBy<LineageNote>({
  'build-renamed': ({ name, content }) => `Its name says ${name}, its content says ${content}.`,
  'partition-renamed': ({ name, content }) => `Its name says ${name}, its content is an image of ${content}.`,
  'wrong-partition': ({ partition, wanted }) => `It is for ${partition}, and root sits in ${wanted}.`,
  'wrong-handset': ({ image, handset }) =>
    `It is of ${variant(image)}, and this handset is ${variant(handset)}.`,
  stale: ({ build, installed }) => `It is of ${build}, and ${installed} is installed.`,
  'doubly-patched': ({ kit }) => `It was patched from an image that ${kit ?? 'a kit'} had patched already.`,
  'stock-missing': ({ sha256 }) => `Its stock image ${sha256.slice(0, 8)}… is not in the vault.`,
});

/** What changed between two months' images of one partition. */
export type MonthSays =
  | { readonly code: 'same' | 'patch-level-only' }
  | { readonly code: 'header-version'; readonly from: string; readonly to: string }
  | { readonly code: 'sections'; readonly names: readonly string[] }
  | { readonly code: 'kernel'; readonly ramdiskToo: boolean }
  | {
      readonly code: 'ramdisk';
      readonly counts: {
        readonly added: number;
        readonly removed: number;
        readonly changed: number;
        readonly moved: number;
      };
      /** Names that the older image had and the newer has not. */
      readonly gone: readonly string[];
    }
  | { readonly code: 'fields'; readonly names: readonly string[] };

export const monthWords = wordsBy<MonthSays>({
  same: () => 'Byte for byte the same image.',
  'patch-level-only': () => 'Only patch level, fingerprint and signature changed.',
  'header-version': ({ from, to }) => `The layout changed: the header version went from ${from} to ${to}.`,
  sections: ({ names }) => `The layout changed: only one of the two images has ${names.join(' and ')}.`,
  kernel: ({ ramdiskToo }) => (ramdiskToo ? 'Kernel and ramdisk changed.' : 'The kernel changed.'),
  ramdisk: ({ counts }) =>
    `Entries of the ramdisk: ${Object.entries(counts)
      .filter(([, count]) => count > 0)
      .map(([how, count]) => `${count} ${how}`)
      .join(', ')}.`,
  fields: ({ names }) => `Changed: ${names.join(', ')}.`,
});

const NEW_LAYOUT = 'Treat it as a new handset: try it where a bad image costs one restart.';

/** What that means for patching this month. */
export const monthMeaningWords = wordsBy<MonthSays>({
  same: () => 'Last month’s patched image is this month’s too; only the build around it changed.',
  'patch-level-only': () => 'The patch changes the same bytes in the same places.',
  'header-version': () => NEW_LAYOUT,
  sections: () => NEW_LAYOUT,
  kernel: () => 'The patch works the same way; check modules that change the kernel.',
  ramdisk: ({ gone }) =>
    gone.length > 0
      ? `The patch may look for ${gone.slice(0, 3).join(', ')}, which this image no longer has. If so, the kit says it before anything is written.`
      : 'The patch works the same way; the checks after patching show whether it held.',
  fields: () => 'The ramdisk is the same, so the patch works the same way.',
});
