import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { addHandset } from '@/server/services/bench-service';
import { findInList, readList } from '@/server/services/listed-builds';
import { codeOf } from '../fixtures/expect-error';
import { DUMP, freshServer } from '../fixtures/server-world';

/* A maker's list of builds, in whichever form it comes. */

let server: Awaited<ReturnType<typeof freshServer>>;
beforeEach(async () => void (server = await freshServer()));
afterEach(() => server.end());

const ROWS = [
  { build: 'HC1.260905.007', product: 'hill_us', size: 9 },
  { build: 'HC1.260905.007', product: 'hill_eu', size: 1234 },
  { build: 'HC1.261005.014', product: 'hill_eu', size: 1300 },
];
const CSV = `build,product,size\n${ROWS.map((row) => Object.values(row).join(',')).join('\n')}\n`;
const PAGE = [
  'Images for Hill 2',
  'Do not use these, unless you know why',
  '16 (HC1.260905.007, Sep 2026)   Link',
  '16 (HC1.261005.014, Oct 2026)   Link',
  '',
].join('\n');

describe('a list', () => {
  it.each([
    ['JSON of rows', JSON.stringify(ROWS), 3],
    ['JSON that holds rows', JSON.stringify({ made: '2026', builds: ROWS }), 3],
    ['JSON of texts', JSON.stringify(['HC1.260905.007', 'other']), 2],
    ['a table', CSV, 3],
    ['a table by tabs', CSV.replaceAll(',', '\t'), 3],
    ['a table by semicolons', CSV.replaceAll(',', ';'), 3],
    ['the text of a page', PAGE, 4],
    ['nothing', '  \n', 0],
  ])('is read as %s', (_what, text, count) => expect(readList(text)).toHaveLength(count));
  it('has columns where it has headings', () => {
    for (const text of [JSON.stringify(ROWS), CSV])
      expect(readList(text)[1]).toMatchObject({ variant: 'hill_eu', sizeBytes: 1234 });
    expect(readList(PAGE)[2]).toMatchObject({ variant: null, label: '16 (HC1.260905.007, Sep 2026)   Link' });
  });
  it('is refused where JSON holds none, or where it is longer than any', async () => {
    expect(await codeOf(async () => readList('{"a": 1}'))).toBe('bad-field');
    expect(await codeOf(async () => readList('x\n'.repeat(5001)))).toBe('too-large');
    expect(readList('x\n'.repeat(5000))).toHaveLength(5000);
  });
});

it('is held against the build of a handset on the bench', async () => {
  const handset = await addHandset('North', DUMP);
  const table = await findInList(handset, CSV);
  expect(table.lines.map(({ verdict }) => verdict)).toEqual(['other variant', 'exact', 'newer']);
  expect(table.exact).toBe(1);
  const page = await findInList(handset, PAGE);
  expect(page.lines.map(({ verdict }) => verdict)).toEqual(['no build', 'no build', 'exact', 'newer']);
  const empty = await addHandset('Unread', '[ro.product.device]: [hill]');
  expect(await codeOf(() => findInList(empty, CSV))).toBe('bad-field');
  expect(await codeOf(() => findInList('0b5a3d52-6f0e-4c52-9b57-1f6d2f1a0009', CSV))).toBe('not-found');
});
