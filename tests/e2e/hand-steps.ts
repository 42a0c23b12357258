import { join } from 'node:path';
import type { Locator, Page } from '@playwright/test';
import { HANDSETS, fingerprintOf } from '@/demo/world';
import { NOVEMBER, protect, ROUND, sayNoUpdateWaits } from './steps';
import type { Stack } from './stack';
import { expect } from './stack';
import { WORLD_DIR } from './world-dir';

/* A handset of one's own, worked on by hand: what it prints, and its round up to its bootloader. */

const { installed, brand, sdk } = HANDSETS.find(({ profile }) => profile === 'north-gate')!;
export const SERIAL = 'MINE0001';
export const dump = [
  `[ro.build.fingerprint]: [${fingerprintOf(installed, brand)}]`,
  `[ro.build.id]: [${installed.buildId}]`,
  `[ro.build.version.release]: [${installed.release}]`,
  `[ro.build.version.sdk]: [${sdk}]`,
  `[ro.build.version.security_patch]: [${installed.patchLevel}]`,
  `[ro.product.device]: [${installed.device}]`,
  '[ro.product.first_api_level]: [35]',
  '[ro.boot.slot_suffix]: [_a]',
  '[ro.boot.flash.locked]: [0]',
  `[ro.serialno]: [${SERIAL}]`,
].join('\r\n');
export const variables = [
  `product:${installed.device}`,
  `serialno:${SERIAL}`,
  'current-slot:a',
  'slot-count:2',
  'unlocked:yes',
  'battery-soc-ok:yes',
  'partition-size:init_boot_a:0x800000',
]
  .map((line) => `(bootloader) ${line}`)
  .join('\n');

export const button = (page: Page, name: string | RegExp) => page.getByRole('button', { name });
export const described = (page: Page) => button(page, 'It went as described');
export const heading = (page: Page, name: RegExp) => page.getByRole('heading', { name });
export async function show(page: Page, text: string, verdict: RegExp): Promise<void> {
  await page.getByLabel('Show it: paste what was printed').fill(text);
  await expect(page.getByText(verdict)).toBeVisible();
}
export const MET = /This shows that it went as described/;
export const OTHERWISE = /This shows that it went otherwise/;

/** From an empty bench to the step that brings it into its bootloader, the image patched. */
export async function toTheBootloader(page: Page, stack: Stack): Promise<void> {
  await page.goto(stack.url);
  await button(page, 'Put a handset on the bench').click();
  await page.getByLabel('What you call it').fill('My own');
  await drop(page, page.getByText('Or drop the file here'), { name: 'dump.txt', text: dump });
  await expect(page.getByLabel('What it printed')).toHaveValue(dump.replaceAll('\r\n', '\n'));
  await button(page, 'Read it and put it on the bench').click();
  await page.waitForURL(/\/handsets\//);
  await page.goto(`${stack.url}/firmware`);
  await page
    .getByLabel('Choose a firmware package')
    .setInputFiles(join(WORLD_DIR, 'packages', 'burrow-7.3.kit.zip'));
  await expect(page.getByText(/Burrow 7\.3/).first()).toBeVisible();
  await page.getByRole('button', { name: /Keep/ }).first().click();
  await page.getByLabel('Choose a firmware package').setInputFiles(join(WORLD_DIR, 'packages', NOVEMBER));
  await page.getByRole('button', { name: 'Take out init_boot' }).click();
  await page.getByRole('link', { name: 'in the vault' }).click();
  await page.waitForURL(/\/images\//);
  // what the kit leaves to the person: the server proves it with that choice
  const quiet = page.getByRole('switch', { name: 'Write no start log' });
  await expect(quiet).toBeChecked();
  await quiet.click();
  await page.getByRole('button', { name: 'Patch init_boot' }).click();
  await expect(page.getByText('the server proved it again')).toBeVisible();
  await expect(page.getByText('8 of 8 checks hold')).toBeVisible();
  await page.getByRole('button', { name: 'Open the comparison' }).click();
  await expect(page.getByRole('region', { name: 'Comparison' })).toContainText(
    'moved init to .burrow/init.stock',
  );
  // what was opened in this tab opens again without being chosen again
  await page.getByRole('link', { name: 'Firmware', exact: true }).click();
  await button(page, /Open it again/).click();
  await expect(heading(page, /Exactly the build installed on My own/)).toBeVisible();
  await page.goto(`${stack.url}/firmware`);
  await expect(page.getByText(`To open it, drop ${NOVEMBER} here again.`)).toBeVisible();
  await page.goto(stack.url);
  await button(page, 'Start the round').click();
  await button(page, 'Start this round').click();
  await page.waitForURL(ROUND);
  // it was read a moment ago: it is not asked for again
  await button(page, 'It is still so').click();
  // what no dump says is looked up and said, before anything is changed
  await sayNoUpdateWaits(page);
  await protect(page);
  await expect(heading(page, /into its bootloader/)).toBeVisible();
}

/** A button that still works takes no press. */
export const ready = (page: Page) => expect(page.locator('.ant-btn-loading')).toHaveCount(0);

/** A file let go over a part of the page. */
async function drop(page: Page, onto: Locator, file: { name: string; text: string }): Promise<void> {
  const dataTransfer = await page.evaluateHandle(({ name, text }) => {
    const data = new DataTransfer();
    data.items.add(new File([text], name, { type: 'text/plain' }));
    return data;
  }, file);
  await onto.dispatchEvent('drop', { dataTransfer });
}
