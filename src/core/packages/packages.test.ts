import { describe, expect, it } from 'vitest';
import { answersProperly, codeOf, errorOf } from '../../../tests/fixtures/expect-error';
import {
  entry,
  FINGERPRINT,
  kitZip,
  seeded,
  stockImage,
  utf8,
  zipBytes,
} from '../../../tests/fixtures/images';
import { nodePorts } from '../../platform/node/node-ports';
import { countingSource, memorySource } from '../bytes/byte-source';
import { concatBytes } from '../bytes/bytes';
import { sha256Hex } from '../bytes/digest';
import { memorySink } from '../bytes/image-sink';
import { writePayload } from '../formats/payload/writer';
import { LIMITS } from '../limits';
import { identifyImage } from './bare-image';
import { inspectImage } from './inspect-image';
import { listRamdisk, readRamdiskFile } from './list-ramdisk';
import { openPackage } from './open-package';

const open = (bytes: Uint8Array, name = 'package.zip') => openPackage(memorySource(bytes, name), nodePorts);
const METADATA = [
  `post-build=${FINGERPRINT}`,
  'post-build-incremental=9001',
  'post-security-patch-level=2026-09-05',
  'pre-device=hill|hill_two',
].join('\n');

async function payloadOf(image: Uint8Array) {
  const blocks = image.length / 4096;
  return writePayload(
    [{ name: 'init_boot', bytes: image, runs: [{ type: 'REPLACE_XZ', startBlock: 0, blockCount: blocks }] }],
    { blockSize: 4096, maxTimestamp: 5, securityPatchLevel: '2026-09-05' },
    nodePorts,
  );
}

interface ZipChange {
  readonly properties?: Readonly<Record<string, string>>;
  readonly metadata?: string;
  readonly deflated?: boolean;
}
async function updateZip(change: ZipChange = {}): Promise<{ zip: Uint8Array; image: Uint8Array }> {
  const image = await stockImage();
  const payload = await payloadOf(image);
  const bytes = concatBytes(payload.parts);
  const properties = {
    FILE_SIZE: String(bytes.length),
    METADATA_SIZE: String(payload.metadataBytes),
    METADATA_HASH: Buffer.from(payload.metadataSha256).toString('base64'),
    ...change.properties,
  };
  const text = Object.entries(properties)
    .map(([key, value]) => `${key}=${value}`)
    .join('\n');
  const members = {
    'META-INF/com/android/metadata': change.metadata ?? METADATA,
    'payload.bin': bytes,
    'payload_properties.txt': text,
  };
  return { image, zip: await zipBytes(members, change.deflated ? [] : ['payload.bin']) };
}

describe('update packages', () => {
  it('say what they are, for whom, and what is in them', async () => {
    const { zip, image } = await updateZip();
    const { report } = await open(zip);
    expect(report).toMatchObject({ kind: 'update-zip', incremental: false });
    expect(report.build).toMatchObject({
      fingerprint: FINGERPRINT,
      buildId: 'HC1.260905.007',
      incrementalVersion: '9001',
      patchLevel: '2026-09-05',
      devices: ['hill', 'hill_two'],
      sourceFingerprint: null,
    });
    expect(report.images).toEqual([
      {
        partition: 'init_boot',
        crc32: null,
        size: image.length,
        sha256: await sha256Hex(nodePorts.digests, image),
        needsSource: false,
        source: null,
        unsupported: [],
        slots: null,
        member: null,
      },
    ]);
    expect(report.evidence.join()).toContain('payload.bin');
    expect(report.warnings).toEqual([]);
  });

  it('give their image, verified', async () => {
    const { zip, image } = await updateZip();
    const sink = memorySink('init_boot');
    const taken = await (await open(zip)).take('init_boot', sink);
    expect(sink.bytes).toEqual(image);
    expect(taken.verified).toBe(true);
  });

  it('are told incremental by the build they start from', async () => {
    const { zip } = await updateZip({ metadata: `${METADATA}\npre-build=club/hill/x` });
    expect((await open(zip)).report).toMatchObject({
      incremental: true,
      build: { sourceFingerprint: 'club/hill/x' },
    });
  });

  it('without metadata or properties are taken, and it is said', async () => {
    const payload = concatBytes((await payloadOf(await stockImage())).parts);
    const { report } = await open(await zipBytes({ 'payload.bin': payload }, ['payload.bin']));
    expect(report.build.fingerprint).toBeNull();
    expect(report.build.patchLevel).toBe('2026-09-05');
    expect(report.warnings).toHaveLength(2);
  });

  it.each([
    ['another metadata hash', { METADATA_HASH: 'AAAA' }, 'bad-hash'],
    ['another metadata size', { METADATA_SIZE: '5' }, 'bad-field'],
    ['a longer payload than there is', { FILE_SIZE: '99999999' }, 'truncated'],
    ['a shorter payload than there is', { FILE_SIZE: '5' }, 'bad-field'],
  ] as const)('that state %s are refused', async (_what, properties, code) => {
    const { zip } = await updateZip({ properties });
    expect(await codeOf(() => open(zip))).toBe(code);
  });

  it('with a deflated payload are refused, never misread', async () => {
    const { zip } = await updateZip({ deflated: true });
    expect(await codeOf(() => open(zip))).toBe('unsupported');
  });

  it('may stand bare', async () => {
    const payload = concatBytes((await payloadOf(await stockImage())).parts);
    expect((await open(payload)).report).toMatchObject({ kind: 'update-zip', build: { fingerprint: null } });
  });

  it('cut anywhere are refused or answered properly', async () => {
    const { zip } = await updateZip();
    for (let cut = 8; cut < zip.length; cut += Math.ceil(zip.length / 60))
      expect(await codeOf(() => open(zip.subarray(0, cut)))).toMatch(/truncated|bad-magic|corrupt|bad-field/);
  });

  it('with bytes before them are still read', async () => {
    const { zip } = await updateZip();
    expect((await open(concatBytes([seeded(1, 5000), zip]))).report.kind).toBe('update-zip');
  });
});

describe('other files', () => {
  it('that are one image are told by what is in them', async () => {
    const { report } = await open(await stockImage(), 'renamed.bin');
    expect(report).toMatchObject({
      kind: 'bare-image',
      build: { fingerprint: FINGERPRINT, patchLevel: '2026-09-05', devices: ['hill'] },
    });
    expect(report.images[0]).toMatchObject({ partition: 'init_boot', needsSource: false });
  });
  it('that are a kit are told so, and hold no image', async () => {
    const opened = await open(await kitZip());
    expect(opened.report).toMatchObject({ kind: 'kit', images: [] });
    expect(await codeOf(() => opened.take('boot', memorySink('x')))).toBe('bad-magic');
  });
  it.each([
    ['noise', seeded(1, 9000)],
    ['a text', utf8('only a readme\n')],
    ['zeros', new Uint8Array(5000)],
  ])('of %s are unknown, not an error', async (_what, bytes) =>
    expect((await open(bytes)).report.kind).toBe('unknown'),
  );
  it('that are an unknown archive are unknown', async () =>
    expect((await open(await zipBytes({ 'a.txt': 'x' }))).report.kind).toBe('unknown'));
  it('that are empty are cut off', async () =>
    expect(await codeOf(() => open(new Uint8Array(0)))).toBe('truncated'));
  it('give only the image they are', async () => {
    const opened = await open(await stockImage());
    expect(await codeOf(() => opened.take('boot', memorySink('x')))).toBe('not-found');
    expect((await opened.take('init_boot', memorySink('x'))).verified).toBe(true);
  });
  it('are refused an image larger than memory holds', async () => {
    expect(await codeOf(() => memorySink('x').begin(LIMITS.imageBytes + 1))).toBe('too-large');
  });
});

describe('opening', () => {
  it('reads only the index of a large archive', async () => {
    const { zip } = await updateZip();
    const big = await zipBytes(
      { 'pad.bin': seeded(3, 2_000_000), 'payload.bin': zip.subarray(0, 0), 'kit.json': '{}' },
      ['pad.bin'],
    );
    const source = countingSource(memorySource(big));
    await openPackage(source, nodePorts).catch(() => undefined);
    expect(source.bytesRead).toBeLessThan(200_000);
  });
});

describe('identifyImage', () => {
  it.each([
    ['its hash descriptor', { partition: 'recovery' }, 'recovery'],
    ['no kernel and no footer', { footer: false }, 'init_boot or recovery'],
    [
      'the recovery’s program in its ramdisk',
      {
        footer: false,
        entries: [
          entry('sbin', '', { mode: 0o40755 }),
          entry('sbin/recovery', 'program', { mode: 0o100755 }),
        ],
      },
      'recovery',
    ],
    [
      'a link to that program',
      { footer: false, entries: [entry('system/bin/recovery', '/sbin/init', { mode: 0o120777 })] },
      'recovery',
    ],
    [
      'its hash descriptor before any program',
      { partition: 'init_boot', entries: [entry('system/bin/recovery', 'program', { mode: 0o100755 })] },
      'init_boot',
    ],
    [
      'nothing, where only a name looks like one',
      {
        footer: false,
        entries: [
          entry('sbin/recovery.sh', '', { mode: 0o100755 }),
          entry('recovery', '', { mode: 0o40755 }),
        ],
      },
      'init_boot or recovery',
    ],
    ['a kernel and no footer', { footer: false, kernel: seeded(1, 5000) }, 'boot'],
  ] as const)('goes by %s', async (_what, options, partition) =>
    expect((await identifyImage(memorySource(await stockImage(options)), nodePorts)).partition).toBe(
      partition,
    ),
  );
});

describe('inspectImage and listRamdisk', () => {
  it('tell everything about an image', async () => {
    const bytes = await stockImage({ version: 2, codec: 'gzip', partition: 'boot', kernel: seeded(1, 5000) });
    const report = await inspectImage(memorySource(bytes), nodePorts);
    expect(report).toMatchObject({
      kind: 'boot',
      headerVersion: 2,
      pageSize: 2048,
      name: 'hill',
      osVersion: '16.0.0',
      patchLevel: '2026-09',
      kernelPresent: true,
      patchedBy: null,
      sha256: await sha256Hex(nodePorts.digests, bytes),
    });
    expect(report.sections.map((s) => s.name)).toEqual(['header', 'kernel', 'ramdisk']);
    expect(report.ramdisk).toMatchObject({ compression: 'gzip', archives: 1, entries: 5 });
    expect(report.avb).toMatchObject({
      digestValid: true,
      signatureValid: null,
      algorithm: 0,
      rollbackIndex: 5,
    });
  });
  it('list entries and take one out', async () => {
    const source = memorySource(await stockImage());
    const { archives } = await listRamdisk(source, nodePorts);
    expect(archives[0]!.entries.map((e) => [e.name, e.mode])).toEqual([
      ['dev', '40755'],
      ['first_stage_ramdisk', '40755'],
      ['init', '100750'],
      ['first_stage_ramdisk/fstab.demo', '100644'],
      ['verity_key', '100644'],
    ]);
    expect(new TextDecoder().decode(await readRamdiskFile(source, 'verity_key', nodePorts))).toBe('a key');
    expect(await codeOf(() => readRamdiskFile(source, 'none', nodePorts))).toBe('not-found');
  });
  it('refuse what is no image', async () => {
    const error = await errorOf(() => inspectImage(memorySource(seeded(1, 5000), 'noise.img'), nodePorts));
    expect(error).toMatchObject({ code: 'bad-magic', file: 'noise.img' });
  });
  it('survive seeded changes anywhere', async () => {
    const base = await stockImage({ partitionBytes: 64 * 1024 });
    for (let i = 0; i < 250; i += 1) {
      const bytes = base.slice();
      const at = Math.imul(i + 1, 2654435761) >>> 0;
      bytes[at % bytes.length] = (at >>> 9) & 255;
      await answersProperly(() => inspectImage(memorySource(bytes), nodePorts));
      await answersProperly(() => listRamdisk(memorySource(bytes), nodePorts));
    }
  });
});
