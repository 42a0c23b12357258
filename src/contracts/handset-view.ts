import type { BackupKind, BackupPart } from '@/core/words/backups';
import type { SheetView } from './way-view';
import type { FactGroup } from '@/core/facts/catalogue';
import type { Contradiction, ReportSource, Witness } from '@/core/facts/resolve-facts';
import type { Feasibility } from '@/core/feasibility/feasibility';
import type { Floor } from '@/core/feasibility/floors';
import type { DataVerdict } from '@/core/feasibility/patch-levels';
import type { Readiness } from '@/core/feasibility/readiness';
import type { Fit } from '@/core/fit/fit-package';
import type { RecoveryHome, RootPartition } from '@/core/fit/root-partition';
import type { WriteSlots } from '@/core/fit/write-slots';
import type { HandsetFacts } from '@/core/formats/facts/parse-facts';
import type { Lineage } from '@/core/lineage/judge-lineage';
import type { RootSpan, RootState } from '@/core/schedule/continuity';
import type { NextStep } from '@/core/schedule/what-comes-next';
import type { Certainty, SlotVerdict } from '@/core/slots/slot-map';
import type { WayBack } from '@/core/vault/way-back';
import type { ImageSummary } from './image-view';
import type { Dispute } from '@/core/words/dispute';
import type { WaitingSays } from '@/core/words/schedule';

export interface FactView {
  readonly key: string;
  readonly label: string;
  readonly group: FactGroup;
  readonly value: string;
  readonly source: ReportSource;
  readonly witness: Witness;
  /** Who said it and how, in words. */
  readonly said: string;
  /** The same for a table. */
  readonly saidShort: string;
  readonly at: number;
  readonly claim: boolean;
  readonly stale: boolean;
  readonly contradiction: {
    readonly kind: Contradiction['kind'];
    readonly chosen: boolean;
    readonly others: readonly { readonly value: string; readonly said: string; readonly at: number }[];
  } | null;
  /** How many witnesses speak of it. */
  readonly sources: number;
}

export interface HandsetSummary {
  readonly id: string;
  readonly name: string;
  readonly model: string;
  readonly build: string | null;
  readonly root: RootState;
  readonly link: 'stand-in' | 'hand';
  /** The stand-in it is linked to. */
  readonly profile: string | null;
}

export interface BenchRow extends HandsetSummary {
  readonly spans: readonly RootSpan[];
  readonly builds: readonly { readonly buildId: string; readonly at: number }[];
  /** Rounds that were begun, for the band. */
  readonly begun: readonly { readonly title: string; readonly at: number }[];
  /** What the newest build still waits for by the person's own rule. */
  readonly waits: WaitingSays | null;
  /** The newest build that is not installed, and since when it is out. */
  readonly waiting: { readonly buildId: string; readonly at: number } | null;
  readonly next: NextStep;
  readonly roundId: string | null;
  readonly wayBack: WayBack;
  readonly readiness: Readiness;
  /** Sources that contradict each other, in words; they stop a round. */
  readonly contradictions: readonly Dispute[];
}

/** What lies somewhere, by content. */
export interface Holding {
  readonly sha256: string | null;
  /** Null where the vault does not know it. */
  readonly role: ImageSummary['role'] | null;
  readonly kit: string | null;
  readonly build: string | null;
}

export interface SlotCellView extends Holding {
  readonly slot: string;
  readonly partition: string;
  readonly verdict: SlotVerdict;
  readonly reason: string;
  readonly at: number;
  readonly predicted: (Holding & { readonly at: number }) | null;
  readonly read: (Holding & { readonly at: number }) | null;
  readonly history: readonly (Holding & {
    readonly certainty: Certainty;
    readonly reason: string;
    readonly at: number;
  })[];
}

/** An image of the vault, held against this handset. */
export interface ShelvedImage extends ImageSummary {
  readonly fit: Fit;
  readonly lineage: Pick<Lineage, 'says' | 'notes'>;
  readonly guarded: boolean;
}

export interface PackageFit {
  readonly id: string;
  readonly fileName: string;
  readonly sizeBytes: number;
  readonly incremental: boolean;
  readonly fit: Fit;
}

export interface KitOnShelf {
  /** By which trials speak of it. */
  readonly id: string;
  readonly sha256: string;
  readonly name: string;
  readonly version: string;
  readonly channel: string;
  readonly supports: string;
  readonly trials: readonly TrialView[];
}

export interface RecoveryOnShelf {
  readonly id: string;
  readonly name: string;
  readonly version: string;
  readonly channel: string;
  readonly devices: readonly string[];
  readonly supports: string;
  readonly sha256: string | null;
  readonly note: string;
  readonly trials: readonly TrialView[];
}

export interface TrialView {
  readonly outcome: 'worked' | 'looped' | 'misbehaved';
  readonly build: string;
  readonly handset: string | null;
  readonly note: string;
  readonly at: number;
}

export interface RecordsView {
  readonly backups: readonly {
    readonly what: BackupKind;
    readonly place: string;
    readonly note: string;
    readonly at: number;
    /** What of a whole set is not in it; null where nobody was asked. */
    readonly lacks: readonly BackupPart[] | null;
  }[];
  readonly clocks: readonly { readonly kind: string; readonly endsAt: number; readonly note: string }[];
  readonly dependencies: readonly {
    readonly name: string;
    readonly effect: 'stops' | 'keeps working' | 'unknown';
    readonly needed: boolean;
    readonly note: string;
  }[];
  readonly edges: readonly {
    readonly fromBuild: string;
    readonly toBuild: string;
    readonly allowed: boolean;
    readonly note: string;
  }[];
  /** Which private values are kept, by name; the values never leave the server. */
  readonly secrets: readonly { readonly name: string; readonly ending: string }[];
}

export interface HandsetDetail extends BenchRow {
  readonly facts: readonly FactView[];
  /** Typed facts, as what counts of each tells them. */
  readonly known: HandsetFacts;
  readonly unread: number;
  readonly rootPartition: RootPartition;
  readonly recoveryHome: RecoveryHome;
  readonly writeSlots: WriteSlots;
  readonly slots: readonly SlotCellView[];
  readonly shelf: readonly ShelvedImage[];
  /** Images of the vault that are of other code names: none of them fits. */
  readonly otherImages: number;
  readonly packages: readonly PackageFit[];
  readonly kits: readonly KitOnShelf[];
  readonly recoveries: readonly RecoveryOnShelf[];
  readonly feasibility: Feasibility;
  readonly floors: readonly Floor[];
  readonly data: DataVerdict & {
    readonly image: string | null;
    readonly system: string | null;
    readonly data: string | null;
  };
  /** The root app against the kit that runs, in words; null where nothing was read or said of it. */
  readonly rootApp: { readonly fits: boolean | null; readonly says: readonly string[] } | null;
  readonly records: RecordsView;
  readonly sheet: SheetView;
  readonly rounds: readonly {
    readonly id: string;
    readonly title: string;
    readonly state: string;
    readonly openedAt: number;
    readonly closedAt: number | null;
  }[];
  /** Last four characters; the whole serial never leaves the server. */
  readonly serialEnd: string | null;
}

/** What a pasted text would change, before it changes. */
export interface FactChange {
  readonly key: string;
  readonly label: string;
  readonly before: string | null;
  readonly after: string;
}
export interface FactPreview {
  readonly kind: 'properties' | 'bootloader' | 'nothing';
  readonly changes: readonly FactChange[];
  readonly same: number;
  readonly unread: readonly string[];
  /** Whether its serial is this handset's. */
  readonly serial: 'yes' | 'no' | 'not told';
  /** Why nothing of it will be kept: it is of another handset; null where it may be this one's. */
  readonly against: string | null;
}

/** A partition that was read out, and what is known of it. */
export interface RecognisedFile extends Holding {
  readonly fileName: string;
  readonly partition: string | null;
  readonly slot: string | null;
  readonly sizeBytes: number;
  readonly inVault: boolean;
  /** Names of packages that state this very hash. */
  readonly packages: readonly string[];
  readonly problem: string | null;
  /** In one sentence: what it is, against what was expected there. */
  readonly sentence: string;
}

/** A handset that is kept out of the way. */
export interface PutAwayView {
  readonly id: string;
  readonly name: string;
  readonly model: string;
  readonly putAwayAt: number;
}
