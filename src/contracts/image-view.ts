import type { OptionValues } from '@/core/patch/steps-that-run';
import type { Kit } from '@/core/kits/kit';
import type { KeptJudgement } from '@/core/bench/bench';
import type { ImageReport } from '@/core/packages/inspect-image';
import type { FamilyNode, Place } from '@/core/lineage/families';
import type { Lineage } from '@/core/lineage/judge-lineage';
import type { ProofLine } from '@/core/patch/prove-patch';

export interface ImageSummary {
  readonly sha256: string;
  readonly partition: string;
  readonly role: 'stock' | 'patched' | 'recovery' | 'unknown';
  readonly build: string | null;
  readonly product: string | null;
  readonly kit: string | null;
  readonly sizeBytes: number;
  readonly addedAt: number;
}

export interface ImageOriginView {
  readonly kind: string;
  /** Where it came from, in one sentence. */
  readonly sentence: string;
  readonly at: number;
}

/** One image among those of its build. */
export interface FamilyRow extends ImageSummary {
  readonly origins: readonly ImageOriginView[];
  readonly places: readonly Place[];
  /** What it is needed for; null where nothing needs it. */
  readonly neededFor: string | null;
  /** Handsets that it brings back to stock. */
  readonly wayBackOf: readonly string[];
}

/** All images of one build, with where they came from and where they went. */
export interface FamilyView {
  readonly key: string;
  readonly build: string | null;
  readonly product: string | null;
  readonly runsOn: readonly string[];
  readonly roots: readonly FamilyNode[];
  readonly images: readonly FamilyRow[];
}

export interface ImageDetail extends ImageSummary {
  readonly report: ImageReport;
  readonly origins: readonly ImageOriginView[];
  readonly proof: readonly ProofLine[] | null;
  readonly stockSha256: string | null;
  /** What it was found to be against the vault's stock image, where it was patched elsewhere. */
  readonly judged: KeptJudgement | null;
  /** Why the person trusts whoever made it; null where they never said so. */
  readonly trust: string | null;
  /** Images in the vault that were patched from this one. */
  readonly patchedFromIt: readonly ImageSummary[];
  /** What it is by its content, and what does not go together. */
  readonly lineage: Pick<Lineage, 'says' | 'notes'>;
  /** The stock image of the same partition of the build before it, where the vault has one. */
  readonly before: ImageSummary | null;
  /** Where it lies on handsets. */
  readonly places: readonly string[];
  /** Recoveries of the shelf that can be put into it; empty where it holds no recovery. */
  readonly takesRecoveries: readonly { readonly sha256: string; readonly name: string }[];
  /** The recovery that was put into it here; null for every other image. */
  readonly recoveryName: string | null;
}

export interface KitView {
  readonly sha256: string;
  /** As notes in images name it: `id version`. */
  readonly item: string;
  readonly name: string;
  readonly version: string;
  readonly channel: string;
  readonly partitions: readonly string[] | null;
  /** What the person chooses, by name. */
  readonly options: Kit['options'];
  /** What was chosen the last time, as far as this version takes it. */
  readonly chosen: OptionValues;
}
