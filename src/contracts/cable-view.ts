import type { ErrorData } from '@/core/errors';
import type { RestartTo } from '@/core/link/handset-link';

/*
 * What the server has a page do that holds a handset's cable, and what the page tells of it (docs/architecture.md,
 * "The browser's cable").
 */

/** An image as it goes over the cable; the page hashes what it sends and holds it against this. */
export interface CableImage {
  readonly sizeBytes: number;
  readonly sha256: string;
}

export type CableWork =
  | { readonly do: 'listed' }
  | { readonly do: 'variables' }
  | { readonly do: 'variable'; readonly name: string }
  | {
      readonly do: 'write';
      readonly partition: string;
      readonly slot: string | null;
      readonly image: CableImage;
    }
  | { readonly do: 'start-once'; readonly image: CableImage }
  | { readonly do: 'set-active'; readonly slot: string }
  | { readonly do: 'restart'; readonly to: RestartTo };

/** One order at a time; `serial` is what the handset on the cable has to say of itself before anything else. */
export interface CableOrder {
  readonly id: string;
  readonly serial: string | null;
  readonly work: CableWork;
}

/** What comes to the page: an order, or that one is to stop. */
export type CableMessage = { readonly order: CableOrder } | { readonly stop: string };

/** What the page tells of an order. */
export type CableReport = { readonly order: string } & (
  | {
      readonly is: 'under way';
      readonly phase: 'send' | 'write' | 'pieces';
      readonly doneBytes: number;
      readonly totalBytes: number;
    }
  | { readonly is: 'done'; readonly value: unknown }
  | { readonly is: 'failed'; readonly error: ErrorData }
);

/** Whether a handset may be worked on over the browser's cable. */
export interface CableSettings {
  /** Switched on in the Store, in UTC milliseconds; null where it is off. */
  readonly on: number | null;
  /** The person agreed to it for this handset. */
  readonly agreed: boolean;
}
