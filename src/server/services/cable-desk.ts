import 'server-only';
import { randomUUID } from 'node:crypto';
import type { CableMessage, CableReport, CableWork } from '@/contracts/cable-view';
import type { ByteSource } from '@/core/bytes/byte-source';
import { checkRange } from '@/core/bytes/byte-source';
import { EternoError, throwIfAborted } from '@/core/errors';
import type { Watch } from '@/core/ports';

/*
 * Handsets whose cable a page of the browser holds, and the orders that it carries out for the server. One page
 * holds a handset; when it is closed, what it was doing is lost (docs/architecture.md, "The browser's cable").
 */

interface Pending {
  readonly source: ByteSource | null;
  readonly onProgress: Watch['onProgress'];
  settle(end: { readonly value: unknown } | { readonly error: EternoError }): void;
}
interface Held {
  readonly page: string;
  readonly send: (message: CableMessage) => void;
  /** Ends it from here. */
  readonly end: () => void;
  readonly orders: Map<string, Pending>;
}

const kept = globalThis as { eternoCables?: Map<string, Held> };
const cables = () => (kept.eternoCables ??= new Map<string, Held>());

export const isCableHeld = (handsetId: string): boolean => cables().has(handsetId);

const elsewhere = () =>
  new EternoError(
    'conflict',
    'Another page of Eterno holds the cable of this handset. Give it back there, or close that page.',
  );

/** @throws {EternoError} `conflict` where another page holds it */
export function needFree(handsetId: string, page: string): void {
  const held = cables().get(handsetId);
  if (held && held.page !== page) throw elsewhere();
}

/**
 * A page begins to hold a handset's cable.
 * @param onEnd is called where it ends from here, not from the page
 * @returns what ends it: orders that are under way are lost then
 * @throws {EternoError} `conflict` where another page holds it
 */
export function holdCable(
  handsetId: string,
  page: string,
  send: Held['send'],
  onEnd: () => void = () => undefined,
): () => void {
  needFree(handsetId, page);
  const before = cables().get(handsetId);
  before?.orders.forEach(lose);
  const orders: Held['orders'] = new Map();
  const leave = () => {
    if (cables().get(handsetId) === held) cables().delete(handsetId);
    orders.forEach(lose);
  };
  const end = () => {
    leave();
    onEnd();
  };
  const held: Held = { page, send, end, orders };
  cables().set(handsetId, held);
  return leave;
}

const lose = ({ settle }: Pending) =>
  settle({
    error: new EternoError('link-lost', 'The page that held its cable was closed or reloaded.'),
  });

/** Takes every handset off the pages that hold them. */
export function dropCables(): void {
  for (const held of cables().values()) held.end();
}

/** @throws {EternoError} `refused` where no page holds it; `conflict` where another one does */
function heldBy(handsetId: string, page: string): Held {
  const held = cables().get(handsetId);
  if (!held) throw new EternoError('refused', 'No page holds the cable of this handset.');
  needFree(handsetId, page);
  return held;
}

/** @throws {EternoError} `refused` where this page has no such order */
function orderOf(handsetId: string, page: string, id: string): Pending {
  const pending = heldBy(handsetId, page).orders.get(id);
  if (!pending) throw new EternoError('refused', 'This page has no such order any more.');
  return pending;
}

/** What the page tells of an order. @throws {EternoError} `refused`, `conflict` */
export function reportCable(handsetId: string, page: string, report: CableReport): void {
  const pending = orderOf(handsetId, page, report.order);
  if (report.is === 'under way') {
    const { phase, doneBytes, totalBytes } = report;
    return pending.onProgress?.({ phase, doneBytes, totalBytes });
  }
  pending.settle(
    report.is === 'done' ? { value: report.value } : { error: EternoError.fromData(report.error) },
  );
}

/** Bytes of the image of an order: [from, to). @throws {EternoError} `refused`, `conflict`, `truncated` */
export async function cableBytes(
  handsetId: string,
  page: string,
  { order, from, to }: { readonly order: string; readonly from: number; readonly to: number },
): Promise<Uint8Array<ArrayBuffer>> {
  const { source } = orderOf(handsetId, page, order);
  if (source === null) throw new EternoError('refused', 'This order sends no image.');
  checkRange(source, from, to);
  return source.read(from, to);
}

/** An order, and what it is carried out with. */
export interface Ordered extends Watch {
  readonly serial: string | null;
  readonly work: CableWork;
  readonly source?: ByteSource;
}

/** A page ends what its handset leaves unanswered before that: it is asleep, or frozen. */
const SILENT_MS = 240_000;
const wentSilent = () =>
  new EternoError('link-lost', 'The page that holds its cable does not answer any more.');

/**
 * Has the page that holds a handset's cable carry out an order.
 * @returns what the page answers, as it came
 * @throws {EternoError} `link-lost` where no page holds it, or it is closed before the order is over; `cancelled`;
 *   what the page says
 */
export function orderOver(
  handsetId: string,
  { serial, work, source, signal, onProgress }: Ordered,
  silentMs = SILENT_MS,
): Promise<unknown> {
  throwIfAborted(signal);
  const held = cables().get(handsetId);
  if (!held) throw new EternoError('link-lost', 'No page holds the cable of this handset.');
  const id = randomUUID();
  const stop = () => held.send({ stop: id });
  let silent: ReturnType<typeof setTimeout> | undefined;
  return new Promise<unknown>((resolve, reject) => {
    const listen = () => {
      clearTimeout(silent);
      silent = setTimeout(() => reject(wentSilent()), silentMs);
    };
    held.orders.set(id, {
      source: source ?? null,
      onProgress(progress) {
        listen();
        onProgress?.(progress);
      },
      settle: (end) => ('error' in end ? reject(end.error) : resolve(end.value)),
    });
    listen();
    signal?.addEventListener('abort', stop, { once: true });
    held.send({ order: { id, serial, work } });
  }).finally(() => {
    clearTimeout(silent);
    held.orders.delete(id);
    signal?.removeEventListener('abort', stop);
  });
}
