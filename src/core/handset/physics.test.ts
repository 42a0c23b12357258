import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { AUGUST, build, OCTOBER, SEPTEMBER, world } from '../../../tests/fixtures/plan-world';
import { tries } from '../../../tests/fixtures/soak';
import { customRecovery, flaggedVbmeta, patchedImage, stockImage, wholeBuild } from '../planning/context';
import { compareBuilds } from './builds';
import { lockHarm } from './operate-modes';
import type { HandsetOperation } from './operate';
import { operate } from './operate';
import { recoveryFault, start, startFault } from './start';
import type { HandsetProfile, HandsetState } from './state';
import { SLOTS } from './state';

/* What holds of the machine whatever is done to it. */

const PARTITIONS = { init_boot: 8192, boot: 8192, vendor_boot: 8192, vbmeta: 8192, bootloader: 8192 };
const base = world({
  rooted: true,
  profile: { partitionBytes: PARTITIONS },
  context: { recovery: { name: 'Lifeboat', opensUpTo: 36 } },
});
const { profile } = base;
const broken = { ...stockImage('boot', SEPTEMBER), broken: 'cut short' };
const own = customRecovery(base, SEPTEMBER);

const OPERATIONS: readonly HandsetOperation[] = [
  { do: 'power-on' },
  { do: 'power-off' },
  { do: 'enter-bootloader' },
  { do: 'enter-recovery' },
  { do: 'enter-userspace' },
  { do: 'enter-sideload' },
  { do: 'restart' },
  { do: 'finish-start' },
  { do: 'unlock' },
  { do: 'lock' },
  { do: 'wipe', kind: 'factory' },
  { do: 'wipe', kind: 'format' },
  { do: 'write', partition: 'init_boot_a', image: patchedImage(base, SEPTEMBER) },
  { do: 'write', partition: 'init_boot_b', image: patchedImage(base, OCTOBER) },
  { do: 'write', partition: 'boot_a', image: broken },
  { do: 'write', partition: 'boot_a', image: stockImage('boot', SEPTEMBER) },
  { do: 'write', partition: 'vendor_boot_a', image: own },
  { do: 'write', partition: 'vendor_boot_a', image: stockImage('vendor_boot', SEPTEMBER) },
  { do: 'take-update', update: { ...wholeBuild(base, OCTOBER, false), incremental: false } },
  { do: 'cancel-update' },
  { do: 'wait-for-merge' },
  { do: 'set-active', slot: 'a' },
  { do: 'set-active', slot: 'b' },
  { do: 'ask-root' },
  { do: 'answer-root', allow: true },
  { do: 'write-build', whole: wholeBuild(base, SEPTEMBER, false), both: false, wipe: false },
  { do: 'sideload', whole: wholeBuild(base, OCTOBER, false) },
];
/** They bring a whole build to a slot. */
const WHOLE = ['write-build', 'write-set', 'sideload', 'take-update'];
const ways = fc.array(fc.constantFrom(...OPERATIONS), { minLength: 4, maxLength: 24 });

function walked(
  from: HandsetState,
  operations: readonly HandsetOperation[],
  each: (before: HandsetState, after: HandsetState, operation: HandsetOperation) => void,
): void {
  let now = from;
  for (const operation of operations) {
    const done = operate(profile, now, operation);
    if (!done.ok) continue;
    each(now, done.state, operation);
    now = done.state;
  }
}
const played = (of: HandsetProfile, from: HandsetState, ...operations: readonly HandsetOperation[]) =>
  operations.reduce((now, operation) => {
    const done = operate(of, now, operation);
    if (!done.ok) throw new Error(`${operation.do}: ${done.reason}`);
    return done.state;
  }, from);
const TAKE: HandsetOperation = {
  do: 'take-update',
  update: { ...wholeBuild(base, OCTOBER, false), incremental: false },
};
const START: readonly HandsetOperation[] = [{ do: 'restart' }, { do: 'finish-start' }];

describe('whatever is done', () => {
  it('a system that is gone stays gone until a whole build is brought to its slot', () =>
    fc.assert(
      fc.property(ways, (operations) =>
        walked(base.start, operations, (before, after, operation) => {
          for (const slot of SLOTS)
            if (before.slots[slot].gone && !after.slots[slot].gone) expect(WHOLE).toContain(operation.do);
        }),
      ),
      tries(400),
    ));
  it('what starts has every part that it depends on', () =>
    fc.assert(
      fc.property(ways, (operations) =>
        walked(base.start, operations, (before, after, { do: what }) => {
          if (what !== 'finish-start' || after.mode !== 'system') return;
          const { slot, build: runs } = after.running!;
          expect(before.slots[slot].gone).not.toBe(true);
          for (const partition of ['init_boot', 'boot', 'vendor_boot']) {
            const image = after.images[`${partition}_${slot}`]!;
            expect(image.broken).toBeNull();
            expect(image.fingerprint).toBe(runs);
            if (after.locked) expect([image.patchedBy, image.recovery ?? null]).toEqual([null, null]);
          }
        }),
      ),
      tries(400),
    ));
  it('recovery and user-space flashing run only from parts that can be read', () =>
    fc.assert(
      fc.property(ways, (operations) =>
        walked(base.start, operations, (_before, after, { do: what }) => {
          if (what === 'enter-recovery' || what === 'enter-userspace')
            for (const partition of ['init_boot', 'boot', 'vendor_boot'])
              expect(after.images[`${partition}_${after.active}`]!.broken).toBeNull();
        }),
      ),
      tries(400),
    ));
  it('one that is locked starts afterwards exactly where locking was no harm', () => {
    fc.assert(
      fc.property(ways, (operations) =>
        walked(base.start, operations, (before, after, { do: what }) => {
          if (what !== 'lock') return;
          const fault = startFault(profile, after, after.active);
          if (lockHarm(profile, before) === null) {
            expect(fault).toBeNull();
          } else if (
            Object.entries(before.images).some(
              ([name, image]) => name.endsWith(`_${before.active}`) && image.patchedBy,
            )
          )
            expect(fault).toMatch(/locked/);
        }),
      ),
      tries(600),
    );
    const whole = played(
      profile,
      base.start,
      { do: 'enter-bootloader' },
      { do: 'write-build', whole: wholeBuild(base, SEPTEMBER, false), both: true, wipe: false },
      ...START,
      { do: 'enter-bootloader' },
    );
    expect(lockHarm(profile, whole)).toBeNull();
    expect(startFault(profile, played(profile, whole, { do: 'lock' }), 'a')).toBeNull();
  });
});

describe('an update that waits or merges', () => {
  const waiting = () => played(profile, base.start, TAKE);
  const merging = () => played(profile, waiting(), ...START);
  it.each<[string, () => HandsetState, 'a' | 'b']>([
    ['waits', waiting, 'b'],
    ['merges', merging, 'b'],
  ])('that %s is torn by erasing from the bootloader, by unlocking and by locking', (_what, from, slot) => {
    const there = { ...played(profile, from(), { do: 'enter-bootloader' }) };
    for (const [lies, operation] of [
      [there, { do: 'wipe', kind: 'factory' }],
      [{ ...there, locked: true }, { do: 'unlock' }],
      [there, { do: 'lock' }],
    ] as const) {
      const after = played(profile, lies, operation);
      expect(after.slots[slot].gone).toBe(true);
      expect(startFault(profile, after, slot)).toMatch(/no system/);
    }
  });
  it('is settled by the maker’s recovery before it erases, and torn by another', () => {
    const wipe: HandsetOperation = { do: 'wipe', kind: 'factory' };
    const stock = played(profile, waiting(), { do: 'enter-recovery' }, wipe);
    expect(stock).toMatchObject({ active: 'a', update: null, snapshot: 'none' });
    expect(startFault(profile, stock, 'a')).toBeNull();
    const ended = played(profile, merging(), { do: 'enter-recovery' }, wipe);
    expect(startFault(profile, ended, 'b')).toBeNull();
    expect(ended.slots.a.gone).toBe(true);
    const changed = {
      ...merging(),
      images: { ...merging().images, vendor_boot_b: customRecovery(base, OCTOBER) },
    };
    expect(played(profile, changed, { do: 'enter-recovery' }, wipe).slots.b.gone).toBe(true);
  });
  it('that begins to merge takes the old slot with it: selecting it makes it no system again', () => {
    const merged = played(profile, merging(), { do: 'wait-for-merge' }, { do: 'enter-bootloader' });
    const chosen = played(profile, merged, { do: 'set-active', slot: 'a' });
    expect(chosen.slots.a).toMatchObject({ bootable: true, gone: true });
    expect(start(profile, { ...chosen, mode: 'starting' }).outcome).toMatchObject({
      result: 'started',
      slot: 'b',
    });
  });
  it('that came by sideload waits and merges like one taken inside', () => {
    const sent = played(
      profile,
      base.start,
      { do: 'enter-recovery' },
      { do: 'enter-sideload' },
      { do: 'sideload', whole: wholeBuild(base, OCTOBER, false) },
    );
    expect(sent).toMatchObject({ snapshot: 'waiting', update: { slot: 'b', build: OCTOBER } });
    expect(played(profile, sent, ...START)).toMatchObject({
      snapshot: 'merging',
      slots: { a: { gone: true } },
    });
  });
  it('that is incremental refuses a system whose own digest does not hold', () => {
    const from = world({ profile: { partitionBytes: { ...PARTITIONS, system: 8192 } } });
    const images = {
      ...from.start.images,
      system_a: { ...stockImage('system', SEPTEMBER), digestValid: false },
    };
    const take = (incremental: boolean) =>
      operate(
        from.profile,
        { ...from.start, images },
        {
          do: 'take-update',
          update: { ...wholeBuild(from, OCTOBER, false), incremental },
        },
      );
    expect(take(true)).toMatchObject({ ok: false, code: 'not-stock' });
    expect(take(false).ok).toBe(true);
  });
});

describe('parts', () => {
  it('where flags are needed a changed image starts only under them', () => {
    const needs = { ...profile, needsVbmetaFlags: true };
    expect(startFault(needs, base.start, 'a')).toMatch(/flags/);
    const flagged = { ...base.start, images: { ...base.start.images, vbmeta_a: flaggedVbmeta(SEPTEMBER) } };
    expect(startFault(needs, flagged, 'a')).toBeNull();
    expect(startFault(profile, base.start, 'a')).toBeNull();
    // locked, flags count for nothing
    expect(startFault(needs, { ...flagged, locked: true }, 'a')).toMatch(/locked/);
  });
  it('a recovery in a partition of its own brings its own kernel on one slot only', () => {
    const lies = { ...base.start, images: { ...base.start.images, boot_a: broken } };
    expect(recoveryFault({ ...profile, recoveryHome: 'recovery', slotCount: 1 }, lies)).toBeNull();
    expect(recoveryFault({ ...profile, recoveryHome: 'recovery', slotCount: 2 }, lies)).toMatch(/boot/);
  });
  it('root in the recovery is there after the start with its keys, and after no other', () => {
    const tablet = world({
      rooted: true,
      profile: {
        rootPartition: 'recovery',
        recoveryHome: 'recovery',
        slotCount: 1,
        partitionBytes: { boot: 8192, recovery: 8192 },
      },
    });
    const off = { ...tablet.start, mode: 'off', running: null } as const;
    const keys = played(tablet.profile, off, { do: 'start-with-recovery-keys' });
    expect(keys).toMatchObject({ mode: 'system', running: { rooted: true } });
    expect(played(tablet.profile, off, { do: 'power-on' }, { do: 'finish-start' }).running).toMatchObject({
      rooted: false,
    });
    const cut = {
      ...off,
      images: { ...off.images, recovery_a: { ...off.images['recovery_a']!, broken: 'cut' } },
    };
    expect(played(tablet.profile, cut, { do: 'start-with-recovery-keys' }).mode).toBe('looping');
    expect(played(tablet.profile, cut, { do: 'power-on' }, { do: 'finish-start' }).mode).toBe('system');
  });
  it('a bootloader whose write was cut short does not come up any more', () => {
    const cut = {
      ...base.start.images,
      bootloader_a: { ...stockImage('bootloader', SEPTEMBER), broken: 'cut' },
    };
    expect(start(profile, { ...base.start, images: cut }).outcome.result).toBe('dead');
  });
  it('one’s own recovery, once entered, is not put back by the system', () => {
    const restoring = world({
      recovery: true,
      profile: {
        recoveryHome: 'recovery',
        restoresRecovery: true,
        partitionBytes: { init_boot: 8192, boot: 8192, recovery: 8192 },
      },
    });
    const plain = played(restoring.profile, restoring.start, ...START);
    expect(plain.images['recovery_a']!.recovery).toBeNull();
    const entered = played(restoring.profile, restoring.start, { do: 'enter-recovery' }, ...START);
    expect(entered.images['recovery_a']!.recovery?.name).toBe('Lifeboat');
  });
});

describe('which of two builds is newer', () => {
  const later = SEPTEMBER.replace('260905', '260920');
  const known = (change: HandsetProfile['builds']) => ({
    ...profile,
    builds: { ...profile.builds, ...change },
  });
  it.each<[string, HandsetProfile, string, string, number]>([
    ['the patch level tells', profile, OCTOBER, SEPTEMBER, 1],
    ['the same build is neither', profile, AUGUST, AUGUST, 0],
    [
      'within one level the date in the name',
      known({ [later]: profile.builds[SEPTEMBER]! }),
      later,
      SEPTEMBER,
      1,
    ],
    [
      'the time it was made, before all else',
      known({
        [later]: { ...profile.builds[SEPTEMBER]!, timestamp: 5 },
        [SEPTEMBER]: { ...profile.builds[SEPTEMBER]!, timestamp: 6 },
      }),
      later,
      SEPTEMBER,
      -1,
    ],
    [
      'one time alone tells nothing',
      known({ [later]: { ...profile.builds[SEPTEMBER]!, timestamp: 1 } }),
      later,
      SEPTEMBER,
      1,
    ],
    [
      'a name without a date is the older one',
      profile,
      build('2609'),
      'club/hill_eu/hill:16/HC1/1:user/release-keys',
      1,
    ],
  ])('%s', (_what, of, a, b, order) => {
    expect(compareBuilds(of, a, b)).toBe(order);
    expect(compareBuilds(of, b, a)).toBe(order === 0 ? 0 : -order);
  });
});
