import { join } from 'node:path';
import type { HandsetProfile } from '@/core/handset/state';
import { PLAIN_PROFILE, PLAIN_STATE } from '@/core/handset/state';
import { StandInStore } from '@/stand-in/stand-in-store';
import { BOOT_BYTES, INIT_BOOT_BYTES } from './demo-images';
import { BUILDS, fingerprintOf, HANDSETS } from './world';

export const STAND_IN_PROFILE = 'north-gate';

export interface StandInImages {
  readonly initBootA: Uint8Array;
  readonly initBootB: Uint8Array;
  readonly bootA: Uint8Array;
  readonly bootB: Uint8Array;
}

/** The live handset of the demo: North gate on slot a with November, unrooted; October and its root on slot b. */
export async function makeStandIn(dataDir: string, images: StandInImages): Promise<void> {
  const handset = HANDSETS[0]!;
  const profile: HandsetProfile = {
    ...PLAIN_PROFILE,
    id: STAND_IN_PROFILE,
    product: handset.installed.device,
    model: handset.model,
    serial: handset.serial,
    bootloader: handset.bootloader,
    baseband: handset.baseband,
    firstApiLevel: handset.firstApiLevel,
    sdk: handset.sdk,
    release: handset.installed.release,
    maxDownloadBytes: 256 * 1024 * 1024,
    rootPartition: handset.rootPartition,
    partitionBytes: { init_boot: INIT_BOOT_BYTES, boot: BOOT_BYTES },
  };
  const [november, october] = [BUILDS.northGate.at(-1)!, BUILDS.northGate.at(-2)!];
  const build = fingerprintOf(november, handset.brand);
  await StandInStore.create(
    join(dataDir, 'stand-in', STAND_IN_PROFILE),
    profile,
    new Map([
      ['init_boot_a', images.initBootA],
      ['init_boot_b', images.initBootB],
      ['boot_a', images.bootA],
      ['boot_b', images.bootB],
    ]),
    {
      ...PLAIN_STATE,
      mode: 'system',
      locked: false,
      active: 'a',
      slots: { a: { bootable: true, proven: true, triesLeft: 3 }, b: { bootable: true, proven: true, triesLeft: 3 } },
      builds: { a: build, b: fingerprintOf(october, handset.brand) },
      running: { slot: 'a', build, rooted: false },
      lastStart: 'started from slot a',
      batteryPercent: 78,
    },
  );
}
