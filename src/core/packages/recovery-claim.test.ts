import { describe, expect, it } from 'vitest';
import { entry, seeded, stockEntries, stockImage, FINGERPRINT } from '../../../tests/fixtures/images';
import { nodePorts } from '../../platform/node/node-ports';
import { memorySource } from '../bytes/byte-source';
import type { StockOptions } from '../../../tests/fixtures/images';
import type { RecoveryClaim } from './recovery-claim';
import { isRecovery, recoveryClaim, recoveryIsFor, whyNoRecovery } from './recovery-claim';

const NOTE = entry('lifeboat.json', JSON.stringify({ recovery: 'Lifeboat 3.8', opensUpTo: 36 }));
const PROGRAM = entry('system/bin/recovery', 'a program');
const claimOf = async (options: StockOptions) =>
  recoveryClaim(
    memorySource(await stockImage({ version: 2, kernel: seeded(9, 4000), ...options })),
    nodePorts,
  );

describe('an image that is offered as a recovery', () => {
  it.each<[string, StockOptions, boolean]>([
    [
      'one with a note of itself',
      { partition: 'recovery', entries: [...stockEntries(), NOTE], fingerprint: 'none' },
      true,
    ],
    ['one with a recovery program', { partition: 'recovery', entries: [...stockEntries(), PROGRAM] }, true],
    ['one that only a header speaks for', { footer: false, entries: [...stockEntries(), PROGRAM] }, true],
    ['a recovery partition without one', { partition: 'recovery' }, false],
    ['a boot image', { partition: 'boot' }, false],
    [
      'a boot image that holds a recovery',
      { partition: 'boot', entries: [...stockEntries(), PROGRAM] },
      false,
    ],
    ['an init_boot image', { partition: 'init_boot', kernel: new Uint8Array(0), version: 4 }, false],
  ])('%s', async (_what, options, is) => expect(isRecovery(await claimOf(options)).holds).toBe(is));

  it('a program of another name or place is none', async () => {
    const entries = ['system/bin/recovery-tool', 'sbin/recovery.sh', 'data/sbin/recovery', 'recovery'].map(
      (path) => entry(path, 'x'),
    );
    expect(
      isRecovery(await claimOf({ partition: 'recovery', entries: [...stockEntries(), ...entries] })).holds,
    ).toBe(false);
  });

  const claim: RecoveryClaim = {
    partition: 'recovery',
    program: 'Lifeboat 3.8',
    opensUpTo: 36,
    fingerprint: FINGERPRINT,
  };
  const hill = { device: 'hill', fingerprint: FINGERPRINT };
  const word = { devices: ['hill'], reason: 'its maker’s page says so' };
  it.each<
    [
      string,
      Partial<RecoveryClaim>,
      typeof hill | { device: null; fingerprint: null },
      typeof word | null,
      boolean | null,
    ]
  >([
    ['its own data names the handset', {}, hill, null, true],
    [
      'its own data names another handset',
      { fingerprint: FINGERPRINT.replace('/hill:', '/moor:') },
      hill,
      word,
      false,
    ],
    [
      'its own data names another variant',
      { fingerprint: FINGERPRINT.replace('hill_eu', 'hill_am') },
      hill,
      word,
      false,
    ],
    ['it says nothing and nobody did', { fingerprint: null }, hill, null, null],
    ['it says nothing and the person gave a reason', { fingerprint: null }, hill, word, true],
    ['it says nothing and the person gave none', { fingerprint: null }, hill, { ...word, reason: ' ' }, null],
    [
      'it says nothing and the person named another',
      { fingerprint: null },
      hill,
      { ...word, devices: ['moor'] },
      false,
    ],
    ['what it names is no fingerprint', { fingerprint: 'none' }, hill, word, true],
    ['the handset never said who it is', {}, { device: null, fingerprint: null }, word, null],
  ])('is for a handset where %s', (_what, change, handset, said, holds) =>
    expect(recoveryIsFor({ ...claim, ...change }, handset, said).holds).toBe(holds),
  );

  it('is shelved unless it is the maker’s own, a patched image, or none', () => {
    expect(whyNoRecovery('recovery', claim)).toBeNull();
    expect(whyNoRecovery('unknown', claim)).toBeNull();
    expect(whyNoRecovery('stock', claim)).toContain('stock');
    expect(whyNoRecovery('patched', claim)).toContain('patched');
    expect(whyNoRecovery('unknown', { ...claim, partition: 'radio' })).toContain('radio');
    expect(whyNoRecovery('unknown', { ...claim, program: null })).toContain('ramdisk');
  });
});
