import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { memorySource } from '@/core/bytes/byte-source';
import { examineKit, readKit } from '@/core/kits/read-kit';
import { listRamdisk } from '@/core/packages/list-ramdisk';
import { patchImage } from '@/core/patch/patch-image';
import { nodePorts } from '@/platform/node/node-ports';
import { kitManifest, stockImage, zipBytes } from '../fixtures/images';

const PAGE = readFileSync('docs/kit-format.md', 'utf8');
const source = (bytes: Uint8Array) => memorySource(bytes, 'candle.kit.zip');

/** The one JSON block of the page that is a whole manifest. */
function exampleOf(page: string): string {
  const blocks = [...page.matchAll(/```json\n([\s\S]*?)```/g)].map((match) => match[1]!);
  expect(blocks).toHaveLength(1);
  return blocks[0]!;
}

describe('the page on the kit format', () => {
  it('has a worked example that can be built and applied as it says', async () => {
    const zip = await zipBytes({ 'kit.json': exampleOf(PAGE), 'files/init': 'a program\n' });
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

  it('names every step that can be taken, and every variable', () => {
    for (const step of ['mkdir', 'add', 'write', 'link', 'keep', 'remove', 'replaceText', 'cmdline'])
      expect(PAGE).toContain(`\`${step}\``);
    for (const name of ['stock.sha256', 'kit.id', 'kit.version', 'build.fingerprint'])
      expect(PAGE).toContain(`{{${name}}}`);
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
