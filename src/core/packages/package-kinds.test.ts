import { createHash } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { codeOf, errorOf } from '../../../tests/fixtures/expect-error';
import { FINGERPRINT, seeded, stockImage, utf8, zipBytes } from '../../../tests/fixtures/images';
import { tarBytes } from '../../../tests/fixtures/tars';
import { nodePorts } from '../../platform/node/node-ports';
import { memorySource } from '../bytes/byte-source';
import { concatBytes } from '../bytes/bytes';
import { memorySink } from '../bytes/image-sink';
import { LIMITS } from '../limits';
import { parseRequirements } from './image-zip';
import { openPackage, openPackageFiles } from './open-package';
import type { OpenedPackage } from './package-report';
import { roleOfOpened } from '../table/roll-call';

const open = (bytes: Uint8Array, name = 'package.zip') => openPackage(memorySource(bytes, name), nodePorts);
const openAll = (files: Readonly<Record<string, Uint8Array>>) =>
  openPackageFiles(
    Object.entries(files).map(([name, bytes]) => memorySource(bytes, name)),
    nodePorts,
  );
async function take(pack: OpenedPackage, partition: string) {
  const sink = memorySink(partition);
  const taken = await pack.take(partition, sink);
  return { ...taken, bytes: sink.bytes };
}
const roleOf = async (bytes: Uint8Array) =>
  roleOfOpened(memorySource(bytes, 'x'), (await open(bytes, 'x')).report, nodePorts);
const md5 = (bytes: Uint8Array) => createHash('md5').update(bytes).digest('hex');
const INFO =
  'require board=hill|hill_two\nrequire version-bootloader=hb-1.0\nrequire version-baseband=rd-2|rd-3\n';

describe('image ZIPs', () => {
  it('say what the handset must be, which build they hold, and give an image', async () => {
    const image = await stockImage();
    const pack = await open(
      await zipBytes({ 'android-info.txt': INFO, 'init_boot.img': image, 'dtbo.img': seeded(1, 5000) }),
    );
    expect(pack.report).toMatchObject({
      kind: 'image-zip',
      build: {
        fingerprint: FINGERPRINT,
        devices: ['hill', 'hill_two'],
        requiredBootloader: ['hb-1.0'],
        requiredBaseband: ['rd-2', 'rd-3'],
      },
    });
    expect(pack.report.images.map(({ partition }) => partition).sort()).toEqual(['dtbo', 'init_boot']);
    const taken = await take(pack, 'init_boot');
    expect(taken.bytes).toEqual(image);
    expect(taken.verified).toBe(true);
    expect((await take(pack, 'dtbo')).verified).toBe(false);
    expect(await codeOf(() => take(pack, 'boot'))).toBe('not-found');
  });

  it('without the note are taken, and it is said', async () => {
    const { report } = await open(
      await zipBytes({ 'images/boot.img': await stockImage({ partition: 'boot', kernel: seeded(2, 9000) }) }),
    );
    expect(report).toMatchObject({
      kind: 'image-zip',
      images: [{ partition: 'boot', member: 'images/boot.img' }],
    });
    expect(report.warnings.join()).toContain('android-info.txt');
  });

  it('with two images of one name tell it and give neither', async () => {
    const pack = await open(
      await zipBytes({
        'android-info.txt': INFO,
        'a/boot.img': seeded(1, 100),
        'b/boot.img': seeded(2, 100),
      }),
    );
    expect(pack.report.warnings.join()).toContain('more than once');
    const error = await errorOf(() => take(pack, 'boot'));
    expect(error.code).toBe('duplicate');
    for (const name of ['a/boot.img', 'b/boot.img']) expect(error.message).toContain(name);
  });
  it('with one image twice, the same both times, give it', async () => {
    const pack = await open(
      await zipBytes({
        'android-info.txt': INFO,
        'a/boot.img': seeded(1, 100),
        'b/boot.img': seeded(1, 100),
      }),
    );
    expect((await take(pack, 'boot')).bytes).toEqual(seeded(1, 100));
  });

  it('notice a damaged image when it is taken', async () => {
    const image = seeded(5, 40_000);
    const zip = await zipBytes({ 'android-info.txt': INFO, 'dtbo.img': image }, ['dtbo.img']);
    zip[zip.indexOf(image[20_000]!, 20_000)]! ^= 1;
    expect(await codeOf(async () => take(await open(zip), 'dtbo'))).toBe('bad-hash');
  });

  it.each([
    ['require board=a|b', ['a', 'b'], []],
    ['  require   board = a \r\nrequire version-bootloader=x|y\r\n', ['a'], ['x', 'y']],
    ['nothing of this kind', [], []],
    ['require product=p', ['p'], []],
  ])('read "%s"', (text, devices, requiredBootloader) =>
    expect(parseRequirements(text)).toMatchObject({ devices, requiredBootloader }),
  );
});

describe('factory ZIPs', () => {
  it.each([
    ['stored', ['hill/image-hill-hc1.zip']],
    ['deflated', []],
  ])('are read through their inner archive, %s', async (_how, stored) => {
    const image = await stockImage();
    const inner = await zipBytes({ 'android-info.txt': INFO, 'init_boot.img': image }, ['init_boot.img']);
    const pack = await open(
      await zipBytes(
        { 'hill/bootloader-hill-1.img': seeded(3, 2000), 'hill/image-hill-hc1.zip': inner },
        stored,
      ),
    );
    expect(pack.report).toMatchObject({
      kind: 'factory-zip',
      build: { fingerprint: FINGERPRINT, devices: ['hill', 'hill_two'] },
    });
    expect((await take(pack, 'init_boot')).bytes).toEqual(image);
    expect((await take(pack, 'bootloader')).bytes).toEqual(seeded(3, 2000));
  });

  it('with two inner archives are refused', async () => {
    const inner = await zipBytes({ 'boot.img': seeded(1, 10) });
    expect(
      await codeOf(async () => open(await zipBytes({ 'image-a.zip': inner, 'image-b.zip': inner }))),
    ).toBe('duplicate');
  });
});

describe('flash lists', () => {
  const xml = (steps: string) =>
    `<?xml version="1.0"?><flashing><header><phone_model model="hill"/><software_version version="${FINGERPRINT}"/></header>${steps}</flashing>`;
  const step = (partition: string, filename: string, sum: string) =>
    `<step operation="flash" partition="${partition}" filename="${filename}" MD5="${sum}"/>`;

  it('name files, sums, build and slots', async () => {
    const image = await stockImage();
    const other = seeded(4, 3000);
    const list = xml(
      `<!-- ${step('gone', 'gone.img', md5(other))} -->${step('init_boot_a', 'init_boot.img', md5(image))}${step('init_boot_b', 'init_boot.img', md5(image))}${step('dtbo', 'dtbo.img', md5(other))}`,
    );
    const pack = await open(await zipBytes({ 'list.xml': list, 'init_boot.img': image, 'dtbo.img': other }));
    expect(pack.report).toMatchObject({
      kind: 'flash-list',
      build: { fingerprint: FINGERPRINT, devices: ['hill'] },
    });
    expect(pack.report.images.map(({ partition, slots }) => [partition, slots])).toEqual([
      ['init_boot', 'both'],
      ['dtbo', 'one'],
    ]);
    expect(await take(pack, 'dtbo')).toMatchObject({ verified: true, size: 3000 });
    expect((await take(pack, 'init_boot')).bytes).toEqual(image);
  });

  it.each([
    ['a slot of its own words', (step: string) => step.replace('<step', '<step slot="both"'), 'both'],
    [
      'a change of slots between',
      (step: string) => `${step}<step operation="set_active" slot="b"/>${step}`,
      'both',
    ],
    ['the same step twice for nothing', (step: string) => `${step}${step}`, 'one'],
    ['one slot named', (step: string) => step.replace('"dtbo"', '"dtbo_b"'), 'one'],
  ] as const)('tell the slots by %s', async (_what, steps, slots) => {
    const list = xml(steps(step('dtbo', 'dtbo.img', md5(seeded(4, 300)))));
    const pack = await openAll({ 'list.xml': utf8(list), 'dtbo.img': seeded(4, 300) });
    expect(pack.report.images).toMatchObject([{ partition: 'dtbo', slots }]);
    expect((await take(pack, 'dtbo')).verified).toBe(true);
  });

  it('as loose files are the same', async () => {
    const other = seeded(4, 3000);
    const pack = await openAll({
      'list.xml': utf8(xml(step('dtbo', 'dtbo.img', md5(other)))),
      'dtbo.img': other,
    });
    expect(pack.report.kind).toBe('flash-list');
    expect((await take(pack, 'dtbo')).verified).toBe(true);
  });

  it('with another file than the list states refuse it', async () => {
    const pack = await openAll({
      'list.xml': utf8(xml(step('dtbo', 'dtbo.img', md5(seeded(1, 9))))),
      'dtbo.img': seeded(4, 3000),
    });
    const error = await errorOf(() => take(pack, 'dtbo'));
    expect(error.code).toBe('bad-hash');
    expect(error.details?.['got']).toBe(md5(seeded(4, 3000)));
  });

  it('tell two files for the two slots apart, missing files and pieces', async () => {
    const list = xml(
      [
        step('boot_a', 'a.img', md5(seeded(1, 10))),
        step('boot_b', 'b.img', md5(seeded(2, 10))),
        step('gone', 'gone.img', md5(seeded(3, 10))),
        step('super', 'super.0', md5(seeded(4, 10))),
        step('super', 'super.1', md5(seeded(5, 10))),
      ].join(''),
    );
    const files = {
      'a.img': seeded(1, 10),
      'b.img': seeded(2, 10),
      'super.0': seeded(4, 10),
      'super.1': seeded(5, 10),
    };
    const pack = await openAll({ 'list.xml': utf8(list), ...files });
    expect(pack.report.images.map(({ partition, slots }) => [partition, slots])).toEqual([
      ['boot_a', 'one'],
      ['boot_b', 'one'],
      ['super', 'one'],
    ]);
    expect(pack.report.warnings.join()).toContain('gone.img');
    expect(await codeOf(() => take(pack, 'super'))).toBe('unsupported');
    expect((await take(pack, 'boot_b')).bytes).toEqual(seeded(2, 10));
  });

  it.each([
    ['a file outside the package', step('boot', '../boot.img', md5(seeded(1, 1))), 'unsafe-path'],
    ['an absolute file', step('boot', '/boot.img', md5(seeded(1, 1))), 'unsafe-path'],
    ['a file on a drive', step('boot', 'C:\\boot.img', md5(seeded(1, 1))), 'unsafe-path'],
    ['a sum that is none', step('boot', 'boot.img', 'xyz'), 'bad-field'],
    [
      'too many steps',
      step('boot', 'boot.img', md5(seeded(1, 1)))
        .repeat(LIMITS.flashSteps + 1)
        .slice(0, LIMITS.textMemberBytes),
      'too-large',
    ],
  ])('with %s are refused', async (_what, steps, code) =>
    expect(
      await codeOf(() => openAll({ 'list.xml': utf8(`<l>${steps}</l>`), 'boot.img': seeded(1, 1) })),
    ).toBe(code),
  );
});

describe('tar sets', () => {
  it('give plain and packed members, held against the line behind the archive', async () => {
    const image = await stockImage();
    const packed = await nodePorts.codecs.encode('lz4-frame', image);
    const sys = tarBytes(
      [
        { name: 'init_boot.img.lz4', bytes: packed },
        { name: 'meta/info.txt', bytes: utf8('x') },
      ],
      'SYS.tar',
    );
    const pack = await openAll({
      'SYS.tar.md5': sys,
      'RADIO.tar': tarBytes([{ name: 'modem.img', bytes: seeded(8, 700) }]),
    });
    expect(pack.report).toMatchObject({ kind: 'tar-set', build: { fingerprint: FINGERPRINT } });
    expect(pack.report.images).toMatchObject([
      { partition: 'init_boot', size: image.length },
      { partition: 'modem', size: 700 },
    ]);
    const taken = await take(pack, 'init_boot');
    expect(taken.bytes).toEqual(image);
    expect(taken.verified).toBe(true);
    expect((await take(pack, 'modem')).verified).toBe(false);
    expect(pack.report.warnings.join()).toContain('RADIO.tar carries no MD5 line');
  });

  it('notice one changed bit when something is taken out', async () => {
    const sys = tarBytes(
      [
        { name: 'dtbo.img', bytes: seeded(1, 5000) },
        { name: 'other.img', bytes: seeded(2, 5000) },
      ],
      'SYS.tar',
    );
    sys[512 + 5120 + 512 + 100]! ^= 4;
    const pack = await open(sys, 'SYS.tar.md5');
    expect(await codeOf(() => take(pack, 'dtbo'))).toBe('bad-hash');
  });

  it('that end with an archive are still tars', async () => {
    const tar = tarBytes([
      { name: 'boot.img', bytes: seeded(2, 600) },
      { name: 'extra.zip', bytes: await zipBytes({ 'a.img': seeded(1, 50) }) },
    ]);
    expect((await open(tar, 'A.tar')).report).toMatchObject({
      kind: 'tar-set',
      images: [{ partition: 'boot' }],
    });
  });

  it('inside an archive are read there', async () => {
    const zip = await zipBytes({
      'SYS.tar.md5': tarBytes([{ name: 'dtbo.img', bytes: seeded(1, 5000) }], 'SYS.tar'),
    });
    expect((await take(await open(zip), 'dtbo')).bytes).toEqual(seeded(1, 5000));
  });

  it('name the part that wipes, and never offer it as an image', async () => {
    const { report } = await open(
      tarBytes([
        { name: 'userdata.img', bytes: seeded(1, 600) },
        { name: 'boot.img', bytes: seeded(2, 600) },
      ]),
      'DATA.tar',
    );
    expect(report.images.map(({ partition }) => partition)).toEqual(['boot']);
    expect(report.warnings.join()).toContain('wipes');
  });

  it('mixed with other files say which those are', async () => {
    const { report } = await openAll({
      'A.tar': tarBytes([{ name: 'boot.img', bytes: seeded(2, 600) }]),
      'notes.txt': utf8('hello'),
    });
    expect(report.warnings.join()).toContain('notes.txt is no part');
  });
});

describe('block update ZIPs', () => {
  it('give their plain images and name the build', async () => {
    const boot = await stockImage({ partition: 'boot' });
    const pack = await open(
      await zipBytes({
        'META-INF/com/android/metadata': `post-build=${FINGERPRINT}\npre-device=hill\npost-security-patch-level=2026-09-05`,
        'META-INF/com/google/android/updater-script':
          'block_image_update("/dev/block/by-name/system", "system.transfer.list");',
        'system.transfer.list': '4\n0\n',
        'system.new.dat.br': seeded(1, 400),
        'boot.img': boot,
      }),
    );
    expect(pack.report).toMatchObject({
      kind: 'block-update-zip',
      incremental: false,
      build: { fingerprint: FINGERPRINT, patchLevel: '2026-09-05' },
    });
    expect((await take(pack, 'boot')).bytes).toEqual(boot);
  });
});

describe('ZIPs that install something', () => {
  it('are told with the partitions they say they write', async () => {
    const script =
      '#!/sbin/sh\n# dd of=/dev/block/by-name/modem\ndd if=boot.img of=/dev/block/bootdevice/by-name/boot_a\ncat x > /dev/block/by-name/recovery\n';
    const { report, take: refuse } = await open(
      await zipBytes({ 'META-INF/com/google/android/update-binary': script }),
    );
    expect(report).toMatchObject({ kind: 'recovery-zip', writes: ['boot', 'recovery'], images: [] });
    expect(report.warnings.join()).toMatch(/boot.*recovery/s);
    expect(await codeOf(() => refuse('boot', memorySink('x')))).toBe('bad-magic');
  });

  it.each([
    [
      'uninstaller',
      {
        'META-INF/com/google/android/update-binary':
          '#!/sbin/sh\n# uninstaller: puts the stock ramdisk back\n',
      },
    ],
    ['installer for a recovery', { 'META-INF/com/google/android/update-binary': '#!/sbin/sh\n' }],
    ['module', { 'note.prop': 'id=a\nname=b\nversion=c\n', 'uninstall.sh': 'uninstall\n' }],
    ['checksums', 'sum', `${'a'.repeat(64)}  a.zip\n`],
    ['signature', 'sig', '-----BEGIN PGP SIGNATURE-----\n'],
    ['property dump', 'dump', `[ro.build.fingerprint]: [${FINGERPRINT}]\n`],
    ['list of writes', 'xml', '<l><s partition="boot" filename="b.img"/></l>'],
    ['host tool', 'tool', 'MZ\u0000\u0001'],
    ['unknown', 'odd', '\u0000\u0001\u0002\u0003'],
  ])('and other files are called %s', async (role, what, text?: string) => {
    const bytes = typeof what === 'string' ? utf8(text!) : await zipBytes(what);
    expect((await roleOf(bytes)).role).toBe(role);
  });

  it('are modules where they carry a note with id, name and version', async () => {
    const members = { 'note.prop': 'id=lantern\nname=Lantern\nversion=2.1\n', 'install.sh': 'true\n' };
    expect((await open(await zipBytes(members))).report).toMatchObject({ kind: 'module-zip', images: [] });
    const { report } = await open(
      await zipBytes({ ...members, 'META-INF/com/google/android/updater-script': '#x' }),
    );
    expect(report.kind).toBe('module-zip');
    expect(report.evidence[0]).toContain('Lantern 2.1');
  });
});

describe('files that belong together', () => {
  it('are refused where they make no one package, none, or too many', async () => {
    expect(await codeOf(() => openAll({ 'a.bin': seeded(1, 10), 'b.bin': seeded(2, 10) }))).toBe(
      'unsupported',
    );
    expect(await codeOf(() => openPackageFiles([], nodePorts))).toBe('usage');
    const many = Array.from({ length: LIMITS.packageFiles + 1 }, (_, i) =>
      memorySource(seeded(i, 4), `f${i}`),
    );
    expect(await codeOf(() => openPackageFiles(many, nodePorts))).toBe('usage');
  });

  it('as loose images are read like an archive of images', async () => {
    const image = await stockImage();
    const pack = await openAll({ 'android-info.txt': utf8(INFO), 'init_boot.img': image });
    expect(pack.report).toMatchObject({ kind: 'image-zip', build: { fingerprint: FINGERPRINT } });
    expect((await take(pack, 'init_boot')).bytes).toEqual(image);
  });
});

describe('bare vbmeta images', () => {
  it('are themselves, whatever they describe', async () => {
    const { vbmetaBytes } = await import('../formats/avb/layout');
    const hash = {
      partition: 'dtbo',
      imageSize: 4096,
      algorithm: 'sha256',
      salt: seeded(1, 32),
      digest: seeded(2, 32),
    };
    const block = vbmetaBytes({
      rollbackIndex: 3,
      release: 'x',
      hash,
      properties: { 'com.android.build.system.fingerprint': FINGERPRINT },
    });
    const { report } = await open(
      concatBytes([block, new Uint8Array(4096 - (block.length % 4096))]),
      'vbmeta.img',
    );
    expect(report).toMatchObject({
      kind: 'bare-image',
      images: [{ partition: 'vbmeta' }],
      build: { fingerprint: FINGERPRINT },
    });
  });
});
