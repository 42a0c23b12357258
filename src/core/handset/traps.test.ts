import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { buildFacts } from './builds';
import type { HandsetOperation } from './operate';
import { lockHarm } from './operate-modes';
import { operate } from './operate';
import type { WholeBuild } from './operate-writes';
import { start, startFault } from './start';
import type { HandsetProfile, HandsetState, ImageFacts, Slot } from './state';
import { otherSlot, PLAIN_PROFILE, PLAIN_STATE } from './state';
import { wiped } from './operated';
import { tries } from '../../../tests/fixtures/soak';

/* The traps that practice knows, each shown to happen; and what no sequence of operations may ever do. */

const build = (month: string) => `club/hill_eu/hill:16/HC1.${month}05.001/${month}:user/release-keys`;
const [AUGUST, SEPTEMBER, OCTOBER] = [build('2608'), build('2609'), build('2610')];
const facts = (patchLevel: string, index: number, bootloader = 0) => ({
  patchLevel,
  sdk: 36,
  index,
  bootloader,
});
const profile: HandsetProfile = {
  ...PLAIN_PROFILE,
  id: 'p',
  product: 'hill',
  model: 'Hill',
  serial: 'S1',
  bootloader: 'b',
  baseband: 'r',
  firstApiLevel: 34,
  sdk: 36,
  release: '16',
  maxDownloadBytes: 1 << 28,
  rootPartition: 'init_boot',
  recoveryHome: 'recovery',
  partitionBytes: { init_boot: 8192, boot: 8192, recovery: 8192 },
  builds: {
    [AUGUST]: facts('2026-08-05', 8),
    [SEPTEMBER]: facts('2026-09-05', 9),
    [OCTOBER]: facts('2026-10-05', 10),
  },
};
const image = (fingerprint: string, change: Partial<ImageFacts> = {}): ImageFacts => ({
  sha256: fingerprint,
  sizeBytes: 8192,
  broken: null,
  fingerprint,
  patchedBy: null,
  digestValid: true,
  ...change,
});
const patched = (fingerprint: string) =>
  image(fingerprint, { patchedBy: { kit: 'burrow 7.3', stockSha256: fingerprint }, digestValid: false });
const whole = (fingerprint: string): WholeBuild => ({
  build: fingerprint,
  images: { init_boot: image(fingerprint), boot: image(fingerprint), recovery: image(fingerprint) },
});
const slots = (a: string, b: string, root: (fingerprint: string) => ImageFacts = image) => ({
  init_boot_a: root(a),
  init_boot_b: image(b),
  boot_a: image(a),
  boot_b: image(b),
  recovery_a: image(a),
  recovery_b: image(b),
});
const proven = { bootable: true, proven: true, triesLeft: 3 };
const state = (change: Partial<HandsetState> = {}): HandsetState => ({
  ...PLAIN_STATE,
  mode: 'system',
  locked: false,
  active: 'a',
  slots: { a: proven, b: proven },
  builds: { a: SEPTEMBER, b: AUGUST },
  images: slots(SEPTEMBER, AUGUST),
  running: { slot: 'a', build: SEPTEMBER, rooted: false },
  data: { encrypted: true, keyLevel: '2026-09-05', committedBy: SEPTEMBER, wipes: 0 },
  ...change,
});
const rooted = (change: Partial<HandsetState> = {}) =>
  state({
    images: slots(SEPTEMBER, AUGUST, patched),
    running: { slot: 'a', build: SEPTEMBER, rooted: true },
    rootRequest: 'granted',
    rootApp: 'ready',
    ...change,
  });
const apply = (from: HandsetState, ...operations: HandsetOperation[]): HandsetState =>
  operations.reduce((now, operation) => {
    const result = operate(profile, now, operation);
    if (!result.ok) throw new Error(`${operation.do}: ${result.reason}`);
    return result.state;
  }, from);
const why = (from: HandsetState, operation: HandsetOperation, of = profile): string => {
  const result = operate(of, from, operation);
  return result.ok ? '' : result.reason;
};
const RESTART: HandsetOperation[] = [{ do: 'restart' }, { do: 'finish-start' }];
const UPDATE: HandsetOperation = { do: 'take-update', update: { ...whole(OCTOBER), incremental: false } };

describe('an update in place', () => {
  it('restarted one tap too early loses root, though everything was ready', () => {
    const early = apply(rooted(), UPDATE, ...RESTART);
    expect(early).toMatchObject({
      running: { slot: 'b', build: OCTOBER, rooted: false },
      snapshot: 'merging',
      update: null,
    });
    expect(early.images['init_boot_a']!.patchedBy).not.toBeNull();
  });
  it('with the other slot patched before the restart keeps root', () => {
    const kept = apply(
      rooted(),
      UPDATE,
      { do: 'patch-from-inside', which: 'other slot', image: patched(OCTOBER) },
      ...RESTART,
    );
    expect(kept.running).toEqual({ slot: 'b', build: OCTOBER, rooted: true });
    expect(kept.data.wipes).toBe(0);
  });
  it('that is incremental refuses what is not as it was made; a full one does not care', () => {
    const incremental: HandsetOperation = {
      do: 'take-update',
      update: { ...whole(OCTOBER), incremental: true },
    };
    expect(why(rooted(), incremental)).toMatch(/init_boot on slot a is not the stock image/);
    expect(why(rooted(), UPDATE)).toBe('');
    const putBack = apply(rooted(), {
      do: 'patch-from-inside',
      which: 'running slot',
      image: image(SEPTEMBER),
    });
    // root on disk is gone, root now running is not
    expect(putBack.running!.rooted).toBe(true);
    expect(why(putBack, incremental)).toBe('');
  });
  it('restarted between stock-back and patching the other slot: unrooted, and only re-rooting helps', () => {
    const cut = apply(
      rooted(),
      { do: 'patch-from-inside', which: 'running slot', image: image(SEPTEMBER) },
      ...RESTART,
    );
    expect(cut.running!.rooted).toBe(false);
    expect(why(cut, { do: 'patch-from-inside', which: 'other slot', image: patched(OCTOBER) })).toMatch(
      /root was not granted/,
    );
  });
  it('with an image of another build on the new slot falls back, and the update is gone', () => {
    const wrong = apply(rooted(), UPDATE);
    const broken = { ...wrong, images: { ...wrong.images, init_boot_b: patched(SEPTEMBER) } };
    expect(apply(broken, ...RESTART)).toMatchObject({
      running: { slot: 'a', rooted: true },
      update: null,
      snapshot: 'none',
      slots: { b: { bootable: false } },
    });
  });
  it('that waits can be called off; one that merges can not, nor can the slot be switched meanwhile', () => {
    const waiting = apply(rooted(), UPDATE);
    expect(apply(waiting, { do: 'cancel-update' })).toMatchObject({
      update: null,
      active: 'a',
      snapshot: 'none',
    });
    expect(why(waiting, UPDATE)).toMatch(/waits already/);
    const merging = apply(waiting, ...RESTART);
    expect(why(merging, { do: 'cancel-update' })).toMatch(/merging/);
    expect(why(merging, UPDATE)).toMatch(/merging/);
    const boot = apply(merging, { do: 'enter-bootloader' });
    expect(why(boot, { do: 'set-active', slot: 'a' })).toMatch(/merging/);
  });
  it('that has merged leaves no way back by the other slot', () => {
    const merged = apply(rooted(), UPDATE, ...RESTART, { do: 'wait-for-merge' });
    expect(merged.slots.a.bootable).toBe(false);
    expect(startFault(profile, merged, 'a')).toMatch(/not bootable/);
  });
  it('older or the same is refused', () => {
    expect(why(rooted(), { do: 'take-update', update: { ...whole(AUGUST), incremental: false } })).toMatch(
      /not newer/,
    );
  });
});

describe('data', () => {
  it('opened by a newer build keeps the older slot from starting', () => {
    const plain = { ...profile, mergesUpdates: false };
    const waiting = operate(plain, rooted(), UPDATE);
    const newer = waiting.ok && start(plain, { ...waiting.state, mode: 'starting' }).state;
    expect(newer && startFault(plain, newer, 'a')).toMatch(/newer build/);
  });
  it('unlocking, locking and the wipes always show', () => {
    const locked = state({ locked: true, mode: 'bootloader', running: null });
    const unlocked = apply(locked, { do: 'unlock' });
    expect(unlocked.data.wipes).toBe(1);
    expect(unlocked.settings.debugging).toBe(false);
    expect(apply({ ...unlocked, mode: 'recovery' }, { do: 'wipe', kind: 'format' }).data).toMatchObject({
      wipes: 2,
      encrypted: false,
    });
    expect(apply({ ...unlocked, mode: 'recovery' }, { do: 'wipe', kind: 'cache' }).data.wipes).toBe(1);
  });
  it.each([
    ['off', /off/],
    ['greyed', /greyed/],
    ['absent', /absent/],
  ] as const)('nothing is unlocked while the switch is %s', (unlockSwitch, words) => {
    expect(
      why(state({ locked: true, mode: 'bootloader', running: null, unlockSwitch }), { do: 'unlock' }),
    ).toMatch(words);
  });
});

describe('floors', () => {
  it('a bootloader below its fuse is a dead handset, locked or not', () => {
    const low = {
      ...profile,
      builds: {
        ...profile.builds,
        [OCTOBER]: facts('2026-10-05', 10, 3),
        [SEPTEMBER]: facts('2026-09-05', 9, 2),
      },
    };
    const at = state({ floors: { bootloader: 3, fuse: 3, index: 0 }, mode: 'bootloader', running: null });
    const written = operate(low, at, { do: 'write-build', whole: whole(SEPTEMBER), both: false, wipe: true });
    expect(written.ok && start(low, { ...written.state, mode: 'starting' }).state.mode).toBe('dead');
  });
  it('a locked handset refuses what is below the stored index, an unlocked one does not', () => {
    const at = state({ floors: { bootloader: 0, fuse: 0, index: 10 } });
    expect(startFault(profile, { ...at, locked: true }, 'a')).toMatch(/rollback index/);
    expect(startFault(profile, at, 'a')).toBeNull();
  });
  it('the index is raised at a later start of a proven slot, never at its first', () => {
    const locked = state({ locked: true, slots: { a: { ...proven, proven: false }, b: proven } });
    const first = apply(locked, ...RESTART);
    expect(first.floors.index).toBe(0);
    expect(apply(first, ...RESTART).floors.index).toBe(9);
  });
});

describe('locking again', () => {
  const boot = (change: Partial<HandsetState> = {}) =>
    state({
      mode: 'bootloader',
      running: null,
      builds: { a: SEPTEMBER, b: SEPTEMBER },
      images: slots(SEPTEMBER, SEPTEMBER),
      ...change,
    });
  it.each<[string, HandsetState, RegExp]>([
    ['over a patched image', boot({ images: slots(SEPTEMBER, SEPTEMBER, patched) }), /never start again/],
    [
      'over two builds',
      boot({ builds: { a: SEPTEMBER, b: AUGUST }, images: slots(SEPTEMBER, AUGUST) }),
      /different builds/,
    ],
    [
      'over a custom recovery',
      boot({
        images: {
          ...slots(SEPTEMBER, SEPTEMBER),
          recovery_a: image(SEPTEMBER, { recovery: { name: 'Lifeboat', opensUpTo: 36 } }),
        },
      }),
      /never start again/,
    ],
    ['below the stored index', boot({ floors: { bootloader: 0, fuse: 0, index: 99 } }), /never start again/],
    [
      'without one start while unlocked',
      boot({ slots: { a: { ...proven, proven: false }, b: proven } }),
      /not started once/,
    ],
  ])('would harm %s, and the bootloader locks all the same', (_what, from, words) => {
    expect(lockHarm(profile, from)).toMatch(words);
    expect(apply(from, { do: 'lock' })).toMatchObject({ locked: true, data: { wipes: 1 } });
  });
  it('harms nothing over the maker’s own, started once; then it starts', () => {
    expect(lockHarm(profile, boot())).toBeNull();
    expect(apply(boot(), { do: 'lock' }, ...RESTART)).toMatchObject({
      locked: true,
      mode: 'system',
      data: { wipes: 1 },
    });
  });
});

describe('recoveries', () => {
  const lifeboat = image(SEPTEMBER, { recovery: { name: 'Lifeboat', opensUpTo: 35 }, digestValid: false });
  it('some systems put the stock one back at their next start', () => {
    const restoring = { ...profile, restoresRecovery: true };
    const written = operate(restoring, state({ mode: 'bootloader', running: null }), {
      do: 'write',
      partition: 'recovery_a',
      image: lifeboat,
    });
    expect(written.ok && start(restoring, written.state).state.images['recovery_a']!.recovery).toBeNull();
    expect(written.ok && start(profile, written.state).state.images['recovery_a']!.recovery?.name).toBe(
      'Lifeboat',
    );
  });
  it('one that does not open this release’s storage sees no package', () => {
    const inside = state({
      mode: 'recovery',
      running: null,
      images: { ...slots(SEPTEMBER, AUGUST), recovery_a: lifeboat },
    });
    expect(why(inside, { do: 'install-zip', partition: 'init_boot', image: patched(SEPTEMBER) })).toMatch(
      /does not open/,
    );
    expect(
      why(
        { ...inside, data: { ...inside.data, encrypted: false } },
        { do: 'install-zip', partition: 'init_boot', image: patched(SEPTEMBER) },
      ),
    ).toBe('');
    expect(
      why(state({ mode: 'recovery', running: null }), {
        do: 'install-zip',
        partition: 'init_boot',
        image: patched(SEPTEMBER),
      }),
    ).toMatch(/maker’s packages only/);
  });
});

describe('other ways', () => {
  const boot = { ...profile, rootPartition: 'boot', startsOnce: true };
  it('an image started once leaves the disk as it was, and a bad one costs one restart', () => {
    const at = state({ mode: 'bootloader', running: null });
    const good = operate(boot, at, { do: 'start-once', image: patched(SEPTEMBER) });
    expect(good.ok && good.state).toMatchObject({
      mode: 'system',
      running: { rooted: true },
      images: at.images,
    });
    const bad = operate(boot, at, { do: 'start-once', image: patched(OCTOBER) });
    expect(bad.ok && bad.state).toMatchObject({ mode: 'looping', images: at.images });
    expect(bad.ok && start(boot, bad.state).state.mode).toBe('system');
    expect(
      why(at, { do: 'start-once', image: patched(SEPTEMBER) }, { ...profile, startsOnce: true }),
    ).toMatch(/only boot/);
  });
  it('a sideload goes up without unlocking, and down only where the maker lets it, over fresh data', () => {
    const waiting = state({ locked: true, mode: 'sideload', running: null });
    expect(apply(waiting, { do: 'sideload', whole: whole(OCTOBER) })).toMatchObject({
      active: 'b',
      data: { wipes: 0 },
    });
    expect(why(waiting, { do: 'sideload', whole: whole(AUGUST) })).toMatch(/older/);
    const down = operate({ ...profile, sideloadsDown: [{ from: SEPTEMBER, to: AUGUST }] }, waiting, {
      do: 'sideload',
      whole: whole(AUGUST),
    });
    expect(down.ok && down.state.data.wipes).toBe(1);
  });
  it('an incremental update wants every image of its source: of this build, or naming none', () => {
    const taking = (boot: Partial<ImageFacts>) =>
      operate(profile, state({ images: { ...slots(SEPTEMBER, AUGUST), boot_a: image(SEPTEMBER, boot) } }), {
        do: 'take-update',
        update: { build: OCTOBER, images: whole(OCTOBER).images, incremental: true },
      }).ok;
    expect(taking({})).toBe(true);
    expect(taking({ fingerprint: null })).toBe(true);
    expect(taking({ fingerprint: AUGUST })).toBe(false);
    expect(taking({ broken: 'damaged' })).toBe(false);
    expect(taking({ patchedBy: { kit: 'k', stockSha256: 's' } })).toBe(false);
    expect(taking({ recovery: { name: 'Lifeboat', opensUpTo: 36 } })).toBe(false);
  });
  it('an image that names no build does not keep a slot from starting, one of another build does', () => {
    const starting = (boot: Partial<ImageFacts>) =>
      startFault(
        profile,
        state({ images: { ...slots(SEPTEMBER, AUGUST), boot_a: image(SEPTEMBER, boot) } }),
        'a',
      );
    expect(starting({ fingerprint: null })).toBeNull();
    expect(starting({ fingerprint: OCTOBER })).toMatch(/belongs to/);
  });
  it.each([
    ['12345', '12345', true],
    ['12345', '54321', false],
    ['12345', null, false],
    [null, null, true],
    [null, 'any', true],
  ] as const)('a handset whose code is %s, given %s, unlocks: %s', (unlockCode, code, unlocks) => {
    const mailed = { ...profile, unlockPath: 'mailed code' as const, unlockCode };
    const at = state({ mode: 'bootloader', running: null, locked: true, unlockSwitch: 'on' });
    expect(operate(mailed, at, { do: 'unlock', ...(code === null ? {} : { code }) }).ok).toBe(unlocks);
  });
  it('a recovery that asks only reads until it is let change the system, and each time it is gone into', () => {
    const asking = { ...profile, recoveryAsks: true, restoresRecovery: true };
    const own = image(SEPTEMBER, { recovery: { name: 'Lifeboat', opensUpTo: 36 } });
    const at = state({
      mode: 'off',
      running: null,
      images: { ...slots(SEPTEMBER, AUGUST), recovery_a: own },
    });
    const go = (now: HandsetState, operation: HandsetOperation) => {
      const done = operate(asking, now, operation);
      return done.ok ? done.state : done.reason;
    };
    const inside = go(at, { do: 'enter-recovery' }) as HandsetState;
    const zip = { do: 'install-zip', partition: 'init_boot', image: patched(SEPTEMBER) } as const;
    expect(go(inside, zip)).toMatch(/only reads/);
    expect(go(inside, { do: 'wipe', kind: 'factory' })).toMatch(/only reads/);
    expect(go(inside, { do: 'wipe', kind: 'cache' })).toMatchObject({ mode: 'recovery' });
    expect(
      go(go(inside, { do: 'answer-recovery', asks: 'changes', yes: false }) as HandsetState, zip),
    ).toMatch(/only reads/);
    const letIn = go(inside, { do: 'answer-recovery', asks: 'changes', yes: true }) as HandsetState;
    expect(go(letIn, zip)).toMatchObject({ mode: 'recovery' });
    // what it was let do does not keep the maker's away: that is asked by itself
    const back = (now: HandsetState) =>
      start(asking, { ...now, mode: 'starting' }).state.images['recovery_a']!.recovery;
    expect(back(letIn)).toBeNull();
    expect(
      back(go(letIn, { do: 'answer-recovery', asks: 'keep mine', yes: false }) as HandsetState),
    ).toBeNull();
    expect(
      back(go(letIn, { do: 'answer-recovery', asks: 'keep mine', yes: true }) as HandsetState),
    ).not.toBeNull();
    const again = go(go(letIn, { do: 'power-off' }) as HandsetState, {
      do: 'enter-recovery',
    }) as HandsetState;
    expect(go(again, zip)).toMatch(/only reads/);
    expect(go(at, { do: 'answer-recovery', asks: 'changes', yes: true })).toMatch(/recovery/);
  });
  it('root in an open build lasts until the next restart', () => {
    const open = { ...profile, openBuilds: [SEPTEMBER] };
    const got = operate(open, state({ locked: true }), { do: 'open-root' });
    expect(got.ok && got.state.running!.rooted).toBe(true);
    expect(got.ok && start(open, { ...got.state, mode: 'starting' }).state.running!.rooted).toBe(false);
    expect(why(state(), { do: 'open-root' })).toMatch(/closed/);
  });
  it('root from inside that lasts is there after a start, until it is taken off or erased', () => {
    const open = { ...profile, openBuilds: [SEPTEMBER], ownWays: { 'inside-lasts': 'lasting' as const } };
    const got = operate(open, state({ locked: true }), { do: 'open-root' });
    const at = got.ok ? got.state : null!;
    const again = (now: HandsetState, of = open) =>
      start(of, { ...now, mode: 'starting' }).state.running!.rooted;
    expect(again(at)).toBe(true);
    expect(again(at, { ...open, openBuilds: [] })).toBe(false);
    const off = operate(open, at, { do: 'undo-inside' });
    // what runs goes on with it
    expect(off.ok && off.state.running!.rooted).toBe(true);
    expect(off.ok && again(off.state)).toBe(false);
    expect(off.ok && operate(open, off.state, { do: 'undo-inside' }).ok).toBe(false);
    expect(again({ ...wiped(at), mode: 'starting' })).toBe(false);
  });
  it.each([
    ['a foreign write', [false, true, true]],
    ['a foreign start', [false, false, true]],
    ['unlocking', [true, true, true]],
    ['nothing', [false, false, false]],
  ] as const)('a fuse that reacts to %s', (cause, blown) => {
    const own = { ...profile, unlockCode: null, ownWays: { 'fuse-reacts': cause } };
    const after = (result: ReturnType<typeof operate>) => (result.ok ? result.state : null!);
    const locked = state({ mode: 'bootloader', running: null, locked: true, unlockSwitch: 'on' });
    const unlocked = after(operate(own, locked, { do: 'unlock' }));
    const patched = rooted().images['init_boot_a']!;
    const written = after(operate(own, unlocked, { do: 'write', partition: 'init_boot_a', image: patched }));
    const started = start(own, { ...written, mode: 'starting' }).state;
    expect([unlocked, written, started].map(({ record }) => record.fuseBlown)).toEqual(blown);
    // it never comes back
    const stock = state().images['init_boot_a']!;
    const back = operate(
      own,
      { ...started, mode: 'bootloader', running: null },
      { do: 'write', partition: 'init_boot_a', image: stock },
    );
    expect(after(back).record).toMatchObject({ fuseBlown: blown[2], writes: 2 });
  });
  it('a bad module loops a proven slot, and with modules off it starts', () => {
    const bad = { ...profile, badModules: [{ id: 'lantern', build: SEPTEMBER }] };
    const at = rooted({ modules: { on: true, ids: ['lantern'] } });
    expect(start(bad, at).outcome.result).toBe('loops');
    expect(start(bad, { ...at, modules: { on: false, ids: ['lantern'] } }).outcome.result).toBe('started');
    expect(start(bad, { ...at, loops: 2 }).outcome.result).toBe('loops');
    expect(start(bad, { ...at, loops: 99 }).outcome.result).toBe('loops');
    const kit = { ...bad, restsModulesAfter: 3 };
    expect(start(kit, { ...at, loops: 2 }).outcome.result).toBe('loops');
    const rested = start(kit, { ...at, loops: 3 });
    expect(rested.outcome.result).toBe('started');
    expect(rested.state.modules).toEqual({ on: false, ids: ['lantern'] });
  });
  it('a firmware set keeps or wipes by its region part, and blows the fuse with a patched archive', () => {
    const tarset = { ...profile, slotCount: 1 as const, hasDownload: true };
    const set: WholeBuild = {
      build: OCTOBER,
      images: { ...whole(OCTOBER).images, init_boot: patched(OCTOBER) },
    };
    const at = state({ mode: 'download', running: null });
    const kept = operate(tarset, at, { do: 'write-set', whole: set, keepData: true });
    expect(kept.ok && kept.state).toMatchObject({
      mode: 'starting',
      data: { wipes: 0 },
      // each image of it counts
      record: { fuseBlown: true, writes: Object.keys(set.images).length },
    });
    const fresh = operate(tarset, at, { do: 'write-set', whole: whole(OCTOBER), keepData: false });
    expect(fresh.ok && fresh.state).toMatchObject({ data: { wipes: 1 }, record: { fuseBlown: false } });
    expect(why({ ...at, locked: true }, { do: 'write-set', whole: set, keepData: true }, tarset)).toMatch(
      /locked/,
    );
    expect(
      why(
        at,
        { do: 'write-set', whole: whole(AUGUST), keepData: true },
        { ...tarset, makerFloor: '2026-09' },
      ),
    ).toMatch(/maker’s floor/);
  });
});

describe('a firmware set, part by part', () => {
  const tarset = { ...profile, slotCount: 1 as const, hasDownload: true };
  const at = state({ mode: 'download', running: null });
  const set = whole(OCTOBER);
  const part = (partition: string, image: ImageFacts): HandsetOperation => ({
    do: 'write-set-part',
    partition,
    image,
  });
  it('leaves what a set cut in the middle has written, and nothing of the rest', () => {
    const [first, second] = Object.keys(set.images) as [string, string];
    const cut = operate(tarset, at, part(first, set.images[first]!));
    expect(cut.ok && cut.state).toMatchObject({
      mode: 'download',
      writtenSinceStart: true,
      data: { wipes: 0 },
      record: { writes: 1 },
      images: { [`${first}_a`]: set.images[first], [`${second}_a`]: at.images[`${second}_a`] },
    });
  });
  it('is the same in parts and its end as in one', () => {
    const parts = Object.entries(set.images).map(([partition, image]) => part(partition, image));
    let now = at;
    for (const one of [...parts, { do: 'end-set', build: OCTOBER, keepData: false } as const]) {
      const next = operate(tarset, now, one);
      if (!next.ok) throw new Error(next.reason);
      now = next.state;
    }
    const one = operate(tarset, at, { do: 'write-set', whole: set, keepData: false });
    expect(one.ok && one.state).toEqual(now);
  });
  it('judges each image as it comes: broken, foreign, too large, below the fuse, of no partition', () => {
    const [name, image] = Object.entries(set.images)[0]!;
    const mine = patched(OCTOBER);
    expect(why(at, part(name, { ...image, broken: 'cut' }), tarset)).toMatch(/cut/);
    expect(why({ ...at, locked: true }, part('init_boot', mine), tarset)).toMatch(/locked/);
    const room = tarset.partitionBytes[name]!;
    expect(why(at, part(name, { ...image, sizeBytes: room + 1 }), tarset)).toMatch(/holds/);
    expect(operate(tarset, at, part(name, { ...image, sizeBytes: room })).ok).toBe(true);
    const fuse = { ...at, floors: { ...at.floors, fuse: 99 } };
    expect(why(fuse, part(name, { ...image, fingerprint: OCTOBER }), tarset)).toMatch(/fuse/);
    expect(why(at, part('nowhere', image), tarset)).toMatch(/no partition/);
    expect(why({ ...at, mode: 'bootloader' }, part(name, image), tarset)).not.toBe('');
  });
  it('ends without a build where nothing of it named one', () => {
    const ended = operate(tarset, at, { do: 'end-set', build: null, keepData: true });
    expect(ended.ok && ended.state).toMatchObject({ mode: 'starting', builds: at.builds, floors: at.floors });
  });
});

describe('what the maker lets in', () => {
  const at = state({ mode: 'bootloader', running: null });
  const write = (build: string, makerFloor: string | null) =>
    operate({ ...profile, makerFloor }, at, {
      do: 'write-build',
      whole: whole(build),
      both: false,
      wipe: false,
    });
  it.each([
    [SEPTEMBER, '2026-09', true],
    [SEPTEMBER, '2026-10-01', false],
    [AUGUST, '2026-09-05', false],
    [AUGUST, null, true],
  ] as const)('holds for a whole build from the bootloader too: %s over %s', (build, floor, goes) =>
    expect(write(build, floor).ok).toBe(goes),
  );
});

describe('a bootloader that writes nothing', () => {
  const mute = { ...profile, slotCount: 1 as const, hasDownload: true, bootloaderWrites: false };
  const at = state({ mode: 'bootloader', running: null });
  it('takes no image and no build; download mode does, and root from inside', () => {
    const image = { do: 'write', partition: 'init_boot_a', image: patched(SEPTEMBER) } as const;
    const build = { do: 'write-build', whole: whole(OCTOBER), both: false, wipe: false } as const;
    expect(why(at, image, mute)).toMatch(/writes nothing/);
    expect(why(at, build, mute)).toMatch(/writes nothing/);
    expect(operate({ ...mute, bootloaderWrites: true }, at, image).ok).toBe(true);
    expect(operate({ ...mute, bootloaderWrites: true }, at, build).ok).toBe(true);
    const set = { do: 'write-set', whole: whole(OCTOBER), keepData: true } as const;
    expect(operate(mute, { ...at, mode: 'download' }, set).ok).toBe(true);
  });
});

describe('the four wipes are four different things', () => {
  const lifeboat = image(SEPTEMBER, { recovery: { name: 'Lifeboat', opensUpTo: 36 } });
  const there = (change: Partial<HandsetState> = {}) =>
    state({ mode: 'recovery', running: null, fromMemory: lifeboat, ...change });
  it('the cache holds nothing of yours', () =>
    expect(apply(there(), { do: 'wipe', kind: 'cache' })).toEqual(there()));
  it('keeping the storage keeps its keys and what they are bound to', () =>
    expect(apply(there(), { do: 'wipe', kind: 'keep storage' }).data).toEqual({
      encrypted: true,
      keyLevel: '2026-09-05',
      committedBy: null,
      wipes: 1,
    }));
  it('everything goes, encryption stays', () =>
    expect(apply(there(), { do: 'wipe', kind: 'factory' }).data).toEqual({
      encrypted: true,
      keyLevel: null,
      committedBy: null,
      wipes: 1,
    }));
  it('formatting takes encryption along', () =>
    expect(apply(there(), { do: 'wipe', kind: 'format' }).data.encrypted).toBe(false));
  it('the storage is only told apart by a recovery that opens it', () => {
    expect(why(there({ fromMemory: null }), { do: 'wipe', kind: 'keep storage' })).toContain('opens no data');
    const old = { ...lifeboat, recovery: { name: 'Lifeboat', opensUpTo: 30 } };
    expect(why(there({ fromMemory: old }), { do: 'wipe', kind: 'keep storage' })).toContain(
      'does not open this release',
    );
    expect(why(there({ fromMemory: old }), { do: 'image-data' })).toContain('does not open this release');
  });
});

describe('a recovery from memory', () => {
  const lifeboat = image(SEPTEMBER, { recovery: { name: 'Lifeboat', opensUpTo: 36 } });
  const boot = state({ mode: 'bootloader', running: null });
  const once = { ...profile, startsOnce: true };
  const began = () => {
    const result = operate(once, boot, { do: 'start-recovery-once', image: lifeboat });
    if (!result.ok) throw new Error(result.reason);
    return result.state;
  };
  it('runs, changes nothing on disk, and is gone when it is left', () => {
    expect(began()).toMatchObject({ mode: 'recovery', images: boot.images, record: boot.record });
    expect(
      apply(began(), { do: 'install-zip', partition: 'init_boot', image: patched(SEPTEMBER) }).images[
        'init_boot_a'
      ]!.patchedBy,
    ).not.toBeNull();
    expect(apply(began(), ...RESTART)).toMatchObject({ fromMemory: null, mode: 'system' });
    expect(
      why(apply(began(), { do: 'enter-bootloader' }, { do: 'enter-recovery' }), { do: 'image-data' }),
    ).toContain('stock recovery');
  });
  it('is refused by a locked bootloader, by one that starts nothing from memory, and for what is no custom recovery', () => {
    expect(why({ ...boot, locked: true }, { do: 'start-recovery-once', image: lifeboat }, once)).toContain(
      'locked',
    );
    expect(why(boot, { do: 'start-recovery-once', image: lifeboat })).toContain('from memory');
    expect(why(boot, { do: 'start-recovery-once', image: image(SEPTEMBER) }, once)).toContain(
      'no custom recovery',
    );
  });
});
describe('whatever is done', () => {
  const anySlot = fc.constantFrom<Slot>('a', 'b');
  const anyBuild = fc.constantFrom(AUGUST, SEPTEMBER, OCTOBER);
  const anyImage = anyBuild.chain((fingerprint) =>
    fc.constantFrom(image(fingerprint), patched(fingerprint), image(fingerprint, { broken: 'damaged' })),
  );
  const plain = fc.constantFrom<HandsetOperation>(
    { do: 'power-on' },
    { do: 'power-off' },
    { do: 'enter-bootloader' },
    { do: 'enter-recovery' },
    { do: 'enter-userspace' },
    { do: 'enter-sideload' },
    { do: 'restart' },
    { do: 'finish-start' },
    { do: 'unlock-switch' },
    { do: 'unlock' },
    { do: 'lock' },
    { do: 'cancel-update' },
    { do: 'wait-for-merge' },
    { do: 'modules', on: false },
    { do: 'finish-root-app' },
    { do: 'ask-root' },
    { do: 'answer-root', allow: true },
    { do: 'wipe', kind: 'factory' },
    { do: 'wipe', kind: 'format' },
    { do: 'wipe', kind: 'keep storage' },
    { do: 'wipe', kind: 'cache' },
    { do: 'image-data' },
    { do: 'start-recovery-once', image: image(SEPTEMBER, { recovery: { name: 'Lifeboat', opensUpTo: 36 } }) },
    { do: 'set', settings: { debugging: true } },
  );
  const anyOperation: fc.Arbitrary<HandsetOperation> = fc.oneof(
    { weight: 3, arbitrary: plain },
    anySlot.map((slot): HandsetOperation => ({ do: 'set-active', slot })),
    fc
      .tuple(fc.constantFrom('init_boot_a', 'init_boot_b', 'boot_a', 'recovery_a'), anyImage)
      .map(([partition, put]): HandsetOperation => ({ do: 'write', partition, image: put })),
    fc
      .tuple(fc.constantFrom('running slot' as const, 'other slot' as const), anyImage)
      .map(([which, put]): HandsetOperation => ({ do: 'patch-from-inside', which, image: put })),
    fc.tuple(anyBuild, fc.boolean()).map(([to, incremental]): HandsetOperation => ({
      do: 'take-update',
      update: { ...whole(to), incremental },
    })),
    anyBuild.map((to): HandsetOperation => ({ do: 'sideload', whole: whole(to) })),
    fc.tuple(anyBuild, fc.boolean(), fc.boolean()).map(([to, both, wipes]): HandsetOperation => ({
      do: 'write-build',
      whole: whole(to),
      both,
      wipe: wipes,
    })),
  );

  it('no state is impossible, no wipe goes unseen, no proven slot falls back, and what is locked stays the maker’s', () => {
    fc.assert(
      fc.property(
        fc.array(anyOperation, { maxLength: 60 }),
        fc.boolean(),
        fc.boolean(),
        (operations, locked, withRoot) => {
          let now: HandsetState = withRoot && !locked ? rooted() : state({ locked });
          for (const operation of operations) {
            const result = operate(profile, now, operation);
            if (!result.ok) {
              expect(result.reason).not.toBe('');
              continue;
            }
            const before = now;
            now = result.state;
            expect(now.mode === 'system', operation.do).toBe(now.running !== null);
            if (now.rootRequest === 'granted' || now.rootRequest === 'asked')
              expect(now.running?.rooted).toBe(true);
            if (now.update) expect(now.update.slot).not.toBe(now.running?.slot);
            if (now.snapshot === 'waiting') expect(now.update).not.toBeNull();
            expect(now.data.wipes).toBeGreaterThanOrEqual(before.data.wipes);
            // fresh data is only ever the work of a wipe
            if (before.data.committedBy !== null && now.data.committedBy === null)
              expect(now.data.wipes).toBeGreaterThan(before.data.wipes);
            if (operation.do === 'finish-start' && before.slots[before.active].proven && now.running)
              expect(now.running.slot).toBe(before.active);
            if (now.locked)
              expect(Object.values(now.images).every((one) => one.patchedBy === null)).toBe(true);
            if (before.snapshot === 'merging' && now.snapshot === 'none')
              expect(now.slots[otherSlot(now.running!.slot)].bootable).toBe(false);
            expect(now.floors.fuse).toBeGreaterThanOrEqual(before.floors.fuse);
            for (const slot of ['a', 'b'] as const)
              expect(buildFacts(profile, now.builds[slot]).patchLevel).toMatch(/^2026/);
          }
        },
      ),
      tries(600),
    );
  });
});
