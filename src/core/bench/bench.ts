import type { HandsetFacts } from '../formats/facts/parse-facts';
import type { ModuleFacts } from '../modules/read-module';
import type { JudgedPatch } from '../judge/judge-patched';
import type { ImageReport } from '../packages/inspect-image';
import type { PackageReport } from '../packages/package-report';
import type { ProofLine } from '../patch/prove-patch';
import type { RootState } from '../schedule/continuity';
import type { SlotCell } from '../slots/slot-map';
import type { Ways } from '../ways/way-kinds';

/*
 * What is kept, as judgements read it: what lies on the shelves for all handsets, and what is known of one.
 * Times are UTC milliseconds.
 */

export interface KnownBuild {
  readonly fingerprint: string;
  readonly device: string;
  readonly product: string;
  readonly buildId: string;
  readonly patchLevel: string | null;
  readonly publishedAt: number;
}

export interface KeptImage {
  readonly sha256: string;
  readonly sizeBytes: number;
  readonly partition: string;
  readonly role: 'stock' | 'patched' | 'recovery' | 'unknown';
  readonly fingerprint: string | null;
  readonly patchLevel: string | null;
  /** The kit that patched it, as `id version`. */
  readonly kit: string | null;
  readonly stockSha256: string | null;
  /** The recovery that was put into it here, over that stock image; null for every other image. */
  readonly recoverySha256: string | null;
  readonly proof: readonly ProofLine[] | null;
  /** What it was found to be against the vault's stock image; null where it was not judged. */
  readonly judged: KeptJudgement | null;
  /** Why the person trusts whoever made it, where it came ready-made; null where they never said so. */
  readonly trust: string | null;
  readonly report: ImageReport;
  readonly addedAt: number;
}

/** An image patched elsewhere, as the server judged it. */
export interface KeptJudgement extends Pick<
  JudgedPatch,
  'belongs' | 'times' | 'by' | 'unexpected' | 'lines' | 'changes'
> {
  /** The stock image that it was held against. */
  readonly stockSha256: string;
}

export interface OpenedPackage {
  readonly id: string;
  readonly fileName: string;
  readonly sizeBytes: number;
  readonly report: PackageReport;
  /**
   * Whether the server opened it itself, or this is what a page made of it: then nothing is proved by its
   * hashes.
   */
  readonly readBy: 'server' | 'page';
  readonly openedAt: number;
}

export interface Supports {
  readonly sdk: readonly [number, number] | null;
  readonly partitions: readonly string[] | null;
}
export interface KeptKit {
  readonly sha256: string;
  readonly kitId: string;
  readonly name: string;
  readonly version: string;
  readonly versionCode: number;
  readonly channel: string;
  readonly supports: Supports;
  /** After so many failed starts in a row it rests all modules; null where it does not, or says nothing. */
  readonly restsAfter: number | null;
  /** Some step of it changes the kernel, as root needs where the system brings its own ramdisk. */
  readonly changesKernel: boolean;
  /** The least version of its app that it states; null where it states none. */
  readonly leastApp: number | null;
  readonly fileName: string;
  readonly sizeBytes: number;
  readonly addedAt: number;
}

export interface KeptRecovery {
  readonly id: string;
  readonly name: string;
  readonly version: string;
  readonly channel: 'stable' | 'preview' | 'unofficial';
  /** Code names. */
  readonly devices: readonly string[];
  readonly sdkFrom: number | null;
  readonly sdkTo: number | null;
  /** The newest level whose storage it opens, as its own image says it; null where it does not say so. */
  readonly opensUpTo: number | null;
  /** Its image in the vault, where it is kept. */
  readonly sha256: string | null;
  readonly note: string;
  readonly addedAt: number;
}

export interface KeptModule {
  readonly sha256: string;
  readonly moduleId: string;
  readonly name: string;
  readonly version: string;
  readonly versionCode: number | null;
  readonly facts: ModuleFacts;
  readonly fileName: string;
  readonly sizeBytes: number;
  readonly addedAt: number;
}

/** How a kit or a recovery did on a build. */
export interface KeptTrial {
  readonly shelf: 'kit' | 'recovery';
  /** `id version` of a kit, the id of a recovery. */
  readonly item: string;
  readonly fingerprint: string;
  readonly handsetId: string | null;
  readonly outcome: 'worked' | 'looped' | 'misbehaved';
  readonly note: string;
  readonly at: number;
}

export interface KeptModuleTrial {
  readonly module: string;
  readonly moduleVersion: string | null;
  readonly fingerprint: string;
  readonly roundId: string | null;
  readonly outcome: 'worked' | 'looped' | 'misbehaved';
  readonly note: string;
  readonly at: number;
}

/** A way down that is known, or known to be refused. */
export interface NotedEdge {
  readonly device: string;
  readonly fromBuild: string;
  readonly toBuild: string;
  readonly allowed: 'yes' | 'no';
  /** Highest bootloader level with which it went through; null where any will do. */
  readonly bootloader: number | null;
  readonly note: string;
}

/** Everything that all handsets are held against. */
export interface Bench {
  readonly builds: readonly KnownBuild[];
  readonly images: readonly KeptImage[];
  readonly packages: readonly OpenedPackage[];
  readonly kits: readonly KeptKit[];
  readonly recoveries: readonly KeptRecovery[];
  readonly trials: readonly KeptTrial[];
  readonly modules: readonly KeptModule[];
  readonly moduleTrials: readonly KeptModuleTrial[];
  /** Builds that the maker's page offers, by fingerprint; null where no page was ever read. */
  readonly offered: ReadonlySet<string> | null;
  /** Hashes that the last integrity check found damaged or gone. */
  readonly damaged: ReadonlySet<string>;
  /** The person's own stretches in which nothing is changed. */
  readonly quiet: readonly { readonly from: number; readonly to: number; readonly what: string }[];
}

/** One handset, as far as it is known. */
export interface Subject {
  readonly handset: {
    readonly id: string;
    readonly name: string;
    readonly model: string;
    /** `hand`: the person does each step and says what they saw. */
    readonly link: 'hand' | 'stand-in';
  };
  readonly facts: {
    readonly typed: HandsetFacts;
    readonly value: (key: string) => string | null;
    /** The newest patch level that has ever run on it, and so opened its data. */
    readonly dataPatchLevel: string | null;
  };
  readonly cells: readonly SlotCell[];
  readonly root: RootState;
  readonly history: { readonly openPutBacks: readonly { readonly kind: string }[] };
  /** Keys, words and habits of its model. */
  readonly ways: Ways;
}
