import { describe, expect, it } from 'vitest';
import { memorySource } from '@/core/bytes/byte-source';
import { interpretFacts, parsePrinted, splitFingerprint } from '@/core/formats/facts/parse-facts';
import { parseRequirements } from '@/core/packages/image-zip';
import { openPackage } from '@/core/packages/open-package';
import { scriptTargets } from '@/core/packages/script-targets';
import { nodePorts } from '@/platform/node/node-ports';
import { FINGERPRINT, zipBytes } from '../fixtures/images';

/*
 * Texts made to be read a million times over: each is read once. A reader that is slow here does not end
 * within the time of a test.
 */

const MIB = 1 << 20;

describe('long lines', () => {
  it('of a dump: a key without an end, a value full of spaces', () => {
    expect(parsePrinted('a.'.repeat(MIB / 2)).unread).toHaveLength(1);
    const value = `${FINGERPRINT.slice(0, 20)}${' '.repeat(MIB)}x`;
    expect(splitFingerprint(value)).toBeNull();
    expect(interpretFacts(parsePrinted(`[ro.build.fingerprint]: [${value}]`).values).fingerprint).not.toBe(
      FINGERPRINT,
    );
  });
  it('of a dump are still read as before', () => {
    expect(parsePrinted('ro.build.id=HC1=x\nnodot=1\n.x=1\na.=1\nro.a-b_c.d=\n').values).toEqual({
      'ro.build.id': 'HC1=x',
      'ro.a-b_c.d': '',
    });
    const broken = `[ro.build.fingerprint]: [${FINGERPRINT.slice(0, 20)}  \r\n${FINGERPRINT.slice(20)}]`;
    expect(interpretFacts(parsePrinted(broken).values).fingerprint).toBe(FINGERPRINT);
  });
  it('of a list of requirements', async () => {
    const text = `require board=b${' '.repeat(MIB)}x\nrequire version-bootloader = one|two \r\n  require product=p`;
    expect(parseRequirements(text)).toMatchObject({ requiredBootloader: ['one', 'two'] });
    const { report } = await openPackage(
      memorySource(
        await zipBytes({
          'android-info.txt': text.replace(/ {1000,}/, ' '.repeat(60_000)),
          'boot.img': new Uint8Array(4096),
        }),
        'x.zip',
      ),
      nodePorts,
    );
    expect(report.build.requiredBootloader).toEqual(['one', 'two']);
  });
  it('of a script', () => {
    const written = (script: string) => scriptTargets(script).targets.map(({ partition }) => partition);
    expect(written(`dd of=${'/dev/block/'.repeat(MIB / 11)}`)).toEqual([]);
    for (const long of [
      '/dev/block/ '.repeat(MIB / 12),
      'a'.repeat(MIB),
      ' '.repeat(MIB),
      'a >'.repeat(MIB / 3),
    ])
      expect(written(`x ${long} y`)).toEqual([]);
    expect(
      written(
        'dd if=/dev/block/by-name/boot of="/dev/block/platform/x/by-name/recovery_a"; cat < /dev/block/by-name/vbmeta',
      ),
    ).toEqual(['recovery']);
  });
});
