import { describe, expect, it } from 'vitest';
import { parseFlashList } from '@/core/formats/flash-list/parse-flash-list';
import { memorySource } from '@/core/bytes/byte-source';
import { openPackage } from '@/core/packages/open-package';
import { codeOf } from '../../../tests/fixtures/expect-error';
import { stockImage, zipBytes } from '../../../tests/fixtures/images';
import { nodePorts } from '../node/node-ports';
import { readXml } from './read-xml';

const STEP =
  '<step operation="flash" partition="init_boot" filename="init_boot.img" MD5="0123456789abcdef0123456789ABCDEF"/>';
const list = (inside: string) =>
  `<?xml version="1.0" encoding="UTF-8"?>\n<flashing>\n <header><software_version version="HC1"/></header>\n${inside}\n</flashing>\n`;
const parse = (text: string) => parseFlashList(text, 'flash.xml', readXml);

describe('a list of writes', () => {
  it('is read as XML: either quotes, entities, sections, comments, parts that were left out', () => {
    const text = list(
      `<!-- ${STEP} --><![CDATA[${STEP}]]>${STEP}<step partition='boot' filename='a&amp;b.img' slot="all"></step><step operation="set-active" slot="a"/>`,
    );
    const read = parse(`\uFEFF${text}`)!;
    expect(read.steps).toEqual([
      {
        partition: 'init_boot',
        filename: 'init_boot.img',
        md5: '0123456789abcdef0123456789abcdef',
        bothSlots: false,
      },
      { partition: 'boot', filename: 'a&b.img', md5: null, bothSlots: true },
    ]);
    expect(read.changesSlot).toBe(true);
    expect(read.about[0]).toEqual({ key: 'software_version.version', value: 'HC1' });
  });
  it.each([
    ['a tag that is never closed', list(STEP).replace('</flashing>', '')],
    ['a tag that is closed twice', list(`${STEP}</step>`)],
    ['a value without its end', list(STEP.replace('img"', 'img'))],
    [
      'one attribute twice',
      list(STEP.replace('partition="init_boot"', 'partition="init_boot" partition="boot"')),
    ],
    ['a bare ampersand', list(STEP.replace('init_boot.img', 'a&b.img'))],
    ['an entity of its own', list(STEP.replace('init_boot.img', '&img;'))],
    ['two roots', `${list(STEP)}<more/>`],
    ['a cut', list(`${STEP}${STEP}`).slice(0, 250)],
    ['a broken head', `<flashing <x>${STEP}</flashing>`],
  ])('of broken XML is refused: %s', async (_what, text) => {
    expect(await codeOf(() => parse(text))).toBe('bad-field');
    const zip = await zipBytes({ 'flash.xml': text, 'init_boot.img': await stockImage() });
    expect(await codeOf(() => openPackage(memorySource(zip, 'hill.zip'), nodePorts))).toBe('bad-field');
  });
  it('is not what only looks a little like one', () => {
    for (const text of ['', '<a>', 'partition=x', '<html><body>filename</body>'])
      expect(parse(text)).toBeNull();
    expect(parse('<list><a partition="x"/><b filename="y"/></list>')).toBeNull();
  });
});
