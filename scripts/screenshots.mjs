import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { CHROMIUM, ensureBuilt, ensureChromium, ensureInstalled } from './prepare.mjs';
import { environment, makeDemo, startServerSomewhere, startStandIn, stop, stopStandIn } from './stack.mjs';

/*
 * `npm run screenshots`: makes every picture in docs/screenshots anew, from the demo data, going through the
 * demo's own round.
 */

ensureInstalled();
ensureChromium();
ensureBuilt();
const dir = mkdtempSync(join(tmpdir(), 'eterno-pictures-'));
const env = environment(dir, { ETERNO_STAND_IN_SPEED: '6' });
makeDemo(env);
await startStandIn(env);
const { port, server } = await startServerSomewhere(env);
const url = `http://127.0.0.1:${port}`;
const browser = await chromium.launch({ executablePath: CHROMIUM, args: ['--no-sandbox', '--disable-gpu'] });
const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
const page = await context.newPage();
mkdirSync('docs/screenshots', { recursive: true });
const picture = async (name) => {
  await page.waitForTimeout(700);
  await page.screenshot({ path: `docs/screenshots/${name}.png` });
};
const packageFile = (name) => join(dir, 'packages', name);
const hold = async (keys, screen) => {
  for (const key of keys) await page.keyboard.down(key);
  await page.getByRole('img', { name: screen }).waitFor();
  for (const key of keys) await page.keyboard.up(key);
};

/** Ridge camera's update in place, up to where no restart is allowed. */
const allow = async () => {
  await page.getByRole('img', { name: /asks for root/ }).waitFor();
  await page.keyboard.press('[');
};
const press = (name) => page.getByRole('button', { name, exact: true }).click();
const interlock = async () => {
  await page.goto(`${url}/rounds/new?handset=0b5a3d52-6f0e-4c52-9b57-1f6d2f1a0002`);
  await press('Start this round');
  await press('Read it over the link');
  await press('Prove root');
  await allow();
  await page.getByRole('heading', { name: /Keep a way back/ }).waitFor();
  await page.getByLabel('Why you do without a rescue page').fill('pictures only');
  await press('It is kept, go on');
  await press('Switch them off');
  await allow();
  await press('Restart it and look');
  await allow();
  await press('All of this holds, go on');
  await press('Write it from inside');
  await allow();
  await press('Watch for the update');
  await press('Take the update');
  await page.getByRole('heading', { name: /Patch boot on slot a/ }).waitFor();
  await picture('round-interlock');
};

try {
  await page.goto(url);
  await picture('bench');
  await page
    .getByRole('link', { name: /North gate counter/ })
    .first()
    .click();
  await page.waitForURL(/handsets/);
  await picture('handset');
  await page.getByRole('link', { name: 'Slots and images' }).click();
  await page.getByRole('heading', { name: 'What each partition holds' }).waitFor();
  await picture('handset-slots');
  await page.getByRole('link', { name: 'Practice' }).click();
  await page.getByRole('heading', { name: 'Pieces of work' }).waitFor();
  await picture('practice');
  await page
    .getByRole('link', { name: /Ridge camera/ })
    .first()
    .click();
  await page.getByRole('heading', { name: 'Ridge camera' }).waitFor();
  await page.getByRole('button', { name: 'Compare the ways' }).click();
  await page.getByRole('heading', { name: /ways lead there/ }).waitFor();
  await picture('round-ways');
  await page.goto(`${url}/store`);
  await picture('store');
  await page.goto(`${url}/handsets/0b5a3d52-6f0e-4c52-9b57-1f6d2f1a0003?part=ways`);
  await page.getByText('From dark into download mode').waitFor();
  await picture('handset-ways');
  await page.goto(`${url}/modules`);
  await page.getByRole('heading', { name: /Switch off/ }).waitFor();
  await picture('modules');
  await page.goto(`${url}/rescue?handset=0b5a3d52-6f0e-4c52-9b57-1f6d2f1a0002`);
  await page.getByRole('button', { name: 'It starts over and over' }).click();
  await page.getByRole('button', { name: 'A module does not suit this build' }).click();
  await picture('rescue');
  await page.goto(`${url}/calendar`);
  await page.getByRole('heading', { name: 'November 2026' }).waitFor();
  await picture('calendar');
  await page.goto(url);
  await page
    .getByRole('link', { name: /North gate counter/ })
    .first()
    .click();
  await page.waitForURL(/handsets/);
  await page.getByRole('button', { name: 'Start the round' }).click();
  await page.getByRole('button', { name: 'Start this round' }).click();
  await page.waitForURL(/rounds\/[0-9a-f-]{36}/);
  const round = page.url();
  await page.getByRole('button', { name: 'Read it over the link' }).click();
  await page.getByRole('heading', { name: /Step 2/ }).waitFor();
  await page.goto(`${url}/firmware`);
  const table = [
    'petrel2_eu-OPA2.261105.009-update.zip',
    'petrel2_eu-OPA2.261005.014-update.zip',
    'petrel2_am-OPA2.261105.009-update.zip',
    'petrel2_eu-OPA2.261105.009-from-261005.014.zip',
    'burrow-7.3.kit.zip',
    'lantern-2.1.zip',
    'lifeboat-installer-3.8.zip',
    'petrel2_eu-sha256.txt',
  ];
  await page.getByLabel('Choose a firmware package').setInputFiles(table.map(packageFile));
  await page.getByRole('heading', { name: /8 files/ }).waitFor();
  await picture('firmware-table');
  await page.goto(`${url}/firmware`);
  await page
    .getByLabel('Choose a firmware package')
    .setInputFiles(packageFile('petrel2_eu-OPA2.261105.009-update.zip'));
  await page.getByRole('button', { name: 'Take out init_boot' }).click();
  await page.getByRole('link', { name: 'in the vault' }).waitFor();
  await picture('firmware');
  await page.getByRole('link', { name: 'in the vault' }).click();
  await page.getByRole('button', { name: 'Patch init_boot' }).click();
  await page.getByText('the server proved it again').waitFor();
  await picture('image');
  await page.getByLabel('Compare with an image of the vault').press('ArrowDown');
  await page.getByLabel('Compare with an image of the vault').press('Enter');
  await page.getByRole('region', { name: 'Comparison' }).getByRole('button', { name: /fstab/ }).click();
  await page.getByRole('region', { name: /side by side/ }).scrollIntoViewIfNeeded();
  await picture('image-compare');
  await page.goto(round);
  await page.getByRole('heading', { name: /Step 5/ }).waitFor();
  const rescue = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Download the rescue page' }).click();
  await rescue;
  await page.getByRole('button', { name: 'It is kept, go on' }).click();
  await page.getByRole('heading', { name: /Step 6/ }).waitFor();
  await hold(['p'], 'Screen: dark');
  await hold([']', 'p'], /Screen: bootloader/);
  await page.getByRole('button', { name: 'Read it in the bootloader' }).click();
  await page.getByRole('heading', { name: /Step 7/ }).waitFor();
  await page.getByRole('button', { name: 'All of this holds, go on' }).click();
  await page.getByRole('heading', { name: /Step 8/ }).waitFor();
  await picture('round');
  await page.getByRole('button', { name: 'Write to slot a' }).click();
  await page.getByRole('heading', { name: /Step 9/ }).waitFor();
  await page.getByRole('button', { name: 'Start the system' }).click();
  await page.getByRole('heading', { name: /Step 10/ }).waitFor();
  await page.getByRole('button', { name: 'Prove root' }).click();
  await page.getByRole('img', { name: /asks for root/ }).waitFor();
  await page.keyboard.press('[');
  await page.getByRole('heading', { name: /Step 11/ }).waitFor();
  for (const name of ['Data is there', 'Calls and mobile data', 'Payments and work apps'])
    await page.getByRole('group', { name }).getByRole('radio').first().check();
  await page.getByRole('button', { name: 'I looked, write it down' }).click();
  await page.getByRole('button', { name: 'Close the round' }).click();
  await page.getByRole('heading', { name: /closed/ }).waitFor();
  await interlock();
  await page.goto(`${url}/images`);
  await picture('images');
  await page.goto(`${url}/log`);
  await page.getByText('Steps, times and what was seen').nth(1).click();
  await picture('log');
  await context.addCookies([{ name: 'eterno-look', value: 'dark', url }]);
  await page.goto(url);
  await picture('bench-dark');
} finally {
  await browser.close();
  await stop(server);
  await stopStandIn(env);
  rmSync(dir, { recursive: true, force: true });
}
