import { describe, expect, it } from 'vitest';
import { memorySource } from '@/core/bytes/byte-source';
import { EternoError } from '@/core/errors';
import { lookInside } from '@/core/handset/look-inside';
import { BootloaderClient } from '@/link/bootloader-client';
import { openUsbTransport } from '@/link/usb-transport';
import { writeImage } from '@/link/write-image';
import { nodeDigests } from '@/platform/node/node-digests';
import { nodePorts } from '@/platform/node/node-ports';
import { codeOf } from '../fixtures/expect-error';
import { FINGERPRINT, seeded, stockImage } from '../fixtures/images';
import { sha256 } from '../fixtures/server-world';
import { HILL, OTHER_MONTH } from '../fixtures/stand-in-world';
import { MemoryHandset } from '../fixtures/usb/memory-handset';
import type { UsbFaults } from '../fixtures/usb/usb-stand-in';
import { UsbStandIn } from '../fixtures/usb/usb-stand-in';
import { inBootloader, QUICK, SPLITS, writeOver, WRONG, WRONG_LATE } from '../fixtures/usb/wrong-cables';

/* The wire protocol over USB: the same messages as bulk transfers, and all that a cable does wrong. */

const image = await stockImage({ partition: 'init_boot', fingerprint: FINGERPRINT });

async function handsetOnCable(faults: Partial<UsbFaults> = {}, change: Partial<typeof HILL> = {}) {
  const handset = await new MemoryHandset(
    { ...HILL, ...change },
    { ...inBootloader(FINGERPRINT), builds: { a: FINGERPRINT, b: OTHER_MONTH } },
    new Map(['init_boot_a', 'init_boot_b'].map((name) => [name, new Uint8Array(256 * 1024)])),
    (bytes, partition) => lookInside(memorySource(bytes, partition), partition, nodePorts),
  ).settle();
  const usb = new UsbStandIn(handset, faults);
  const client = async () => new BootloaderClient(await openUsbTransport(await usb.requestDevice(), QUICK));
  return { handset, usb, client };
}
const lies = ({ partitions }: MemoryHandset, bytes = image) =>
  sha256(partitions.get('init_boot_a')!.subarray(0, bytes.length));
const TARGET = { partition: 'init_boot', slot: 'a' };
const proved = (bytes: Uint8Array) => ({ sha256: sha256(bytes), digests: nodeDigests });

describe('a handset on the USB cable', () => {
  it.each([8, 16, 17, 64, 512])('answers in packets of %d bytes', async (packetBytes) => {
    const { client } = await handsetOnCable({ packetBytes });
    const on = await client();
    expect(await on.variable('product')).toBe('hill');
    expect(await on.variable('no-such')).toBeNull();
    expect(await on.allVariables()).toContain('serialno:SERIAL42');
    expect(await on.listed()).toMatchObject({ mode: 'bootloader', unlocked: true });
  });
  it('answers with messages that fill their packets, with an empty one behind them or without', async () => {
    // OKAYhill is eight bytes long
    for (const noEmptyPacket of [false, true])
      for (const packetBytes of [4, 8]) {
        const { client } = await handsetOnCable({ packetBytes, noEmptyPacket });
        const on = await client();
        expect(await on.variable('product')).toBe('hill');
        expect(await on.variable('product')).toBe('hill');
        expect(await on.allVariables()).toContain('product:hill');
      }
  });
  it('gets what it does not take at once in sparse pieces, and may be stopped between two of them', async () => {
    const bytes = seeded(4, 200_000);
    const { handset, usb, client } = await handsetOnCable({}, { maxDownloadBytes: 64 * 1024 });
    await writeImage(await client(), TARGET, memorySource(bytes, 'x'), {}, proved(bytes));
    expect(lies(handset, bytes)).toBe(sha256(bytes));
    expect(usb.commands.filter((one) => one.startsWith('flash:'))).toHaveLength(4);
    const stop = new AbortController();
    const other = seeded(5, 200_000);
    const phases: string[] = [];
    const code = await codeOf(async () =>
      writeImage(
        await client(),
        TARGET,
        memorySource(other, 'x'),
        {
          signal: stop.signal,
          onProgress({ phase }) {
            phases.push(phase);
            if (phase === 'pieces') stop.abort(new EternoError('cancelled', 'Stopped on request.'));
          },
        },
        proved(other),
      ),
    );
    expect(code).toBe('cancelled');
    expect(phases).toContain('pieces');
    // the piece of then is there whole, and no more of it
    expect(handset.writes).toHaveLength(5);
    expect(lies(handset, bytes)).not.toBe(sha256(bytes));
    expect(lies(handset, other)).not.toBe(sha256(other));
  });
  it('hears a stop only when a download is over: the next command would be taken for data', async () => {
    const { handset, usb, client } = await handsetOnCable();
    const stop = new AbortController();
    const on = await client();
    const code = await codeOf(() =>
      writeImage(
        on,
        TARGET,
        memorySource(image, 'x'),
        { signal: stop.signal, onProgress: () => stop.abort(new EternoError('cancelled', 'x')) },
        proved(image),
      ),
    );
    expect(code).toBe('cancelled');
    expect(usb.commands.some((one) => one.startsWith('flash:'))).toBe(false);
    expect(handset.writes).toEqual([]);
    expect(await on.variable('product')).toBe('hill');
  });
  it('is written nothing that is not what was proved', async () => {
    const { handset, client } = await handsetOnCable();
    const other = { ...proved(image), sha256: sha256(seeded(1, 10)) };
    expect(await codeOf(async () => writeImage(await client(), TARGET, memorySource(image), {}, other))).toBe(
      'bad-hash',
    );
    expect(handset.writes).toEqual([]);
  });
});

describe('what a cable does wrong', () => {
  const lookAt = (bytes: Uint8Array, partition: string) =>
    lookInside(memorySource(bytes, partition), partition, nodePorts);
  const over = (faults: Partial<UsbFaults>) =>
    writeOver(faults, { profile: HILL, digests: nodeDigests, lookAt });
  it.each(WRONG)('%s: the line is lost, and nothing was written', async (_what, faults) => {
    expect(await over(faults)).toMatchObject({ end: 'link-lost', writes: 0, flashed: false, isThere: false });
  });
  it.each(WRONG_LATE)('%s: the line is lost, and what lies there nobody knows', async (_what, faults) => {
    expect(await over(faults)).toMatchObject({ end: 'link-lost', flashed: true, phase: 'write' });
  });
  it.each(SPLITS)('nothing by packets and transfers of other sizes: %j', async (faults) => {
    expect(await over(faults)).toMatchObject({ end: 'written', writes: 1, isThere: true });
  });
  it('stays lost for whoever goes on with it', async () => {
    const { client } = await handsetOnCable({ unplugAtAnswer: 1 });
    const on = await client();
    expect(await codeOf(() => on.variable('product'))).toBe('link-lost');
    expect(await codeOf(() => on.variable('product'))).toBe('link-lost');
  });
  it('pulled while it writes: part of it is there', async () => {
    const { handset, usb, client } = await handsetOnCable();
    const on = await client();
    const code = await codeOf(() =>
      writeImage(
        on,
        TARGET,
        memorySource(image),
        { onProgress: ({ phase }) => phase === 'write' && setTimeout(() => usb.unplug(), 8) },
        proved(image),
      ),
    );
    expect(code).toBe('link-lost');
    await expect.poll(() => handset.writes).toEqual(['init_boot_a']);
    expect(handset.state.images['init_boot_a']!.sha256).not.toBe(sha256(image));
  });
  it('held by another program, shut by its driver, or of another kind is said as what it is', async () => {
    const reason = async (faults: Partial<UsbFaults>) => {
      const { usb } = await handsetOnCable(faults);
      return openUsbTransport(await usb.requestDevice(), QUICK).catch(
        (thrown: EternoError) => `${thrown.code} ${thrown.details?.['reason']}`,
      );
    };
    expect(await reason({ claimed: true })).toBe('link-lost claimed');
    expect(await reason({ shut: true })).toBe('link-lost not-opened');
    const { usb } = await handsetOnCable();
    const device = await usb.requestDevice();
    const other = new Proxy(device, {
      get: (of, key) => (key === 'configurations' ? [] : Reflect.get(of, key)),
    });
    expect(await codeOf(() => openUsbTransport(other, QUICK))).toBe('unsupported');
  });
});
