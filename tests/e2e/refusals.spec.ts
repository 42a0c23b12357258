import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import type { Stack } from './stack';
import { expect, test } from './stack';
import {
  holdUntil,
  LOOK_ALIKE,
  NOVEMBER,
  openPackage,
  prepare,
  startRound,
  takeAndPatch,
  toBootloader,
  protect,
  ROUND,
} from './steps';

const vaultWords = async (page: Page) => (await page.getByText(/^Vault \d+ files/).textContent()) ?? '';

test('files that can’t be used are refused in words, and nothing is kept', async ({ page, stack }) => {
  await page.goto(`${stack.url}/images`);
  const before = await vaultWords(page);

  await openPackage(page, stack, LOOK_ALIKE);
  await expect(page.getByRole('heading', { name: /it is its look-alike’s/ })).toBeVisible();
  await expect(page.locator('mark').first()).toHaveText('am');
  await expect(page.getByRole('button', { name: /Take out/ })).toHaveCount(0);

  const good = readFileSync(stack.package(NOVEMBER));
  writeFileSync(stack.package('cut.zip'), good.subarray(0, 3_000_000));
  await openPackage(page, stack, 'cut.zip');
  await expect(page.getByRole('alert').filter({ hasText: 'The file ends too early.' })).toContainText(
    'cut.zip',
  );

  const flipped = Buffer.from(good);
  const payload = flipped.indexOf('CrAU');
  flipped[payload + 20_000]! ^= 0x20;
  writeFileSync(stack.package('flipped.zip'), flipped);
  await openPackage(page, stack, 'flipped.zip');
  await page.getByRole('button', { name: 'Take out init_boot' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'operation' })).toContainText('damaged');

  await page.goto(`${stack.url}/firmware`);
  await expect(page.getByText('OPA2.261105.009', { exact: true })).toHaveCount(0);

  writeFileSync(stack.package('notes.zip'), 'only a text');
  await openPackage(page, stack, 'notes.zip');
  await expect(page.getByText('nothing known stands in this file')).toBeVisible();

  const dropped = await page.evaluateHandle(() => {
    const transfer = new DataTransfer();
    transfer.items.add(new File([new Uint8Array(0)], 'dropped.zip'));
    return transfer;
  });
  await page.locator('#room > div').dispatchEvent('drop', { dataTransfer: dropped });
  await expect(page.getByRole('alert').filter({ hasText: 'the file is empty' })).toContainText('dropped.zip');

  await page.goto(`${stack.url}/images`);
  expect(await vaultWords(page)).toBe(before);
});

test('an image that is patched already is never patched again, nor kept as another', async ({
  page,
  stack,
}) => {
  await page.goto(`${stack.url}/images`);
  await page
    .getByRole('region', { name: /OPA2\.261005\.014/ })
    .getByRole('link', { name: 'patched init_boot' })
    .click();
  await expect(page.getByText('A patched image is never patched again.')).toBeVisible();
  await expect(page.getByRole('button', { name: /^Patch/ })).toHaveCount(0);
});

async function patchedOctober(page: Page, stack: Stack): Promise<string> {
  await page.goto(`${stack.url}/images`);
  const href = await page
    .getByRole('region', { name: /OPA2\.261005\.014/ })
    .getByRole('link', { name: 'patched init_boot' })
    .getAttribute('href');
  return href!.split('/').at(-1)!;
}

test('last month’s patched image is refused; forced onto the stand-in it loops, and the vault brings it back', async ({
  page,
  stack,
}) => {
  const october = await patchedOctober(page, stack);
  const round = await startRound(page, stack);
  await takeAndPatch(page, stack);
  await expect(page.getByText(october.slice(0, 4))).toHaveCount(0);
  await prepare(page);
  await page.getByRole('button', { name: 'Write to slot a' }).click();
  await expect(page.getByRole('heading', { name: /Step 9 of 12/ })).toBeVisible();

  await page.getByText('Force an image onto it, past every check').click();
  await page.getByLabel('Image to force').click();
  await page.getByTitle('patched init_boot OPA2.261005.014').click();
  await page.getByRole('button', { name: 'Force it onto init_boot_a' }).click();
  await expect(page.getByText('Restart the stand-in to see')).toBeVisible();
  await page.getByRole('button', { name: 'Start the system' }).click();
  await expect(page.getByRole('img', { name: /starting again/ })).toBeVisible();
  // the line may see it as soon as the person says it: whoever is first, the step ends with the same
  const said = page.getByRole('button', { name: 'It starts over and over' });
  const known = page.getByText(/It starts over and over(, as you said|: it came on the cable)/).first();
  await expect(said.or(known).first()).toBeVisible();
  if (!(await known.isVisible())) await said.click();
  await expect(known).toBeVisible();

  await holdUntil(page, [']', 'p'], /Screen: bootloader/);
  await page.getByRole('button', { name: 'Write the stock image back' }).click();
  await expect(page.getByRole('heading', { name: /Step 8 of 12/ })).toBeVisible();
  await holdUntil(page, ['p'], 'Screen: dark');
  await holdUntil(page, ['p'], /Screen: system/);
  expect(page.url()).toBe(round);
  await page.goto(stack.url);
  await expect(
    page.getByRole('region', { name: 'North gate counter' }).getByRole('img', { name: 'stock' }),
  ).toBeVisible();
});

test.describe('in the handset’s own time', () => {
  test.use({ speed: '1' });
  test('a cable pulled in mid-write: the step stays open, the partition is unknown, and a second write mends it', async ({
    page,
    stack,
  }) => {
    await startRound(page, stack);
    await takeAndPatch(page, stack);
    await prepare(page);
    await page.getByRole('button', { name: 'Pull the cable' }).click();
    await page.getByRole('button', { name: 'Write to slot a' }).click();
    await expect(page.getByText('nothing was written')).toBeVisible();
    await page.getByRole('button', { name: 'Plug the cable in' }).click();
    await expect(page.getByRole('button', { name: 'Pull the cable' })).toBeVisible();
    await page.getByRole('button', { name: 'Write to slot a again' }).click();
    await expect(page.getByRole('img', { name: /writing init_boot_a/ })).toBeVisible();
    await page.getByRole('button', { name: 'Pull the cable' }).click();
    await expect(page.getByText(/the write was cut short, init_boot_a is unknown/)).toBeVisible();
    await page
      .getByRole('link', { name: /North gate counter/ })
      .first()
      .click();
    await page.getByRole('link', { name: 'Slots and images' }).click();
    await expect(page.getByText(/unknown until it is written or read again/)).toBeVisible();
    await page.getByRole('button', { name: 'Go on' }).click();
    await page.waitForURL(ROUND);
    await page.getByRole('button', { name: 'Plug the cable in' }).click();
    await page.getByRole('button', { name: 'Write to slot a again' }).click();
    await expect(page.getByRole('heading', { name: /Step 9 of 12/ })).toBeVisible();
  });
});

test('two tabs do not disagree, and an end of the server loses nothing', async ({ page, context, stack }) => {
  const round = await startRound(page, stack);
  await page.goto(round);
  const other = await context.newPage();
  await other.goto(round);
  await expect(other.getByRole('heading', { name: /Step 2 of 12/ })).toBeVisible();
  await takeAndPatch(page, stack);
  await expect(other.getByRole('heading', { name: /Step 5 of 12/ })).toBeVisible();
  await protect(page);
  await expect(page.getByRole('heading', { name: /Step 6 of 12/ })).toBeVisible();
  await toBootloaderFromSystem(page);
  await page.getByRole('button', { name: 'Read it in the bootloader' }).click();
  await expect(page.getByRole('heading', { name: /Step 7 of 12/ })).toBeVisible();
  await expect(other.getByRole('heading', { name: /Step 7 of 12/ })).toBeVisible();
  await stack.stopServer();
  await stack.startServer();
  await page.goto(round);
  await expect(page.getByRole('heading', { name: /Step 7 of 12/ })).toBeVisible();
  await stack.stopStandIn();
  await expect(page.getByText('The stand-in is not running.')).toBeVisible();
  await page.getByRole('button', { name: 'Start it again' }).click();
  await expect(page.getByRole('img', { name: /Screen: bootloader/ })).toBeVisible();
});

async function toBootloaderFromSystem(page: Page): Promise<void> {
  await holdUntil(page, ['p'], 'Screen: dark');
  await toBootloader(page);
}

test('requests from elsewhere are turned away', async ({ request, readOnly: stack }) => {
  expect((await request.get(stack.url, { headers: { host: 'evil.example' } })).status()).toBe(403);
  expect(
    (
      await request.post(`${stack.url}/api/stand-in/cable`, {
        data: { profile: 'north-gate', connected: false },
        headers: { origin: 'http://evil.example' },
      })
    ).status(),
  ).toBe(403);
  expect(
    (
      await request.put(`${stack.url}/api/images/${'a'.repeat(64)}?from=file`, {
        data: 'x',
        headers: { origin: stack.url },
      })
    ).status(),
  ).toBe(400);
  const page = await request.get(stack.url);
  expect(page.headers()['content-security-policy']).toMatch(
    /default-src 'self'; script-src 'self' 'nonce-[^']+' 'strict-dynamic'/,
  );
  const big = Buffer.alloc(210 * 1024 * 1024, 7);
  const { createHash } = await import('node:crypto');
  const answer = await request.put(
    `${stack.url}/api/images/${createHash('sha256').update(big).digest('hex')}?from=file`,
    {
      data: big,
      headers: { origin: stack.url },
    },
  );
  // all 210 MiB arrived and were hashed; it is no image, so it was not kept
  expect(((await answer.json()) as { error: { code: string } }).error.code).toBe('bad-magic');
  expect(readFileSync(join(stack.dir, 'demo.json'), 'utf8')).toContain('version');
});
