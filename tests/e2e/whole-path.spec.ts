import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { AxeBuilder } from '@axe-core/playwright';
import type { Page } from '@playwright/test';
import { PARTS } from '@/features/handset/parts';
import type { Stack } from './stack';
import { expect, test } from './stack';
import { WORLD_DIR } from './world-dir';
import {
  lookAround,
  openPackage,
  NOVEMBER,
  prepare,
  ROUND,
  sayNoUpdateWaits,
  startRound,
  takeAndPatch,
} from './steps';

const RIDGE = '0b5a3d52-6f0e-4c52-9b57-1f6d2f1a0002';

/**
 * SHA-256 of what the command makes of the same package and kit: the browser's worker must make the same
 * bytes.
 */
function patchInNode(stack: Stack): string {
  const eterno = (...args: string[]) =>
    JSON.parse(
      execFileSync(process.execPath, ['--import', 'tsx', 'src/cli/eterno.ts', ...args], { encoding: 'utf8' }),
    ) as { sha256: string };
  const stock = join(stack.dir, 'stock.img');
  eterno('take', stack.package(NOVEMBER), '--image', 'init_boot', '--out', stock);
  return eterno(
    'patch',
    stock,
    '--kit',
    stack.package('burrow-7.3.kit.zip'),
    '--out',
    join(stack.dir, 'patched.img'),
  ).sha256;
}

test('from a firmware file to a proved, rooted handset', async ({ page, stack }) => {
  const round = await startRound(page, stack);
  await takeAndPatch(page, stack);
  const inNode = patchInNode(stack);
  await page.goto(`${stack.url}/images/${inNode}`);
  await expect(
    page.getByRole('heading', { name: 'init_boot of OPA2.261105.009, patched by burrow 7.3' }),
  ).toBeVisible();
  await page.goto(round);
  await prepare(page);
  await page.getByRole('button', { name: 'Write to slot a' }).click();
  await expect(page.getByRole('heading', { name: /Step 9 of 12/ })).toBeVisible();
  await page.getByRole('button', { name: 'Start the system' }).click();
  await expect(page.getByRole('heading', { name: /Step 10 of 12/ })).toBeVisible();
  await page.getByRole('button', { name: 'Prove root' }).click();
  await expect(page.getByRole('img', { name: /asks for root/ })).toBeVisible();
  await page.keyboard.press('[');
  await expect(page.getByRole('heading', { name: /Step 11 of 12/ })).toBeVisible();
  await lookAround(page);
  await expect(page.getByRole('heading', { name: /Step 12 of 12/ })).toBeVisible();
  await expect(page.getByText('root granted with user id 0')).toBeVisible();
  await expect(page.getByText(/init_boot_a read back: [0-9a-f]{64}/)).toBeVisible();
  await page.getByRole('button', { name: 'Close the round' }).click();
  await expect(page.getByRole('heading', { name: 'Root again: reached and closed.' })).toBeVisible();
  expect(page.url()).toBe(round);

  await page.goto(stack.url);
  const north = page.getByRole('region', { name: 'North gate counter' });
  await expect(north.getByRole('img', { name: 'root proved' })).toBeVisible();
  await expect(north.getByText('Nothing to do')).toBeVisible();
  // from the package to the slot where it was written and read back
  await page.goto(`${stack.url}/images`);
  const family = page.getByRole('region', { name: 'OPA2.261105.009, petrel2_eu' });
  await expect(family.getByText('Runs on North gate counter.')).toBeVisible();
  await expect(family.getByText('way back of North gate counter').first()).toBeVisible();
  await expect(family.getByText(/^written .*, read back /).first()).toBeVisible();
  await page.goto(`${stack.url}/log`);
  await expect(page.getByRole('heading', { name: /^12 rounds/ })).toBeVisible();
  await page.getByText('Steps, times and what was seen').first().click();
  await expect(page.getByText('same serial in the system and in the bootloader').first()).toBeVisible();
});

test('the file is read in place: a few of its bytes, and hardly more of it reaches the server', async ({
  page,
  readOnly: stack,
}) => {
  const sent: number[] = [];
  page.on(
    'requestfinished',
    (request) =>
      void request.allHeaders().then((headers) => sent.push(Number(headers['content-length'] ?? 0))),
  );
  await openPackage(page, stack, NOVEMBER);
  await expect(page.getByRole('heading', { name: /Exactly the build/ })).toBeVisible();
  const read = await page.getByText(/of .* MiB read/).textContent();
  expect(read).toMatch(/KiB of/);
  await expect.poll(() => Math.max(...sent)).toBeGreaterThan(50_000);
  expect(Math.max(...sent)).toBeLessThan(1_000_000);
});

/** Looks at one page: what a screen reader meets, contrast, and nothing that scrolls sideways. */
async function check(page: Page, stack: Stack, path: string, rules: 'all' | 'colours'): Promise<void> {
  await page.goto(`${stack.url}${path}`);
  await expect(page.getByRole('heading').first()).toBeVisible();
  const axe = new AxeBuilder({ page });
  const { violations } = await (
    rules === 'all' ? axe.withTags(['wcag2a', 'wcag2aa']) : axe.withRules(['color-contrast'])
  ).analyze();
  expect(violations.map((violation) => `${path}: ${violation.id} ${violation.nodes[0]?.html ?? ''}`)).toEqual(
    [],
  );
  expect(await page.evaluate(() => document.documentElement.scrollWidth <= window.innerWidth)).toBe(true);
}
async function look(page: Page, stack: Stack, value: 'light' | 'dark'): Promise<void> {
  // a colour that is on its way to another is none
  await page.emulateMedia({ reducedMotion: 'reduce' });
  await page.context().addCookies([{ name: 'eterno-look', value, url: stack.url }]);
}

test('every room is fit for screen readers', async ({ page, readOnly: stack }) => {
  await page.goto(stack.url);
  // no movement where none is wanted
  await expect(page.locator('button').first()).toHaveCSS('animation-duration', '1e-05s');
  test.slow();
  await look(page, stack, 'light');
  for (const path of ['/', '/firmware', '/images', '/modules', '/calendar', '/log', '/store'])
    await check(page, stack, path, 'all');
});

test('every part of a handset’s room is fit for screen readers', async ({ page, readOnly: stack }) => {
  test.slow();
  await look(page, stack, 'light');
  for (const part of PARTS) await check(page, stack, `/handsets/${RIDGE}?part=${part}`, 'all');
  await check(page, stack, `/rounds/new?handset=${RIDGE}`, 'all');
});

test('every room has its contrast in the dark, and is walked from the keyboard', async ({
  page,
  readOnly: stack,
}) => {
  test.slow();
  await look(page, stack, 'dark');
  // only colours change with the look
  for (const path of [
    '/',
    '/store',
    '/modules',
    '/calendar',
    `/handsets/${RIDGE}?part=wipe`,
    `/rounds/new?handset=${RIDGE}`,
  ])
    await check(page, stack, path, 'colours');
  await page.goto(stack.url);
  await page.keyboard.press('j');
  await page.keyboard.press('k');
  await page.keyboard.press('w');
  await expect(page.getByRole('dialog')).toContainText('North gate counter');
  await page.keyboard.press('Escape');
  await page.keyboard.press('/');
  // faster than the answer
  await page.keyboard.type('ridge');
  await page.keyboard.press('Enter');
  await page.waitForURL(/\/handsets\//);
  await expect(page.getByRole('heading', { name: 'Ridge camera' })).toBeVisible();
});

test('a round is fit for screen readers, light and dark, and so is its rescue page', async ({
  page,
  stack,
}) => {
  await startRound(page, stack);
  const round = new URL(page.url()).pathname;
  await takeAndPatch(page, stack);
  await look(page, stack, 'light');
  await check(page, stack, round, 'all');
  await check(page, stack, `${round}/print/rescue`, 'all');
  await look(page, stack, 'dark');
  await check(page, stack, round, 'colours');
});

test('an empty bench: a handset is put on it by what it prints, and its round goes on by hand', async ({
  page,
  emptyStack,
}) => {
  await page.goto(emptyStack.url);
  await expect(page.getByRole('heading', { name: 'The bench is empty' })).toBeVisible();
  await page.getByRole('button', { name: 'Put a handset on the bench' }).click();
  await page.getByLabel('What you call it').fill('My own, with a name that is rather long for a tab');
  await page.getByLabel('What it printed').fill('nothing of use');
  await page.getByRole('button', { name: 'Read it and put it on the bench' }).click();
  await expect(
    page.getByRole('alert').filter({ hasText: 'Nothing in this text was understood' }),
  ).toBeVisible();
  const dump = [
    '[ro.build.fingerprint]: [club/hill_eu/hill:16/HC1.260905.007/9001:user/release-keys]',
    '[ro.product.device]: [hill]',
    '[ro.product.first_api_level]: [34]',
    '[ro.boot.slot_suffix]: [_b]',
    '[ro.boot.flash.locked]: [0]',
    '[ro.serialno]: [MINE0001]',
  ].join('\n');
  await page.getByLabel('What it printed').fill(dump);
  await page.getByRole('button', { name: 'Read it and put it on the bench' }).click();
  await page.waitForURL(/\/handsets\//);
  await expect(page.getByText('serial ends in 0001')).toBeVisible();
  await page.goto(emptyStack.url);
  await page.getByRole('button', { name: 'Start the round' }).click();
  await page.waitForURL(/\/rounds\/new/);
  // without a kit the image comes patched from elsewhere
  await expect(page.getByText('Patched by your provider’s own app: bring it here.')).toBeVisible();
  await expect(page.getByText('No kit in the vault supports this release.')).toBeVisible();
  await page.goto(`${emptyStack.url}/firmware`);
  await page
    .getByLabel('Choose a firmware package')
    .setInputFiles(join(WORLD_DIR, 'packages', 'burrow-7.3.kit.zip'));
  await expect(page.getByText(/Burrow 7\.3/).first()).toBeVisible();
  await page.getByRole('button', { name: /Keep/ }).first().click();
  await page.goto(emptyStack.url);
  await page.getByRole('button', { name: 'Start the round' }).click();
  await page.getByRole('button', { name: 'Start this round' }).click();
  await page.waitForURL(ROUND);
  await page.getByLabel('Show it: paste what was printed').fill(dump);
  await page.getByRole('button', { name: 'It went as described' }).click();
  await sayNoUpdateWaits(page);
  await expect(
    page.getByRole('heading', { name: /Step 3 of \d+: Find the package of HC1\.260905\.007/ }),
  ).toBeVisible();
});
