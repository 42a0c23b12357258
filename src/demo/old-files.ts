import { utimes } from 'node:fs/promises';
import { join } from 'node:path';
import { memorySource } from '@/core/bytes/byte-source';
import type { Kit } from '@/core/kits/kit';
import { patchImage } from '@/core/patch/patch-image';
import { nodePorts } from '@/platform/node/node-ports';
import type { StandInStore } from '@/stand-in/stand-in-store';

/* What lies about on the storage of a handset that was worked on before: files whose names say too little. */

const DAY_MS = 86_400_000;

export interface OldFiles {
  /** The partition that carries root, and its stock image of an older build. */
  readonly partition: string;
  readonly stock: Uint8Array;
  readonly kit: Kit;
  readonly kitZip: Uint8Array;
  /** UTC milliseconds. */
  readonly now: number;
}

/** Lays them there with the times of months ago. */
export async function layOldFiles(
  store: StandInStore,
  { partition, stock, kit, kitZip, now }: OldFiles,
): Promise<void> {
  const patched = await patchImage(memorySource(stock, partition), kit, nodePorts);
  const files = [
    [`/storage/${partition}.img`, stock, 94],
    [`/storage/Download/${partition}-patched.img`, patched.bytes, 93],
    [`/storage/Download/${partition}-patched-1.img`, patched.bytes, 62],
    ['/storage/Download/kit.zip', kitZip, 94],
  ] as const;
  for (const [path, bytes, days] of files) {
    await store.pushFile(path, bytes);
    const at = new Date(now - days * DAY_MS);
    await utimes(join(store.dir, 'files', encodeURIComponent(path)), at, at);
  }
}
