import { createHash } from 'node:crypto';
import { open } from 'node:fs/promises';
import { concatBytes } from '@/core/bytes/bytes';
import { writeBootImage } from '@/core/formats/boot-image/writer';
import { archiveBytes, makeEntry, makeTrailer, TYPE } from '@/core/formats/cpio/cpio-archive';
import { manifestBytes, payloadHeaderBytes } from '@/core/formats/payload/layout';
import type { Operation, PartitionUpdate } from '@/core/formats/payload/layout';
import { nodePorts } from '@/platform/node/node-ports';
import { noise, programLike } from '@/demo/noise';

/* What the bench works on: an update ZIP of 3 GB in ZIP64, and a boot image with a large ramdisk. */

const MIB = 1024 * 1024;
const BLOCK = 4096;
const RUN_BYTES = 2 * MIB;
const sha256 = (bytes: Uint8Array) => new Uint8Array(createHash('sha256').update(bytes).digest());

/** A boot image of 64 MiB whose ramdisk is 30 MiB unpacked, in lz4. */
export async function largeBoot(): Promise<{ image: Uint8Array; plain: Uint8Array; packed: Uint8Array }> {
  const fields = {
    ino: 1,
    mode: TYPE.file | 0o750,
    nlink: 1,
    uid: 0,
    gid: 0,
    mtime: 0,
    devmajor: 0,
    devminor: 0,
    rdevmajor: 0,
    rdevminor: 0,
  };
  const name = (text: string) => new TextEncoder().encode(text);
  const entries = [makeEntry('070701', false, fields, name('init'), programLike(5, 2 * MIB))];
  for (let i = 0; i < 14; i += 1)
    entries.push(
      makeEntry(
        '070701',
        false,
        { ...fields, ino: i + 2 },
        name(`program-${i}`),
        programLike(10 + i, 2 * MIB),
      ),
    );
  const plain = archiveBytes({ entries, trailer: makeTrailer() });
  const packed = await nodePorts.codecs.encode('lz4-legacy', plain);
  const kernel = noise(3, 30 * MIB);
  const image = writeBootImage({
    version: 4,
    pageSize: BLOCK,
    osVersionField: 0,
    name: '',
    cmdline: '',
    kernel,
    ramdisk: packed,
  });
  const whole = new Uint8Array(64 * MIB);
  whole.set(image);
  return { image: whole, plain, packed };
}

/** Xz blobs of a 64 MiB image in runs of 2 MiB. */
export async function xzRuns(image: Uint8Array): Promise<Uint8Array[]> {
  const blobs: Uint8Array[] = [];
  for (let at = 0; at < image.length; at += RUN_BYTES)
    blobs.push(await nodePorts.codecs.encode('xz', image.subarray(at, at + RUN_BYTES)));
  return blobs;
}

/** A payload's partition of xz runs. */
function partitionOf(
  name: string,
  image: Uint8Array,
  blobs: readonly Uint8Array[],
  firstOffset: number,
): PartitionUpdate {
  let offset = firstOffset;
  const operations = blobs.map((blob, i): Operation => {
    const dataOffset = offset;
    offset += blob.length;
    const dstExtents = [
      {
        startBlock: (i * RUN_BYTES) / BLOCK,
        blockCount: Math.min(RUN_BYTES, image.length - i * RUN_BYTES) / BLOCK,
      },
    ];
    return {
      type: 'REPLACE_XZ',
      dataOffset,
      dataLength: blob.length,
      srcExtents: [],
      dstExtents,
      dataSha256: sha256(blob),
      srcSha256: null,
    };
  });
  return {
    name,
    size: image.length,
    sha256: sha256(image),
    oldSize: null,
    oldSha256: null,
    computesTree: false,
    version: null,
    operations,
  };
}

/**
 * Writes an update ZIP whose payload is `payloadBytes` long, most of it a system partition that nobody takes
 * out.
 */
export async function writeLargePackage(
  path: string,
  boot: Uint8Array,
  bootBlobs: readonly Uint8Array[],
  initBoot: Uint8Array,
  payloadBytes: number,
): Promise<void> {
  const initBlobs = [await nodePorts.codecs.encode('xz', initBoot)];
  const size = (blobs: readonly Uint8Array[]) => blobs.reduce((sum, blob) => sum + blob.length, 0);
  const systemOffset = size(initBlobs) + size(bootBlobs);
  const systemBytes = Math.floor((payloadBytes - systemOffset) / RUN_BYTES) * RUN_BYTES;
  const system: PartitionUpdate = {
    ...partitionOf('system', new Uint8Array(0), [], 0),
    size: systemBytes,
    sha256: null,
    operations: Array.from({ length: systemBytes / RUN_BYTES }, (_, i) => ({
      type: 'REPLACE' as const,
      dataOffset: systemOffset + i * RUN_BYTES,
      dataLength: RUN_BYTES,
      srcExtents: [],
      dstExtents: [{ startBlock: (i * RUN_BYTES) / BLOCK, blockCount: RUN_BYTES / BLOCK }],
      dataSha256: new Uint8Array(32),
      srcSha256: null,
    })),
  };
  const partitions = [
    {
      ...partitionOf('init_boot', initBoot, initBlobs, 0),
      operations: [
        {
          ...partitionOf('init_boot', initBoot, initBlobs, 0).operations[0]!,
          dstExtents: [{ startBlock: 0, blockCount: initBoot.length / BLOCK }],
        },
      ],
    },
    partitionOf('boot', boot, bootBlobs, size(initBlobs)),
    system,
  ];
  const manifest = manifestBytes({
    blockSize: BLOCK,
    minorVersion: 0,
    maxTimestamp: 1_760_000_000,
    partialUpdate: false,
    securityPatchLevel: '2026-11-05',
    partitions,
  });
  const head = concatBytes([
    payloadHeaderBytes({ manifestSize: manifest.length, metadataSignatureSize: 0 }),
    manifest,
    ...initBlobs,
    ...bootBlobs,
  ]);
  await writeStoredZip64(path, 'payload.bin', head, head.length + systemBytes);
}

/**
 * One stored entry in ZIP64, its first bytes given and the rest a hole in the file; CRC left zero, as nothing
 * reads it whole.
 */
async function writeStoredZip64(
  path: string,
  name: string,
  head: Uint8Array,
  entryBytes: number,
): Promise<void> {
  const file = await open(path, 'w');
  const nameBytes = Buffer.from(name);
  const local = Buffer.alloc(30);
  local.writeUInt32LE(0x04034b50, 0);
  local.writeUInt16LE(45, 4);
  local.writeUInt32LE(0xffffffff, 18);
  local.writeUInt32LE(0xffffffff, 22);
  local.writeUInt16LE(nameBytes.length, 26);
  local.writeUInt16LE(20, 28);
  const extra = Buffer.alloc(20);
  extra.writeUInt16LE(1, 0);
  extra.writeUInt16LE(16, 2);
  extra.writeBigUInt64LE(BigInt(entryBytes), 4);
  extra.writeBigUInt64LE(BigInt(entryBytes), 12);
  const start = Buffer.concat([local, nameBytes, extra]);
  const central = Buffer.alloc(46);
  central.writeUInt32LE(0x02014b50, 0);
  central.writeUInt16LE(45, 4);
  central.writeUInt16LE(45, 6);
  central.writeUInt32LE(0xffffffff, 20);
  central.writeUInt32LE(0xffffffff, 24);
  central.writeUInt16LE(nameBytes.length, 28);
  central.writeUInt16LE(20, 30);
  const directory = Buffer.concat([central, nameBytes, extra]);
  const directoryStart = start.length + entryBytes;
  const end64 = Buffer.alloc(56);
  end64.writeUInt32LE(0x06064b50, 0);
  end64.writeBigUInt64LE(44n, 4);
  end64.writeUInt16LE(45, 12);
  end64.writeUInt16LE(45, 14);
  end64.writeBigUInt64LE(1n, 24);
  end64.writeBigUInt64LE(1n, 32);
  end64.writeBigUInt64LE(BigInt(directory.length), 40);
  end64.writeBigUInt64LE(BigInt(directoryStart), 48);
  const locator = Buffer.alloc(20);
  locator.writeUInt32LE(0x07064b50, 0);
  locator.writeBigUInt64LE(BigInt(directoryStart + directory.length), 8);
  locator.writeUInt32LE(1, 16);
  const end = Buffer.alloc(22);
  end.writeUInt32LE(0x06054b50, 0);
  end.writeUInt16LE(1, 8);
  end.writeUInt16LE(1, 10);
  end.writeUInt32LE(directory.length, 12);
  end.writeUInt32LE(0xffffffff, 16);
  await file.write(start, 0, start.length, 0);
  await file.write(head, 0, head.length, start.length);
  const tail = Buffer.concat([directory, end64, locator, end]);
  await file.write(tail, 0, tail.length, directoryStart);
  await file.close();
}
