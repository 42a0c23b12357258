import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { expect, test } from './stack';
import { lookAround, protect, ROUND } from './steps';

/* Pieces of work from their beginning on, as the demo sets the world to them. */

const button = (page: Page, name: string | RegExp) =>
  page.getByRole('button', typeof name === 'string' ? { name, exact: true } : { name });
const heading = (page: Page, name: RegExp) => page.getByRole('heading', { name });

async function begin(page: Page, url: string): Promise<void> {
  await page.goto(`${url}/try`);
  await expect(page.getByRole('row')).toHaveCount(21);
  await button(page, 'Begin').click();
  await page.waitForURL(/\/rounds\/new/);
  await button(page, 'Start this round').click();
  await page.waitForURL(ROUND);
  await button(page, 'Read it over the link').click();
}

test.describe('root of a phone that stays locked', () => {
  test.use({ way: 9 });
  test('is let in from inside, and asked for before and after', async ({ page, wayStack: stack }) => {
    await begin(page, stack.url);
    await expect(heading(page, /Ask Hut phone for root: there has to be none/)).toBeVisible();
    await button(page, 'Ask for root').click();
    await expect(heading(page, /Get root in the running system/)).toBeVisible();
    // what somebody noted of this model, in their words
    await expect(page.getByText('On the handset: touch “Root in this system”.')).toBeVisible();
    await button(page, 'Watch for it').click();
    await button(page, 'Root in this system').click();
    await expect(heading(page, /Prove root/)).toBeVisible();
    await button(page, 'Prove root').click();
    await expect(page.getByRole('img', { name: /asks for root/ })).toBeVisible();
    await page.keyboard.press('[');
    await expect(heading(page, /Close the round/)).toBeVisible();
    await expect(page.getByText(/nobody has noted that it outlives a restart/)).toBeVisible();
    await expect(page.getByText(/What lets root in is on the handset/i).first()).toBeVisible();
    await button(page, /^Close the round/).click();
    await expect(heading(page, /Root without unlocking: reached and closed/)).toBeVisible();
  });
});

test.describe('an unlock code by mail', () => {
  test.use({ way: 8 });
  test('the token is read and joined, a mistyped code is replaced where it was refused', async ({
    page,
    wayStack: stack,
  }) => {
    test.slow();
    await begin(page, stack.url);
    await expect(heading(page, /Find the package/)).toBeVisible();
    const packages = join(stack.dir, 'packages');
    const own = readdirSync(packages).find((name) => name.includes('260701'))!;
    await page.goto(`${stack.url}/firmware`);
    await page.getByLabel('Choose a firmware package').setInputFiles(join(packages, own));
    await button(page, /^Take out/)
      .first()
      .click();
    await page.getByRole('link', { name: 'in the vault' }).first().click();
    await page.waitForURL(/\/images\//);
    await button(page, /^Patch init_boot/).click();
    await expect(page.getByText('the server proved it again')).toBeVisible();
    await button(page, 'Back to the round').click();
    await page.waitForURL(ROUND);
    await expect(heading(page, /Turn its unlock switch on/)).toBeVisible();
    await button(page, 'It is on, read it').click();
    await button(page, 'Allow unlocking').click();
    await expect(heading(page, /Back up what lies on Spare/)).toBeVisible();
    await page.getByRole('radio', { name: 'its files' }).check();
    await page.getByRole('checkbox', { name: /^A whole set/ }).check();
    await page.getByLabel('Where it lies').fill('on the club’s disk');
    await button(page, 'Write it down, go on').click();
    await expect(heading(page, /Take accounts and theft guard off/)).toBeVisible();
    await button(page, 'It went as described').click();
    await protect(page);
    await expect(heading(page, /into its bootloader/)).toBeVisible();
    await button(page, 'Restart it into the bootloader').click();
    await button(page, 'Read it in the bootloader').click();

    await expect(heading(page, /Send the token, wait for the code/)).toBeVisible();
    await button(page, 'Read it in the bootloader').click();
    const token = page.getByLabel('Token, joined');
    await expect(page.getByText(/48 characters, joined from 3 lines/)).toBeVisible();
    const joined = (await token.textContent())!;
    await button(page, 'Hide it').click();
    await expect(token).toBeHidden();
    await page.getByLabel('Token for the desk').fill(joined);
    await button(page, 'Ask it for a code').click();
    await expect(page.getByText(/Your code, from unlocking desk/)).toBeVisible();
    const code = (await page.getByText(/^The code of/).textContent())!.split(': ').at(-1)!.trim();
    const field = page.getByLabel('The code that came by mail');
    // what can be no code is refused by its form
    await field.fill(joined);
    await button(page, 'This is the code').click();
    await expect(page.getByText(/This is the token that you sent/)).toBeVisible();
    await field.fill('TARN-0000-NOBODY');
    await button(page, 'This is the code').click();
    await button(page, 'All of this holds, go on').click();
    await expect(heading(page, /Unlock the bootloader: this erases everything/)).toBeVisible();
    await button(page, 'Ask it to unlock').click();
    await expect(page.getByText('This step did not succeed.')).toBeVisible();
    await expect(page.locator('main')).not.toContainText('TARN-0000-NOBODY');
    await field.fill(code);
    await button(page, 'Take this code instead').click();
    await expect(page.getByText('This step did not succeed.')).toBeHidden();
    await button(page, 'Ask it to unlock').click();
    await expect(page.getByText('Unlock it, erase everything').last()).toBeVisible();
    await page.keyboard.press(']');
    await page.keyboard.press('p');
    await expect(heading(page, /Write the patched image to init_boot/)).toBeVisible();
    await button(page, /^Write to slot/).click();
    await expect(heading(page, /Start the system/)).toBeVisible();
    await button(page, 'Start the system').click();
    // it was erased: it trusts no computer until somebody says so on it
    await expect(heading(page, /debugging on/)).toBeVisible();
    await button(page, 'Turn debugging on').click();
    await button(page, 'It is on, read it').click();
    await expect(heading(page, /Prove root/)).toBeVisible();
    await withRoot(page, 'Prove root');
    await expect(heading(page, /Let the root app finish/)).toBeVisible();
    await button(page, 'Let the root app finish').click();
    await button(page, 'It is finished, read it').click();
    await lookAround(page);
    await expect(heading(page, /Close the round/)).toBeVisible();
    // its data was seen there, so nothing that was backed up has to go back
    await expect(page.getByText('What was backed up goes back onto it')).toHaveCount(0);
    await button(page, /^Close the round/).click();
    await expect(heading(page, /First root: reached and closed/)).toBeVisible();
  });
});

/** Root is asked for over the link; somebody allows it on the handset. */
async function withRoot(page: Page, name: string): Promise<void> {
  await button(page, name).click();
  await expect(page.getByRole('img', { name: /asks for root/ })).toBeVisible();
  await page.keyboard.press('[');
}

test.describe('a recovery by its package, from the running system', () => {
  test.use({ way: 19 });
  test('is installed once what it overwrites was read out, and seen again after a start', async ({
    page,
    wayStack: stack,
  }) => {
    test.slow();
    await begin(page, stack.url);
    await expect(heading(page, /Prove root/)).toBeVisible();
    await withRoot(page, 'Prove root');
    await expect(heading(page, /Read out what lifeboat-3.8-reed10-installer.zip overwrites/)).toBeVisible();
    await withRoot(page, 'Read it out and keep it');
    await protect(page);
    await button(page, 'All of this holds, go on').click();
    await expect(heading(page, /Install lifeboat-3.8-reed10-installer.zip on Weir tablet/)).toBeVisible();
    await withRoot(page, 'Push it and install it');
    await expect(heading(page, /Start the system/)).toBeVisible();
    await button(page, 'Start the system').click();
    await expect(heading(page, /Prove root/)).toBeVisible();
    await withRoot(page, 'Prove root');
    await expect(heading(page, /is still there/)).toBeVisible();
    await withRoot(page, 'Look once more');
    await expect(heading(page, /Close the round/)).toBeVisible();
    await expect(page.getByText('What the package wrote is still there after a start')).toBeVisible();
    await button(page, /^Close the round/).click();
    await expect(heading(page, /Package: reached and closed/)).toBeVisible();
  });
});

test.describe('back to stock', () => {
  test.use({ way: 15 });
  test('ends with root asked for and refused', async ({ page, wayStack: stack }) => {
    test.slow();
    await begin(page, stack.url);
    await protect(page);
    await button(page, 'Restart it into the bootloader').click();
    await button(page, 'Read it in the bootloader').click();
    await button(page, 'All of this holds, go on').click();
    await expect(heading(page, /Write the stock image to init_boot/)).toBeVisible();
    await button(page, /^Write to slot a/).click();
    await expect(heading(page, /Start the system/)).toBeVisible();
    await button(page, 'Start the system').click();
    await expect(heading(page, /there has to be none/)).toBeVisible();
    await button(page, 'Ask for root').click();
    await expect(heading(page, /Close the round/)).toBeVisible();
    await button(page, /^Close the round/).click();
    await expect(heading(page, /Return to stock: reached and closed/)).toBeVisible();
  });
});
