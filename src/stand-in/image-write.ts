import type { ByteSource } from '@/core/bytes/byte-source';

/** A piece of what arrived and where it goes; bytes. */
export interface Stretch {
  readonly from: number;
  readonly at: number;
  readonly length: number;
}

/** An image that arrived and is to be written. */
export interface ImageWrite {
  readonly partition: string;
  readonly source: ByteSource;
  readonly stillLinked: () => boolean;
  /** Lays the bytes over what was there; null from the front, zeros behind. */
  readonly place: readonly Stretch[] | null;
}
