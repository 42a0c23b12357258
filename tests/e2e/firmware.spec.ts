import { execFileSync } from 'node:child_process';
import { copyFileSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import type { Stack } from './stack';
import { expect, test } from './stack';
import { LOOK_ALIKE, NOVEMBER, OCTOBER, openPackage } from './steps';

const INCREMENTAL = 'petrel2_eu-OPA2.261105.009-from-261005.014.zip';
const KIT = 'burrow-7.3.kit.zip';

const eterno = (...args: string[]) =>
  JSON.parse(
    execFileSync(process.execPath, ['--import', 'tsx', 'src/cli/eterno.ts', ...args], { encoding: 'utf8' }),
  ) as { sha256: string };

/** November's stock init_boot by the command, out of the full package. */
function stockByCommand(stack: Stack): { path: string; sha256: string } {
  const path = join(stack.dir, 'stock.img');
  return {
    path,
    sha256: eterno('take', stack.package(NOVEMBER), '--image', 'init_boot', '--out', path).sha256,
  };
}

const put = (page: Page, stack: Stack, names: readonly string[]) =>
  page.getByLabel('Choose a firmware package').setInputFiles(names.map((name) => stack.package(name)));

test('a table full of files: each is called by its content, and last month’s image makes this month’s', async ({
  page,
  stack,
}) => {
  copyFileSync(stack.package(OCTOBER), stack.package('renamed.bin'));
  await page.goto(`${stack.url}/firmware`);
  await put(page, stack, [
    NOVEMBER,
    OCTOBER,
    LOOK_ALIKE,
    INCREMENTAL,
    KIT,
    'lantern-2.1.zip',
    'lifeboat-installer-3.8.zip',
    'petrel2_eu-sha256.txt',
    'renamed.bin',
  ]);
  await expect(page.getByRole('heading', { name: '9 files, each by what is in it.' })).toBeVisible({
    timeout: 180_000,
  });
  const row = (name: string) => page.getByRole('row').filter({ has: page.getByText(name, { exact: true }) });
  await expect(row(NOVEMBER)).toContainText('full package');
  await expect(row(OCTOBER)).toContainText('stale');
  await expect(row('renamed.bin')).toContainText('doubled');
  await expect(row(LOOK_ALIKE)).toContainText('not yours');
  await expect(row(INCREMENTAL)).toContainText('incremental package');
  await expect(row('lantern-2.1.zip')).toContainText('module');
  await expect(row('lifeboat-installer-3.8.zip')).toContainText('installs through a recovery');
  await expect(row('petrel2_eu-sha256.txt')).toContainText('checksums');

  await row(INCREMENTAL).getByRole('button', { name: 'Open' }).click();
  await expect(page.getByRole('heading', { name: /init_boot and boot are in the vault/ })).toBeVisible();
  await page.getByRole('button', { name: 'Hash the file' }).click();
  await expect(page.getByText('It is the file that was published.')).toBeVisible();
  await expect(page.getByText('First hashed here on')).toBeVisible();
  await page.getByRole('button', { name: 'Make init_boot' }).click();
  await expect(page.getByText('made and verified')).toBeVisible();
  await page.getByRole('button', { name: 'See init_boot' }).click();
  await page.waitForURL(new RegExp(stockByCommand(stack).sha256));
  await expect(page.getByRole('heading', { name: 'Stock init_boot of OPA2.261105.009' })).toBeVisible();
  await expect(page.getByRole('region', { name: /ramdisk entries/ })).toBeVisible();
});

test('several images at once, with the wrong old image and a stop on the way', async ({ page, stack }) => {
  await openPackage(page, stack, NOVEMBER);
  await page.getByRole('checkbox', { name: 'init_boot' }).check();
  await page.getByRole('checkbox', { name: 'boot', exact: true }).check();
  await page.getByRole('button', { name: 'Take out 2 images' }).click();
  await expect(page.getByRole('link', { name: 'in the vault' })).toHaveCount(2);

  await page.getByLabel('Paste the value it should have').fill('0'.repeat(64));
  await page.getByRole('button', { name: 'Hash the file' }).click();
  await expect(page.getByText('It is not the file that was published.')).toBeVisible({ timeout: 180_000 });
  // the two that few makers publish are made on wish
  await page.getByLabel('Paste the value it should have').fill('0'.repeat(32));
  await expect(page.getByText('That is MD5')).toBeVisible();
  await page.getByRole('button', { name: 'SHA-1 and MD5 too' }).click();
  await expect(page.getByText('MD5 differs from what you pasted')).toBeVisible({ timeout: 180_000 });

  await openPackage(page, stack, 'lifeboat-installer-3.8.zip');
  await expect(page.getByRole('heading', { name: 'It writes recovery.' })).toBeVisible();
  await expect(page.getByRole('cell', { name: 'lifeboat.img' })).toBeVisible();
});

test('an image taken apart: the map, the tree, the viewer, and a patch made elsewhere', async ({
  page,
  stack,
}) => {
  const stock = stockByCommand(stack);
  const patched = join(stack.dir, 'elsewhere.img');
  eterno('patch', stock.path, '--kit', stack.package(KIT), '--out', patched);
  await openPackage(page, stack, NOVEMBER);
  await page.getByRole('button', { name: 'Take out init_boot' }).click();
  await page.getByRole('link', { name: 'in the vault' }).click();
  await page.waitForURL(/\/images\//);
  const map = page.getByRole('group', { name: /Byte map/ });
  await map.focus();
  await page.keyboard.press('+');
  await expect(page.getByText(/^Bytes .* to /)).toBeVisible();
  await page.keyboard.press('0');
  await expect(page.getByText('The whole file to scale')).toBeVisible();
  await map.getByRole('button', { name: /^verified-boot data/ }).click();
  await expect(page.getByText(/verified-boot data: .* from byte/)).toBeVisible();

  await page.getByLabel('Search entries').fill('fstab');
  await page.getByRole('region', { name: '1 ramdisk entries' }).getByRole('button').click();
  await expect(page.getByRole('region', { name: /fstab/ })).toContainText('verify');
  await page.getByText('Bytes', { exact: true }).click();
  await expect(page.getByRole('region', { name: 'Bytes' })).toContainText('00000000');

  await page.getByLabel('Choose a file to compare with').setInputFiles(patched);
  await expect(
    page.getByText('It belongs to this stock image: only what a patch changes is changed.'),
  ).toBeVisible();
  await page.getByRole('region', { name: 'Comparison' }).getByRole('button', { name: /fstab/ }).click();
  await expect(page.getByRole('region', { name: /side by side/ })).toContainText('verify');
  await page.getByRole('button', { name: 'Keep it in the vault' }).click();
  await expect(page.getByRole('button', { name: 'It is in the vault' })).toBeVisible();

  writeFileSync(join(stack.dir, 'broken.img'), readFileSync(patched).subarray(0, 100_000));
  await page.getByLabel('Choose a file to compare with').setInputFiles(join(stack.dir, 'broken.img'));
  await expect(page.getByRole('alert').filter({ hasText: 'The file ends too early' })).toBeVisible();
  await page.getByLabel('Choose a file to compare with').setInputFiles(stack.package('burrow-7.3.kit.zip'));
  await expect(page.getByRole('alert').filter({ hasText: /recognises nothing in this/ })).toBeVisible();
});
