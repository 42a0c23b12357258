import { splitFingerprint } from '../formats/facts/parse-facts';
import type { SlotCell } from '../slots/slot-map';
import type { KnownImage } from './judge-lineage';

/*
 * Where the images of a build came from and where they went: package or file, stock, patched, written, read back
 * (docs/method.md, "Lineage").
 */

/** How an image came into the vault; `name` is of a package or a file, null where it had none. */
export interface Origin {
  readonly kind: 'package' | 'patch' | 'rebuilt' | 'read-back' | 'file';
  readonly name: string | null;
  readonly verified: boolean;
  /** What was chosen of the kit's options; empty where nothing was. */
  readonly options: Readonly<Record<string, boolean | string>>;
  readonly at: number;
}

export interface FamilyImage extends KnownImage {
  readonly origins: readonly Origin[];
}

export interface FamilyHandset {
  readonly name: string;
  /** The build that runs; null where it was never read. */
  readonly fingerprint: string | null;
  readonly cells: readonly SlotCell[];
}

/** That an image lies, or lay, in a partition of a slot. */
export interface Place {
  readonly handset: string;
  /** Null where the handset has one slot. */
  readonly slot: string | null;
  readonly partition: string;
  /** When it was written there, and when it was read back; null where it never was. */
  readonly writtenAt: number | null;
  readonly readAt: number | null;
  /** It is what counts there now; else something else does by now. */
  readonly now: boolean;
}

/** `here` where it names another build; else it is not in the vault any more. */
export interface MadeFrom {
  readonly sha256: string;
  readonly here: boolean;
}

export type FamilyNode =
  | {
      readonly kind: 'origin';
      readonly id: string;
      readonly origin: Origin;
      /** What an image patched here was made from, where that is not of its family; null for all else. */
      readonly madeFrom: MadeFrom | null;
      readonly children: FamilyNode[];
    }
  | {
      readonly kind: 'image';
      readonly id: string;
      readonly image: FamilyImage;
      readonly children: FamilyNode[];
    }
  | { readonly kind: 'place'; readonly id: string; readonly place: Place; readonly children: FamilyNode[] };

/** All images of one build of one variant. */
export interface Family {
  readonly key: string;
  /** Null where its images name no build. */
  readonly fingerprint: string | null;
  /** Handsets that run this build. */
  readonly runsOn: readonly string[];
  readonly images: readonly FamilyImage[];
  /** Each origin once, with what came of it. */
  readonly roots: readonly FamilyNode[];
}

/** Where an image lies, handset by handset; what lies there now first. */
export function placesOf(sha256: string, handsets: readonly FamilyHandset[]): Place[] {
  const places = handsets.flatMap(({ name, cells }) =>
    cells.flatMap((cell): Place[] => {
      const own = cell.history.filter((entry) => entry.sha256 === sha256);
      if (own.length === 0) return [];
      const at = (certainty: 'predicted' | 'read') =>
        own.find((entry) => entry.certainty === certainty)?.at ?? null;
      return [
        {
          handset: name,
          slot: cell.slot === '-' ? null : cell.slot,
          partition: cell.partition,
          writtenAt: at('predicted'),
          readAt: at('read'),
          now: cell.sha256 === sha256,
        },
      ];
    }),
  );
  return places.sort((a, b) => Number(b.now) - Number(a.now));
}

/** The origin that says most: a package before a file, a file before what was read back; of two alike the first. */
const SAYS_MOST: readonly Origin['kind'][] = ['package', 'patch', 'rebuilt', 'file', 'read-back'];
function beganAs({ origins }: FamilyImage): Origin {
  const ranked = [...origins].sort((a, b) => a.at - b.at);
  for (const kind of SAYS_MOST) {
    const found = ranked.find((origin) => origin.kind === kind);
    if (found) return found;
  }
  return UNKNOWN_ORIGIN;
}

const UNKNOWN_ORIGIN: Origin = { kind: 'file', name: null, verified: false, options: {}, at: 0 };

/** A package gave several images; what was read back, brought or made stands by itself. */
const originId = ({ kind, name }: Origin, { sha256 }: FamilyImage) =>
  kind === 'package' ? `package ${name ?? ''}` : `${kind} ${sha256}`;

/** What was patched over a stock image with a recovery in it stands beside that, below the stock image of both. */
export function madeFromOf({ stockSha256 }: FamilyImage, images: readonly FamilyImage[]): string | null {
  const from = images.find(({ sha256 }) => sha256 === stockSha256);
  return from?.role === 'recovery' && from.stockSha256 !== null ? from.stockSha256 : stockSha256;
}

function treeOf(
  images: readonly FamilyImage[],
  handsets: readonly FamilyHandset[],
  vault: ReadonlySet<string>,
): FamilyNode[] {
  const within = new Set(images.map(({ sha256 }) => sha256));
  const shown = new Set<string>();
  const nodeOf = (image: FamilyImage): FamilyNode => {
    shown.add(image.sha256);
    const made = images.filter((one) => madeFromOf(one, images) === image.sha256 && !shown.has(one.sha256));
    return {
      kind: 'image',
      id: image.sha256,
      image,
      children: [
        ...made.map(nodeOf),
        ...placesOf(image.sha256, handsets).map((place): FamilyNode => ({
          kind: 'place',
          id: `${image.sha256} ${place.handset} ${place.partition} ${place.slot ?? ''}`,
          place,
          children: [],
        })),
      ],
    };
  };
  const roots = new Map<string, FamilyNode>();
  const begin = (image: FamilyImage) => {
    const stockSha256 = madeFromOf(image, images);
    const origin = beganAs(image);
    const id = originId(origin, image);
    const root = roots.get(id) ?? {
      kind: 'origin',
      id,
      origin,
      madeFrom:
        (origin.kind === 'patch' || origin.kind === 'rebuilt') && stockSha256 !== null
          ? { sha256: stockSha256, here: vault.has(stockSha256) }
          : null,
      children: [],
    };
    root.children.push(nodeOf(image));
    roots.set(id, root);
  };
  for (const image of images) {
    const from = madeFromOf(image, images);
    if (from === null || from === image.sha256 || !within.has(from)) begin(image);
  }
  // images that each say they were made from the other have no beginning
  for (const image of images) if (!shown.has(image.sha256)) begin(image);
  return [...roots.values()];
}

/** By the variant and build that an image names; those of a build that runs come first, then the newest. */
export function familiesOf(
  images: readonly FamilyImage[],
  handsets: readonly FamilyHandset[],
): readonly Family[] {
  const vault = new Set(images.map(({ sha256 }) => sha256));
  const groups = new Map<string | null, FamilyImage[]>();
  for (const image of images)
    groups.set(image.fingerprint, [...(groups.get(image.fingerprint) ?? []), image]);
  const families = [...groups].map(([fingerprint, members]): Family => ({
    key: fingerprint ?? '',
    fingerprint,
    runsOn: handsets
      .filter((handset) => fingerprint !== null && handset.fingerprint === fingerprint)
      .map(({ name }) => name),
    images: members,
    roots: treeOf(members, handsets, vault),
  }));
  const rank = ({ fingerprint, runsOn }: Family) => (fingerprint === null ? 2 : runsOn.length > 0 ? 0 : 1);
  const level = ({ images: members }: Family) =>
    members
      .map(({ patchLevel }) => patchLevel ?? '')
      .sort()
      .at(-1)!;
  const product = ({ fingerprint }: Family) =>
    fingerprint === null ? '' : (splitFingerprint(fingerprint)?.product ?? fingerprint);
  return families.sort(
    (a, b) =>
      rank(a) - rank(b) ||
      product(a).localeCompare(product(b)) ||
      level(b).localeCompare(level(a)) ||
      a.key.localeCompare(b.key),
  );
}
