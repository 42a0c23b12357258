import type { CableMessage, CableReport } from '@/contracts/cable-view';
import type { ErrorData } from '@/core/errors';
import { EternoError, toEternoError } from '@/core/errors';
import type { Usb } from '@/core/link/usb-port';
import { browserDigests } from '@/platform/browser/browser-digests';
import { CableHolder } from './cable-holder';
import type { Desk } from './carry-over';

/*
 * The cable that this page of the browser holds: one handset, from when the person connects it until they give it
 * back or close the page. It outlives the room that shows it.
 */

export interface PageCable {
  /** The handset that is held; null where none is. */
  readonly handsetId: string | null;
  /** What the device on the cable calls itself; null while it is off the cable, as during a restart. */
  readonly device: string | null;
  readonly working: boolean;
  /** Why it ended, where the person did not end it. */
  readonly error: ErrorData | null;
}

const NOTHING: PageCable = { handsetId: null, device: null, working: false, error: null };
let current: PageCable = NOTHING;
let end: () => void = () => undefined;
const listeners = new Set<() => void>();

function become(change: Partial<PageCable>): void {
  current = { ...current, ...change };
  for (const listener of listeners) listener();
}

export const pageCable = (): PageCable => current;
export const noCable = (): PageCable => NOTHING;
export function onPageCable(listener: () => void): () => void {
  listeners.add(listener);
  return () => void listeners.delete(listener);
}

type WithEvents = Usb & Pick<EventTarget, 'addEventListener' | 'removeEventListener'>;
/** The browser's own USB interface; null in a browser that has none for pages. */
export const browserUsb = (): WithEvents | null =>
  typeof navigator === 'undefined' ? null : ((navigator as { usb?: WithEvents }).usb ?? null);

/** The name of this page, for as long as it stands. */
let page: string | null = null;
export const pageName = (): string => (page ??= crypto.randomUUID());

function deskOf(handsetId: string): Desk {
  const about = { handset: handsetId, page: pageName() };
  const address = (what: string, more: Readonly<Record<string, string>> = {}) =>
    `/api/cable/${what}?${new URLSearchParams({ ...about, ...more }).toString()}`;
  const answered = async (response: Response): Promise<Response> => {
    if (response.ok) return response;
    const { error } = (await response.json()) as { error: ErrorData };
    throw EternoError.fromData(error);
  };
  return {
    async report(report: CableReport) {
      const headers = { 'content-type': 'application/json' };
      await answered(
        await fetch(address('report'), { method: 'POST', headers, body: JSON.stringify(report) }),
      );
    },
    async read(order, from, to, signal) {
      const range = { order, from: String(from), to: String(to) };
      const init = { cache: 'no-store', ...(signal ? { signal } : {}) } as const;
      const response = await answered(await fetch(address('bytes', range), init));
      return new Uint8Array(await response.arrayBuffer());
    },
  };
}

/** Listens for orders. @returns the stream, once the server counts this page as the one that holds it */
function listen(handsetId: string, holder: CableHolder, onGone: () => void): Promise<EventSource> {
  const about = new URLSearchParams({ handset: handsetId, page: pageName() });
  const events = new EventSource(`/api/cable/hold?${about.toString()}`);
  events.onmessage = ({ data }) => holder.take(JSON.parse(String(data)) as CableMessage);
  return new Promise((resolve, reject) => {
    events.onopen = () => {
      events.onerror = () => {
        events.close();
        onGone();
      };
      resolve(events);
    };
    events.onerror = () => {
      events.close();
      reject(new EternoError('link-lost', 'Eterno’s server does not let this page hold the cable.'));
    };
  });
}

/** A page that is left in the middle of a write leaves the partition in doubt: the browser asks first. */
const askFirst = (event: BeforeUnloadEvent) => event.preventDefault();

/**
 * Has the person choose the handset in its bootloader, and holds its cable. Has to be called by a press.
 * @param mayHold asks the server whether this page may
 * @throws {EternoError} `unsupported` in a browser without USB for pages; of `CableHolder.choose`; what
 *   `mayHold` throws
 */
export async function connectCable(handsetId: string, mayHold: () => Promise<void>): Promise<void> {
  const usb = browserUsb();
  if (usb === null) throw new EternoError('unsupported', 'This browser has no USB for pages.');
  releaseCable();
  const holder = new CableHolder({
    usb,
    digests: browserDigests,
    desk: deskOf(handsetId),
    onChange({ device, working }) {
      become({ device, working });
      window[working ? 'addEventListener' : 'removeEventListener']('beforeunload', askFirst as EventListener);
    },
  });
  const gone = (event: Event) => holder.gone((event as Event & { device?: unknown }).device);
  usb.addEventListener('disconnect', gone);
  let events: EventSource | null = null;
  end = () => {
    events?.close();
    usb.removeEventListener('disconnect', gone);
    holder.release();
    end = () => undefined;
    become({ ...NOTHING, error: current.error });
  };
  try {
    await holder.choose();
    await mayHold();
    events = await listen(handsetId, holder, () => {
      become({
        error: new EternoError(
          'link-lost',
          'Eterno’s server ended the hold on this cable. Connect it again.',
        ).toData(),
      });
      end();
    });
    become({ handsetId, error: null });
  } catch (thrown) {
    end();
    throw toEternoError(thrown);
  }
}

/** Gives the cable back; what runs over it is lost. */
export function releaseCable(): void {
  become({ error: null });
  end();
}
