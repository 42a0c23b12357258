import type { GateId } from '../words/gates';
import type { ImageCheckId, WritePurpose } from '../words/write';
import type { WriteCheck } from '../judge/judge-write';
import { judgeOne } from '../judge/judge-write';
import type { WriteProof, WriteQuestion, WrittenImage } from '../judge/write-question';
import type { Judged } from '../packages/recovery-claim';
import { fallsShort } from '../text/versions';
import type { Check } from './check';
import { checkOf } from './check';
import type { Dispute } from '../words/dispute';

/** The image that a round is about to write, as the vault knows it. */
export interface WriteImageFacts {
  readonly partition: string;
  readonly role: 'stock' | 'patched' | 'recovery' | 'unknown';
  readonly fingerprint: string | null;
  readonly patchLevel: string | null;
  readonly sizeBytes: number;
  /** Checks of the server's own proof that held, of how many; null for an image that was not patched here. */
  readonly proof: { readonly held: number; readonly of: number } | null;
  /**
   * For an image that is offered as a recovery of the person's own: what its own bytes say of it; null for
   * every other.
   */
  readonly recovery: {
    readonly is: Judged;
    readonly forHandset: Judged;
    /** It was put into a stock image here, and proved to be all that differs. */
    readonly onlyFragment: boolean;
  } | null;
  /** For an image patched elsewhere: what it was found to be against the stock image of the slot's build. */
  readonly judged: Extract<WriteProof, { kind: 'judged' }> | null;
}

export interface WriteGateInput {
  /** The partition that is written: root's, or the recovery's home. */
  readonly partition: string | null;
  readonly image: WriteImageFacts | null;
  /** The stock image of the installed build is in the vault and whole. */
  readonly stockKept: boolean;
  readonly rootPartition: string | null;
  /** What the evidence of now says of where root sits. */
  readonly root: {
    readonly partition: string | null;
    readonly agree: boolean;
    readonly sure: boolean;
    readonly opinions: readonly { readonly witness: string; readonly partition: string | null }[];
  };
  /** Sources that contradict each other, in words. */
  readonly contradictions: readonly Dispute[];
  /** The partition that its recovery lives in; null where that was never read. */
  readonly recoveryHome: string | null;
  /** What lies on the slot that is written. */
  readonly installed: {
    readonly fingerprint: string | null;
    readonly device: string | null;
    readonly patchLevel: string | null;
  };
  readonly unlocked: boolean | null;
  readonly activeSlot: string | null;
  readonly slotCount: number | null;
  /** As it was read within the last hour; null where it was not. */
  readonly batteryOk: boolean | null;
  readonly partitionBytes: number | null;
  readonly kitSupports: {
    readonly name: string;
    readonly version: string;
    readonly sdk: readonly [number, number] | null;
  } | null;
  /** The version of the recovery that is written; null where it is none of the shelf. */
  readonly recoveryVersion: string | null;
  /** Least versions that are known to do; null where nobody named one. */
  readonly least: { readonly kit: string | null; readonly recovery: string | null };
  readonly sdk: number | null;
}

/** What an image was held against, as the judgement of every write asks it. */
export function proofOf({ role, proof, recovery, judged, fingerprint }: WriteImageFacts): WriteProof {
  // a whole recovery image: only a partition of its own is its home
  if (recovery) return { kind: 'recovery', ...recovery, opensUpTo: null };
  if (role === 'stock') return { kind: 'bytes', same: true, as: 'stock', patched: false };
  if (proof === null) return judged ?? { kind: 'nothing' };
  const failed = proof.held === proof.of ? null : `${proof.of - proof.held} of its checks`;
  return { kind: 'patch', ...proof, failed, stockBuild: fingerprint };
}

export function purposeOf(image: WriteImageFacts | null): WritePurpose {
  if (image?.recovery) return 'recovery';
  if (image?.role === 'stock') return 'stock';
  return (image?.judged?.trust ?? null) === null ? 'root' : 'ready-made';
}

const imageOf = (image: WriteImageFacts | null): WrittenImage => ({
  partition: image?.partition ?? null,
  fingerprints: image?.fingerprint ? [image.fingerprint] : [],
  patchLevel: image?.patchLevel ?? null,
  sizeBytes: image?.sizeBytes ?? 0,
  level: null,
  package: null,
});

/** What a round knows of a write, as the judgement of every write asks it. */
function questionOf(input: WriteGateInput, image: WriteImageFacts | null): WriteQuestion {
  const { installed, partition, unlocked, batteryOk, partitionBytes, recoveryHome, sdk, slotCount } = input;
  return {
    purpose: purposeOf(image),
    image: imageOf(image),
    target: {
      partition: partition ?? '',
      slot: input.activeSlot,
      slotted: slotCount === null ? null : slotCount === 2,
      slotBuild: installed.fingerprint,
      slotPatchLevel: installed.patchLevel,
      device: installed.device,
      installed: installed.fingerprint,
      sdk,
      partitionBytes,
      unlocked,
      battery: { percent: null, fit: batteryOk, ageSeconds: batteryOk === null ? null : 0 },
      recoveryHome,
      ...ASKED_ELSEWHERE,
    },
    proof: image === null ? { kind: 'nothing' } : proofOf(image),
  };
}

/** What gates of their own ask: mode, update, fuse. */
const ASKED_ELSEWHERE = {
  runningSlot: null,
  exists: null,
  logical: null,
  mode: null,
  snapshot: null,
  fuse: null,
  bootloader: null,
  bootloaderLevel: null,
};

const asked = (input: WriteGateInput, id: ImageCheckId): WriteCheck =>
  judgeOne(id, questionOf(input, input.image));
/** The same of the image of a build, which a recovery of the person's own is not. */
const askedOfBuild = (input: WriteGateInput, id: ImageCheckId): WriteCheck =>
  asked({ ...input, image: input.image && { ...input.image, recovery: null } }, id);
/** A check of the judgement of every write, as a gate of a round. */
const gateOf = (id: GateId, { holds, saw }: WriteCheck): Check =>
  checkOf(id, holds, { code: 'write', says: saw });

/** The checks of one image, of where it goes and of the handset it goes to (docs/method.md, "Gates"). */
export const WRITE_GATES = {
  'image-build': (input) => {
    if (input.image === null) return checkOf('image-build', false, { code: 'no-image' });
    // for whom it is made is part of the same question: a look-alike's image names another build
    const handset = askedOfBuild(input, 'handset');
    return gateOf('image-build', handset.holds === false ? handset : askedOfBuild(input, 'build'));
  },
  'image-partition': (input) =>
    input.image === null || input.partition === null
      ? checkOf('image-partition', null, { code: input.image === null ? 'no-image' : 'no-partition' })
      : gateOf('image-partition', asked(input, 'partition')),
  'root-sources': ({ root, rootPartition }) =>
    checkOf(
      'root-sources',
      root.partition === null || root.partition !== rootPartition
        ? false
        : root.agree || (root.sure ? null : false),
      {
        code: 'root-opinions',
        opinions: root.opinions,
      },
    ),
  sources: ({ contradictions }) =>
    checkOf('sources', contradictions.length === 0, {
      code: 'contradiction',
      contradiction: contradictions[0] ?? null,
    }),
  'image-proof': (input) => {
    const { image } = input;
    if (image === null) return checkOf('image-proof', null, { code: 'no-image' });
    const check = askedOfBuild(input, 'proof');
    // the vault can be asked: what it never proved is not proved
    return gateOf(
      'image-proof',
      image.proof === null && image.judged === null ? { ...check, holds: check.holds ?? false } : check,
    );
  },
  'stock-kept': ({ stockKept }) => checkOf('stock-kept', stockKept, { code: 'stock-kept', kept: stockKept }),
  unlocked: (input) => gateOf('unlocked', asked(input, 'lock')),
  slot: ({ activeSlot, slotCount }) =>
    checkOf('slot', slotCount === 1 || activeSlot !== null ? true : null, {
      code: 'active-slot',
      slot: activeSlot,
      slotCount,
    }),
  room: (input) =>
    input.image === null ? checkOf('room', null, { code: 'no-image' }) : gateOf('room', asked(input, 'size')),
  kit: ({ kitSupports, sdk, image, least }) => {
    if (kitSupports === null && image?.judged) return checkOf('kit', true, { code: 'patched-elsewhere' });
    if (kitSupports === null) return checkOf('kit', null, { code: 'no-kit' });
    const { name, sdk: levels } = kitSupports;
    const fits = levels === null || sdk === null ? null : sdk >= levels[0] && sdk <= levels[1];
    if (fits === true && fallsShort(kitSupports.version, least.kit))
      return checkOf('kit', null, { code: 'least-version', what: name, least: least.kit! });
    return checkOf('kit', fits, { code: 'kit-levels', kit: name, levels, sdk });
  },
  battery: (input) => gateOf('battery', asked(input, 'battery')),
  'recovery-image': (input) => {
    const { image } = input;
    if (image === null) return checkOf('recovery-image', false, { code: 'no-recovery' });
    return image.recovery === null
      ? checkOf('recovery-image', null, { code: 'never-looked-at' })
      : gateOf('recovery-image', asked(input, 'proof'));
  },
  'recovery-handset': (input) => {
    if (!input.image?.recovery) return checkOf('recovery-handset', null, { code: 'made-for-nobody' });
    const check = asked(input, 'handset');
    const { recoveryVersion, least } = input;
    return check.holds === true && recoveryVersion !== null && fallsShort(recoveryVersion, least.recovery)
      ? checkOf('recovery-handset', null, {
          code: 'least-version',
          what: `The recovery ${recoveryVersion}`,
          least: least.recovery!,
        })
      : gateOf('recovery-handset', check);
  },
  'recovery-home': (input) =>
    gateOf('recovery-home', asked({ ...input, partition: input.recoveryHome ?? 'recovery' }, 'home')),
} satisfies Partial<Record<GateId, (input: WriteGateInput) => Check>>;

export const writeGates = (input: WriteGateInput): Check[] =>
  Object.values(WRITE_GATES).map((gate) => gate(input));
