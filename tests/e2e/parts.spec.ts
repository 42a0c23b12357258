import { writeFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { memorySource } from '@/core/bytes/byte-source';
import { readTar } from '@/core/formats/tar/reader';
import { nodePorts } from '@/platform/node/node-ports';
import { entry, FINGERPRINT, seeded, stockEntries, stockImage, stockVendorBoot } from '../fixtures/images';
import { tarBytes } from '../fixtures/tars';
import type { Stack } from './stack';
import { expect, test } from './stack';
import { WORLD_DIR } from './world-dir';

/* What comes in parts: a firmware set, a maker's list of builds, and a recovery that shares its partition. */

const DUMP = [
  `[ro.build.fingerprint]: [${FINGERPRINT}]`,
  '[ro.product.device]: [hill]',
  '[ro.serialno]: [MINE0001]',
].join('\n');

const file = (stack: Stack, name: string, bytes: Uint8Array) => {
  const path = join(stack.dir, name);
  writeFileSync(path, bytes);
  return path;
};

test('a firmware set is told as its parts, and a list of builds line by line', async ({
  page,
  emptyStack: stack,
}) => {
  await page.goto(stack.url);
  await page.getByRole('button', { name: 'Put a handset on the bench' }).click();
  await page.getByLabel('What you call it').fill('North');
  await page.getByLabel('What it printed').fill(DUMP);
  await page.getByRole('button', { name: 'Read it and put it on the bench' }).click();
  await page.waitForURL(/\/handsets\//);

  const part = (name: string, ...members: readonly string[]) =>
    file(
      stack,
      name,
      tarBytes(
        members.map((one) => ({ name: one, bytes: seeded(one.length, 900) })),
        name,
      ),
    );
  await page.goto(`${stack.url}/firmware`);
  const choose = page.getByLabel('Choose a firmware package');
  const openAll = page.getByRole('button', { name: 'Open all parts' });
  const three = [
    part('AP_HT8_user.tar.md5', 'boot.img', 'super.img'),
    part('BL_HT8_user.tar.md5', 'bootloader.bin'),
    part('HOME_CSC_HT8_user.tar.md5', 'cache.img', 'hill.pit'),
  ];
  // parts of two builds are never opened as one set
  await choose.setInputFiles([...three, part('CP_HT7_user.tar.md5', 'modem.bin')]);
  await expect(openAll).toBeDisabled();
  await page.getByRole('button', { name: 'Clear it' }).click();
  await choose.setInputFiles([
    ...three,
    part('CP_HT8_user.tar.md5', 'modem.bin'),
    part('CSC_HT8_user.tar.md5', 'cache.img'),
  ]);
  await expect(page.getByText('One firmware set in 5 parts')).toBeVisible();
  await openAll.click();
  const parts = page.getByRole('region', { name: 'Parts of the set' });
  await expect(parts.getByRole('row')).toHaveCount(6);
  const row = (name: string) => parts.getByRole('row').filter({ has: page.getByText(name, { exact: true }) });
  await expect(row('AP_HT8_user.tar.md5')).toContainText('system archive');
  // called one that keeps, and a partition table lies in it
  await expect(row('HOME_CSC_HT8_user.tar.md5')).toContainText('region part that erases');
  await expect(parts.getByRole('listitem').filter({ hasText: 'Erases' })).toHaveCount(1);
  // neither of them is chosen for anybody; the other one is left out
  await parts.getByRole('button', { name: 'Take the one that keeps' }).click();
  await expect(parts.getByRole('row')).toHaveCount(5);
  await expect(row('HOME_CSC_HT8_user.tar.md5')).toHaveCount(0);
  await expect(parts.getByRole('listitem')).toContainText('Keeps');

  await page.goto(`${stack.url}/firmware`);
  await page.getByText('Which line of a maker’s list is my build?').click();
  const list = page.getByLabel('A maker’s list of builds');
  await list.fill('HC1.260905.007.A1\nHC1.260905.007\nHC1.261005.014\n');
  await page.getByRole('button', { name: 'Find its line' }).click();
  const found = page.getByRole('status').filter({ has: page.getByRole('table') });
  await expect(found.getByRole('row').nth(1)).toContainText('looks alike');
  await expect(found.getByRole('row').nth(2)).toContainText('this one');
  await expect(found.getByRole('row').nth(3)).toContainText('newer');
});

test('a recovery is put into the image that it shares, and shown as what came of it', async ({
  page,
  request,
  emptyStack: stack,
}) => {
  const put = async (bytes: Uint8Array, name: string): Promise<string> => {
    const sha256 = await nodePorts.digests.create('sha256').then((digest) => {
      digest.update(bytes);
      return Buffer.from(digest.finish()).toString('hex');
    });
    const kept = await request.put(`${stack.url}/api/images/${sha256}?from=file&name=${name}`, {
      data: Buffer.from(bytes),
      headers: { origin: stack.url, 'content-type': 'application/octet-stream' },
    });
    expect(kept.ok()).toBe(true);
    return sha256;
  };
  const note = entry('lifeboat.json', JSON.stringify({ recovery: 'Lifeboat 3.8', opensUpTo: 36 }));
  const vendor = await put(await stockVendorBoot(), 'vendor_boot.img');
  const recovery = await put(
    await stockImage({
      partition: 'recovery',
      version: 2,
      kernel: seeded(9, 4000),
      entries: [...stockEntries(), note],
      fingerprint: 'none',
    }),
    'lifeboat.img',
  );
  await page.goto(`${stack.url}/store`);
  await page.getByText('Put a recovery on the shelf').click();
  await page.getByLabel('Name', { exact: true }).fill('Lifeboat');
  await page.getByLabel('Version', { exact: true }).fill('3.8');
  await page.getByLabel('For code names').fill('hill ');
  await page.getByLabel('How you know it is for them').fill('its maker names Hill 2');
  await page.getByLabel('Its image, if it is in the vault').click();
  await page.getByTitle(new RegExp(`^recovery +${recovery.slice(0, 8)}`)).click();
  await page.getByRole('button', { name: 'Put it on the shelf' }).click();
  await expect(page.getByText('Lifeboat 3.8').first()).toBeVisible();

  await page.goto(`${stack.url}/images/${vendor}`);
  await page.getByRole('button', { name: 'Put it in' }).click();
  await expect(page.getByText('9 of 9 checks hold')).toBeVisible();
  await page.getByRole('button', { name: 'See the image' }).click();
  await expect(
    page.getByRole('heading', { name: /vendor_boot of .* with Lifeboat 3\.8 in it/ }),
  ).toBeVisible();
  await page.goto(`${stack.url}/images`);
  await expect(page.getByRole('link', { name: 'vendor_boot with a recovery in it' })).toBeVisible();
});

test('a firmware set’s own archive is written again with the patched image, read back and proved', async ({
  page,
  stack,
}) => {
  const name = 'slate8-MS8.261001.790.tar.md5';
  await page.goto(`${stack.url}/firmware`);
  const choose = page.getByLabel('Choose a firmware package');
  await choose.setInputFiles(join(WORLD_DIR, 'packages', name));
  const archive = page.getByRole('region', { name: 'The patched archive' });
  await archive.getByRole('button', { name: 'Make the patched archive' }).click();
  // nothing is put in that was not proved here
  await expect(archive.getByText(/No patched boot of this build is in the vault/)).toBeVisible();
  await page.getByRole('button', { name: 'Take out boot' }).click();
  await page.getByRole('link', { name: 'in the vault' }).first().click();
  await page.waitForURL(/\/images\//);
  await page.getByRole('button', { name: 'Patch boot' }).click();
  await expect(page.getByText('the server proved it again')).toBeVisible();
  await page.getByRole('link', { name: 'Firmware', exact: true }).click();
  await page
    .getByRole('button', { name: /Open it again/ })
    .first()
    .click();
  await archive.getByRole('button', { name: 'Make the patched archive' }).click();
  await expect(archive.getByRole('status')).toContainText('Read back and proved');
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    archive.getByRole('link', { name: /Download/ }).click(),
  ]);
  expect(download.suggestedFilename()).toBe(name);
  const [made, stock] = await Promise.all(
    [await download.path(), join(WORLD_DIR, 'packages', name)].map((path) => readFile(path)),
  );
  const members = async (bytes: Buffer) => {
    const { members: all, md5Line } = await readTar(memorySource(new Uint8Array(bytes), name));
    return { names: all.map((one) => one.name), line: md5Line?.text ?? '' };
  };
  const [now, before] = [await members(made!), await members(stock!)];
  expect(now.names).toEqual(before.names);
  expect(now.line).not.toBe(before.line);
});
