import { join } from 'node:path';
import type { HandsetProfile } from '@/core/handset/state';
import { PLAIN_STATE } from '@/core/handset/state';
import { StandInStore } from '@/stand-in/stand-in-store';
import { FINGERPRINT, seeded, stockImage } from '../tests/fixtures/images';
import { HILL, OTHER_MONTH } from '../tests/fixtures/stand-in-world';

/* The handset of the bench of whole builds: partitions of real size. */

export const PACKAGE = 'october.zip';
/** The names that the lane world's hands know it by. */
const PROFILE = 'lane';
export const OCTOBER = OTHER_MONTH;
const SEPTEMBER = FINGERPRINT;
const AUGUST = FINGERPRINT.replace('260905', '260805');

const MIB = 1024 * 1024;

/** The images that a kernel starts from, of one build. */
async function rootsOf(fingerprint: string): Promise<Map<string, Uint8Array>> {
  return new Map([
    ['init_boot', await stockImage({ partition: 'init_boot', fingerprint })],
    // user-space flashing runs from its kernel
    ['boot', await stockImage({ partition: 'boot', fingerprint, version: 2, kernel: seeded(4, 9000) })],
  ]);
}

/**
 * Makes the stand-in's folder.
 * @param sizes of its partitions; MiB
 * @returns the root images of October
 */
export async function makeStandIn(
  dir: string,
  sizes: Readonly<Record<string, number>>,
): Promise<ReadonlyMap<string, Uint8Array>> {
  const profile: HandsetProfile = {
    ...HILL,
    id: PROFILE,
    maxDownloadBytes: 256 * MIB,
    partitionBytes: Object.fromEntries(Object.entries(sizes).map(([name, mib]) => [name, mib * MIB])),
    logical: ['system', 'product', 'vendor', 'system_ext'],
    builds: Object.fromEntries(
      [AUGUST, SEPTEMBER, OCTOBER].map((build) => [
        build,
        {
          patchLevel: `2026-${build.split('/')[3]!.slice(6, 8)}-05`,
          sdk: 36,
          index: 0,
          bootloader: 1,
        },
      ]),
    ),
  };
  const onDisk = new Map<string, Uint8Array>();
  for (const slot of ['a', 'b'] as const) {
    const roots = await rootsOf(slot === 'a' ? SEPTEMBER : AUGUST);
    for (const name of Object.keys(sizes))
      onDisk.set(`${name}_${slot}`, roots.get(name) ?? new Uint8Array(4096));
  }
  const slot = { bootable: true, proven: true, triesLeft: 3 };
  await StandInStore.create(join(dir, 'stand-in', PROFILE), profile, onDisk, {
    ...PLAIN_STATE,
    mode: 'system',
    locked: false,
    active: 'a',
    slots: { a: slot, b: slot },
    builds: { a: SEPTEMBER, b: AUGUST },
    running: { slot: 'a', build: SEPTEMBER, rooted: false },
    floors: { bootloader: 1, fuse: 1, index: 0 },
    data: { ...PLAIN_STATE.data, committedBy: SEPTEMBER, keyLevel: '2026-09-05' },
  });
  return rootsOf(OCTOBER);
}
