import type { KitOnShelf, RecoveryOnShelf } from './handset-view';
import type { ImageSummary } from './image-view';

export interface StoredImageView extends ImageSummary {
  /** Why it must stay; null where it may go. */
  readonly guardian: string | null;
  readonly state: 'as kept' | 'damaged' | 'missing';
}

export interface StoreView {
  readonly vault: { readonly files: number; readonly bytes: number };
  readonly lastCheck: {
    readonly at: number;
    readonly checked: number;
    readonly bytes: number;
    readonly damaged: readonly string[];
    readonly missing: readonly string[];
    /** Files that no record speaks of. */
    readonly strays: number;
  } | null;
  readonly images: readonly StoredImageView[];
  readonly kits: readonly KitOnShelf[];
  readonly recoveries: readonly RecoveryOnShelf[];
  readonly handsets: readonly { readonly id: string; readonly name: string }[];
  readonly builds: readonly {
    readonly fingerprint: string;
    readonly buildId: string;
    readonly product: string;
  }[];
}

/** What a backup holds and what restoring it would do, before it is done. */
export interface BackupPreview {
  readonly token: string;
  readonly madeAt: number;
  readonly withPrivate: boolean;
  readonly files: number;
  readonly bytes: number;
  readonly tables: readonly {
    readonly name: string;
    readonly rows: number;
    readonly fresh: number;
    readonly differing: number;
  }[];
  /** Files that are in the vault already. */
  readonly filesHere: number;
}
