import { describe, expect, it } from 'vitest';
import { writeSawWords } from '../words/write';
import type { ImageCheckId, WritePurpose } from '../words/write';
import type { WriteProof, WriteQuestion, WriteTarget, WrittenImage } from './write-question';
import { judgeOne, judgeWrite } from './judge-write';
import { floorOf } from './write-rules';
import { isSlotted, writeTargetOf } from './write-target';

const HERE = 'club/hill_eu/hill:16/HC1.260905.007/9001:user/release-keys';
const NEXT = 'club/hill_eu/hill:16/HC1.261005.001/9002:user/release-keys';
const VARIANT = 'club/hill_us/hill:16/HC1.260905.007/9003:user/release-keys';
const MOOR = 'club/moor_eu/moor:16/HC1.260905.007/9001:user/release-keys';

const IMAGE: WrittenImage = {
  partition: 'init_boot',
  fingerprints: [HERE],
  patchLevel: '2026-09',
  sizeBytes: 1000,
  level: null,
  package: null,
};
const TARGET: WriteTarget = {
  partition: 'init_boot',
  slot: 'a',
  slotted: true,
  runningSlot: true,
  slotBuild: HERE,
  slotPatchLevel: '2026-09-05',
  device: 'hill',
  installed: HERE,
  sdk: 36,
  exists: true,
  partitionBytes: 1000,
  logical: false,
  mode: 'bootloader',
  unlocked: true,
  battery: { percent: 80, fit: null, ageSeconds: 60 },
  snapshot: 'none',
  recoveryHome: 'vendor_boot',
  fuse: null,
  bootloader: 'tb-1.4-12',
  bootloaderLevel: null,
};
const JUDGED: Extract<WriteProof, { kind: 'judged' }> = {
  kind: 'judged',
  belongs: 'yes',
  times: 1,
  unexpected: 0,
  against: null,
  same: false,
  stockBuild: HERE,
  trust: null,
};
const RECOVERY: Extract<WriteProof, { kind: 'recovery' }> = {
  kind: 'recovery',
  is: { holds: true, says: { code: 'program', path: 'sbin/recovery', saysRecovery: true } },
  forHandset: { holds: true, says: { code: 'made-for-it', product: 'hill_eu', device: 'hill' } },
  opensUpTo: null,
  onlyFragment: null,
};
const ROOT: WriteQuestion = { purpose: 'root', image: IMAGE, target: TARGET, proof: JUDGED };
const PACKAGE = { fingerprint: HERE, devices: ['hill'], bootloaders: ['tb-1.4-12'] };

type Change = {
  readonly purpose?: WritePurpose;
  readonly image?: Partial<WrittenImage>;
  readonly target?: Partial<WriteTarget>;
  readonly proof?: WriteProof;
};
const asked = ({ purpose = 'root', image, target, proof = JUDGED }: Change): WriteQuestion => ({
  purpose,
  image: { ...IMAGE, ...image },
  target: { ...TARGET, ...target },
  proof,
});
const stock = (same: boolean, patched = false): WriteProof => ({ kind: 'bytes', same, as: 'stock', patched });

describe('a write', () => {
  it('of a proved image to the slot of its build is allowed', () => {
    const { verdict, checks } = judgeWrite(ROOT);
    expect(verdict).toBe('allowed');
    expect(checks.every(({ holds, overridable }) => holds === true && !overridable)).toBe(true);
  });

  it.each<[string, ImageCheckId, Change, boolean | null]>([
    ['another build on the slot', 'build', { target: { slotBuild: NEXT } }, false],
    ['an unknown build on the slot', 'build', { target: { slotBuild: null } }, null],
    ['bytes that name two builds', 'build', { image: { fingerprints: [HERE, NEXT] } }, false],
    [
      'two builds and an unknown slot',
      'build',
      { image: { fingerprints: [HERE, NEXT] }, target: { slotBuild: null } },
      false,
    ],
    ['no build named, its stock image’s known', 'build', { image: { fingerprints: [] } }, true],
    [
      'no build named, its stock image another’s',
      'build',
      { image: { fingerprints: [] }, proof: { ...JUDGED, stockBuild: NEXT } },
      false,
    ],
    [
      'no build named, nothing that ties it',
      'build',
      { image: { fingerprints: [] }, proof: { ...JUDGED, belongs: "can't tell" } },
      null,
    ],
    [
      'no build named, its package known',
      'build',
      { image: { fingerprints: [], package: PACKAGE }, proof: stock(true) },
      true,
    ],
    [
      'a package of another build',
      'build',
      { image: { fingerprints: [], package: { ...PACKAGE, fingerprint: NEXT } } },
      false,
    ],
    [
      'only another month',
      'build',
      { image: { fingerprints: [], patchLevel: '2026-08' }, proof: stock(true) },
      false,
    ],
    ['only the same month', 'build', { image: { fingerprints: [] }, proof: stock(true) }, null],
    [
      'a patch whose proof failed',
      'build',
      {
        image: { fingerprints: [] },
        proof: { kind: 'patch', held: 1, of: 2, failed: 'x', stockBuild: HERE },
      },
      null,
    ],
    ['another handset', 'handset', { image: { fingerprints: [MOOR] } }, false],
    ['another variant', 'handset', { image: { fingerprints: [VARIANT] } }, false],
    [
      'an unread variant',
      'handset',
      { image: { fingerprints: [VARIANT] }, target: { installed: null } },
      true,
    ],
    ['an unread code name', 'handset', { target: { device: null } }, null],
    [
      'a package for several, this one among them',
      'handset',
      {
        image: { fingerprints: [], package: { ...PACKAGE, fingerprint: null, devices: ['moor', 'hill'] } },
        proof: stock(true),
      },
      true,
    ],
    [
      'a package for others',
      'handset',
      {
        image: { fingerprints: [], package: { ...PACKAGE, fingerprint: null, devices: ['moor'] } },
        proof: stock(true),
      },
      false,
    ],
    ['nobody named', 'handset', { image: { fingerprints: [] }, proof: stock(true) }, null],
    ['another partition', 'partition', { image: { partition: 'boot' } }, false],
    ['no known format', 'partition', { image: { partition: null } }, null],
    [
      'no known format, from its package',
      'partition',
      { image: { partition: null, package: PACKAGE } },
      true,
    ],
    [
      'a partition that it does not have',
      'partition',
      { target: { exists: false }, image: { package: PACKAGE } },
      false,
    ],
    [
      'a chained vbmeta',
      'partition',
      { image: { partition: 'vbmeta' }, target: { partition: 'vbmeta_system' } },
      null,
    ],
    [
      'a boot partition as a bootloader',
      'partition',
      { purpose: 'bootloader', image: { package: PACKAGE } },
      false,
    ],
    ['an unknown number of slots', 'slot', { target: { slotted: null, slot: null } }, null],
    ['an unknown number of slots, one named', 'slot', { target: { slotted: null } }, true],
    ['no slot where there are two', 'slot', { target: { slot: null } }, false],
    ['a slot where there is one', 'slot', { target: { slotted: false } }, false],
    ['one byte too many', 'size', { image: { sizeBytes: 1001 } }, false],
    ['just as many bytes', 'size', {}, true],
    ['an unread size', 'size', { target: { partitionBytes: null } }, null],
    ['an unread mode', 'mode', { target: { mode: null } }, null],
    ['the running system', 'mode', { target: { mode: 'system' } }, true],
    ['a handset that is off', 'mode', { target: { mode: 'off' } }, false],
    ['sideload', 'mode', { target: { mode: 'sideload' } }, false],
    [
      'a logical partition in the bootloader',
      'mode',
      { target: { partition: 'system', logical: true } },
      false,
    ],
    [
      'a logical partition in user-space flashing',
      'mode',
      { target: { partition: 'system', logical: true, mode: 'userspace' } },
      true,
    ],
    ['system, never read to be logical', 'mode', { target: { partition: 'system', logical: null } }, null],
    ['system, read not to be logical', 'mode', { target: { partition: 'system' } }, true],
    ['a boot partition in user-space flashing', 'mode', { target: { mode: 'userspace' } }, true],
    ['a radio in user-space flashing', 'mode', { target: { partition: 'radio', mode: 'userspace' } }, false],
    [
      'a bootloader in download mode',
      'mode',
      { purpose: 'bootloader', target: { partition: 'bootloader', mode: 'download' } },
      true,
    ],
    ['a locked bootloader', 'lock', { target: { unlocked: false } }, false],
    ['an unread lock', 'lock', { target: { unlocked: null } }, null],
    [
      'a battery at 30 %',
      'battery',
      { target: { battery: { percent: 30, fit: null, ageSeconds: 0 } } },
      true,
    ],
    [
      'a battery at 29 %',
      'battery',
      { target: { battery: { percent: 29, fit: null, ageSeconds: 0 } } },
      false,
    ],
    [
      'a battery read an hour ago',
      'battery',
      { target: { battery: { percent: 80, fit: null, ageSeconds: 3600 } } },
      true,
    ],
    [
      'a battery read more than an hour ago',
      'battery',
      { target: { battery: { percent: 12, fit: null, ageSeconds: 3601 } } },
      null,
    ],
    [
      'a battery read at an unknown time',
      'battery',
      { target: { battery: { percent: 80, fit: null, ageSeconds: null } } },
      null,
    ],
    [
      'a battery that was never read',
      'battery',
      { target: { battery: { percent: null, fit: null, ageSeconds: 5 } } },
      null,
    ],
    [
      'a battery that the handset calls too low',
      'battery',
      { target: { battery: { percent: null, fit: false, ageSeconds: 5 } } },
      false,
    ],
    [
      'a battery that the handset calls fit',
      'battery',
      { target: { battery: { percent: null, fit: true, ageSeconds: 5 } } },
      true,
    ],
    ['a merging update, the running slot', 'snapshot', { target: { snapshot: 'merging' } }, true],
    [
      'a merging update, the other slot',
      'snapshot',
      { target: { snapshot: 'merging', runningSlot: false } },
      false,
    ],
    [
      'a merging update, a slot nobody knows',
      'snapshot',
      { target: { snapshot: 'merging', runningSlot: null } },
      null,
    ],
    ['a waiting update, its slot', 'snapshot', { target: { snapshot: 'waiting', runningSlot: false } }, true],
    [
      'an unread update, the other slot',
      'snapshot',
      { target: { snapshot: null, runningSlot: false } },
      null,
    ],
    ['an unread update, the running slot', 'snapshot', { target: { snapshot: null } }, true],
    [
      'a waiting update, a bootloader',
      'snapshot',
      { purpose: 'bootloader', target: { partition: 'bootloader', snapshot: 'snapshotted' } },
      false,
    ],
    [
      'a waiting update, a logical partition',
      'snapshot',
      { target: { partition: 'system', logical: true, snapshot: 'waiting' } },
      false,
    ],
    [
      'an update that was called off',
      'snapshot',
      { purpose: 'bootloader', target: { snapshot: 'cancelled' } },
      true,
    ],
    ['nothing to hold it against', 'proof', { proof: { kind: 'nothing' } }, null],
    [
      'a patch that is proved',
      'proof',
      { proof: { kind: 'patch', held: 2, of: 2, failed: null, stockBuild: HERE } },
      true,
    ],
    [
      'a patch whose proof failed',
      'proof',
      { proof: { kind: 'patch', held: 1, of: 2, failed: 'x', stockBuild: HERE } },
      false,
    ],
    ['an image that does not belong', 'proof', { proof: { ...JUDGED, belongs: 'no' } }, false],
    ['an image that can’t be told', 'proof', { proof: { ...JUDGED, belongs: "can't tell" } }, null],
    ['an image patched twice', 'proof', { proof: { ...JUDGED, times: 2 } }, false],
    ['an image with something unexpected', 'proof', { proof: { ...JUDGED, unexpected: 1 } }, null],
    ['an image without a trace of a patch', 'proof', { proof: { ...JUDGED, times: 0 } }, null],
    ['the stock image as root’s', 'proof', { proof: { ...JUDGED, times: 0, same: true } }, false],
    ['a ready-made image without trust', 'proof', { purpose: 'ready-made' }, null],
    [
      'a ready-made image that is trusted',
      'proof',
      { purpose: 'ready-made', proof: { ...JUDGED, times: 0, trust: 'our club made it' } },
      true,
    ],
    [
      'a trusted image of another stock',
      'proof',
      { purpose: 'ready-made', proof: { ...JUDGED, belongs: 'no', trust: 'x' } },
      false,
    ],
    ['the stock image byte for byte', 'proof', { purpose: 'stock', proof: stock(true) }, true],
    ['other bytes than the stock image’s', 'proof', { purpose: 'stock', proof: stock(false) }, false],
    ['a patched image called stock', 'proof', { purpose: 'stock', proof: stock(true, true) }, false],
    ['its own word only', 'proof', { purpose: 'stock', proof: { kind: 'own data', patched: false } }, null],
    [
      'its own word, with a note of a patch',
      'proof',
      { purpose: 'stock', proof: { kind: 'own data', patched: true } },
      false,
    ],
    ['a recovery', 'proof', { purpose: 'recovery', proof: RECOVERY }, true],
    [
      'a recovery that opens too little',
      'proof',
      { purpose: 'recovery', proof: { ...RECOVERY, opensUpTo: 35 } },
      null,
    ],
    [
      'a recovery that opens this release',
      'proof',
      { purpose: 'recovery', proof: { ...RECOVERY, opensUpTo: 36 } },
      true,
    ],
    [
      'no recovery at all',
      'proof',
      { purpose: 'recovery', proof: { ...RECOVERY, is: { holds: false, says: { code: 'nothing-inside' } } } },
      false,
    ],
    [
      'a recovery for nobody named',
      'handset',
      {
        purpose: 'recovery',
        proof: { ...RECOVERY, forHandset: { holds: null, says: { code: 'names-nobody' } } },
      },
      null,
    ],
    [
      'a recovery in its own partition',
      'home',
      { purpose: 'recovery', proof: RECOVERY, target: { partition: 'recovery', recoveryHome: 'recovery' } },
      true,
    ],
    [
      'a recovery elsewhere',
      'home',
      { purpose: 'recovery', proof: RECOVERY, target: { partition: 'boot', recoveryHome: 'recovery' } },
      false,
    ],
    [
      'a whole recovery over vendor_boot',
      'home',
      {
        purpose: 'recovery',
        proof: { ...RECOVERY, onlyFragment: false },
        target: { partition: 'vendor_boot' },
      },
      false,
    ],
    [
      'a fragment in vendor_boot',
      'home',
      {
        purpose: 'recovery',
        proof: { ...RECOVERY, onlyFragment: true },
        target: { partition: 'vendor_boot' },
      },
      true,
    ],
    [
      'a fragment in the vendor_boot of another build',
      'home',
      {
        purpose: 'recovery',
        proof: { ...RECOVERY, onlyFragment: true },
        image: { fingerprints: [NEXT] },
        target: { partition: 'vendor_boot' },
      },
      false,
    ],
    [
      'a fragment that was not compared',
      'home',
      { purpose: 'recovery', proof: RECOVERY, target: { partition: 'vendor_boot' } },
      null,
    ],
    [
      'a recovery where its home was never read',
      'home',
      { purpose: 'recovery', proof: RECOVERY, target: { partition: 'recovery', recoveryHome: null } },
      null,
    ],
    [
      'a recovery over boot where its home was never read',
      'home',
      { purpose: 'recovery', proof: RECOVERY, target: { partition: 'boot', recoveryHome: null } },
      false,
    ],
  ])('with %s: %s', (_what, id, change, holds) => {
    const check = judgeOne(id, asked(change));
    expect({ holds: check.holds, overridable: check.overridable }).toEqual({
      holds,
      overridable: holds === null,
    });
    expect(writeSawWords(check.saw)).not.toBe('');
  });

  it.each<[string, Parameters<typeof floorOf>[0], boolean | null]>([
    ['at the fuse', { level: 4, versions: [], fuse: 4, running: null, runningLevel: null }, true],
    [
      'below the fuse, though its name is newer',
      { level: 3, versions: ['tb-2'], fuse: 4, running: 'tb-1', runningLevel: null },
      false,
    ],
    [
      'as new as what runs',
      { level: null, versions: ['tb-1.4-12'], fuse: null, running: 'tb-1.4-12', runningLevel: null },
      true,
    ],
    [
      'newer than what runs',
      { level: null, versions: ['tb-1.4-13'], fuse: 9, running: 'tb-1.4-12', runningLevel: null },
      true,
    ],
    [
      'older than what runs, the fuse unread',
      { level: null, versions: ['tb-1.4-9'], fuse: null, running: 'tb-1.4-12', runningLevel: null },
      false,
    ],
    [
      'older, and its level above the fuse',
      { level: 4, versions: ['tb-1.4-9'], fuse: 4, running: 'tb-1.4-12', runningLevel: null },
      true,
    ],
    [
      'at the level of what runs',
      { level: 4, versions: [], fuse: null, running: null, runningLevel: 4 },
      true,
    ],
    [
      'of another line',
      { level: null, versions: ['xc-9'], fuse: null, running: 'tb-1.4-12', runningLevel: null },
      null,
    ],
    [
      'of two versions',
      { level: null, versions: ['tb-9', 'tb-10'], fuse: null, running: 'tb-1', runningLevel: null },
      null,
    ],
    ['of no version', { level: null, versions: [], fuse: null, running: 'tb-1', runningLevel: null }, null],
  ])('of a bootloader %s', (_what, question, holds) => {
    expect(floorOf(question)[0]).toBe(holds);
  });

  it('asks a stock bootloader for its floor too, and a boot image not', () => {
    const bootloader = asked({ purpose: 'stock', target: { partition: 'bootloader' }, proof: stock(true) });
    expect(judgeOne('floor', bootloader).holds).toBe(false);
    expect(judgeOne('floor', asked({ purpose: 'stock', proof: stock(true) })).holds).toBe(true);
  });

  it('is refused by one that fails, and open with one that nobody knows', () => {
    expect(judgeWrite(asked({ target: { unlocked: null } })).verdict).toBe("can't tell");
    expect(judgeWrite(asked({ target: { unlocked: null, slotBuild: NEXT } })).verdict).toBe('refused');
  });
});

/* A thousand seeded pairs against a table that knows nothing of the rules above: what is wrong, by name. */

/** What each fault makes of an otherwise good write, by purpose. */
const FAULTS: readonly {
  readonly name: string;
  readonly change: Change;
  readonly makes: Partial<Record<WritePurpose, 'refused' | "can't tell" | 'allowed'>>;
}[] = [
  {
    name: 'locked',
    change: { target: { unlocked: false } },
    makes: { root: 'refused', stock: 'refused', recovery: 'refused', 'ready-made': 'refused' },
  },
  {
    name: 'lock unread',
    change: { target: { unlocked: null } },
    makes: { root: "can't tell", stock: "can't tell", recovery: "can't tell", 'ready-made': "can't tell" },
  },
  {
    name: 'other build on the slot',
    change: { target: { slotBuild: NEXT } },
    makes: { root: 'refused', stock: 'refused', recovery: 'allowed', 'ready-made': 'refused' },
  },
  {
    name: 'another model',
    change: { target: { device: 'moor' } },
    makes: { root: 'refused', stock: 'refused', recovery: 'allowed', 'ready-made': 'refused' },
  },
  {
    name: 'too large',
    change: { target: { partitionBytes: 999 } },
    makes: { root: 'refused', stock: 'refused', recovery: 'refused', 'ready-made': 'refused' },
  },
  {
    name: 'battery low',
    change: { target: { battery: { percent: 5, fit: null, ageSeconds: 5 } } },
    makes: { root: 'refused', stock: 'refused', recovery: 'refused', 'ready-made': 'refused' },
  },
  {
    name: 'battery old',
    change: { target: { battery: { percent: 5, fit: null, ageSeconds: 7200 } } },
    makes: { root: "can't tell", stock: "can't tell", recovery: "can't tell", 'ready-made': "can't tell" },
  },
  {
    name: 'merging',
    change: { target: { snapshot: 'merging' } },
    makes: { root: 'allowed', stock: 'allowed', recovery: 'allowed', 'ready-made': 'allowed' },
  },
  {
    name: 'looping',
    change: { target: { mode: 'looping' } },
    makes: { root: 'refused', stock: 'refused', recovery: 'refused', 'ready-made': 'refused' },
  },
];
const GOOD: Readonly<Record<'root' | 'stock' | 'recovery' | 'ready-made', Change>> = {
  root: {},
  stock: { purpose: 'stock', proof: stock(true) },
  recovery: {
    purpose: 'recovery',
    proof: RECOVERY,
    image: { partition: 'recovery', fingerprints: [] },
    target: { partition: 'recovery', recoveryHome: 'recovery' },
  },
  'ready-made': { purpose: 'ready-made', proof: { ...JUDGED, trust: 'ours' } },
};
const WORST = { allowed: 0, "can't tell": 1, refused: 2 } as const;

describe('a thousand seeded writes', () => {
  it('come out as the worst of their faults', () => {
    let x = 17;
    const draw = (n: number) => {
      x = (Math.imul(x, 1664525) + 1013904223) >>> 0;
      return Math.floor((x / 2 ** 32) * n);
    };
    const seen = new Map<string, number>();
    for (let i = 0; i < 1000; i += 1) {
      const purpose = (Object.keys(GOOD) as (keyof typeof GOOD)[])[draw(4)]!;
      const faults = FAULTS.filter(() => draw(5) === 0);
      const good = GOOD[purpose];
      const target = Object.assign(
        {},
        good.target,
        ...faults.map(({ change }) => change.target),
      ) as Partial<WriteTarget>;
      const expected = faults
        .map(({ makes }) => makes[purpose]!)
        .reduce<keyof typeof WORST>((a, b) => (WORST[b] > WORST[a] ? b : a), 'allowed');
      // two faults of one fact: the later one counts
      const battery = faults.filter(({ name }) => name.startsWith('battery'));
      const lock = faults.filter(({ name }) => name.startsWith('lock'));
      if (battery.length > 1 || lock.length > 1) continue;
      const { verdict } = judgeWrite(asked({ ...good, target }));
      expect(`${purpose}, ${faults.map(({ name }) => name).join(' + ')}: ${verdict}`).toBe(
        `${purpose}, ${faults.map(({ name }) => name).join(' + ')}: ${expected}`,
      );
      seen.set(verdict, (seen.get(verdict) ?? 0) + 1);
    }
    expect([...seen.values()].every((count) => count > 50)).toBe(true);
    expect(seen.size).toBe(3);
  });
});

describe('the place of a write', () => {
  const facts = {
    fingerprint: HERE,
    patchLevel: '2026-09-05',
    currentSlot: 'a',
    slotCount: 2,
    partitions: {
      init_boot: { size: null, hasSlot: true, logical: null },
      init_boot_a: { size: 5, hasSlot: null, logical: false },
      init_boot_b: { size: 6, hasSlot: null, logical: false },
      metadata: { size: 7, hasSlot: false, logical: false },
    },
    slotContents: { b: { build: NEXT } },
  };
  it('is the slot with its own build and size', () => {
    expect(writeTargetOf(facts, 'init_boot', 'b')).toMatchObject({
      slotBuild: NEXT,
      slotPatchLevel: null,
      partitionBytes: 6,
      runningSlot: false,
      exists: true,
    });
    expect(writeTargetOf(facts, 'init_boot', 'a')).toMatchObject({
      slotBuild: HERE,
      slotPatchLevel: '2026-09-05',
      partitionBytes: 5,
      runningSlot: true,
    });
  });
  it('of the slot that does not run is not known from what runs', () => {
    const { slotContents: _none, ...rest } = facts;
    expect(writeTargetOf(rest, 'init_boot', 'b').slotBuild).toBeNull();
    expect(writeTargetOf({ ...rest, currentSlot: null }, 'init_boot', 'a').slotBuild).toBeNull();
  });
  it('says where a partition is none of the handset’s', () => {
    expect(writeTargetOf(facts, 'recovery', 'a').exists).toBe(false);
    expect(writeTargetOf({}, 'recovery', null).exists).toBeNull();
  });
  it.each([
    ['init_boot', null],
    ['init_boot', 'c'],
    ['metadata', 'a'],
  ])('refuses %s on slot %s', (partition, slot) => {
    expect(() => writeTargetOf(facts, partition, slot)).toThrow(/slot/);
  });
  it('knows whether a partition exists once a slot', () => {
    expect(isSlotted({}, 'boot')).toBeNull();
    expect(isSlotted({ slotCount: 1 }, 'boot')).toBe(false);
    expect(isSlotted({ currentSlot: 'a' }, 'boot')).toBe(true);
    expect(isSlotted({ partitions: { boot_a: {} } }, 'boot')).toBe(true);
    expect(isSlotted({ partitions: { boot: { hasSlot: false } }, slotCount: 2 }, 'boot')).toBe(false);
  });
});
