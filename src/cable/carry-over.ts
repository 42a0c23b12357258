import type { CableOrder, CableReport, CableWork } from '@/contracts/cable-view';
import type { ByteSource } from '@/core/bytes/byte-source';
import { checkRange } from '@/core/bytes/byte-source';
import type { Digests } from '@/core/bytes/digest';
import { EternoError } from '@/core/errors';
import type { Progress, Watch } from '@/core/ports';
import { BootloaderClient } from '@/link/bootloader-client';
import type { WireTransport } from '@/link/wire-transport';
import { startFromMemory, writeImage } from '@/link/write-image';

/* An order of the server, carried out by the page that holds the handset's cable. */

/** What the page tells the server, and asks of it. */
export interface Desk {
  /** Resolves when the server knows it. */
  report(report: CableReport): Promise<void>;
  /** Bytes of the image of an order: [from, to). */
  read(order: string, from: number, to: number, signal?: AbortSignal): Promise<Uint8Array<ArrayBuffer>>;
}

/** Progress is told at most this often; that something begins to be written is always told, and first. */
const TELL_MS = 250;
const PHASES = ['send', 'write', 'pieces'] as const;

/**
 * Tells of an order as it goes on. Nothing more goes to the handset before the server knows that a write begins:
 * from then on the partition is in doubt there if this page is closed.
 */
function telling(desk: Desk, order: string, transport: WireTransport) {
  let told: Promise<void> = Promise.resolve();
  let [at, phase] = [0, ''];
  const onProgress = (progress: Progress) => {
    const known = PHASES.find((one) => one === progress.phase);
    if (known === undefined || (Date.now() - at < TELL_MS && known === phase)) return;
    [at, phase] = [Date.now(), known];
    told = told.then(() => desk.report({ order, is: 'under way', ...progress, phase: known }));
    // whoever sends next sees why it failed
    told.catch(() => undefined);
  };
  const asked: WireTransport = {
    silence: transport.silence,
    breaksOff: transport.breaksOff,
    async send(message) {
      await told;
      await transport.send(message);
    },
    receive: (silenceMs) => transport.receive(silenceMs),
    close: () => transport.close(),
  };
  return { onProgress, asked };
}

const imageOf = (desk: Desk, order: string, size: number): ByteSource => ({
  name: 'the image',
  size,
  async read(from, to, signal) {
    checkRange({ name: 'the image', size }, from, to);
    return desk.read(order, from, to, signal);
  },
});

/** These change the handset, or would if it were another one. */
const CHANGES: readonly CableWork['do'][] = ['write', 'start-once', 'set-active', 'restart'];

/** @throws {EternoError} `refused` where another handset is on the cable, or which one was never read */
async function needSerial(client: BootloaderClient, { serial, work }: CableOrder): Promise<void> {
  if (!CHANGES.includes(work.do)) return;
  const said = await client.variable('serialno');
  if (serial === null || said === null)
    throw new EternoError(
      'refused',
      'Its serial was not read in both modes, so this may be another handset. Nothing was sent.',
    );
  if (said !== serial)
    throw new EternoError(
      'refused',
      'Another handset is on this cable: its serial is not the one of this round.',
    );
}

/**
 * @returns what the order asks for; null where it asks for nothing
 * @throws {EternoError} of `writeImage` and `startFromMemory`, `handset-refused`, `link-lost`
 */
async function carried(
  desk: Desk,
  order: CableOrder,
  client: BootloaderClient,
  watch: Watch,
  digests: Digests,
): Promise<unknown> {
  const { work } = order;
  await needSerial(client, order);
  switch (work.do) {
    case 'listed':
      return client.listed();
    case 'variables':
      return client.allVariables();
    case 'variable':
      return client.variable(work.name);
    case 'write': {
      const { partition, slot, image } = work;
      const source = imageOf(desk, order.id, image.sizeBytes);
      return writeImage(client, { partition, slot }, source, watch, { sha256: image.sha256, digests });
    }
    case 'start-once': {
      const { sha256, sizeBytes } = work.image;
      await startFromMemory(client, imageOf(desk, order.id, sizeBytes), watch, { sha256, digests });
      return null;
    }
    case 'set-active':
      await client.command(`set_active:${work.slot}`);
      return null;
    case 'restart':
      await client.restart(work.to);
      return null;
  }
}

/**
 * Carries out one order over an open transport.
 * @returns its value. Errors as the port of the link says them, and `cancelled` where it was stopped
 */
export async function carryOver(
  desk: Desk,
  order: CableOrder,
  transport: WireTransport,
  { digests, signal }: { readonly digests: Digests; readonly signal: AbortSignal },
): Promise<unknown> {
  const { onProgress, asked } = telling(desk, order.id, transport);
  return carried(desk, order, new BootloaderClient(asked), { signal, onProgress }, digests);
}
