import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { memorySource } from '@/core/bytes/byte-source';
import { readBootImage, sectionBytes } from '@/core/formats/boot-image/reader';
import { variablesOf } from '@/core/kits/kit';
import { examineKit, readKit } from '@/core/kits/read-kit';
import { listRamdisk, readRamdiskFile } from '@/core/packages/list-ramdisk';
import { patchImage } from '@/core/patch/patch-image';
import { nodePorts } from '@/platform/node/node-ports';
import { FINGERPRINT, kitManifest, seeded, stockImage, utf8, zipBytes } from '../fixtures/images';

const PAGE = readFileSync('docs/kit-format.md', 'utf8');
const source = (bytes: Uint8Array) => memorySource(bytes, 'candle.kit.zip');

/** The JSON blocks of the page: whole manifests, of version 1 and of version 2. */
function exampleOf(page: string, version: 1 | 2): string {
  const blocks = [...page.matchAll(/```json\n([\s\S]*?)```/g)].map((match) => match[1]!);
  expect(blocks).toHaveLength(2);
  return blocks[version - 1]!;
}

describe('the page on the kit format', () => {
  it('has a worked example that can be built and applied as it says', async () => {
    const zip = await zipBytes({ 'kit.json': exampleOf(PAGE, 1), 'files/init': 'a program\n' });
    const { kit, warnings } = await readKit(source(zip), nodePorts);
    expect(warnings).toEqual([]);
    const stock = await stockImage();
    const { bytes, proof } = await patchImage(memorySource(stock), kit, nodePorts);
    expect(proof.every((line) => line.ok)).toBe(true);
    const names = (await listRamdisk(memorySource(bytes), nodePorts)).archives
      .at(-1)!
      .entries.map((entry) => entry.name);
    expect(names.slice(-4)).toEqual(['.candle', '.candle/init.stock', 'init', '.candle/note.json']);
    expect(names).not.toContain('verity_key');
  });

  it('has one of version 2, whose choices and conditions do as it says', async () => {
    const zip = await zipBytes({ 'kit.json': exampleOf(PAGE, 2), 'files/init': 'a program\n' });
    const { kit, warnings } = await readKit(source(zip), nodePorts);
    expect(warnings).toEqual([]);
    const stock = memorySource(await stockImage());
    const { bytes, proof, notes } = await patchImage(stock, kit, nodePorts, {
      chosen: { home: 'metadata' },
    });
    expect(proof.every((line) => line.ok)).toBe(true);
    const made = memorySource(bytes);
    const entries = (await listRamdisk(made, nodePorts)).archives.at(-1)!.entries.map(({ name }) => name);
    expect(entries).toContain('.lantern/settings');
    expect(entries).not.toContain('.lantern/loud');
    expect(new TextDecoder().decode(await readRamdiskFile(made, '.lantern/settings', nodePorts))).toMatch(
      /^home=metadata seed=[0-9a-f]{16}\n$/,
    );
    // the quiet start, and a kernel that an init_boot has not got
    expect(notes.filter((note) => note.includes('is skipped'))).toHaveLength(2);
    const kernel = seeded(3, 3000);
    kernel.set(utf8('skipin'), 900);
    const boot = await stockImage({
      version: 1,
      partition: 'boot',
      kernel,
      fingerprint: FINGERPRINT.replace(':16/', ':10/'),
    });
    const changed = await patchImage(memorySource(boot), kit, nodePorts);
    const image = await readBootImage(memorySource(changed.bytes));
    const now = await sectionBytes(image, 'kernel');
    expect(new TextDecoder().decode(now.subarray(900, 906))).toBe('wantin');
  });

  it('names every step that can be taken, and every variable', () => {
    const steps = ['mkdir', 'add', 'write', 'link', 'keep', 'remove', 'replaceText', 'cmdline'];
    for (const step of [...steps, 'replaceBytes', 'kernel']) expect(PAGE).toContain(`\`${step}\``);
    for (const name of variablesOf({ formatVersion: 2, options: {} })) expect(PAGE).toContain(`{{${name}}}`);
  });
});

describe('a kit that is wrong', () => {
  it('is told all that is wrong with it at once', async () => {
    const steps = [
      { do: 'mkdir', path: '../up', mode: '0750' },
      { do: 'add', path: 'a', from: 'files/gone', mode: '0644' },
      { do: 'write', path: 'b', text: '{{no.such}}', mode: '9' },
      { do: 'dance' },
      'not a step',
    ];
    const { kit, problems } = await examineKit(
      source(
        await zipBytes({
          'kit.json': JSON.stringify(kitManifest({ id: '', channel: 'beta', versionCode: 'x', steps })),
        }),
      ),
      nodePorts,
    );
    expect(kit).toBeNull();
    expect(problems).toHaveLength(8);
    expect(problems.join('\n')).toMatch(/"id".*\n.*"versionCode".*\n.*"channel"/);
    expect(problems.at(-1)).toContain('files/gone');
  });

  it.each([
    ['no ZIP', async () => new TextEncoder().encode('hello')],
    ['a ZIP without a manifest', () => zipBytes({ 'a.txt': 'x' })],
    ['a manifest that is no JSON', () => zipBytes({ 'kit.json': '{' })],
    ['another format', () => zipBytes({ 'kit.json': JSON.stringify(kitManifest({ format: 'other' })) })],
    ['steps that are no list', () => zipBytes({ 'kit.json': JSON.stringify(kitManifest({ steps: {} })) })],
  ])('as %s has one problem', async (_what, bytes) => {
    const { kit, problems } = await examineKit(source(await bytes()), nodePorts);
    expect(kit).toBeNull();
    expect(problems).toHaveLength(1);
  });
});
