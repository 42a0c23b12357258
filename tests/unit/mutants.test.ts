import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { mutantsOf, planted } from '../../scripts/mutants.mjs';

let dir: string;
beforeAll(async () => {
  dir = await mkdtemp(join(tmpdir(), 'eterno-mutants-'));
});
afterAll(() => rm(dir, { recursive: true, force: true }));

/** What the file becomes with each fault in turn. */
async function faults(content: string): Promise<string[]> {
  const file = join(dir, 'one.ts');
  await writeFile(file, content);
  return mutantsOf(file).map((mutant) => `${mutant.kind}: ${planted(content, mutant)}`);
}

describe('faults that can be planted', () => {
  it.each<[string, string[]]>([
    ['const x = a < 3;', ['comparison: const x = a <= 3;', 'off by one: const x = a < 4;']],
    ['const x = a !== b;', ['comparison: const x = a === b;']],
    ['const x = a && b;', ['dropped term: const x = a;', 'dropped term: const x = b;']],
    ['const x = !a;', ['dropped term: const x = a;']],
    ['const x = otherSlot(slot);', ['swapped slot: const x = slot;']],
    ["f('a');", ["swapped slot: f('b');"]],
    ["const x = ['one', 'two'];", ["dropped term: const x = [ 'two'];"]],
    ['if (bad) throw new Error();', ['dropped check: ;']],
    ['if (bad) return; else go();', []],
    ["const words = 'there ' + 'is';", []],
    ["type Slot = 'a' | 'b';", []],
  ])('%s', async (content, expected) => expect(await faults(content)).toEqual(expected));

  it('take a check out whole, with its block', async () => {
    expect(await faults('go(); if (bad) { tell(); throw late; } on();')).toEqual([
      'dropped check: go(); ; on();',
    ]);
  });
});
