import { describe, expect, it } from 'vitest';
import { FINGERPRINT } from '../../../tests/fixtures/images';
import type { StepKey } from '../rounds/step-kind';
import type { Check } from './check';
import type { StepGateInput } from './step-gates';
import { GATED, stepGates } from './step-gates';
import type { WriteGateInput } from './write-gates';

/* Which gates stand before which step, and what each says on either side of its boundary. */

const IMAGE = 'image-build image-partition root-sources sources image-proof stock-kept unlocked slot room kit battery tool listed';
const RECOVERY = 'image-build image-partition sources stock-kept unlocked slot room battery tool listed';
const WHOLE = 'sources stock-kept unlocked slot battery whole fuse snapshot tool listed';

/** Every step that there is, with its gates in the order in which a person reads them. */
const GATES: Readonly<Record<StepKey, string>> = {
  'read-facts': '',
  'back-up': '',
  'guard-off': '',
  protect: '',
  check: '',
  'look-around': '',
  close: '',
  'open-installed-package': '',
  'open-target-package': '',
  'take-stock': '',
  'take-target-stock': '',
  patch: '',
  'patch-target': '',
  'take-whole': '',
  'ask-code': '',
  bootloader: '',
  download: '',
  recovery: '',
  'sideload-mode': '',
  'unlock-switch': '',
  debugging: '',
  'auto-update-off': '',
  start: '',
  'finish-start': '',
  'prove-root': '',
  'finish-root-app': '',
  merge: '',
  'cancel-update': '',
  'open-root': '',
  'modules-off': '',
  'modules-on': '',
  'erase-cache': '',
  'back-up-image': '',
  'patch-there': '',
  'patch-target-there': '',
  'write-root': IMAGE,
  'start-once': IMAGE,
  'write-stock': 'image-build image-partition root-sources sources image-proof stock-kept unlocked slot room battery tool listed',
  'write-recovery': RECOVERY,
  'write-stock-recovery': RECOVERY,
  'recovery-inside': 'image-build image-partition sources stock-kept battery',
  'recovery-once': 'image-build image-partition sources unlocked battery tool listed',
  'older-bootloader': 'sources unlocked battery whole fuse snapshot tool listed',
  'wipe-keep-storage': 'backup',
  'factory-reset': 'backup',
  'format-data': 'backup',
  'root-zip': 'root-sources sources stock-kept kit battery',
  'zip-inside': 'root-sources sources stock-kept kit battery',
  'make-lasting': 'image-build image-partition root-sources sources image-proof stock-kept kit battery',
  'stock-back': 'image-build image-partition root-sources sources image-proof stock-kept battery',
  'patch-other-slot': 'root-sources sources kit battery',
  'take-update': 'sources stock-kept battery snapshot',
  'take-full-update': 'sources stock-kept battery snapshot',
  'write-build': WHOLE,
  'write-build-both': WHOLE,
  'write-build-patched': WHOLE,
  'write-set': WHOLE,
  'write-set-patched': WHOLE,
  'write-set-wipe': 'sources stock-kept unlocked slot battery whole fuse snapshot backup tool listed',
  sideload: 'sources battery package snapshot',
  unlock: 'battery backup switch',
  lock: 'battery makers-own started switch index snapshot backup',
  'other-slot': 'snapshot',
};

const write: WriteGateInput = {
  image: { partition: 'init_boot', role: 'patched', fingerprint: FINGERPRINT, patchLevel: '2026-09-05', sizeBytes: 8192, proof: { held: 8, of: 8 } },
  stockKept: true,
  partition: 'init_boot',
  rootPartition: 'init_boot',
  root: { partition: 'init_boot', agree: true, sure: true, opinions: [{ witness: 'image', partition: 'init_boot' }] },
  contradictions: [],
  installed: { fingerprint: FINGERPRINT, device: 'hill', patchLevel: '2026-09-05' },
  unlocked: true,
  activeSlot: 'a',
  slotCount: 2,
  batteryOk: true,
  partitionBytes: 8192,
  kitSupports: { name: 'Burrow 7.3', sdk: [28, 37] },
  sdk: 36,
};
const input: StepGateInput = {
  write,
  snapshot: 'none',
  fuse: 3,
  buildLevel: 3,
  wholeMissing: [],
  backupDays: 14,
  backupMaxDays: 14,
  unlockSwitch: 'on',
  notStock: [],
  startedUnlocked: true,
  storedIndex: 5,
  buildIndex: 5,
  packageFits: { verdict: 'exact', reason: 'It is.' },
  tool: 'own',
  listed: true,
};

describe('the gates before each step', () => {
  it.each(Object.entries(GATES) as [StepKey, string][])('%s: %s', (key, ids) =>
    expect(
      stepGates(key, input)
        .map(({ id }) => id)
        .join(' '),
    ).toBe(ids),
  );
  it('stand before the steps that are called gated, and before no other', () => {
    const gated = Object.entries(GATES).filter(([, ids]) => ids !== '');
    expect([...GATED].sort()).toEqual(gated.map(([key]) => key).sort());
  });
});

type Change = Partial<Omit<StepGateInput, 'write'>> & { readonly write?: Partial<WriteGateInput> };
const told = (key: StepKey, id: string, { write: inWrite, ...rest }: Change): Check =>
  stepGates(key, { ...input, ...rest, write: { ...write, ...inWrite } }).find((check) => check.id === id)!;
const image = (change: object): Change => ({ write: { image: { ...write.image!, ...change } } });
const root = (change: object): Change => ({ write: { root: { ...write.root, ...change } } });
const kit = (sdk: number | null, range: readonly [number, number] | null = [28, 37]): Change => ({
  write: { sdk, kitSupports: { name: 'Burrow 7.3', sdk: range } },
});

/** A gate at a step, what is given, what it says, and whether a person may go on with a reason. */
const BOUNDARIES: readonly (readonly [StepKey, string, Change, Check['verdict'], boolean])[] = [
  ['write-root', 'image-build', {}, 'holds', false],
  ['write-root', 'image-build', image({ fingerprint: FINGERPRINT.replace('260905', '260906') }), 'fails', false],
  ['write-root', 'image-build', image({ fingerprint: null, patchLevel: null }), 'unknown', false],
  ['write-root', 'image-build', { write: { image: null } }, 'fails', false],
  ['write-root', 'image-partition', image({ partition: 'boot' }), 'fails', false],
  ['write-root', 'image-partition', { write: { partition: 'boot' } }, 'fails', false],
  ['write-root', 'image-partition', { write: { partition: null } }, 'unknown', false],
  ['write-root', 'image-partition', { write: { image: null } }, 'unknown', false],
  ['write-root', 'root-sources', {}, 'holds', true],
  ['write-root', 'root-sources', root({ sure: false }), 'holds', false],
  ['write-root', 'root-sources', root({ agree: false }), 'fails', true],
  ['write-root', 'root-sources', root({ agree: false, sure: false }), 'fails', false],
  ['write-root', 'root-sources', root({ partition: 'boot' }), 'fails', false],
  ['write-root', 'root-sources', root({ partition: null, sure: false }), 'unknown', false],
  ['write-root', 'sources', { write: { contradictions: ['The slot is said twice.'] } }, 'fails', false],
  ['write-root', 'image-proof', image({ proof: { held: 7, of: 8 } }), 'fails', false],
  ['write-root', 'image-proof', image({ proof: null }), 'fails', false],
  ['write-root', 'image-proof', { write: { image: null } }, 'unknown', false],
  ['write-stock', 'image-proof', image({ role: 'stock', proof: null }), 'holds', false],
  ['write-root', 'stock-kept', { write: { stockKept: false } }, 'fails', false],
  ['write-root', 'unlocked', {}, 'holds', false],
  ['write-root', 'unlocked', { write: { unlocked: false } }, 'fails', false],
  ['write-root', 'unlocked', { write: { unlocked: null } }, 'unknown', true],
  ['write-root', 'slot', { write: { activeSlot: null } }, 'unknown', true],
  ['write-root', 'slot', { write: { activeSlot: null, slotCount: null } }, 'unknown', true],
  ['write-root', 'slot', { write: { activeSlot: null, slotCount: 1 } }, 'holds', true],
  ['write-root', 'room', { write: { partitionBytes: 8191 } }, 'fails', false],
  ['write-root', 'room', { write: { partitionBytes: 8192 } }, 'holds', false],
  ['write-root', 'room', { write: { partitionBytes: null } }, 'unknown', true],
  ['write-root', 'room', { write: { image: null } }, 'unknown', true],
  ['write-root', 'kit', kit(27), 'fails', true],
  ['write-root', 'kit', kit(28), 'holds', true],
  ['write-root', 'kit', kit(37), 'holds', true],
  ['write-root', 'kit', kit(38), 'fails', true],
  ['write-root', 'kit', kit(null), 'unknown', true],
  ['write-root', 'kit', kit(36, null), 'unknown', true],
  ['write-root', 'kit', { write: { kitSupports: null } }, 'unknown', true],
  ['write-root', 'battery', {}, 'holds', false],
  ['write-root', 'battery', { write: { batteryOk: false } }, 'fails', false],
  ['write-root', 'battery', { write: { batteryOk: null } }, 'unknown', true],
  ['write-root', 'tool', {}, 'holds', true],
  ['write-root', 'tool', { tool: null }, 'unknown', true],
  ['write-root', 'listed', { listed: false }, 'unknown', true],
  ['write-build', 'whole', { wholeMissing: ['radio'] }, 'fails', false],
  ['write-build', 'fuse', { fuse: 3, buildLevel: 3 }, 'holds', false],
  ['write-build', 'fuse', { fuse: 4, buildLevel: 3 }, 'fails', false],
  ['older-bootloader', 'fuse', { fuse: 4, buildLevel: 3 }, 'fails', false],
  ['write-build', 'fuse', { fuse: null }, 'unknown', false],
  ['write-build', 'fuse', { buildLevel: null }, 'unknown', false],
  ['write-build', 'snapshot', { snapshot: 'snapshotted' }, 'fails', false],
  ['write-build', 'snapshot', { snapshot: 'merging' }, 'fails', false],
  ['write-build', 'snapshot', { snapshot: null }, 'unknown', true],
  ['write-build', 'snapshot', {}, 'holds', false],
  ['other-slot', 'snapshot', { snapshot: 'snapshotted' }, 'holds', false],
  ['other-slot', 'snapshot', { snapshot: 'merging' }, 'fails', false],
  ['other-slot', 'snapshot', { snapshot: null }, 'unknown', true],
  ['unlock', 'backup', { backupDays: 14 }, 'holds', true],
  ['unlock', 'backup', { backupDays: 15 }, 'fails', true],
  ['unlock', 'backup', { backupDays: null }, 'fails', true],
  ['unlock', 'switch', { unlockSwitch: 'off' }, 'fails', true],
  ['unlock', 'switch', { unlockSwitch: null }, 'unknown', true],
  ['lock', 'switch', { unlockSwitch: 'on' }, 'holds', false],
  ['lock', 'switch', { unlockSwitch: 'off' }, 'fails', false],
  ['lock', 'switch', { unlockSwitch: null }, 'unknown', false],
  ['lock', 'makers-own', { notStock: ['boot on slot b'] }, 'fails', false],
  ['lock', 'started', { startedUnlocked: false }, 'fails', false],
  ['lock', 'index', { buildIndex: 5 }, 'holds', false],
  ['lock', 'index', { buildIndex: 4 }, 'fails', false],
  ['lock', 'index', { storedIndex: null }, 'unknown', true],
  ['lock', 'index', { buildIndex: null }, 'unknown', true],
  ['sideload', 'package', { packageFits: null }, 'fails', false],
  ['sideload', 'package', { packageFits: { verdict: 'other handset', reason: 'x' } }, 'fails', false],
  ['sideload', 'package', { packageFits: { verdict: 'other variant', reason: 'x' } }, 'fails', false],
  ['sideload', 'package', { packageFits: { verdict: 'older', reason: 'x' } }, 'holds', false],
];

describe('each gate on either side of its boundary', () => {
  it.each(BOUNDARIES)('%s, %s, given %j: %s, to be gone past: %s', (key, id, change, verdict, overridable) =>
    expect(told(key, id, change)).toMatchObject({ verdict, overridable }),
  );
  it('knows every gate that stands anywhere', () => {
    const ids = new Set(Object.values(GATES).flatMap((one) => one.split(' ').filter((id) => id !== '')));
    expect([...new Set(BOUNDARIES.map(([, id]) => id))].sort()).toEqual([...ids].sort());
  });
});
