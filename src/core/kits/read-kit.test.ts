import { describe, expect, it } from 'vitest';
import { codeOf, errorOf } from '../../../tests/fixtures/expect-error';
import { KIT_STEPS, kitManifest, kitZip, utf8, zipBytes } from '../../../tests/fixtures/images';
import { nodePorts } from '../../platform/node/node-ports';
import { memorySource } from '../bytes/byte-source';
import { readKit } from './read-kit';

const read = async (bytes: Uint8Array) => readKit(memorySource(bytes, 'x.kit.zip'), nodePorts);
const withStep = (step: object) => kitZip({ steps: [step] });

describe('kits', () => {
  it('are read with their files and what they support', async () => {
    const { kit, warnings } = await read(await kitZip());
    expect(kit).toMatchObject({
      id: 'burrow',
      version: '7.3',
      versionCode: 703,
      channel: 'stable',
      marker: '.burrow/provenance.json',
    });
    expect(kit.supports).toEqual({
      sdk: [28, 37],
      partitions: ['init_boot', 'boot'],
      architectures: ['arm64'],
    });
    expect([...kit.files.keys()]).toEqual(['files/su', 'files/init']);
    expect(kit.steps).toHaveLength(KIT_STEPS.length);
    expect(warnings).toEqual([]);
  });

  it('without a marker, or whose steps do not write it, are taken with a warning', async () => {
    expect((await read(await kitZip({ marker: undefined }))).warnings[0]).toContain('no marker');
    expect((await read(await kitZip({ marker: 'elsewhere' }))).warnings[0]).toContain('elsewhere');
  });

  it.each([
    ['another format', { format: 'other' }],
    ['another format version', { formatVersion: 3 }],
    ['half a format version', { formatVersion: 1.5 }],
    ['a format version in words', { formatVersion: '1' }],
    ['no id', { id: undefined }],
    ['an empty name', { name: '' }],
    ['a version that is a number', { version: 7.3 }],
    ['a version code in words', { versionCode: '703' }],
    ['a broken version code', { versionCode: 7.5 }],
    ['another channel', { channel: 'nightly' }],
    ['no supports', { supports: undefined }],
    ['supports that is a list', { supports: [] }],
    ['three levels', { supports: { sdk: [1, 2, 3] } }],
    ['levels the wrong way round', { supports: { sdk: [30, 20] } }],
    ['partitions that are no list', { supports: { partitions: 'boot' } }],
    ['steps that are no list', { steps: {} }],
    ['a step that is no object', { steps: ['mkdir'] }],
    ['a marker that leaves', { marker: '../x' }],
    ['a marker that is a number', { marker: 5 }],
  ])('are refused for %s', async (_what, change) => {
    const error = await errorOf(async () => read(await kitZip(change)));
    expect(error).toMatchObject({ code: 'kit-invalid', file: 'x.kit.zip' });
  });

  it.each(['', '/a', 'a/', 'a//b', './a', 'a/.', '..', 'a/../b', 'TRAILER!!!', 'a\0b'])(
    'are refused for the path %j',
    async (path) => {
      expect(await codeOf(async () => read(await withStep({ do: 'mkdir', path, mode: '0750' })))).toBe(
        'kit-invalid',
      );
      expect(await codeOf(async () => read(await withStep({ do: 'keep', path: 'init', as: path })))).toBe(
        'kit-invalid',
      );
    },
  );

  it.each(['75', '00750', '0758', 'rwx', 750, undefined])('are refused for the mode %j', async (mode) => {
    expect(await codeOf(async () => read(await withStep({ do: 'mkdir', path: 'a', mode })))).toBe(
      'kit-invalid',
    );
  });

  it.each([
    ['an unknown step', { do: 'chmod', path: 'a' }],
    ['a file that is not there', { do: 'add', path: 'a', from: 'files/none', mode: '0644' }],
    ['an unknown variable', { do: 'write', path: 'a', text: '{{stock.size}}', mode: '0644' }],
    ['a variable with spaces', { do: 'write', path: 'a', text: '{{ kit.id }}', mode: '0644' }],
    ['no text', { do: 'write', path: 'a', mode: '0644' }],
    ['a link to nowhere', { do: 'link', path: 'a' }],
    ['nothing to find', { do: 'replaceText', path: 'a', find: '', with: 'x' }],
    ['nothing to put', { do: 'replaceText', path: 'a', find: 'x' }],
    ['nothing to append', { do: 'cmdline' }],
    ['a flag in words', { do: 'remove', path: 'a', ifPresent: 'yes' }],
    ['an owner in words', { do: 'mkdir', path: 'a', mode: '0750', uid: 'root' }],
    ['a negative owner', { do: 'mkdir', path: 'a', mode: '0750', gid: -1 }],
  ])('are refused for %s', async (_what, step) => {
    const error = await errorOf(async () => read(await withStep(step)));
    expect(error.code).toBe('kit-invalid');
  });

  it('name the step that is wrong, counted from 1', async () => {
    const error = await errorOf(async () => read(await kitZip({ steps: [KIT_STEPS[0], { do: 'hop' }] })));
    expect(error.message).toContain('step 2');
  });

  it.each([
    ['no ZIP', async () => utf8('not an archive, only words')],
    ['a ZIP without its manifest', () => zipBytes({ 'other.json': '{}' })],
    ['a manifest that is no JSON', () => zipBytes({ 'kit.json': '{' })],
    ['a manifest that is a list', () => zipBytes({ 'kit.json': '[]' })],
    ['a manifest that is not UTF-8', () => zipBytes({ 'kit.json': Uint8Array.of(0x7b, 0xff, 0x7d) })],
    ['nothing', async () => new Uint8Array(0)],
  ])('that are %s are refused', async (_what, make) =>
    expect(await codeOf(async () => read(await make()))).toBe('kit-invalid'),
  );

  it('cut anywhere are refused', async () => {
    const bytes = await kitZip();
    for (let cut = 1; cut < bytes.length; cut += 37)
      expect(await codeOf(() => read(bytes.subarray(0, cut)))).toBe('kit-invalid');
  });

  it('may be described by a manifest with more than we know', async () => {
    const { kit } = await read(
      await zipBytes({
        'kit.json': JSON.stringify({ ...kitManifest({ steps: [] }), note: 'hello', marker: undefined }),
      }),
    );
    expect(kit.steps).toEqual([]);
  });
});
