import { describe, expect, it } from 'vitest';
import { errorOf } from '../../../tests/fixtures/expect-error';
import { kitZip } from '../../../tests/fixtures/images';
import { nodePorts } from '../../platform/node/node-ports';
import { memorySource } from '../bytes/byte-source';
import { examineKit, readKit } from './read-kit';

/* What kits of version 2 may hold beside version 1, and what a kit of version 1 may not. */

const read = async (change: object) =>
  readKit(memorySource(await kitZip({ formatVersion: 2, ...change }), 'x.kit.zip'), nodePorts);
const withStep = (step: object, head: object = {}) => read({ ...head, steps: [step] });
const refused = async (work: () => Promise<unknown>) => (await errorOf(work)).code;

const OPTIONS = {
  quiet: { title: 'Say nothing', kind: 'bool', default: false, explain: 'No words at the start.' },
  store: {
    title: 'Where it keeps its files',
    kind: 'choice',
    choices: ['data', 'metadata'],
    default: 'data',
    explain: 'On metadata they outlive an erased data.',
  },
};
const WRITE = { do: 'write', path: 'a', mode: '0640', text: 'x' };

describe('kits of version 2', () => {
  it('are read with options, conditions and what they do after failed starts', async () => {
    const { kit } = await read({
      options: OPTIONS,
      afterFailedStarts: { starts: 2, does: 'rest-modules' },
      companion: { name: 'Burrow', minimumVersionCode: 700 },
      steps: [
        {
          ...WRITE,
          fragment: 'recovery',
          when: {
            sdk: [33, 37],
            architecture: ['arm64'],
            partition: ['init_boot'],
            header: [3, 4],
            kernel: '6.1',
            option: { quiet: true, store: 'metadata' },
          },
        },
        { do: 'replaceText', path: 'fstab.*', match: 'glob', find: ',verify', with: '', ifFound: true },
        { do: 'replaceBytes', in: 'kernel', find: '00ff', with: 'FF00' },
        { do: 'kernel', from: 'files/su' },
      ],
    });
    expect(kit).toMatchObject({
      formatVersion: 2,
      options: OPTIONS,
      afterFailedStarts: { starts: 2, does: 'rest-modules' },
      companion: { name: 'Burrow', minimumVersionCode: 700 },
    });
    expect(kit.steps[0]).toMatchObject({
      fragment: 'recovery',
      // in the order in which they are looked at
      when: [
        { of: 'sdk', range: [33, 37] },
        { of: 'architecture', oneOf: ['arm64'] },
        { of: 'partition', oneOf: ['init_boot'] },
        { of: 'header', range: [3, 4] },
        { of: 'kernel', prefix: '6.1' },
        { of: 'option', name: 'quiet', value: true },
        { of: 'option', name: 'store', value: 'metadata' },
      ],
    });
    expect(kit.steps[1]).toMatchObject({ glob: true, ifFound: true, ifPresent: false, when: [] });
    expect(kit.steps[2]).toMatchObject({ find: Uint8Array.of(0, 255), with: Uint8Array.of(255, 0) });
    expect(kit.files.has('files/su')).toBe(true);
  });

  it('say nothing of what they do not hold', async () => {
    expect((await read({})).kit).toMatchObject({ options: {}, afterFailedStarts: null, companion: null });
  });

  it.each<[string, object]>([
    ['options', { options: OPTIONS }],
    ['what it does after failed starts', { afterFailedStarts: { starts: 2, does: 'nothing' } }],
    ['a companion', { companion: { name: 'B', minimumVersionCode: 1 } }],
    ['a condition', { steps: [{ ...WRITE, when: {} }] }],
    ['a fragment', { steps: [{ ...WRITE, fragment: 'recovery' }] }],
    ['a pattern', { steps: [{ do: 'remove', path: 'a*', match: 'glob' }] }],
    ['ifFound', { steps: [{ do: 'replaceText', path: 'a', find: 'b', with: '', ifFound: true }] }],
    ['bytes to replace', { steps: [{ do: 'replaceBytes', in: 'dtb', find: '00', with: '01' }] }],
    ['a kernel', { steps: [{ do: 'kernel', from: 'files/su' }] }],
    ['a variable of version 2', { steps: [{ ...WRITE, text: '{{stock.sha1}}' }] }],
  ])('of version 1 are refused with %s, which version 2 takes', async (_what, change) => {
    expect(await refused(() => read({ ...change, formatVersion: 1 }))).toBe('kit-invalid');
    await expect(read(change)).resolves.toBeDefined();
  });

  it.each<[string, object]>([
    ['an unknown condition', { when: { moon: 'full' } }],
    ['an undeclared option', { when: { option: { loud: true } } }],
    ['a value that an option has not got', { when: { option: { store: 'attic' } } }],
    ['a word for a yes or no', { when: { option: { quiet: 'true' } } }],
    ['levels the wrong way round', { when: { sdk: [36, 33] } }],
    ['one level', { when: { sdk: 36 } }],
    ['architectures in one word', { when: { architecture: 'arm64' } }],
    ['an empty kernel', { when: { kernel: '' } }],
    ['conditions in a list', { when: [] }],
    ['a pattern on a step that takes none', { match: 'glob' }],
    ['an undeclared option in a text', { text: '{{option.loud}}' }],
    ['a fragment that is a number', { fragment: 2 }],
  ])('are refused for %s', async (_what, change) => {
    expect(await refused(() => withStep({ ...WRITE, ...change }, { options: OPTIONS }))).toBe('kit-invalid');
  });

  it.each<[string, object]>([
    ['another word than glob', { do: 'remove', path: 'a*', match: 'regex' }],
    ['bytes of another length', { do: 'replaceBytes', in: 'kernel', find: '0011', with: '00' }],
    ['no bytes', { do: 'replaceBytes', in: 'kernel', find: '', with: '' }],
    ['half a byte', { do: 'replaceBytes', in: 'kernel', find: '0', with: '1' }],
    ['bytes of another section', { do: 'replaceBytes', in: 'ramdisk', find: '00', with: '01' }],
    ['a kernel that is not in the kit', { do: 'kernel', from: 'files/none' }],
  ])('are refused for a step with %s', async (_what, step) => {
    expect(await refused(() => withStep(step))).toBe('kit-invalid');
  });

  it.each<[string, object]>([
    ['a default that is no choice', { options: { s: { ...OPTIONS.store, default: 'attic' } } }],
    ['a yes or no in words', { options: { q: { ...OPTIONS.quiet, default: 'no' } } }],
    ['an option of another kind', { options: { q: { ...OPTIONS.quiet, kind: 'number' } } }],
    ['an option without a title', { options: { q: { ...OPTIONS.quiet, title: '' } } }],
    ['options in a list', { options: [] }],
    ['no failed start', { afterFailedStarts: { starts: 0, does: 'nothing' } }],
    ['another deed after failed starts', { afterFailedStarts: { starts: 2, does: 'wipe' } }],
    ['a companion without a version', { companion: { name: 'B' } }],
  ])('are refused for %s on top', async (_what, change) => {
    expect(await refused(() => read(change))).toBe('kit-invalid');
  });

  it('tell all that is wrong at once', async () => {
    const bytes = await kitZip({
      formatVersion: 2,
      companion: 5,
      steps: [{ ...WRITE, when: { moon: 1 } }, { do: 'kernel' }],
    });
    const { kit, problems } = await examineKit(memorySource(bytes), nodePorts);
    expect(kit).toBeNull();
    expect(problems).toHaveLength(3);
  });
});
