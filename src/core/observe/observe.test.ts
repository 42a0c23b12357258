import type { FaultId, What } from '../words/observe';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { tries } from '../../../tests/fixtures/soak';
import { codeOf } from '../../../tests/fixtures/expect-error';
import { LIMITS } from '../limits';
import type { ObserveExpectation } from './expectation';
import { OBSERVED_STEPS } from './expectation';
import { observe } from './hold';

/* What a handset or a tool printed, against what a step expects: either side of each rule. */

const SERIAL = 'HC77PRINT1';
const FINGERPRINT = 'club/hill_eu/hill:16/HC1.260905.007/9001:user/release-keys';
const BUILD = { fingerprint: FINGERPRINT, buildId: 'HC1.260905.007' };
const HASH = 'ab'.repeat(32);
const OTHER_HASH = 'cd'.repeat(32);
const WHO = { serial: SERIAL, product: 'hill' } as const;
const WRITE: ObserveExpectation = {
  step: 'write',
  mode: 'bootloader',
  ...WHO,
  slot: 'a',
  partition: 'init_boot',
  image: { sha256: HASH, size: 8_388_608, file: 'root.img' },
};
const dump = (change: Readonly<Record<string, string>> = {}) =>
  Object.entries({
    'ro.build.fingerprint': FINGERPRINT,
    'ro.build.id': 'HC1.260905.007',
    'ro.boot.slot_suffix': '_a',
    'ro.product.device': 'hill',
    'ro.serialno': SERIAL,
    ...change,
  })
    .map(([key, value]) => `[${key}]: [${value}]`)
    .join('\n');
const sent = (name: string, kib = 8192) => `Sending '${name}' (${kib} KB)    OKAY [  0.198s]`;
const wrote = (name: string, result = 'OKAY [  0.041s]') => `Writing '${name}'    ${result}`;
const failed = (why: string) => wrote('init_boot_a', `FAILED (remote: '${why}')`);

type Verdict = 'met' | 'otherwise' | 'not-enough';
interface Want {
  readonly verdict: Verdict;
  readonly met?: readonly What[];
  readonly differs?: readonly What[];
  readonly missing?: readonly What[];
  readonly fault?: FaultId;
  readonly harmless?: readonly number[];
  readonly unknown?: readonly number[];
}
type Row = readonly [what: string, expectation: ObserveExpectation, text: string, want: Want];

function check(expectation: ObserveExpectation, text: string, want: Want): void {
  const seen = observe(expectation, text);
  const kinds = (list: readonly { readonly what: What }[]) => [...new Set(list.map(({ what }) => what))];
  expect({ verdict: seen.verdict, fault: seen.fault?.id }).toEqual({
    verdict: want.verdict,
    fault: want.fault,
  });
  if (want.met) expect(kinds(seen.met)).toEqual(expect.arrayContaining([...want.met]));
  expect(kinds(seen.differs)).toEqual(want.differs ?? []);
  if (want.missing) expect(seen.missing).toEqual(want.missing);
  if (want.harmless) expect(seen.harmless.map(({ line }) => line)).toEqual(want.harmless);
  if (want.unknown) expect(seen.unknown).toEqual(want.unknown);
}

const LIST = (mode: ObserveExpectation['mode']): ObserveExpectation => ({ step: 'list', mode, ...WHO });
const START: ObserveExpectation = { step: 'start', mode: 'system', ...WHO, slot: 'a', build: BUILD };
const UNLOCK: ObserveExpectation = { step: 'unlock', mode: 'bootloader', ...WHO, lock: 'unlocked' };
const PUSH: ObserveExpectation = { ...WRITE, step: 'push', mode: 'system' };
const SIDELOAD: ObserveExpectation = {
  step: 'sideload',
  mode: 'sideload',
  ...WHO,
  image: { file: 'hill.zip' },
};
const ROOT: ObserveExpectation = { ...WRITE, step: 'prove-root', mode: 'system' };
const READ_BACK: ObserveExpectation = { ...WRITE, step: 'read-back', mode: 'system' };

const WHO_IT_IS: readonly Row[] = [
  [
    'a dump of it',
    { step: 'read-facts', mode: 'system', ...WHO, build: BUILD },
    dump(),
    { verdict: 'met', met: ['build', 'serial', 'mode'] },
  ],
  [
    'a dump where no build is expected',
    { step: 'read-facts', ...WHO },
    dump(),
    { verdict: 'met', met: ['build'] },
  ],
  [
    'a value that was wrapped',
    { step: 'read-facts', ...WHO, build: BUILD },
    dump().replace('/9001', '\n/9001'),
    { verdict: 'met', unknown: [] },
  ],
  [
    'another number of the build',
    { step: 'read-facts', ...WHO, build: BUILD },
    dump({ 'ro.build.id': 'HC1.26O905.007' }),
    { verdict: 'otherwise', differs: ['build'] },
  ],
  [
    'another serial',
    START,
    dump({ 'ro.serialno': 'HC00OTHER9' }),
    { verdict: 'otherwise', differs: ['serial'] },
  ],
  [
    'no serial',
    { step: 'read-facts', ...WHO, build: BUILD },
    dump({ 'ro.serialno': '' }),
    { verdict: 'not-enough', missing: ['serial'] },
  ],
  [
    'variables instead of a dump',
    { step: 'read-facts', mode: 'system', ...WHO, build: BUILD },
    `product: hill\nserialno: ${SERIAL}`,
    { verdict: 'otherwise', differs: ['mode'], missing: ['build'] },
  ],
  [
    'variables, names and values in capitals',
    { ...LIST('bootloader'), step: 'enter' },
    `PRODUCT: hill\nSerialNo: ${SERIAL}\nIS-USERSPACE: NO`,
    { verdict: 'met' },
  ],
  [
    'user space instead of the bootloader',
    { ...LIST('bootloader'), step: 'enter' },
    `is-userspace: yes\nserialno: ${SERIAL}\nproduct: hill`,
    { verdict: 'otherwise', differs: ['mode'] },
  ],
  [
    'listed, the extended way',
    LIST('system'),
    `List of devices attached\n${SERIAL}  device usb:1-1 product:hill_eu model:Hill_2 device:hill transport_id:4`,
    { verdict: 'met', met: ['mode', 'serial'] },
  ],
  [
    'listed beside another',
    LIST('system'),
    `HC00OTHER9\toffline\n${SERIAL}\tdevice`,
    { verdict: 'met', harmless: [1] },
  ],
  ['listed in recovery', LIST('system'), `${SERIAL}\trecovery`, { verdict: 'otherwise', differs: ['mode'] }],
  [
    'not allowed yet',
    LIST('system'),
    `${SERIAL}\tunauthorized`,
    { verdict: 'otherwise', fault: 'no-permission' },
  ],
  [
    'no right to ask it',
    LIST('bootloader'),
    '????????????\tno permissions',
    { verdict: 'otherwise', differs: ['serial'], fault: 'no-permission' },
  ],
  ['offline', LIST('system'), `${SERIAL}\toffline`, { verdict: 'otherwise', fault: 'link-lost' }],
  ['offline, then there', LIST('system'), `${SERIAL}\tdevice`, { verdict: 'met' }],
  [
    'nothing listed',
    LIST('system'),
    'error: no devices found',
    { verdict: 'otherwise', fault: 'not-listed' },
  ],
  [
    'it waits',
    LIST('bootloader'),
    '< waiting for any device >',
    { verdict: 'not-enough', missing: ['mode', 'serial'] },
  ],
  [
    'started from the other slot',
    START,
    dump({ 'ro.boot.slot_suffix': '_b' }),
    { verdict: 'otherwise', differs: ['slot'] },
  ],
  ['it asks for a wipe', START, 'Your data may be corrupt.', { verdict: 'otherwise', fault: 'needs-wipe' }],
  [
    'words inside words',
    START,
    `tick: 0 errors, unfailing, failsafe\nrollback check passed\n${dump()}`,
    { verdict: 'met', unknown: [1, 2] },
  ],
];

const WRITES: readonly Row[] = [
  [
    'sent and written',
    WRITE,
    `${sent('init_boot_a')}\n${wrote('init_boot_a')}`,
    { verdict: 'met', met: ['transfer', 'partition', 'slot'] },
  ],
  [
    'a result in a line of its own',
    WRITE,
    "sending 'init_boot_a' (8192 KB)...\nOKAY\nwriting 'init_boot_a'...\nOKAY",
    { verdict: 'met' },
  ],
  [
    'a result that failed in a line of its own',
    WRITE,
    "writing 'init_boot_a'...\nFAILED (remote: unknown)",
    { verdict: 'otherwise', fault: 'refused' },
  ],
  ['sent only', WRITE, sent('init_boot_a'), { verdict: 'not-enough', missing: ['transfer'] }],
  [
    'in parts',
    { ...WRITE, partition: 'system', mode: 'userspace' },
    "Sending sparse 'system_a' 1/2 (4096 KB)  OKAY\nWriting 'system_a'  OKAY\nSending sparse 'system_a' 2/2 (4096 KB)  OKAY\nWriting 'system_a'  OKAY",
    { verdict: 'met' },
  ],
  ['no slot named', WRITE, `${sent('init_boot')}\n${wrote('init_boot')}`, { verdict: 'met' }],
  [
    'the other slot',
    WRITE,
    `${sent('init_boot_b')}\n${wrote('init_boot_b')}`,
    { verdict: 'otherwise', differs: ['slot'] },
  ],
  [
    'both slots',
    WRITE,
    `${wrote('init_boot_a')}\n${wrote('init_boot_b')}`,
    { verdict: 'otherwise', differs: ['slot'] },
  ],
  [
    'a name that ends alike',
    { ...WRITE, partition: 'boot' },
    wrote('init_boot_a'),
    { verdict: 'otherwise', differs: ['partition'] },
  ],
  [
    'another size',
    WRITE,
    `${sent('init_boot_a', 4096)}\n${wrote('init_boot_a')}`,
    { verdict: 'otherwise', differs: ['size'] },
  ],
  [
    'another handset before it',
    WRITE,
    `serialno: HC00OTHER9\n${wrote('init_boot_a')}`,
    { verdict: 'otherwise', differs: ['serial'] },
  ],
  [
    'a fault after it',
    WRITE,
    `${wrote('init_boot_a')}\nFAILED (Status read failed (No such device))`,
    { verdict: 'otherwise', fault: 'link-lost' },
  ],
  [
    'a warning after it',
    WRITE,
    `${wrote('init_boot_a')}\nwarning: verification skipped, 0 errors`,
    { verdict: 'met' },
  ],
  ...(
    [
      ['Flashing is not allowed in Lock State', 'refused-locked'],
      ['Rollback index of the image is older', 'refused-older'],
      ['No such partition', 'refused-partition'],
      ['Image is too large', 'too-large'],
      ['Not enough space to resize', 'no-space'],
      ['image verification failed: bad signature', 'refused-signature'],
      ['Device busy', 'busy'],
      ['unknown command', 'refused'],
    ] as const
  ).map(([why, fault]): Row => [
    why,
    WRITE,
    `${sent('init_boot_a')}\n${failed(why)}`,
    { verdict: 'otherwise', fault },
  ]),
  [
    'no file',
    WRITE,
    "error: cannot load 'root.img': No such file or directory",
    { verdict: 'otherwise', fault: 'no-file' },
  ],
  ['not ok', WRITE, "Writing 'init_boot_a'   not ok", { verdict: 'not-enough' }],
  [
    'a block copy',
    { ...WRITE, mode: 'system' },
    'hill:/ # dd if=/sdcard/root.img of=/dev/block/by-name/init_boot_a\n2048+0 records in\n2048+0 records out\n8388608 bytes (8.0 M) copied, 0.1 s',
    { verdict: 'met', met: ['transfer', 'partition', 'slot', 'size'] },
  ],
  [
    'a block copy of less',
    { ...WRITE, mode: 'system' },
    'of=/dev/block/by-name/init_boot_a\n1024+0 records in\n1024+0 records out\n4194304 bytes (4.0 M) copied, 0.1 s',
    { verdict: 'otherwise', differs: ['size'] },
  ],
  [
    'a block copy that was cut',
    { ...WRITE, mode: 'system' },
    '2048+0 records in\n1000+0 records out',
    { verdict: 'otherwise', fault: 'cut-short' },
  ],
  [
    'a block copy to another slot',
    { ...WRITE, mode: 'system' },
    'hill:/ # dd of=/dev/block/by-name/init_boot_b\n2048+0 records in\n2048+0 records out',
    { verdict: 'otherwise', differs: ['slot'] },
  ],
  [
    'erased',
    { ...WRITE, step: 'erase', partition: 'cache', slot: undefined },
    "Erasing 'cache'   OKAY",
    { verdict: 'met' },
  ],
  [
    'erased another',
    { ...WRITE, step: 'erase', partition: 'cache', slot: undefined },
    "Erasing 'userdata'   OKAY",
    { verdict: 'otherwise', differs: ['partition'] },
  ],
  [
    'sent to memory, nothing seen yet',
    { ...WRITE, step: 'start-once', mode: 'system' },
    `${sent('root.img')}\nBooting   OKAY`,
    { verdict: 'not-enough', missing: ['mode'] },
  ],
  [
    'sent to memory, and listed',
    { ...WRITE, step: 'start-once', mode: 'system' },
    `${sent('root.img')}\nBooting   OKAY\n${SERIAL}\tdevice`,
    { verdict: 'met' },
  ],
];

const LOCKS: readonly Row[] = [
  ['unlocked by variables', UNLOCK, `serialno: ${SERIAL}\nunlocked: yes`, { verdict: 'met' }],
  ['read twice, the last counts', UNLOCK, 'unlocked: no\nunlocked: yes', { verdict: 'met' }],
  ['still locked', UNLOCK, 'unlocked: no', { verdict: 'otherwise', differs: ['lock'] }],
  ['already unlocked', UNLOCK, "FAILED (remote: 'Device already : unlocked!')", { verdict: 'met' }],
  [
    'already unlocked, where it is no answer',
    WRITE,
    "FAILED (remote: 'already unlocked')",
    { verdict: 'otherwise', fault: 'already' },
  ],
  [
    'the switch is off',
    UNLOCK,
    "FAILED (remote: 'Flashing Unlock is not allowed')",
    { verdict: 'otherwise', fault: 'switch-off' },
  ],
  ['a wrong code', UNLOCK, "FAILED (remote: 'invalid token')", { verdict: 'otherwise', fault: 'wrong-code' }],
  [
    'a system’s own word',
    UNLOCK,
    dump({ 'ro.boot.flash.locked': '0' }),
    { verdict: 'otherwise', differs: ['mode'], missing: ['lock'] },
  ],
  [
    'the command only',
    { ...UNLOCK, step: 'lock', lock: 'locked' },
    'OKAY [  0.031s]',
    { verdict: 'not-enough', missing: ['lock'] },
  ],
  [
    'locked',
    { ...UNLOCK, step: 'lock', lock: 'locked' },
    '(bootloader) Device unlocked: false',
    { verdict: 'met' },
  ],
];

const FILES: readonly Row[] = [
  [
    'pushed',
    PUSH,
    'root.img: 1 file pushed, 0 skipped. 38.1 MB/s (8388608 bytes in 0.210s)',
    { verdict: 'met' },
  ],
  ['pushed, the older way', PUSH, '4567 KB/s (8388608 bytes in 1.793s)', { verdict: 'met' }],
  [
    'another file',
    PUSH,
    'stock.img: 1 file pushed. 38.1 MB/s (8388608 bytes in 0.210s)',
    { verdict: 'otherwise', differs: ['file'] },
  ],
  [
    'fewer bytes',
    PUSH,
    'root.img: 1 file pushed. 38.1 MB/s (4194304 bytes in 0.210s)',
    { verdict: 'otherwise', differs: ['size'] },
  ],
  ['no file pushed', PUSH, 'root.img: 0 files pushed, 1 skipped.', { verdict: 'not-enough' }],
  [
    'pushed, with another hash',
    PUSH,
    `root.img: 1 file pushed.\n${OTHER_HASH}  /sdcard/root.img`,
    { verdict: 'otherwise', differs: ['hash'] },
  ],
  [
    'no room',
    PUSH,
    "error: failed to copy 'root.img': remote No space left on device",
    { verdict: 'otherwise', fault: 'no-space' },
  ],
  [
    'no such file',
    PUSH,
    "error: cannot stat 'root.img': No such file or directory",
    { verdict: 'otherwise', fault: 'no-file' },
  ],
  ['sideloaded', SIDELOAD, "serving: 'hill.zip'  (~47%)\rserving: 'hill.zip'  (~100%)", { verdict: 'met' }],
  ['sideloaded by its total', SIDELOAD, 'Total xfer: 1.00x', { verdict: 'met' }],
  [
    'its last answer unread',
    SIDELOAD,
    'Total xfer: 1.02x\nfailed to read command: Success',
    { verdict: 'met', harmless: [2] },
  ],
  [
    'cut short',
    SIDELOAD,
    'Total xfer: 0.47x\nfailed to read command: Success',
    { verdict: 'otherwise', fault: 'cut-short' },
  ],
  ['half of it', SIDELOAD, "serving: 'hill.zip'  (~47%)", { verdict: 'not-enough', missing: ['transfer'] }],
  ['another package', SIDELOAD, "serving: 'dale.zip'  (~100%)", { verdict: 'otherwise', differs: ['file'] }],
  [
    'a mount error after a wipe',
    { ...SIDELOAD, freshWipe: true },
    'E:failed to mount /data: Invalid argument\nTotal xfer: 1.00x',
    { verdict: 'met', harmless: [1] },
  ],
  [
    'its signature',
    SIDELOAD,
    'Total xfer: 1.00x\nE:signature verification failed\nInstallation aborted.',
    { verdict: 'otherwise', fault: 'refused-signature' },
  ],
  [
    'aborted, it does not say why',
    SIDELOAD,
    'Installation aborted.',
    { verdict: 'otherwise', fault: 'refused' },
  ],
];

const PROOFS: readonly Row[] = [
  ['uid 0', ROOT, 'hill:/ # uid=0(root) gid=0(root)', { verdict: 'met', met: ['root'] }],
  [
    'uid 0 and the image’s hash',
    ROOT,
    `uid=0(root)\n${HASH}  /dev/block/by-name/init_boot_a`,
    { verdict: 'met', met: ['root', 'hash'] },
  ],
  [
    'uid 0 over another image',
    ROOT,
    `uid=0(root)\n${OTHER_HASH}  /dev/block/by-name/init_boot_a`,
    { verdict: 'otherwise', differs: ['hash'] },
  ],
  ['gid 0', ROOT, 'uid=2000(shell) gid=0(root)', { verdict: 'otherwise', differs: ['root'] }],
  ['denied', ROOT, 'hill:/ $ su -c id\nPermission denied', { verdict: 'otherwise', fault: 'root-denied' }],
  ['denied, then allowed', ROOT, 'Permission denied\nuid=0(root)', { verdict: 'met' }],
  [
    'allowed, then denied',
    ROOT,
    'uid=0(root)\nPermission denied',
    { verdict: 'otherwise', fault: 'root-denied' },
  ],
  [
    'no such command',
    ROOT,
    '/system/bin/sh: su: inaccessible or not found',
    { verdict: 'otherwise', fault: 'no-root' },
  ],
  [
    'stock: no such command',
    { step: 'prove-stock', ...WHO },
    'sh: su: not found',
    { verdict: 'met', met: ['root'] },
  ],
  [
    'stock: a denial',
    { step: 'prove-stock', ...WHO },
    'Permission denied',
    { verdict: 'otherwise', fault: 'root-denied' },
  ],
  [
    'stock: root is there',
    { step: 'prove-stock', ...WHO },
    'uid=0(root)',
    { verdict: 'otherwise', differs: ['root'] },
  ],
  [
    'stock: never asked',
    { step: 'prove-stock', ...WHO },
    dump(),
    { verdict: 'not-enough', missing: ['root'] },
  ],
  ['its hash', READ_BACK, `${HASH.toUpperCase()}  /dev/block/by-name/init_boot_a`, { verdict: 'met' }],
  [
    'its hash, as a table',
    READ_BACK,
    `SHA256          ${HASH.toUpperCase()}   C:\\out\\init_boot_a.img`,
    { verdict: 'met' },
  ],
  ['its hash, named first', READ_BACK, `SHA256(init_boot_a.img)= ${HASH}`, { verdict: 'met' }],
  [
    'its hash among others',
    READ_BACK,
    `${OTHER_HASH}  boot_a.img\n${HASH}  init_boot_a.img`,
    { verdict: 'met' },
  ],
  [
    'the other slot’s',
    READ_BACK,
    `${HASH}  /dev/block/by-name/init_boot_b`,
    { verdict: 'otherwise', differs: ['slot'] },
  ],
  ['another hash', READ_BACK, `${OTHER_HASH}  init_boot_a.img`, { verdict: 'otherwise', differs: ['hash'] }],
  [
    'another partition’s',
    READ_BACK,
    `${OTHER_HASH}  vbmeta_a.img`,
    { verdict: 'not-enough', missing: ['hash'] },
  ],
];

describe.each([
  ['who it is', WHO_IT_IS],
  ['writes', WRITES],
  ['locks', LOCKS],
  ['files', FILES],
  ['proofs', PROOFS],
])('%s', (_family, rows) => {
  it.each(rows)('%s', (_what, expectation, text, want) => check(expectation, text, want));
});

describe('any text', () => {
  it('is read without colours, clocks and consoles’ own marks', () => {
    const text = `\ufeff\u001b[36m[12:03:44] ${wrote('init_boot_a')}\u001b[0m\r\n`;
    check(WRITE, text, { verdict: 'met' });
  });
  it('gets an answer that agrees with itself, at every step', () => {
    const line = fc.oneof(
      fc.string(),
      fc.constantFrom(
        ...[...WHO_IT_IS, ...WRITES, ...LOCKS, ...FILES, ...PROOFS].flatMap(([, , text]) => text.split('\n')),
      ),
    );
    fc.assert(
      fc.property(fc.constantFrom(...OBSERVED_STEPS), fc.array(line, { maxLength: 12 }), (step, lines) => {
        const text = lines.join('\n');
        const count = text.split('\n').length;
        const { verdict, differs, fault, missing, met, harmless, unknown, next } = observe(
          { ...WRITE, ...START, lock: 'unlocked', step },
          text,
        );
        expect(verdict === 'otherwise').toBe(differs.length > 0 || fault !== null);
        expect(verdict === 'met').toBe(differs.length === 0 && fault === null && missing.length === 0);
        const about = [...met, ...differs, ...harmless, ...(fault ? [fault] : [])].map((one) => one.line);
        for (const n of [...about, ...unknown]) expect(n >= 1 && n <= count).toBe(true);
        expect(harmless.some(({ line: n }) => n === fault?.line)).toBe(false);
        expect(next).not.toBe('');
      }),
      tries(),
    );
  });
  it('that is too long is refused', async () =>
    expect(await codeOf(() => observe(WRITE, 'x'.repeat(LIMITS.factsTextBytes + 1)))).toBe('too-large'));
});

describe('what a person said of their model’s tool', () => {
  const words = { done: ['All is well.'], refused: ['The lamp is red'] };
  const write = { step: 'write', serial: 'S1', partition: 'boot', words } as const;
  it.each([
    ['a line that means done', 'ALL IS  WELL.', 'met'],
    ['one that means refused', 'the lamp is red', 'otherwise'],
    ['done, and refused after it', 'All is well.\nThe lamp is red', 'otherwise'],
    ['the words inside a longer line', 'Perhaps all is well. Perhaps not.', 'not-enough'],
    ['typed at a prompt', '$ All is well.', 'not-enough'],
  ])('%s', (_what, text, verdict) => expect(observe(write, text).verdict).toBe(verdict));
  it('proves no transfer where none is made, and none of several images', () => {
    const parts = [{ partition: 'boot', slots: [null], size: null }];
    for (const step of [
      { ...write, step: 'list' as const },
      { ...write, parts },
    ])
      expect(observe(step, 'All is well.').met.map(({ what }) => what)).not.toContain('transfer');
    expect(observe({ ...write, words: undefined } as never, 'All is well.').verdict).toBe('not-enough');
  });
});

describe('files that were carried over', () => {
  const [one, other] = ['a'.repeat(64), 'b'.repeat(64)];
  const step = {
    step: 'read-back',
    files: [
      { file: 'boot-A.img', sha256: one },
      { file: 'recovery-A.img', sha256: other },
    ],
  } as const;
  const line = (hash: string, name: string) => `${hash}  ${name}`;
  it.each([
    ['both, in any order', [line(other, 'recovery-A.img'), line(one, './files/boot-A.img')], 'met'],
    ['one of two', [line(one, 'boot-A.img')], 'not-enough'],
    ['one with another hash', [line(other, 'boot-A.img'), line(other, 'recovery-A.img')], 'otherwise'],
    [
      'both, and once more with another hash',
      [line(one, 'boot-A.img'), line(other, 'recovery-A.img'), line(other, 'boot-A.img')],
      'otherwise',
    ],
    [
      'files of somebody else besides',
      [line(one, 'boot-A.img'), line(other, 'recovery-A.img'), line('c'.repeat(64), 'holiday.jpg')],
      'met',
    ],
    ['none', ['nothing here'], 'not-enough'],
  ])('%s', (_what, lines, verdict) => expect(observe(step, lines.join('\n')).verdict).toBe(verdict));
});
