import { DISPUTE } from '../../../tests/fixtures/dispute';
import { describe, expect, it } from 'vitest';
import { GOOD_STEP, GOOD_WRITE } from '../../../tests/fixtures/gate-input';
import { FINGERPRINT } from '../../../tests/fixtures/images';
import type { StepKey } from '../steps/step-key';
import type { Check } from './check';
import { MAY_BE_UNKNOWN } from './check';
import type { StepGateInput } from './step-gates';
import { GATED } from '../steps/deeds';
import { stepGates } from './step-gates';
import type { WriteGateInput } from './write-gates';
import { purposeOf } from './write-gates';

/* Which gates stand before which step, and what each says on either side of its boundary. */

const IMAGE =
  'image-build image-partition root-sources sources image-proof stock-kept unlocked slot room battery tool listed kit';
const STOCK_RECOVERY =
  'image-build image-partition sources stock-kept unlocked slot room battery tool listed';
const WHOLE =
  'sources stock-kept parts-kept unlocked slot battery whole fuse maker-floor snapshot tool listed';

/** Every step that there is, with its gates in the order in which a person reads them. */
const GATES: Readonly<Record<StepKey, string>> = {
  'read-facts': '',
  'find-out': '',
  'back-up': '',
  'guard-off': '',
  protect: '',
  check: '',
  'second-host': '',
  'carry-over': '',
  'prove-no-root': '',
  'look-around': '',
  close: '',
  'open-installed-package': '',
  'open-target-package': '',
  'take-stock': '',
  'take-stock-recovery': '',
  'open-other-package': '',
  'take-other-stock': '',
  'take-target-stock': '',
  patch: '',
  'patch-target': '',
  'rebuild-recovery': '',
  'patch-with-recovery': '',
  'bring-patched': '',
  'bring-target-patched': '',
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
  'start-with-recovery-keys': '',
  'prove-root': '',
  'finish-root-app': '',
  merge: '',
  'cancel-update': '',
  'open-root': '',
  'undo-inside': '',
  'modules-off': '',
  'modules-seen-off': '',
  'modules-on': '',
  'erase-cache': '',
  'back-up-image': '',
  'patch-there': '',
  'patch-target-there': '',
  'write-root': IMAGE,
  'start-once': IMAGE,
  'write-stock':
    'image-build image-partition root-sources sources image-proof stock-kept unlocked slot room battery tool listed',
  'write-other-stock':
    'image-build image-partition root-sources sources image-proof stock-kept unlocked slot room battery tool listed',
  'write-recovery':
    'sources stock-kept parts-kept unlocked slot room battery recovery-image recovery-handset recovery-home tool listed',
  'write-stock-recovery': STOCK_RECOVERY,
  'recovery-inside':
    'sources stock-kept parts-kept room battery recovery-image recovery-handset recovery-home',
  'recovery-once': 'sources unlocked battery recovery-image recovery-handset tool listed',
  'read-out': '',
  'package-inside': 'sources package-images battery snapshot',
  'see-again': '',
  'open-older-package': '',
  'take-bootloader': '',
  'take-older-bootloader': '',
  'bootloader-down': 'sources unlocked slot battery fuse snapshot tool listed',
  'bootloader-back': 'sources unlocked slot battery fuse snapshot tool listed',
  'older-bootloader': 'sources parts-kept unlocked battery whole fuse snapshot tool listed',
  'wipe-keep-storage': 'backup snapshot',
  'factory-reset': 'backup snapshot',
  'format-data': 'backup snapshot',
  'root-zip': 'root-sources sources stock-kept kit battery',
  'zip-inside': 'root-sources sources stock-kept kit battery root-app',
  'make-lasting': 'image-build image-partition root-sources sources image-proof stock-kept kit battery',
  'stock-back': 'image-build image-partition root-sources sources image-proof stock-kept battery root-app',
  'stock-recovery-back': 'image-build image-partition sources stock-kept battery',
  'patch-other-slot': 'root-sources sources kit battery root-app',
  'take-update': 'sources stock-kept battery snapshot',
  'take-full-update': 'sources stock-kept battery snapshot',
  'write-build': WHOLE,
  'write-build-both': WHOLE,
  'write-build-patched': WHOLE,
  'write-set': `${WHOLE} region-part`,
  'write-set-patched': `${WHOLE} region-part`,
  'write-set-wipe':
    'sources stock-kept parts-kept unlocked slot battery whole fuse maker-floor snapshot region-part backup tool listed',
  sideload: 'sources battery package snapshot',
  unlock: 'battery backup snapshot switch',
  lock: 'battery makers-own started switch-seen index snapshot backup',
  'other-slot': 'merging',
  'same-slot': 'merging',
};

describe('the purpose of a write', () => {
  const of = (change: object) => purposeOf({ ...GOOD_WRITE.image!, recovery: null, ...change });
  it('follows from what the image is', () => {
    expect(of({})).toBe('root');
    expect(of({ role: 'stock' })).toBe('stock');
    expect(of({ role: 'unknown', judged: judged('yes') })).toBe('root');
    expect(of({ role: 'unknown', judged: { ...judged('yes'), trust: 'the club makes it' } })).toBe(
      'ready-made',
    );
    expect(of({ role: 'recovery', recovery: GOOD_WRITE.image!.recovery })).toBe('recovery');
    expect(purposeOf(null)).toBe('root');
  });
});

describe('the gates before each step', () => {
  it.each(Object.entries(GATES) as [StepKey, string][])('%s: %s', (key, ids) =>
    expect(
      stepGates(key, GOOD_STEP)
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
  stepGates(key, { ...GOOD_STEP, ...rest, write: { ...GOOD_WRITE, ...inWrite } }).find(
    (check) => check.id === id,
  )!;
const image = (change: object): Change => ({ write: { image: { ...GOOD_WRITE.image!, ...change } } });
const own = (change: object) => image({ recovery: { ...GOOD_WRITE.image!.recovery!, ...change } });
/** Patched elsewhere, and held against the stock image of the slot's build. */
const judged = (belongs: 'yes' | 'no' | "can't tell") => ({
  kind: 'judged',
  belongs,
  times: 1,
  unexpected: 0,
  against: 'f'.repeat(64),
  same: false,
  stockBuild: FINGERPRINT,
  trust: null,
});
const root = (change: object): Change => ({ write: { root: { ...GOOD_WRITE.root, ...change } } });
const kit = (sdk: number | null, range: readonly [number, number] | null = [28, 37]): Change => ({
  write: { sdk, kitSupports: { name: 'Burrow 7.3', version: '7.3', sdk: range } },
});

const TOOL = { version: '35.0.2', path: null, others: [] };

/** Images of a package, each found so. */
const parts = (...found: readonly (boolean | null)[]): Change => ({
  packageImages: found.map((holds) => ({ ...GOOD_STEP.packageImages[0]!, holds })),
});
const loader = (change: object): Change => ({
  fuse: null,
  bootloader: { ...GOOD_STEP.bootloader!, ...change },
});

/** A gate at a step, what is given, what it says, and whether a person may go on with a reason. */
const BOUNDARIES: readonly (readonly [StepKey, string, Change, Check['verdict'], boolean])[] = [
  ['write-root', 'image-build', {}, 'holds', false],
  [
    'write-root',
    'image-build',
    image({ fingerprint: FINGERPRINT.replace('260905', '260906') }),
    'fails',
    false,
  ],
  ['write-root', 'image-build', image({ fingerprint: null, patchLevel: null }), 'unknown', false],
  ['write-root', 'image-build', { write: { image: null } }, 'fails', false],
  ['write-root', 'image-partition', image({ partition: 'boot' }), 'fails', false],
  ['write-root', 'image-partition', { write: { partition: 'boot' } }, 'fails', false],
  ['write-root', 'image-partition', { write: { partition: null } }, 'unknown', false],
  ['write-root', 'image-partition', { write: { image: null } }, 'unknown', false],
  ['write-root', 'root-sources', {}, 'holds', false],
  ['write-root', 'root-sources', root({ sure: false }), 'holds', false],
  ['write-root', 'root-sources', root({ agree: false }), 'unknown', true],
  ['write-root', 'root-sources', root({ agree: false, sure: false }), 'fails', false],
  ['write-root', 'root-sources', root({ partition: 'boot' }), 'fails', false],
  ['write-root', 'root-sources', root({ partition: null, sure: false }), 'fails', false],
  ['write-root', 'sources', { write: { contradictions: [DISPUTE] } }, 'fails', false],
  ['write-root', 'image-proof', image({ proof: { held: 7, of: 8 } }), 'fails', false],
  ['write-root', 'image-proof', image({ proof: null }), 'fails', false],
  ['write-root', 'image-proof', { write: { image: null } }, 'unknown', false],
  ['write-root', 'image-proof', image({ proof: null, judged: judged('yes') }), 'holds', false],
  ['write-root', 'image-proof', image({ proof: null, judged: judged('no') }), 'fails', false],
  ['write-root', 'image-proof', image({ proof: null, judged: judged("can't tell") }), 'unknown', false],
  ['write-stock', 'image-proof', image({ role: 'stock', proof: null }), 'holds', false],
  ['write-root', 'stock-kept', { write: { stockKept: false } }, 'fails', false],
  ['write-root', 'unlocked', {}, 'holds', false],
  ['write-root', 'unlocked', { write: { unlocked: false } }, 'fails', false],
  ['write-root', 'unlocked', { write: { unlocked: null } }, 'unknown', true],
  ['write-root', 'slot', { write: { activeSlot: null } }, 'unknown', true],
  ['write-root', 'slot', { write: { activeSlot: null, slotCount: null } }, 'unknown', true],
  ['write-root', 'slot', { write: { activeSlot: null, slotCount: 1 } }, 'holds', false],
  ['write-root', 'room', { write: { partitionBytes: 8191 } }, 'fails', false],
  ['write-root', 'room', { write: { partitionBytes: 8192 } }, 'holds', false],
  ['write-root', 'room', { write: { partitionBytes: null } }, 'unknown', true],
  ['write-root', 'room', { write: { image: null } }, 'unknown', true],
  ['write-root', 'kit', kit(27), 'fails', false],
  ['write-root', 'kit', kit(28), 'holds', false],
  ['write-root', 'kit', kit(37), 'holds', false],
  ['write-root', 'kit', kit(38), 'fails', false],
  ['write-root', 'kit', kit(null), 'unknown', true],
  ['write-root', 'kit', kit(36, null), 'unknown', true],
  ['write-root', 'kit', { write: { kitSupports: null } }, 'unknown', true],
  ['write-root', 'battery', {}, 'holds', false],
  ['write-root', 'battery', { write: { batteryOk: false } }, 'fails', false],
  ['write-root', 'battery', { write: { batteryOk: null } }, 'unknown', true],
  ['write-root', 'tool', {}, 'holds', false],
  ['write-root', 'tool', { tool: null }, 'unknown', true],
  ['write-root', 'listed', { listed: false }, 'unknown', true],
  ['write-recovery', 'recovery-image', {}, 'holds', false],
  [
    'write-recovery',
    'recovery-image',
    own({ is: { holds: false, says: { code: 'names-nobody' } } }),
    'fails',
    false,
  ],
  [
    'recovery-inside',
    'recovery-image',
    own({ is: { holds: false, says: { code: 'names-nobody' } } }),
    'fails',
    false,
  ],
  [
    'recovery-once',
    'recovery-image',
    own({ is: { holds: false, says: { code: 'names-nobody' } } }),
    'fails',
    false,
  ],
  ['write-recovery', 'recovery-image', image({ recovery: null }), 'unknown', false],
  ['write-recovery', 'recovery-image', { write: { image: null } }, 'fails', false],
  ['write-recovery', 'recovery-handset', {}, 'holds', false],
  [
    'write-recovery',
    'recovery-handset',
    own({ forHandset: { holds: false, says: { code: 'names-nobody' } } }),
    'fails',
    false,
  ],
  [
    'recovery-once',
    'recovery-handset',
    own({ forHandset: { holds: false, says: { code: 'names-nobody' } } }),
    'fails',
    false,
  ],
  [
    'write-recovery',
    'recovery-handset',
    own({ forHandset: { holds: null, says: { code: 'names-nobody' } } }),
    'unknown',
    true,
  ],
  ['write-recovery', 'recovery-home', { write: { recoveryHome: 'recovery' } }, 'holds', false],
  ['write-recovery', 'recovery-home', { write: { recoveryHome: 'vendor_boot' } }, 'fails', false],
  ['write-recovery', 'recovery-home', { write: { recoveryHome: 'boot' } }, 'fails', false],
  ['write-recovery', 'recovery-home', { write: { recoveryHome: null } }, 'unknown', false],
  ['recovery-inside', 'recovery-home', { write: { recoveryHome: 'boot' } }, 'fails', false],
  ['recovery-inside', 'room', { write: { partitionBytes: 8191 } }, 'fails', false],
  ['write-build', 'maker-floor', {}, 'holds', false],
  ['write-build', 'maker-floor', { makerFloor: '2026-10' }, 'fails', false],
  ['write-build', 'maker-floor', { makerFloor: null }, 'holds', false],
  ['write-build', 'maker-floor', { makerFloor: null, buildLevel: null }, 'holds', false],
  ['write-build', 'maker-floor', { buildLevel: null }, 'unknown', true],
  ['write-build', 'parts-kept', {}, 'holds', false],
  ['write-build', 'parts-kept', { partsMissing: ['radio'] }, 'unknown', true],
  ['write-build', 'whole', { wholeMissing: ['radio'] }, 'fails', false],
  ['write-set', 'region-part', {}, 'holds', false],
  [
    'write-set',
    'region-part',
    { region: [null, { code: 'region-part', file: 'R.tar', wipes: false }] },
    'unknown',
    true,
  ],
  ['write-set', 'region-part', { region: [false, { code: 'region-both', files: [] }] }, 'fails', false],
  ['patch-other-slot', 'root-app', {}, 'holds', false],
  ['patch-other-slot', 'root-app', { rootApp: { fits: true, findings: [] } }, 'holds', false],
  ['stock-back', 'root-app', { rootApp: { fits: null, findings: [{ code: 'unread' }] } }, 'holds', false],
  ['zip-inside', 'root-app', { rootApp: { fits: false, findings: [{ code: 'hidden' }] } }, 'unknown', true],
  ['package-inside', 'package-images', {}, 'holds', false],
  ['package-inside', 'package-images', parts(true, false), 'fails', false],
  ['package-inside', 'package-images', parts(true, null), 'unknown', false],
  ['package-inside', 'package-images', parts(null, false), 'fails', false],
  ['package-inside', 'package-images', parts(), 'fails', false],
  ['write-build', 'fuse', { fuse: 3 }, 'holds', false],
  ['write-build', 'fuse', { fuse: 4 }, 'fails', false],
  ['older-bootloader', 'fuse', { fuse: 4 }, 'fails', false],
  ['write-build', 'fuse', { fuse: null }, 'unknown', false],
  ['write-build', 'fuse', { fuse: null, bootloader: null }, 'holds', false],
  ['write-build', 'fuse', loader({ level: null }), 'unknown', false],
  ['write-build', 'fuse', loader({ level: null, versions: ['tb-1-4'], running: 'tb-1-4' }), 'holds', false],
  ['write-build', 'fuse', loader({ level: null, versions: ['tb-1-3'], running: 'tb-1-4' }), 'fails', false],
  ['write-build', 'snapshot', { snapshot: 'snapshotted' }, 'fails', false],
  ['write-build', 'snapshot', { snapshot: 'merging' }, 'fails', false],
  ['write-build', 'snapshot', { snapshot: null }, 'unknown', true],
  ['write-build', 'snapshot', {}, 'holds', false],
  ['other-slot', 'merging', { snapshot: 'snapshotted' }, 'holds', false],
  ['other-slot', 'merging', { snapshot: 'merging' }, 'fails', false],
  ['other-slot', 'merging', { snapshot: null }, 'unknown', true],
  ['unlock', 'snapshot', { snapshot: 'merging' }, 'fails', false],
  ['factory-reset', 'snapshot', { snapshot: 'snapshotted' }, 'fails', false],
  ['format-data', 'snapshot', { snapshot: 'merging' }, 'fails', false],
  ['wipe-keep-storage', 'snapshot', { snapshot: 'merging' }, 'fails', false],
  ['write-root', 'tool', { tool: TOOL, leastTool: '35.0.1' }, 'holds', false],
  ['write-root', 'tool', { tool: TOOL, leastTool: '35.0.2' }, 'holds', false],
  ['write-root', 'tool', { tool: TOOL, leastTool: '35.0.10' }, 'unknown', true],
  ['write-root', 'tool', { tool: 'own', leastTool: '99' }, 'holds', false],
  ['unlock', 'backup', { backupDays: 14 }, 'holds', false],
  ['unlock', 'backup', { backupDays: 15 }, 'unknown', true],
  ['unlock', 'backup', { backupDays: null }, 'unknown', true],
  ['unlock', 'backup', { backupDays: 14, backupLacks: [] }, 'holds', false],
  ['unlock', 'backup', { backupDays: 14, backupLacks: ['photos'] }, 'unknown', true],
  [
    'unlock',
    'backup',
    { backupDays: 14, backupLacks: ['photos'], nothingToKeep: 'it is new' },
    'holds',
    false,
  ],
  ['unlock', 'backup', { backupDays: null, nothingToKeep: 'it is new' }, 'holds', false],
  ['unlock', 'backup', { backupDays: 15, nothingToKeep: 'it is new' }, 'holds', false],
  ['unlock', 'switch', { unlockSwitch: 'off' }, 'fails', false],
  ['unlock', 'switch', { unlockSwitch: null }, 'unknown', true],
  ['lock', 'switch-seen', { unlockSwitch: 'on' }, 'holds', false],
  ['lock', 'switch-seen', { unlockSwitch: 'off' }, 'fails', false],
  ['lock', 'switch-seen', { unlockSwitch: null }, 'unknown', false],
  ['lock', 'makers-own', { notStock: [{ partition: 'boot', slot: 'b', why: 'other' }] }, 'fails', false],
  ['lock', 'started', { startedUnlocked: false }, 'fails', false],
  ['lock', 'index', { buildIndex: 5 }, 'holds', false],
  ['lock', 'index', { buildIndex: 4 }, 'fails', false],
  ['lock', 'index', { storedIndex: null }, 'unknown', true],
  ['lock', 'index', { buildIndex: null }, 'unknown', true],
  ['sideload', 'package', { packageFits: null }, 'fails', false],
  [
    'sideload',
    'package',
    { packageFits: { verdict: 'other handset', reason: { code: 'older' } } },
    'fails',
    false,
  ],
  [
    'sideload',
    'package',
    { packageFits: { verdict: 'other variant', reason: { code: 'older' } } },
    'fails',
    false,
  ],
  ['sideload', 'package', { packageFits: { verdict: 'older', reason: { code: 'older' } } }, 'holds', false],
];

describe('each gate on either side of its boundary', () => {
  it.each(BOUNDARIES)('%s, %s, given %j: %s, to be gone past: %s', (key, id, change, verdict, overridable) =>
    expect(told(key, id, change)).toMatchObject({ verdict, overridable }),
  );
  it('shuts where nothing tells which partition carries root, whatever the round began with', () => {
    for (const rootPartition of [null, GOOD_WRITE.rootPartition])
      expect(
        told('write-root', 'root-sources', {
          write: { rootPartition, root: { ...GOOD_WRITE.root, partition: null } },
        }).verdict,
      ).toBe('fails');
  });
  it('says what is missing of an image: the image itself, or where it goes', () => {
    const says = (change: Partial<WriteGateInput>) =>
      told('write-root', 'image-partition', { write: change }).saw.code;
    expect(says({ image: null })).toBe('no-image');
    expect(says({ partition: null })).toBe('no-partition');
    expect(says({})).toBe('write');
  });
  it('is gone past only where nobody knows, and only in the list', () => {
    for (const [, id, , verdict, overridable] of BOUNDARIES)
      expect(overridable, id).toBe(
        verdict === 'unknown' && (MAY_BE_UNKNOWN as readonly string[]).includes(id),
      );
  });
  it('knows every gate that stands anywhere', () => {
    const ids = new Set(Object.values(GATES).flatMap((one) => one.split(' ').filter((id) => id !== '')));
    expect([...new Set(BOUNDARIES.map(([, id]) => id))].sort()).toEqual([...ids].sort());
  });
});
