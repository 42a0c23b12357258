import type { ByteSource } from '@/core/bytes/byte-source';
import { sha256OfSource } from '@/core/bytes/digest';
import type { Proved } from '@/core/bytes/hashed-source';
import { hashedSource, notWhatWasProved } from '@/core/bytes/hashed-source';
import { EternoError, throwIfAborted } from '@/core/errors';
import { splitSparse } from '@/core/formats/sparse/split';
import type { Watch } from '@/core/ports';
import type { BootloaderClient } from './bootloader-client';

export interface WriteTarget {
  /** Without its slot. */
  readonly partition: string;
  /** Needed where the handset has the partition on both slots. */
  readonly slot: string | null;
}

const number = (text: string | null) =>
  text === null || !/^(0x[0-9a-f]+|\d+)$/i.test(text) ? null : Number(text);

/**
 * The partition's full name, after asking the handset whether it has slots.
 * @throws {EternoError} `usage`, `refused`
 */
export async function resolveTarget(
  client: BootloaderClient,
  { partition, slot }: WriteTarget,
): Promise<string> {
  if (!/^[a-z][a-z0-9_]*$/.test(partition))
    throw new EternoError('usage', `"${partition}" is no name of a partition`);
  if (slot !== null && !/^[a-z]$/.test(slot)) throw new EternoError('usage', `"${slot}" is no slot`);
  const hasSlot = (await client.variable(`has-slot:${partition}`)) === 'yes';
  if (hasSlot && slot === null)
    throw new EternoError('usage', `${partition} has slots on this handset: name the one to write`);
  return hasSlot ? `${partition}_${slot}` : partition;
}

/**
 * What the handset does not take at once goes as several sparse images, each laid over what is there. Between two
 * of them it may be stopped.
 */
async function writeInParts(
  client: BootloaderClient,
  name: string,
  source: ByteSource,
  mostBytes: number,
  watch: Watch,
): Promise<void> {
  let doneBytes = 0;
  for (const part of splitSparse(source, mostBytes)) {
    throwIfAborted(watch.signal);
    await client.download(part, {
      ...(watch.signal ? { signal: watch.signal } : {}),
      onProgress: (progress) =>
        watch.onProgress?.({
          phase: doneBytes === 0 ? 'send' : 'pieces',
          doneBytes: Math.min(source.size, doneBytes + progress.doneBytes),
          totalBytes: source.size,
        }),
    });
    watch.onProgress?.({
      phase: 'pieces',
      doneBytes: Math.min(source.size, doneBytes + part.size),
      totalBytes: source.size,
    });
    await client.command(`flash:${name}`);
    doneBytes += part.size;
  }
}

/**
 * Writes an image over the wire: everything that can be asked is asked before the first byte is sent.
 * @param proved what the image was proved to be; the bytes that are sent are hashed and held against it
 *   before the command that writes
 * @param watch its phases are `send`; `write` while the one command that writes is under way; `pieces` from the
 *   first command on that writes a piece
 * @returns the partition's full name
 * @throws {EternoError} `refused` (locked, too large), `bad-hash` (nothing was written), `handset-refused`,
 *   `link-lost` (the partition is then unknown), `cancelled` (before the write began, or between two pieces: the
 *   partition is then half written)
 */
export async function writeImage(
  client: BootloaderClient,
  target: WriteTarget,
  source: ByteSource,
  watch: Watch = {},
  proved: Proved | null = null,
): Promise<string> {
  const name = await resolveTarget(client, target);
  if ((await client.variable('unlocked')) === 'no')
    throw new EternoError('refused', 'the bootloader is locked: nothing can be written');
  const room = number(await client.variable(`partition-size:${name}`));
  if (room !== null && source.size > room)
    throw new EternoError('refused', `${name} holds ${room} bytes, the image has ${source.size}`);
  const most = number(await client.variable('max-download-size'));
  if (most !== null && source.size > most) {
    // the first part is written before the last is read
    const got = proved && (await sha256OfSource(proved.digests, source, watch.signal));
    if (proved && got !== proved.sha256) throw notWhatWasProved(source.name, proved.sha256, got ?? 'nothing');
    await writeInParts(client, name, source, most, watch);
    return name;
  }
  await downloadProved(client, source, watch, proved);
  watch.onProgress?.({ phase: 'write', doneBytes: source.size, totalBytes: source.size });
  await client.command(`flash:${name}`);
  return name;
}

async function downloadProved(
  client: BootloaderClient,
  source: ByteSource,
  watch: Watch,
  proved: Proved | null,
): Promise<void> {
  if (proved === null) return client.download(source, watch);
  const hashed = await hashedSource(source, proved);
  await client.download(hashed, watch);
  hashed.prove();
}

/**
 * Sends an image and has it started from memory, once.
 * @throws {EternoError} `refused`, `unsupported`, `bad-hash`, `handset-refused`, `link-lost`
 */
export async function startFromMemory(
  client: BootloaderClient,
  source: ByteSource,
  watch: Watch = {},
  proved: Proved | null = null,
): Promise<void> {
  if ((await client.variable('unlocked')) === 'no')
    throw new EternoError('refused', 'the bootloader is locked: it starts nothing from memory');
  const most = number(await client.variable('max-download-size'));
  if (most !== null && source.size > most)
    throw new EternoError(
      'unsupported',
      `the handset takes ${most} bytes at once and the image has ${source.size}: it cannot be started from memory`,
    );
  await downloadProved(client, source, watch, proved);
  await client.command('boot');
}
