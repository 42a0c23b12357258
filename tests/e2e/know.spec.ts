import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { tarBytes } from '../fixtures/tars';
import { expect, test } from './stack';
import { LOOK_ALIKE, NOVEMBER } from './steps';
import { WORLD_DIR } from './world-dir';

/*
 * Knowing the handset: facts from a dump, what fits it, what lies on it, and all of it carried away and
 * brought back.
 */

/**
 * A second counter of the club, as its terminal printed it: wrapped, with carriage returns and a tool’s own
 * lines.
 */
const SOUTH = [
  '* the tool starts *',
  '[ro.build.fingerprint]: [ondine/petrel2_eu/petrel2:17/OPA2.261105.009/26',
  '110095:user/release-keys]',
  '[ro.build.id]: [OPA2.261105.009]',
  '[ro.build.version.sdk]: [37]',
  '[ro.build.version.security_patch]: [2026-11-05]',
  '[ro.product.device]: [petrel2]',
  '[ro.product.model]: [Ondine Petrel 2]',
  '[ro.product.first_api_level]: [35]',
  '[ro.boot.slot_suffix]: [_b]',
  '[ro.boot.flash.locked]: [1]',
  '[sys.oem_unlock_allowed]: [0]',
  '[ro.serialno]: [SOUTH00042]',
].join('\r\n');

test('a handset is added from a dump in under a minute, and the downloaded package turns out to be its look-alike’s', async ({
  page,
  emptyStack,
}) => {
  const began = Date.now();
  await page.goto(emptyStack.url);
  await page.getByRole('button', { name: 'Put a handset on the bench' }).click();
  await page.getByLabel('What you call it').fill('South gate counter');
  await page.getByLabel('What it printed').fill(SOUTH);
  await page.getByRole('button', { name: 'Read it and put it on the bench' }).click();
  await page.waitForURL(/\/handsets\//);
  expect(Date.now() - began).toBeLessThan(60_000);
  const handset = page.url();
  const passport = page.getByRole('table').filter({ hasText: 'Fingerprint' });
  await expect(passport).toContainText(
    'ondine/petrel2_eu/petrel2:17/OPA2.261105.009/26110095:user/release-keys',
  );
  await expect(passport).toContainText('system, pasted');
  await expect(page.getByText('The serial ends in 0042')).toBeVisible();
  await expect(page.getByText('1 lines of what it printed could not be read')).toBeVisible();

  await page.goto(`${emptyStack.url}/firmware`);
  await page.getByLabel('Choose a firmware package').setInputFiles(join(WORLD_DIR, 'packages', LOOK_ALIKE));
  await expect(
    page.getByRole('heading', { name: 'Not South gate counter’s package: it is its look-alike’s.' }),
  ).toBeVisible();
  const facts = page.getByRole('row', { name: /^Variant/ });
  await expect(facts.getByText('differs')).toBeVisible();
  await expect(facts.locator('mark').first()).toHaveText('am');
  await expect(page.getByRole('row', { name: /^Code name/ })).toContainText('same');
  await expect(page.getByRole('button', { name: /Take out/ })).toHaveCount(0);

  await page.goto(`${emptyStack.url}/firmware`);
  await page.getByLabel('Choose a firmware package').setInputFiles(join(WORLD_DIR, 'packages', NOVEMBER));
  await expect(
    page.getByRole('heading', { name: 'Exactly the build installed on South gate counter.' }),
  ).toBeVisible();

  // before anything is wiped: the unknown that matters most stands first, and what the package said is known
  // now
  await page.goto(`${handset}?part=wipe`);
  await expect(page.getByText('Find out first:')).toBeVisible();
  await expect(page.getByRole('row', { name: /Can it be unlocked/ })).toContainText('not known');
  await expect(page.getByRole('row', { name: /Is the exact full package at hand/ })).toContainText('yes');
  await page.goto(`${handset}?part=passport`);
  await page.getByLabel('Which fact').click();
  await page.getByTitle('Unlock switch').click();
  await page.getByLabel('What it is').click();
  await page.getByTitle('absent').click();
  await page.getByRole('button', { name: 'Keep it', exact: true }).click();
  await expect(page.getByRole('row', { name: /Unlock switch/ })).toContainText('absent');
  await page.goto(`${handset}?part=wipe`);
  await expect(page.getByRole('heading', { name: 'It can’t be done as things stand.' })).toBeVisible();
});

test('a backup of the whole store is restored into an empty one', async ({
  page,
  stack,
  emptyStack,
}, testInfo) => {
  await page.goto(`${stack.url}/store`);
  await page.getByRole('button', { name: 'Check every file' }).click();
  await expect(page.getByText(/Every one of 17 files had its hash/)).toBeVisible();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Make a backup' }).click(),
  ]);
  const file = testInfo.outputPath('backup.zip');
  await download.saveAs(file);

  await page.goto(`${emptyStack.url}/store`);
  await expect(page.getByRole('heading', { name: 'Nothing is kept yet.' })).toBeVisible();
  const cut = testInfo.outputPath('cut.zip');
  const bytes = readFileSync(file);
  writeFileSync(cut, bytes.subarray(0, bytes.length - 5000));
  await page.getByLabel('Choose a backup').setInputFiles(cut);
  await expect(page.getByRole('alert').filter({ hasText: 'Nothing was kept' })).toBeVisible();

  await page.getByLabel('Choose a backup').setInputFiles(file);
  await expect(page.getByText('A backup of 10 Nov 2026')).toBeVisible();
  await expect(page.getByText('5 handsets')).toBeVisible();
  await expect(page.getByRole('heading', { name: 'Nothing is kept yet.' })).toBeVisible();
  await page.getByRole('button', { name: /^Restore 17 files and/ }).click();
  await expect(page.getByText('Restored. Every file was hashed on its way in.')).toBeVisible();
  await expect(page.getByRole('heading', { name: /17 files are kept/ })).toBeVisible();
  await page.getByRole('button', { name: 'Check every file' }).click();
  await expect(page.getByText(/Every one of 17 files had its hash just now/)).toBeVisible();

  await page.goto(emptyStack.url);
  await page.getByRole('link', { name: /North gate counter/ }).click();
  await page.getByRole('link', { name: 'Slots and images' }).click();
  await expect(page.getByRole('row', { name: /^init_boot/ }).first()).toContainText(
    'patched by burrow 7.3, OPA2.261005.014',
  );

  // a second time nothing is doubled
  await page.goto(`${emptyStack.url}/store`);
  await page.getByLabel('Choose a backup').setInputFiles(file);
  await expect(page.getByText('Everything in it is here already')).toBeVisible();
});

test('what was read out of a handset turns its map from predicted to read, and spares a download', async ({
  page,
  stack,
}, testInfo) => {
  const read = (name: string) =>
    new Uint8Array(readFileSync(join(stack.dir, 'stand-in', 'north-gate', name)));
  const tar = testInfo.outputPath('north-gate.tar');
  writeFileSync(
    tar,
    tarBytes(
      ['init_boot_a.img', 'init_boot_b.img', 'boot_a.img'].map((name) => ({
        name: `by-name/${name}`,
        bytes: read(name),
      })),
    ),
  );
  await page.goto(stack.url);
  await page.getByRole('link', { name: /North gate counter/ }).click();
  await expect(page.getByText('not open: stock init_boot missing')).toBeVisible();
  await page.getByRole('link', { name: 'Slots and images' }).click();
  await page.locator('input[type=file]').setInputFiles(tar);
  await expect(page.getByRole('row', { name: /init_boot_a\.img/ })).toContainText(
    'New here; it says it is of OPA2.261105.009.',
  );
  await expect(page.getByRole('row', { name: /init_boot_b\.img/ })).toContainText(
    'Patched by burrow 7.3, for OPA2.261005.014; it is in the vault.',
  );
  await page.getByRole('button', { name: 'Keep 3 as read' }).click();
  await expect(page.getByText('open: stock already, as read from it')).toBeVisible();
  const map = page.getByRole('row', { name: /^init_boot .*stock, OPA2\.261105\.009/ });
  await expect(map).toContainText('read, 10 Nov 2026: read back as a file');
  // the stock image of the installed build is in the vault now, without its package
  await expect(page.getByRole('row', { name: /stock init_boot of OPA2\.261105\.009/ })).toContainText(
    'exact',
  );
});
