import { describe, expect, it } from 'vitest';
import { codeOf } from '../../../tests/fixtures/expect-error';
import { FINGERPRINT, seeded, stockImage, utf8 } from '../../../tests/fixtures/images';
import { tarBytes } from '../../../tests/fixtures/tars';
import { nodePorts } from '../../platform/node/node-ports';
import { memorySource } from '../bytes/byte-source';
import type { SetHistory } from './set-manifest';
import { readFirmwareSet } from './firmware-set';
import { nameOf } from './set-roles';

/* A firmware set as its parts. */

const THIS = '9001';
const member = (name: string, bytes: Uint8Array = seeded(name.length, 700)) => ({ name, bytes });
const boot = (incremental = THIS) =>
  stockImage({ partition: 'boot', version: 2, fingerprint: FINGERPRINT.replace('9001', incremental) });
type Members = readonly ReturnType<typeof member>[];
type Set = Readonly<Record<string, Members>>;

const files = (parts: Set, lines = true) =>
  Object.entries(parts).map(([name, members]) =>
    memorySource(tarBytes(members, lines ? name : undefined), name),
  );
const read = (parts: Set, history: SetHistory = null) =>
  readFirmwareSet(files(parts), nodePorts, {}, { history });
const roles = async (parts: Set) =>
  Object.fromEntries((await read(parts)).parts.map(({ file, role }) => [file, role]));

const whole = async (): Promise<Set> => ({
  'BL_9001_user.tar.md5': [member('bootloader.bin'), member('param.img')],
  'AP_9001_user.tar.md5': [member('boot.img', await boot()), member('vbmeta.img'), member('super.img')],
  'CP_9001_user.tar.md5': [member('modem.bin')],
  'CSC_9001_user.tar.md5': [member('cache.img'), member('prism.img'), member('hill.pit')],
  'HOME_CSC_9001_user.tar.md5': [member('cache.img'), member('prism.img')],
});

describe('a firmware set', () => {
  it('says of each part what it is for, of which build, and whether it is whole', async () => {
    const set = await read(await whole());
    expect(set).toMatchObject({ kind: 'firmware-set', build: '9001', missing: [], mixed: [], warnings: [] });
    expect(set.parts.map(({ role, checksum, build }) => [role, checksum, build])).toEqual([
      ['bootloader', 'ok', '9001'],
      ['system', 'ok', '9001'],
      ['modem', 'ok', '9001'],
      ['region-wipe', 'ok', '9001'],
      ['region-keep', 'ok', '9001'],
    ]);
    expect(set.parts.map(({ evidence }) => evidence.length)).toEqual([2, 2, 2, 3, 2]);
    expect(set.doubled).toEqual(
      ['cache', 'prism'].map((partition) => ({
        partition,
        files: ['CSC_9001_user.tar.md5', 'HOME_CSC_9001_user.tar.md5'],
        harmless: true,
      })),
    );
    expect(set.choice.map(({ file, wipes, advised }) => [file.slice(0, 3), wipes, advised])).toEqual([
      ['CSC', true, false],
      ['HOM', false, false],
    ]);
  });

  it('tells a part by what lies in it, and by its name where that tells nothing', async () => {
    expect(
      await roles({
        // names that lie
        'BL_1_a.tar': [member('boot.img'), member('bootloader.bin')],
        'HOME_CSC_1_a.tar': [member('omr.img'), member('userdata.img')],
        'CSC_1_a.tar': [member('optics.img')],
        'CP_1_a.tar': [member('userdata.img.ext4')],
        'second.tar': [member('radio.img')],
        'third.tar': [member('abl.bin'), member('odd.bin')],
        // content that tells nothing
        'USERDATA_1_a.tar': [member('odd.bin')],
        'ap_1_b.tar': [member('odd.bin')],
        'fourth.tar': [member('odd.bin'), member('hill.pit')],
      }),
    ).toEqual({
      'BL_1_a.tar': 'system',
      'HOME_CSC_1_a.tar': 'region-wipe',
      'CSC_1_a.tar': 'region-keep',
      'CP_1_a.tar': 'data',
      'second.tar': 'modem',
      'third.tar': 'bootloader',
      'USERDATA_1_a.tar': 'data',
      'ap_1_b.tar': 'system',
      'fourth.tar': 'unknown',
    });
    const { warnings } = await read({
      'BL_1_a.tar': [member('boot.img')],
      'AP_1_a.tar': [member('odd.bin')],
    });
    expect(warnings.filter((text) => text.startsWith('BL_1_a.tar is called a bootloader part'))).toHaveLength(
      1,
    );
    expect(warnings.filter((text) => text.startsWith('AP_1_a.tar is called'))).toHaveLength(0);
  });

  it('names what is missing, and nothing that one archive brings', async () => {
    const { missing } = await read({
      'AP_1_a.tar': [member('boot.img')],
      'CP_1_a.tar': [member('modem.bin')],
    });
    expect(missing).toEqual(['bootloader', 'region-keep']);
    const all = [member('boot.img'), member('bootloader.bin'), member('modem.bin'), member('cache.img')];
    const single = await read({ 'everything.tar': all });
    expect(single).toMatchObject({ missing: [], choice: [], parts: [{ role: 'system' }] });
    expect(single.parts[0]!.evidence).toHaveLength(4);
  });

  it('finds the part of another build, by its name or by what lies in it', async () => {
    const set = await whole();
    const { 'CP_9001_user.tar.md5': modem, ...rest } = set;
    expect(await read({ ...rest, 'CP_8000_user.tar.md5': modem! })).toMatchObject({
      build: '9001',
      mixed: [{ file: 'CP_8000_user.tar.md5', build: '8000' }],
    });
    const old = [member('boot.img', await boot('8000')), member('super.img')];
    const inside = await read({ ...set, 'AP_9001_user.tar.md5': old });
    expect(inside.mixed).toEqual([{ file: 'AP_9001_user.tar.md5', build: '8000' }]);
    expect(inside.warnings).toHaveLength(1);
    // of two named as often the system's counts
    const two = await read({ 'BL_1_a.tar': [member('param.img')], 'AP_2_a.tar': [member('super.img')] });
    expect(two).toMatchObject({ build: '2', mixed: [{ file: 'BL_1_a.tar', build: '1' }] });
  });

  it('takes the build out of its images where no name says it', async () => {
    const { parts, build } = await read({ 'sys.tar': [member('boot.img.lz4', await boot())] });
    expect([build, parts[0]!.build]).toEqual(['9001', '9001']);
    expect((await read({ 'sys.tar': [member('super.img')] })).build).toBeNull();
  });

  it('tells what stands in it twice, and whether that is a fault', async () => {
    const both = await read({
      'AP_1_a.tar': [member('boot.img'), member('cache.img'), member('hill.pit')],
      'HOME_CSC_1_a.tar': [member('cache.img'), member('optics.img'), member('optics.img')],
      'CSC_1_a.tar': [member('hill.pit'), member('prism.img')],
    });
    expect(both.doubled).toEqual([
      { partition: 'cache', files: ['AP_1_a.tar', 'HOME_CSC_1_a.tar'], harmless: false },
      { partition: 'optics', files: ['HOME_CSC_1_a.tar'], harmless: false },
    ]);
  });

  it('advises by history alone: keeping where region and line stay, else erasing, and never that unasked', async () => {
    const advised = async (history: SetHistory) =>
      (await read(await whole(), history)).choice.map((one) => one.advised);
    expect(await advised(null)).toEqual([false, false]);
    expect(await advised({ sameRegion: true, sameLine: true })).toEqual([false, true]);
    expect(await advised({ sameRegion: false, sameLine: true })).toEqual([true, false]);
    expect(await advised({ sameRegion: true, sameLine: false })).toEqual([true, false]);
  });

  it('is told by names and one image’s word where nothing is read of it but headers', async () => {
    const set = files(await whole());
    const look = async (quick: true | { file: string; incremental: string | null }) =>
      readFirmwareSet(set, nodePorts, {}, { quick });
    const quick = await look(true);
    expect(quick.parts.map(({ role, checksum }) => [role, checksum])[1]).toEqual(['system', 'stated']);
    expect(quick).toMatchObject({ build: '9001', warnings: [] });
    const lied = await look({ file: 'AP_9001_user.tar.md5', incremental: '8000' });
    expect(lied.mixed).toEqual([{ file: 'AP_9001_user.tar.md5', build: '8000' }]);
  });

  it('tells a wrong line and none, and refuses what is cut short, no tar, or there twice', async () => {
    const members = [member('modem.bin'), member('modem2.bin')];
    const good = tarBytes(members, 'CP_1_a.tar');
    const flipped = good.slice();
    flipped[600]! ^= 1;
    const one = (bytes: Uint8Array, name = 'CP_1_a.tar') =>
      readFirmwareSet([memorySource(bytes, name)], nodePorts);
    expect((await one(good)).parts[0]!.checksum).toBe('ok');
    expect(await one(flipped)).toMatchObject({ parts: [{ checksum: 'bad' }], warnings: [expect.anything()] });
    expect(await one(tarBytes(members))).toMatchObject({
      parts: [{ checksum: 'none' }],
      warnings: [expect.anything()],
    });
    const plain = tarBytes(members);
    // in a member, between two of them, and behind the last
    for (const end of [900, 512 + 1024, 2 * (512 + 1024), 2 * (512 + 1024) + 100])
      expect(await codeOf(() => one(plain.subarray(0, end))), String(end)).toBe('truncated');
    expect(await codeOf(() => one(seeded(4, 5000)))).toBe('bad-magic');
    expect(await codeOf(() => one(utf8('no')))).toBe('truncated');
    const twice = [memorySource(good, 'CP_1_a.tar'), memorySource(good, 'CP_1_a.tar')];
    expect(await codeOf(() => readFirmwareSet(twice, nodePorts))).toBe('duplicate');
  });
});

describe('a name of a part', () => {
  it.each([
    ['AP_HT8_user_rev02.tar.md5', 'AP', 'HT8'],
    ['HOME_CSC_HT8_user.tar', 'HOME_CSC', 'HT8'],
    ['CSC_HT8.tar.md5', 'CSC', 'HT8'],
    ['bl_HT8.tar', 'BL', 'HT8'],
    ['AP_HT8 (1).tar.md5', 'AP', 'HT8'],
    ['USERDATA_HT8', 'USERDATA', 'HT8'],
    ['AP_', 'AP', null],
    ['APEX_HT8_user.tar', null, null],
    ['sys_HT8_user.tar', null, null],
    ['my AP_HT8.tar', null, null],
  ])('%s', (file, token, build) => expect(nameOf(file)).toMatchObject({ token, build }));
});
