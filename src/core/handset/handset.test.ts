import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  archive,
  seeded,
  stockImage,
  stockEntries,
  entry,
  FINGERPRINT,
} from '../../../tests/fixtures/images';
import { nodePorts } from '../../platform/node/node-ports';
import { memorySource } from '../bytes/byte-source';
import { interpretFacts, parsePrinted } from '../formats/facts/parse-facts';
import { archiveBytes } from '../formats/cpio/cpio-archive';
import { writeVendorBoot } from '../formats/vendor-boot/writer';
import { CUTS_OFF_MS, heldAction, heldTooLong, leastMs, pressAction, START_MS } from './keys';
import { STAND_IN_WAYS } from './own-ways';
import { lookInside } from './look-inside';
import type { HandsetOperation } from './operate';
import { operate } from './operate';
import { PLAIN_PANEL, screenOf } from './screen';
import { start, startFault } from './start';
import type { HandsetProfile, HandsetState, ImageFacts, Slot } from './state';
import { PLAIN_PROFILE, PLAIN_STATE } from './state';
import { bootloaderVariables, propertyDump } from './variables';
import { tries } from '../../../tests/fixtures/soak';

const OCTOBER = FINGERPRINT.replace('260905', '261005');
const profile: HandsetProfile = {
  ...PLAIN_PROFILE,
  id: 'p',
  product: 'hill',
  model: 'Hill [EU]',
  serial: 'S1',
  bootloader: 'b-1',
  baseband: 'r-1',
  firstApiLevel: 34,
  sdk: 36,
  release: '16',
  maxDownloadBytes: 1 << 28,
  rootPartition: 'init_boot',
  partitionBytes: { init_boot: 8192, boot: 65536 },
};
const image = (change: Partial<ImageFacts> = {}): ImageFacts => ({
  sha256: 'aa',
  sizeBytes: 8192,
  broken: null,
  fingerprint: FINGERPRINT,
  patchedBy: null,
  digestValid: true,
  ...change,
});
const PATCHED = image({ patchedBy: { kit: 'burrow 7.3', stockSha256: 'bb' }, digestValid: false });
const WRONG = image({ fingerprint: OCTOBER });
const BROKEN = image({ broken: 'the ramdisk is damaged', fingerprint: null });
const slot = { bootable: true, proven: true, triesLeft: 3 };
const state = (change: Partial<HandsetState> = {}): HandsetState => ({
  ...PLAIN_STATE,
  mode: 'off',
  locked: false,
  active: 'a',
  slots: { a: slot, b: slot },
  builds: { a: FINGERPRINT, b: OCTOBER },
  images: {
    init_boot_a: image(),
    init_boot_b: image({ fingerprint: OCTOBER }),
    boot_a: image(),
    boot_b: image({ fingerprint: OCTOBER }),
  },
  ...change,
});
const withImage = (put: ImageFacts, change: Partial<HandsetState> = {}) =>
  state({ ...change, images: { ...state().images, init_boot_a: put } });
const must = (s: HandsetState, operation: HandsetOperation): HandsetState => {
  const result = operate(profile, s, operation);
  if (!result.ok) throw new Error(result.reason);
  return result.state;
};

describe('a start', () => {
  it.each([
    ['stock', image(), true, false],
    ['patched for this build', PATCHED, true, true],
    ['of another build', WRONG, false, false],
    ['broken', BROKEN, false, false],
  ] as const)('with an image %s', (_what, put, starts, rooted) => {
    const { state: after, outcome } = start(profile, withImage(put));
    expect(outcome.result).toBe(starts ? 'started' : 'loops');
    expect(after.mode).toBe(starts ? 'system' : 'looping');
    expect(after.running?.rooted ?? false).toBe(rooted);
  });

  it('of a slot that was proven has no net: it loops, whatever the other slot holds', () => {
    const { state: after } = start(profile, withImage(WRONG));
    expect(after).toMatchObject({ mode: 'looping', active: 'a', loops: 1 });
    expect(after.slots.b).toEqual(slot);
    expect(start(profile, after).state.loops).toBe(2);
  });

  it('of an unproven slot spends its tries and gives way to the other slot', () => {
    const unproven = withImage(WRONG, { slots: { a: { ...slot, proven: false }, b: slot } });
    const { state: after, outcome } = start(profile, unproven);
    expect(outcome).toMatchObject({ result: 'started', slot: 'b', fellBack: true });
    expect(after.slots.a).toEqual({ bootable: false, proven: false, triesLeft: 0 });
    expect(after.running?.build).toBe(OCTOBER);
  });

  it('of an unproven slot loops where the other slot is not whole', () => {
    const neither = state({
      slots: { a: { ...slot, proven: false }, b: slot },
      images: { init_boot_a: WRONG, init_boot_b: BROKEN },
    });
    expect(start(profile, neither).outcome.result).toBe('loops');
  });

  it('proves the slot', () => {
    const { state: after } = start(
      profile,
      state({ slots: { a: { ...slot, proven: false, triesLeft: 1 }, b: slot } }),
    );
    expect(after.slots.a).toEqual(slot);
  });

  it('behind a locked bootloader takes only the maker’s own', () => {
    expect(startFault(profile, withImage(PATCHED, { locked: true }), 'a')).toContain('locked');
    expect(startFault(profile, state({ locked: true }), 'a')).toBeNull();
  });

  it('of a generic ramdisk of another build may succeed on a lenient handset', () => {
    expect(start({ ...profile, strictRamdisk: false }, withImage(WRONG)).outcome.result).toBe('started');
  });
});

describe('operations', () => {
  it('a write leaves proven as it is, selecting a slot clears it', () => {
    const boot = state({ mode: 'bootloader' });
    expect(must(boot, { do: 'write', partition: 'init_boot_a', image: WRONG }).slots.a.proven).toBe(true);
    expect(must(boot, { do: 'set-active', slot: 'b' })).toMatchObject({
      active: 'b',
      slots: { b: { proven: false, triesLeft: 3, bootable: true } },
    });
  });

  it.each<[string, HandsetState, HandsetOperation]>([
    ['a write while off', state(), { do: 'write', partition: 'init_boot_a', image: PATCHED }],
    [
      'a write while locked',
      state({ mode: 'bootloader', locked: true }),
      { do: 'write', partition: 'init_boot_a', image: PATCHED },
    ],
    [
      'a write to a partition that is not there',
      state({ mode: 'bootloader' }),
      { do: 'write', partition: 'odm_a', image: PATCHED },
    ],
    [
      'an image too long for its partition',
      state({ mode: 'bootloader' }),
      { do: 'write', partition: 'init_boot_a', image: image({ sizeBytes: 8193 }) },
    ],
    [
      'a write from the system without root',
      state({ mode: 'system' }),
      { do: 'write', partition: 'init_boot_a', image: PATCHED },
    ],
    [
      'a slot switch while locked',
      state({ mode: 'bootloader', locked: true }),
      { do: 'set-active', slot: 'b' },
    ],
    ['a root answer nobody asked for', state({ mode: 'system' }), { do: 'answer-root', allow: true }],
    ['powering on what runs', state({ mode: 'system' }), { do: 'power-on' }],
    ['a root request while off', state(), { do: 'ask-root' }],
  ])('refuse %s, with a reason', (_what, before, operation) => {
    const result = operate(profile, before, operation);
    expect(result.ok).toBe(false);
    expect(result.ok ? '' : result.reason).not.toBe('');
  });

  it('whose system is root runs without root, unless the kernel was changed to take that ramdisk', () => {
    const legacy = { ...profile, systemAsRoot: true };
    const runs = (of: typeof profile, image_: typeof PATCHED) => start(of, withImage(image_)).state.running;
    const chosen = { ...PATCHED, choosesRamdisk: true };
    expect(runs(legacy, PATCHED)).toMatchObject({ rooted: false });
    expect(runs(legacy, chosen)).toMatchObject({ rooted: true });
    expect(runs(profile, PATCHED)).toMatchObject({ rooted: true });
    expect(runs(profile, chosen)).toMatchObject({ rooted: true });
  });
  it('grant root only where the running image is patched, and only after the prompt', () => {
    const stock = start(profile, state()).state;
    expect(must(stock, { do: 'ask-root' }).rootRequest).toBe('denied');
    const rooted = start(profile, withImage(PATCHED)).state;
    const asked = must(rooted, { do: 'ask-root' });
    expect(asked.rootRequest).toBe('asked');
    expect(must(asked, { do: 'answer-root', allow: true }).rootRequest).toBe('granted');
    expect(must(asked, { do: 'answer-root', allow: false }).rootRequest).toBe('denied');
  });

  it('take running root along when stock is put on disk only', () => {
    const rooted = must(must(start(profile, withImage(PATCHED)).state, { do: 'ask-root' }), {
      do: 'answer-root',
      allow: true,
    });
    const after = must(rooted, { do: 'write', partition: 'init_boot_a', image: image() });
    expect(after.running?.rooted).toBe(true);
    expect(start(profile, must(after, { do: 'restart' })).state.running?.rooted).toBe(false);
  });

  const anyOperation: fc.Arbitrary<HandsetOperation> = fc.oneof(
    fc.constantFrom<HandsetOperation>(
      { do: 'power-on' },
      { do: 'power-off' },
      { do: 'enter-bootloader' },
      { do: 'restart' },
      { do: 'finish-start' },
      { do: 'ask-root' },
    ),
    fc.constantFrom<Slot>('a', 'b').map((s): HandsetOperation => ({ do: 'set-active', slot: s })),
    fc.boolean().map((allow): HandsetOperation => ({ do: 'answer-root', allow })),
    fc
      .tuple(fc.constantFrom('init_boot_a', 'init_boot_b'), fc.constantFrom(image(), PATCHED, WRONG, BROKEN))
      .map(([partition, put]): HandsetOperation => ({ do: 'write', partition, image: put })),
  );
  it('never reach an impossible state', () => {
    fc.assert(
      fc.property(fc.array(anyOperation, { maxLength: 40 }), fc.boolean(), (operations, locked) => {
        let now = state({ locked });
        for (const operation of operations) {
          const result = operate(profile, now, operation);
          if (!result.ok) continue;
          now = result.state;
          expect(now.mode === 'system', JSON.stringify(operation)).toBe(now.running !== null);
          if (now.running)
            expect(now.slots[now.running.slot].proven || operation.do === 'set-active').toBe(true);
          if (now.rootRequest === 'granted' || now.rootRequest === 'asked')
            expect(now.running?.rooted).toBe(true);
          if (now.locked) expect(now.images).toEqual(state().images);
          for (const s of ['a', 'b'] as const) expect(now.slots[s].triesLeft).toBeGreaterThanOrEqual(0);
          expect(now.mode === 'looping' ? now.loops : 1).toBeGreaterThan(0);
        }
      }),
      tries(500),
    );
  });
});

const least = (
  id: 'keys-bootloader' | 'keys-recovery' | 'keys-download' | 'keys-unlock' | 'keys-off' | 'keys-loop',
) => leastMs(STAND_IN_WAYS[id]);

describe('keys', () => {
  it.each([
    ['power alone from off', 'off', { power: 0 }, START_MS, 'power-on'],
    ['power too short', 'off', { power: 0 }, START_MS - 1, null],
    ['the chord from off', 'off', { power: 0, down: 0 }, least('keys-bootloader'), 'enter-bootloader'],
    ['the chord counts from the later key', 'off', { power: 0, down: 900 }, least('keys-bootloader'), null],
    ['the chord with a third key', 'off', { power: 0, down: 0, up: 0 }, 9000, null],
    ['volume alone', 'off', { down: 0 }, 9000, null],
    ['the other chord from off', 'off', { power: 0, up: 0 }, least('keys-recovery'), 'enter-recovery'],
    ['both volume keys from off', 'off', { up: 0, down: 0 }, least('keys-download'), 'enter-download'],
    ['both volume keys out of a loop', 'looping', { up: 0, down: 0 }, 9000, null],
    ['the long press that unlocks', 'download', { up: 0 }, least('keys-unlock'), 'unlock-chord'],
    ['that press in the bootloader', 'bootloader', { up: 0 }, 9000, null],
    ['power long in the system', 'system', { power: 0 }, least('keys-off'), 'power-off'],
    ['the chord out of a loop', 'looping', { power: 0, down: 0 }, least('keys-loop'), 'enter-bootloader'],
    ['the chord while it starts', 'starting', { power: 0, down: 0 }, 9000, null],
  ] as const)('held: %s', (_what, mode, held, ms, action) =>
    expect(heldAction(profile, mode, held, ms)).toBe(action),
  );
  it('are those of its own sheet, where it has one', () => {
    const own = {
      ownWays: {
        'keys-bootloader': { keys: ['power', 'up'], seconds: 4 },
        'keys-recovery': { keys: ['power', 'down'], seconds: 4 },
      },
    } as const;
    const held = { power: 0, up: 0 };
    expect(heldAction(own, 'off', held, 3000)).toBe('enter-bootloader');
    expect(heldAction(own, 'off', held, 2999)).toBeNull();
    expect(heldAction(own, 'off', { power: 0, down: 0 }, 3000)).toBe('enter-recovery');
    // what other stand-ins have is no way of this one
    expect(heldAction(profile, 'off', held, 3000)).toBe('enter-recovery');
  });
  it('held far too long, Power cuts off what is on, with whatever else is held', () => {
    for (const held of [{ power: 0 }, { power: 0, down: 3000 }])
      for (const mode of ['system', 'starting', 'bootloader', 'download', 'looping'] as const) {
        expect(heldTooLong(mode, held, CUTS_OFF_MS - 1), mode).toBe(false);
        expect(heldTooLong(mode, held, CUTS_OFF_MS), mode).toBe(true);
      }
    for (const mode of ['off', 'dead'] as const)
      expect(heldTooLong(mode, { power: 0 }, 2 * CUTS_OFF_MS)).toBe(false);
    expect(heldTooLong('system', { up: 0, down: 0 }, 2 * CUTS_OFF_MS)).toBe(false);
  });
  it.each([
    ['bootloader', 'up', false, 'menu-up'],
    ['bootloader', 'power', false, 'menu-choose'],
    ['recovery', 'down', false, 'menu-down'],
    ['system', 'up', true, 'allow-root'],
    ['system', 'down', true, 'deny-root'],
    ['system', 'up', false, null],
    ['off', 'power', false, null],
  ] as const)('pressed in %s: %s', (mode, key, asked, action) =>
    expect(pressAction(mode, key, asked)).toBe(action),
  );
});

describe('what it prints', () => {
  it('is read back as the facts it has', () => {
    const printed = bootloaderVariables(profile, state({ mode: 'bootloader' }))
      .map(([key, value]) => `(bootloader) ${key}:${value}`)
      .join('\n');
    const facts = interpretFacts(parsePrinted(printed).values);
    expect(facts).toMatchObject({
      device: 'hill',
      serial: 'S1',
      currentSlot: 'a',
      slotCount: 2,
      unlocked: true,
      batteryOk: true,
      maxDownloadSize: 1 << 28,
    });
    expect(facts.partitions['init_boot_a']).toEqual({ size: 8192, hasSlot: null, logical: false });
    const dump = interpretFacts(parsePrinted(propertyDump(profile, start(profile, state()).state)!).values);
    expect(dump).toMatchObject({
      fingerprint: FINGERPRINT,
      model: 'Hill [EU]',
      patchLevel: '2026-09-05',
      unlocked: true,
      currentSlot: 'a',
      firstApiLevel: 34,
    });
    expect(propertyDump(profile, state())).toBeNull();
  });
  it('is on its screen', () => {
    expect(screenOf(profile, state(), PLAIN_PANEL).kind).toBe('dark');
    expect(
      screenOf(profile, state({ mode: 'bootloader' }), { ...PLAIN_PANEL, chosen: 1, busy: 'writing' }),
    ).toMatchObject({
      kind: 'menu',
      title: 'Bootloader',
      chosen: 1,
      busy: 'writing',
    });
    expect(screenOf(profile, start(profile, withImage(WRONG)).state, PLAIN_PANEL)).toMatchObject({
      kind: 'starting',
      loops: 1,
    });
    expect(screenOf(profile, start(profile, withImage(PATCHED)).state, PLAIN_PANEL)).toMatchObject({
      kind: 'system',
      slot: 'a',
      rooted: true,
      asksForRoot: false,
    });
  });
});

describe('lookInside', () => {
  const look = async (bytes: Uint8Array) => lookInside(memorySource(bytes), 'init_boot', nodePorts);
  it('finds build and digest of a stock image', async () => {
    expect(await look(await stockImage())).toMatchObject({
      broken: null,
      fingerprint: FINGERPRINT,
      patchedBy: null,
      digestValid: true,
    });
  });
  it('finds who patched it', async () => {
    const note = JSON.stringify({ kit: 'k 1', stock: 'c'.repeat(64) });
    expect(await look(await stockImage({ entries: [...stockEntries(), entry('note', note)] }))).toMatchObject(
      {
        patchedBy: { kit: 'k 1', stockSha256: 'c'.repeat(64) },
      },
    );
  });
  it('finds the recovery in vendor_boot in the ramdisk that is for it, and what does not unpack', async () => {
    const note = entry('lifeboat.json', JSON.stringify({ recovery: 'Lifeboat 3.8', opensUpTo: 36 }));
    const packed = (...more: ReturnType<typeof entry>[]) =>
      nodePorts.codecs.encode('gzip', archiveBytes(archive(...stockEntries(), ...more)));
    const vendor = async (platform: Uint8Array, recovery: Uint8Array) =>
      lookInside(
        memorySource(
          writeVendorBoot({
            pageSize: 4096,
            name: '',
            cmdline: '',
            ramdisks: [
              { type: 'platform', name: '', bytes: platform },
              { type: 'recovery', name: 'recovery', bytes: recovery },
            ],
            dtb: seeded(5, 300),
            bootconfig: new Uint8Array(0),
          }),
        ),
        'vendor_boot',
        nodePorts,
      );
    expect(await vendor(await packed(), await packed(note))).toMatchObject({
      broken: null,
      recovery: { name: 'Lifeboat 3.8', opensUpTo: 36 },
    });
    expect((await vendor(await packed(note), await packed())).recovery).toBeNull();
    expect(await vendor(await packed(note), new Uint8Array(0))).toMatchObject({
      broken: null,
      recovery: null,
    });
    expect((await vendor(await packed(), seeded(4, 900))).broken).not.toBeNull();
  });
  it('calls noise, another partition’s image and a half-written one broken', async () => {
    expect((await look(seeded(1, 9000))).broken).not.toBeNull();
    expect((await look(await stockImage({ partition: 'boot' }))).broken).toContain('boot');
    const half = await stockImage();
    half.fill(0x5a, 6000, 9000);
    const found = await look(half);
    expect(found.broken !== null || found.digestValid === false).toBe(true);
  });
});
