import type { Page } from '@playwright/test';
import type { Stack } from './stack';
import { expect } from './stack';

export const NOVEMBER = 'petrel2_eu-OPA2.261105.009-update.zip';
export const OCTOBER = 'petrel2_eu-OPA2.261005.014-update.zip';
export const LOOK_ALIKE = 'petrel2_am-OPA2.261105.009-update.zip';

/** The address of a round that has begun. */
export const ROUND = /\/rounds\/[0-9a-f-]{36}/;

/** The stand-in's keys, held on the keyboard until its screen shows what is waited for. */
export async function holdUntil(page: Page, keys: readonly string[], screen: RegExp | string): Promise<void> {
  for (const key of keys) await page.keyboard.down(key);
  await expect(page.getByRole('img', { name: screen })).toBeVisible();
  for (const key of [...keys].reverse()) await page.keyboard.up(key);
}
export const powerOff = (page: Page) => holdUntil(page, ['p'], 'Screen: dark');
export const toBootloader = (page: Page) => holdUntil(page, [']', 'p'], /Screen: bootloader/);

export async function openPackage(page: Page, stack: Stack, name: string): Promise<void> {
  await page.goto(`${stack.url}/firmware`);
  await page.getByLabel('Choose a firmware package').setInputFiles(stack.package(name));
}

/** From the bench to a round whose first step is done. */
export async function startRound(page: Page, stack: Stack): Promise<string> {
  await page.goto(stack.url);
  await page
    .getByRole('region', { name: 'North gate counter' })
    .getByRole('button', { name: 'Start the round' })
    .click();
  await page.waitForURL(/\/rounds\/new/);
  await page.getByRole('button', { name: 'Start this round' }).click();
  await page.waitForURL(ROUND);
  await page.getByRole('button', { name: 'Read it over the link' }).click();
  await expect(page.getByRole('heading', { name: /Step 2 of 12/ })).toBeVisible();
  return page.url();
}

/** Opens November's package, takes init_boot out and patches it; ends back in the round. */
export async function takeAndPatch(page: Page, stack: Stack): Promise<void> {
  await openPackage(page, stack, NOVEMBER);
  await expect(
    page.getByRole('heading', { name: 'Exactly the build installed on North gate counter.' }),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Take out init_boot' }).click();
  await page.getByRole('link', { name: 'in the vault' }).click();
  await page.waitForURL(/\/images\//);
  await page.getByRole('button', { name: 'Patch init_boot' }).click();
  await expect(page.getByText('8 of 8 checks hold')).toBeVisible();
  await expect(page.getByRole('region', { name: 'What changed' })).toContainText('added .burrow/su');
  await expect(page.getByText('the server proved it again')).toBeVisible();
  await page.getByRole('button', { name: 'Back to the round' }).click();
  await page.waitForURL(ROUND);
  await expect(page.getByRole('heading', { name: /Step 5 of 12/ })).toBeVisible();
}

/** Looks up what no dump says, and says it. */
export async function sayNoUpdateWaits(page: Page): Promise<void> {
  await expect(page.getByRole('heading', { name: /Find out what nobody has read/ })).toBeVisible();
  const found = page.getByRole('button', { name: 'That is what I found' });
  await expect(found).toBeDisabled();
  await page.getByLabel('Waiting update').click();
  await page.getByTitle('no update waits').click();
  await found.click();
}

/** The rescue page is fetched before the handset is touched. */
export async function protect(page: Page): Promise<void> {
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Download the rescue page' }).click();
  expect((await download).suggestedFilename()).toBe('rescue.zip');
  await page.getByRole('button', { name: 'It is kept, go on' }).click();
}

/** What only the person sees. */
export async function lookAround(page: Page): Promise<void> {
  for (const [name, answer] of [
    ['Data is there', 'works'],
    ['Calls and mobile data', 'works'],
    ['Payments and work apps', 'not used here'],
  ] as const)
    await page.getByRole('group', { name }).getByRole('radio', { name: answer, exact: true }).check();
  await page.getByRole('button', { name: 'I looked, write it down' }).click();
}

/** Way back kept, keys into the bootloader, checks read there; ends before the write. */
export async function prepare(page: Page): Promise<void> {
  await protect(page);
  await expect(page.getByRole('heading', { name: /Step 6 of 12/ })).toBeVisible();
  await powerOff(page);
  await toBootloader(page);
  await page.getByRole('button', { name: 'Read it in the bootloader' }).click();
  await expect(page.getByRole('heading', { name: /Step 7 of 12/ })).toBeVisible();
  await page.getByRole('button', { name: 'All of this holds, go on' }).click();
  await expect(page.getByRole('heading', { name: /Step 8 of 12/ })).toBeVisible();
}
