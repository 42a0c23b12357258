import type { GateId } from '../words/gates';
import { fitPackage } from '../fit/fit-package';
import type { Judged } from '../packages/recovery-claim';
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
  readonly recovery: { readonly is: Judged; readonly forHandset: Judged } | null;
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
  readonly kitSupports: { readonly name: string; readonly sdk: readonly [number, number] | null } | null;
  readonly sdk: number | null;
}

/** The checks of one image, of where it goes and of the handset it goes to (docs/method.md, "Gates"). */
export const WRITE_GATES = {
  'image-build': ({ image, installed }) => {
    if (image === null) return checkOf('image-build', false, { code: 'no-image' });
    const claim = {
      fingerprint: image.fingerprint,
      incrementalVersion: null,
      patchLevel: image.patchLevel,
      devices: [],
    };
    const { verdict, reason } = fitPackage(claim, installed);
    return checkOf('image-build', verdict === "can't tell" ? null : verdict === 'exact', {
      code: 'fit',
      reason,
    });
  },
  'image-partition': ({ image, partition }) =>
    checkOf(
      'image-partition',
      image === null || partition === null ? null : image.partition === partition,
      image === null
        ? { code: 'no-image' }
        : { code: 'partitions', image: image.partition, wanted: partition },
    ),
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
  'image-proof': ({ image }) => {
    if (image === null) return checkOf('image-proof', null, { code: 'no-image' });
    const { role, proof } = image;
    const stock = role === 'stock';
    return checkOf('image-proof', stock || (proof !== null && proof.held === proof.of), {
      code: 'proof',
      stock,
      proof,
    });
  },
  'stock-kept': ({ stockKept }) => checkOf('stock-kept', stockKept, { code: 'stock-kept', kept: stockKept }),
  unlocked: ({ unlocked }) => checkOf('unlocked', unlocked, { code: 'lock-state', unlocked }),
  slot: ({ activeSlot, slotCount }) =>
    checkOf('slot', slotCount === 1 || activeSlot !== null ? true : null, {
      code: 'active-slot',
      slot: activeSlot,
      slotCount,
    }),
  room: ({ image, partitionBytes }) =>
    image === null || partitionBytes === null
      ? checkOf('room', null, { code: 'room-unread' })
      : checkOf('room', image.sizeBytes <= partitionBytes, {
          code: 'room',
          image: image.sizeBytes,
          partition: partitionBytes,
        }),
  kit: ({ kitSupports, sdk }) => {
    if (kitSupports === null) return checkOf('kit', null, { code: 'no-kit' });
    const { name, sdk: levels } = kitSupports;
    const fits = levels === null || sdk === null ? null : sdk >= levels[0] && sdk <= levels[1];
    return checkOf('kit', fits, { code: 'kit-levels', kit: name, levels, sdk });
  },
  battery: ({ batteryOk }) => checkOf('battery', batteryOk, { code: 'battery', enough: batteryOk }),
  'recovery-image': ({ image }) => {
    if (image === null) return checkOf('recovery-image', false, { code: 'no-recovery' });
    const { recovery } = image;
    return recovery === null
      ? checkOf('recovery-image', null, { code: 'never-looked-at' })
      : checkOf('recovery-image', recovery.is.holds, { code: 'recovery', says: recovery.is.says });
  },
  'recovery-handset': ({ image }) =>
    image?.recovery
      ? checkOf('recovery-handset', image.recovery.forHandset.holds, {
          code: 'recovery',
          says: image.recovery.forHandset.says,
        })
      : checkOf('recovery-handset', null, { code: 'made-for-nobody' }),
  'recovery-home': ({ recoveryHome }) =>
    checkOf('recovery-home', recoveryHome === null ? null : recoveryHome === 'recovery', {
      code: 'recovery-home',
      home: recoveryHome,
    }),
} satisfies Partial<Record<GateId, (input: WriteGateInput) => Check>>;

export const writeGates = (input: WriteGateInput): Check[] =>
  Object.values(WRITE_GATES).map((gate) => gate(input));
