import { describe, expect, it } from 'vitest';
import { aboutWhatShows, answersIn } from './read-answers';

/* What is printed, as answers: both sides of each line that decides. */

const BUILD = 'club/petrel/petrel1:16/OPA1.260905.003/11:user/release-keys';
const OTHER = 'club/petrel/petrel1:16/OPA1.261005.004/12:user/release-keys';
const before = { build: BUILD, slot: 'a' };
const answer = (text: string, check: string, known = before) =>
  answersIn(text, known).find((one) => one.check === check)?.answer ?? null;

const slots = (more: string, slot = 'a') => `(bootloader) current-slot:${slot}\n${more}`;

describe('answers out of what was printed', () => {
  it.each([
    ['(bootloader) unlocked:yes', 'unlocked-line', 'yes'],
    ['(bootloader) unlocked:no', 'unlocked-line', 'no'],
    ['(bootloader) product:petrel1', 'unlocked-line', null],
    ['(bootloader) product:petrel1', 'opens-bootloader', 'yes'],
    ['(bootloader) snapshot-update-status:none', 'update-line', 'none'],
    ['(bootloader) snapshot-update-status:merging', 'update-line', 'open'],
    ['(bootloader) snapshot-update-status:snapshotted', 'update-line', 'open'],
    ['(bootloader) unlocked:yes', 'update-line', null],
    [slots('(bootloader) slot-retry-count:a:0\n(bootloader) slot-successful:a:no'), 'slot-lines', 'spent'],
    // a slot that started once needs no tries
    [slots('(bootloader) slot-retry-count:a:0\n(bootloader) slot-successful:a:yes'), 'slot-lines', 'plain'],
    [slots('(bootloader) slot-retry-count:a:1'), 'slot-lines', 'plain'],
    [slots('(bootloader) slot-unbootable:a:yes'), 'slot-lines', 'spent'],
    [slots('(bootloader) slot-retry-count:b:3', 'b'), 'slot-lines', 'other'],
    [slots('(bootloader) slot-retry-count:b:0', 'b'), 'slot-lines', 'spent'],
    // of another slot than the active one nothing is said
    [slots('(bootloader) slot-retry-count:b:0'), 'slot-lines', null],
    [`[ro.build.fingerprint]: [${BUILD}]`, 'same-build', 'same'],
    [`[ro.build.fingerprint]: [${OTHER}]`, 'same-build', 'other'],
    ['uid=0(root) gid=0(root)', 'root-command', 'granted'],
    ['/system/bin/sh: su: not found', 'root-command', 'none'],
    ['su: permission denied', 'root-command', 'denied'],
    ['PT00A1B2C3\tdevice', 'wait-first', 'starts'],
    ['PT00A1B2C3\trecovery', 'wait-first', null],
    ['PT00A1B2C3\tdevice', 'other-mode', null],
    ['PT00A1B2C3\trecovery', 'other-mode', 'yes'],
    ['PT00A1B2C3\tdevice', 'opens-bootloader', null],
    ['good morning', 'wait-first', null],
  ] as const)('%j: %s is %s', (text, check, said) => {
    expect(answer(text, check)).toBe(said);
  });
  it('holds a build and a slot against what was known, and says nothing where nothing was', () => {
    const dump = `[ro.build.fingerprint]: [${BUILD}]`;
    expect(answer(dump, 'same-build', { build: null, slot: null } as never)).toBeNull();
    expect(
      answer(slots('(bootloader) slot-retry-count:b:3', 'b'), 'slot-lines', {
        build: BUILD,
        slot: null,
      } as never),
    ).toBe('plain');
  });
  it('of questions that nobody would ask about what shows are left out', () => {
    const found = answersIn('(bootloader) unlocked:yes\n(bootloader) snapshot-update-status:none', before);
    const checks = (symptom: 'loops' | 'write-refused') =>
      aboutWhatShows(found, [symptom]).map(({ check }) => check);
    expect(checks('loops')).toEqual(['update-line', 'opens-bootloader']);
    expect(checks('write-refused')).toEqual(['unlocked-line']);
    expect(aboutWhatShows(found, [])).toEqual([]);
  });
  it('gives the line that says it', () => {
    expect(answersIn('(bootloader) unlocked:no', before)).toContainEqual({
      check: 'unlocked-line',
      answer: 'no',
      saw: 'unlocked: no',
    });
    expect(answersIn('', before)).toEqual([]);
  });
});
