import { readFile } from 'node:fs/promises';
import type { Page } from '@playwright/test';
import { expect, test } from './stack';
import { lookAround, protect, ROUND } from './steps';

const RIDGE = '0b5a3d52-6f0e-4c52-9b57-1f6d2f1a0002';
const button = (page: Page, name: string) => page.getByRole('button', { name, exact: true });

/** Root asks on the handset: Volume up allows it. */
async function allow(page: Page): Promise<void> {
  await expect(page.getByRole('img', { name: /asks for root/ })).toBeVisible();
  await page.keyboard.press('[');
}

test('the ways to an update stand side by side, each proved, and say why the others are none', async ({
  page,
  readOnly: stack,
}) => {
  await page.goto(`${stack.url}/handsets/${RIDGE}`);
  await page.getByRole('button', { name: 'Compare the ways' }).click();
  await page.waitForURL(/\/rounds\/new/);
  await expect(page.getByRole('heading', { name: /ways lead there/ })).toBeVisible();
  await expect(page.getByText('recommended', { exact: true })).toHaveCount(1);
  await button(page, 'Update in place and patch the other slot').click();
  const plan = page.getByRole('region', { name: 'Update in place and patch the other slot' });
  await expect(plan.getByRole('row', { name: /Take OPA1\.261105\.006 on the handset/ })).toContainText(
    'The update that waits starts with any restart.',
  );
  await expect(plan.getByRole('img', { name: /a stretch in which nothing may restart/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /Firmware set with the patched archive/ })).toContainText(
    'This handset has no download mode.',
  );
  await page.getByRole('checkbox', { name: 'a computer is at hand' }).uncheck();
  await expect(page.getByRole('row', { name: /Whole build from the computer/ })).toContainText(
    'It needs a computer.',
  );
});

test('a monthly update in place: held back from every restart but its own, left and come back to elsewhere', async ({
  page,
  browser,
  stack,
}) => {
  test.slow();
  await page.goto(`${stack.url}/rounds/new?handset=${RIDGE}`);
  await button(page, 'Start this round').click();
  await page.waitForURL(ROUND);
  const round = page.url();
  await button(page, 'Read it over the link').click();
  await expect(page.getByRole('heading', { name: /Prove root/ })).toBeVisible();
  await button(page, 'Prove root').click();
  await allow(page);
  await expect(page.getByRole('heading', { name: /Keep a way back/ })).toBeVisible();
  await protect(page);
  // one of its modules is likelier than the others to break the new build
  await expect(page.getByRole('heading', { name: /Switch off long-exposure/ })).toBeVisible();
  await button(page, 'Switch them off').click();
  await allow(page);
  await button(page, 'Restart it and look').click();
  await allow(page);
  await button(page, 'All of this holds, go on').click();
  await button(page, 'Write it from inside').click();
  await allow(page);
  await expect(page.getByRole('status').filter({ hasText: 'Do not restart now.' })).toContainText(
    'The stock image lies on disk',
  );
  await button(page, 'Watch for the update').click();
  await button(page, 'Take the update').click();
  await button(page, 'Later').click();
  await expect(page.getByRole('heading', { name: /Patch boot on slot a/ })).toBeVisible();
  await expect(page.getByText(/Restart offers refused: 1 of about 4/)).toBeVisible();

  // on another browser, at the very step, nothing lost
  const elsewhere = await browser.newContext();
  const other = await elsewhere.newPage();
  await other.goto(round);
  await expect(other.getByRole('heading', { name: /Patch boot on slot a/ })).toBeVisible();
  await other.keyboard.press('h');
  await other
    .getByLabel('Show it: paste what was printed')
    .fill("Writing 'boot_a' FAILED (remote: 'not allowed in locked state')");
  await expect(other.getByText('This shows that it went otherwise.')).toBeVisible();
  await button(other, 'Patch it and write it').click();
  await expect(other.getByRole('img', { name: /asks for root/ })).toBeVisible();
  await other.keyboard.press('[');
  // read, patched, proved, written and read back: the longest of its jobs
  await expect(page.getByRole('heading', { name: /Start the system from slot a/ })).toBeVisible({
    timeout: 180_000,
  });
  await elsewhere.close();

  await button(page, 'Start the system').click();
  await expect(page.getByRole('heading', { name: /Prove root/ })).toBeVisible();
  await button(page, 'Prove root').click();
  await allow(page);
  await expect(page.getByRole('heading', { name: /merged/ })).toBeVisible();
  await button(page, 'Watch it merge').click();
  await expect(page.getByRole('heading', { name: /Bring the modules back/ })).toBeVisible();
  await expect(page.getByRole('region', { name: 'Modules coming back' })).toContainText(
    'Next: Long exposure.',
  );
  await button(page, 'Bring them back, batch by batch').click();
  const lookAroundNow = page.getByRole('heading', { name: /Look around/ });
  const asked = page.getByRole('img', { name: /asks for root/ });
  await expect(async () => {
    if (await asked.isVisible()) await page.keyboard.press('[');
    await expect(lookAroundNow).toBeVisible({ timeout: 200 });
  }).toPass({ timeout: 240_000 });
  await lookAround(page);
  await button(page, 'Close the round').click();
  await expect(page.getByRole('heading', { name: 'Monthly update: reached and closed.' })).toBeVisible();
  await expect(button(page, 'Not like this')).toBeDisabled();
  await page.getByLabel('What was wrong with it').fill('the cable was too short');
  await button(page, 'Not like this').click();
  await expect(page.getByText('Not to be done the same way again: the cable was too short')).toBeVisible();
  await button(page, 'Answer anew').click();
  await button(page, 'The same way').click();
  await expect(page.getByText('To be done the same way again.')).toBeVisible();

  await page.getByRole('link', { name: 'Report' }).click();
  await expect(page.getByRole('heading', { name: /Report: Monthly update, Ridge camera/ })).toBeVisible();
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'As a Markdown file' }).click();
  const report = await readFile(await (await download).path(), 'utf8');
  expect(report).toContain('boot\\_a read back');
  expect(report).not.toContain('RC2M9X05LD');
  await page.goto(stack.url);
  await expect(page.getByRole('region', { name: 'Ridge camera' })).toContainText('OPA1.261105.006');

  // it really looped, and nobody has to learn it twice
  await page.goto(`${stack.url}/modules?handset=${RIDGE}&caution=none`);
  await expect(
    page.getByRole('row', { name: /Long exposure/ }).filter({ hasText: 'known to loop' }),
  ).toContainText('○ off');
  await page.getByRole('switch', { name: 'As a table' }).click();
  await expect(page.getByRole('row', { name: /Long exposure OPA1\.261105\.006 looped/ })).toBeVisible();
});

test('commands are shown in one’s own words, and an early restart is planned around', async ({
  page,
  stack,
}) => {
  await page.goto(`${stack.url}/store`);
  await page.getByLabel('Command for: write', { exact: true }).fill('mytool put {target} {file}');
  await page.getByLabel('Command for: restart').fill('mytool {nothing}');
  await expect(page.getByText(/is nothing that can be filled in/)).toBeVisible();
  await page.getByLabel('Command for: restart').fill('mytool go');
  await button(page, 'Keep these commands').click();
  await page.goto(`${stack.url}/rounds/new?handset=${RIDGE}`);
  await button(page, 'Start this round').click();
  await page.waitForURL(ROUND);
  await button(page, 'Read it over the link').click();
  await button(page, 'Prove root').click();
  await allow(page);
  await protect(page);
  await button(page, 'Switch them off').click();
  await allow(page);
  await button(page, 'Restart it and look').click();
  await allow(page);
  await button(page, 'All of this holds, go on').click();
  await button(page, 'Write it from inside').click();
  await allow(page);
  await button(page, 'Watch for the update').click();
  await button(page, 'Take the update').click();
  await expect(page.getByRole('heading', { name: /Patch boot on slot a/ })).toBeVisible();
  await button(page, 'Restart now').click();
  await expect(page.getByRole('img', { name: /Screen: system, build OPA1\.261105\.006/ })).toBeVisible();
  await button(page, 'It restarted').click();
  await button(page, 'Yes, plan anew').click();
  await expect(
    page.getByRole('heading', { name: /Find the package of OPA1\.261105\.006|Take out boot/ }),
  ).toBeVisible();
  await page.goto(stack.url);
  await expect(
    page.getByRole('region', { name: 'Ridge camera' }).getByRole('img', { name: 'root lost' }),
  ).toBeVisible();
});
