import { build } from 'esbuild';
import type { Page } from '@playwright/test';
import { HANDSETS, fingerprintOf } from '@/demo/world';
import { profileOf } from '@/demo/demo-stand-in';
import type { OnThePage } from '../fixtures/usb/in-page';
import { inBootloader, SPLITS, WRONG, WRONG_LATE } from '../fixtures/usb/wrong-cables';
import { button, described, dump, heading, MET, SERIAL, show, toTheBootloader } from './hand-steps';
import type { Stack } from './stack';
import { expect, test } from './stack';

/* A handset of one's own whose bootloader the page itself speaks to, over the browser's USB interface. */

const NORTH = HANDSETS.find(({ profile }) => profile === 'north-gate')!;
const fingerprint = fingerprintOf(NORTH.installed, NORTH.brand);
const profile = { ...profileOf(NORTH), serial: SERIAL };
const partitions = { init_boot_a: profile.partitionBytes['init_boot']!, init_boot_b: 8 };

const bundle = build({
  entryPoints: ['tests/fixtures/usb/in-page.ts'],
  bundle: true,
  format: 'iife',
  platform: 'browser',
  write: false,
}).then(({ outputFiles }) => outputFiles[0]!.text);

/** A simulated handset in its bootloader, on the cable of every page that is opened from here on. */
async function putOnCable(page: Page, pieceMs = 0): Promise<void> {
  const there: OnThePage = { profile, state: inBootloader(fingerprint), partitions, pieceMs };
  await page.addInitScript({ content: `window.putOnCable = ${JSON.stringify(there)};\n${await bundle}` });
}
const cable = (page: Page) => page.getByRole('region', { name: 'Over this computer’s cable' });

async function switchOn(page: Page, stack: Stack): Promise<void> {
  const round = page.url();
  await expect(cable(page)).toHaveCount(0);
  await page.goto(`${stack.url}/store`);
  const own = page.getByRole('switch', { name: 'Let pages use the cable of this computer' });
  await own.click();
  await expect(own).toBeChecked();
  await page.goto(round);
}

/** The person agrees for this handset, once, and the page holds its cable. */
async function connect(page: Page): Promise<void> {
  await expect(cable(page)).toContainText('Only for a handset of your own');
  await button(page, 'My own is mine: let Eterno use its cable').click();
  await button(page, 'Connect its cable').click();
  await expect(cable(page)).toContainText('On the cable: Bootloader');
}

test('the bootloader’s steps go over the cable of the page, from the request to the proved write', async ({
  page,
  emptyStack: stack,
}) => {
  await putOnCable(page);
  await toTheBootloader(page, stack);
  await switchOn(page, stack);
  await connect(page);
  // another page can't hold it as well
  const other = await page.context().newPage();
  await putOnCable(other);
  await other.goto(page.url());
  await button(other, 'Connect its cable').click();
  await expect(other.getByText('Another page of Eterno holds the cable of this handset.')).toBeVisible();
  await other.close();

  await button(page, 'I see the bootloader, read it over the cable').click();
  await button(page, 'All of this holds, go on').click();
  await expect(heading(page, /Write the patched image to init_boot on slot a/)).toBeVisible();
  await button(page, /^Write to slot a over the cable/).click();
  await expect(heading(page, /Start the system from slot a/)).toBeVisible();
  expect(await page.evaluate(() => window.handsetOnCable!.writes())).toEqual(['init_boot_a']);
  const size = profile.partitionBytes['init_boot']!;
  const lies = await page.evaluate((bytes) => window.handsetOnCable!.hash('init_boot_a', bytes), size);
  await button(page, 'Restart it over the cable').click();
  await expect.poll(() => page.evaluate(() => window.handsetOnCable!.mode())).not.toBe('bootloader');
  await expect(cable(page)).toContainText('It left the cable');
  await show(page, dump, MET);
  await described(page).click();
  await expect(heading(page, /Prove root/)).toBeVisible();
  // what lies there, read out by root, is what the page sent
  await show(page, `uid=2000(shell)\nuid=0(root) gid=0(root)\n${lies}  -`, MET);
  await page.goto(`${stack.url}/log`);
  await expect(page.getByText(/by a page of the browser/).first()).toBeAttached();
});

test('a page that is reloaded in the middle of a write leaves it in doubt, and it is written again', async ({
  page,
  emptyStack: stack,
}) => {
  // long enough to be seen on any machine
  await putOnCable(page, 20);
  await toTheBootloader(page, stack);
  await switchOn(page, stack);
  await connect(page);
  await button(page, 'I see the bootloader, read it over the cable').click();
  await button(page, 'All of this holds, go on').click();
  await button(page, /^Write to slot a over the cable/).click();
  await expect(page.getByText('The handset is writing, do not touch the cable')).toBeVisible();
  // the browser asks first, and the person goes all the same
  page.on('dialog', (dialog) => void dialog.accept());
  await page.reload();
  await expect(page.getByText('This step did not succeed.')).toBeVisible();
  await expect(page.getByText(/init_boot_a/).first()).toBeVisible();
  await button(page, 'Connect its cable').click();
  await button(page, /^Write to slot a again over the cable/).click();
  await expect(heading(page, /Start the system from slot a/)).toBeVisible();
});

test('a browser without USB for pages says so, and the step goes on by hand', async ({
  page,
  emptyStack: stack,
}) => {
  await page.addInitScript(() => Object.defineProperty(navigator, 'usb', { value: undefined }));
  await toTheBootloader(page, stack);
  await switchOn(page, stack);
  await expect(cable(page)).toContainText('This browser gives pages no way to a USB cable.');
  await expect(described(page)).toBeVisible();
});

test('what a cable does wrong, in a page of the browser: the line is lost, and what that leaves is known', async ({
  page,
  emptyStack: stack,
}) => {
  await putOnCable(page);
  await page.goto(stack.url);
  const over = (faults: object) => page.evaluate((what) => window.writeOverCable!(what), faults);
  for (const [what, faults] of WRONG)
    expect(await over(faults), what).toMatchObject({ end: 'link-lost', writes: 0, flashed: false });
  for (const [what, faults] of WRONG_LATE)
    expect(await over(faults), what).toMatchObject({ end: 'link-lost', flashed: true, phase: 'write' });
  for (const faults of SPLITS)
    expect(await over(faults), JSON.stringify(faults)).toMatchObject({ end: 'written', isThere: true });
});
