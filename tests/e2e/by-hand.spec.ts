import type { Page } from '@playwright/test';
import {
  button,
  described,
  dump,
  heading,
  MET,
  OTHERWISE,
  ready,
  SERIAL,
  show,
  toTheBootloader,
  variables,
} from './hand-steps';
import { lookAround } from './steps';
import type { Stack } from './stack';
import { expect, test } from './stack';

/* An own handset, worked on by hand from an empty store: one round goes well, one loops and is brought back. */

/** A picture of one dot. */
const DOT =
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==';

/** From an empty bench to the write, the image patched and everything checked. */
async function toTheWrite(page: Page, stack: Stack): Promise<void> {
  await toTheBootloader(page, stack);
  // nobody has seen the keys of this model: they are a guess, and no text names them until somebody says so
  await expect(page.getByText('Nobody has seen this on this model')).toBeVisible();
  await expect(page.getByText(/start it with the keys of its bootloader/)).toBeVisible();
  await button(page, 'It was other keys').click();
  await page.getByRole('checkbox', { name: 'Volume up' }).check();
  await page.getByRole('checkbox', { name: 'Volume down' }).uncheck();
  await button(page, 'Keep it for this model').click();
  await expect(page.getByText(/hold Volume up and Power for 3 seconds/)).toBeVisible();
  await expect(page.getByText('Nobody has seen this on this model')).toBeHidden();
  await show(page, variables.replace(SERIAL, 'OTHER99'), OTHERWISE);
  await expect(described(page)).toBeDisabled();
  await show(page, variables, MET);
  await described(page).click();
  await button(page, 'All of this holds, go on').click();
  await expect(heading(page, /Write the patched image to init_boot on slot a/)).toBeVisible();
}

const wrote = (name: string) =>
  `Sending '${name}' (8192 KB) OKAY [ 0.3s]\nWriting '${name}' OKAY [ 0.4s]\nFinished. Total time: 0.8s`;

test('a first root by hand from an empty store: everything shown, proved, and reached', async ({
  page,
  emptyStack,
}) => {
  await toTheWrite(page, emptyStack);
  // the file that is named is the file that is downloaded
  const link = page.getByRole('link', { name: /Download init_boot/ });
  const download = page.waitForEvent('download');
  await link.click();
  const name = (await download).suggestedFilename();
  await expect(page.getByText(`sha256sum ${name}`)).toBeVisible();
  await show(page, wrote('init_boot_b'), OTHERWISE);
  await expect(described(page)).toBeDisabled();
  await show(page, wrote('init_boot_a'), MET);
  // the server goes, and comes back: nothing typed is lost, and the page goes on by itself
  await emptyStack.stopServer();
  await described(page).click();
  const gone = page.getByRole('alert').filter({ hasText: 'What you typed stays here' });
  await expect(gone).toBeVisible();
  await emptyStack.startServer();
  await expect(gone).toBeHidden();
  await expect(page.getByLabel('Show it: paste what was printed')).toHaveValue(wrote('init_boot_a'));
  await described(page).click();
  await expect(heading(page, /Start the system from slot a/)).toBeVisible();
  await show(page, dump.replace('[_a]', '[_b]'), OTHERWISE);
  await show(page, dump, MET);
  await described(page).click();
  await expect(heading(page, /Prove root/)).toBeVisible();
  await show(page, 'su: permission denied', OTHERWISE);
  const hash = await page.evaluate(async () => {
    const images = (await (await fetch('/images')).text()).match(/[0-9a-f]{64}/g) ?? [];
    return [...new Set(images)];
  });
  // the patched image is one of the two in the vault: only its hash meets the step
  const met: string[] = [];
  for (const one of hash) {
    await page
      .getByLabel('Show it: paste what was printed')
      .fill(`uid=2000(shell)\nuid=0(root) gid=0(root)\n${one}  -`);
    await expect(page.getByText(/This shows that it went/)).toBeVisible();
    if (await page.getByText(MET).isVisible()) met.push(one);
  }
  expect(met).toHaveLength(1);
  await show(page, `uid=2000(shell)\nuid=0(root) gid=0(root)\n${met[0]}  -`, MET);
  await described(page).click();
  await expect(heading(page, /Let the root app finish/)).toBeVisible();
  await described(page).click();
  await lookAround(page);
  await page.getByText('Restart it once more and prove that root stays').click();
  await page.getByLabel('What it printed after the restart').fill('su: permission denied');
  await button(page, 'Take it as proof').click();
  await expect(page.getByRole('alert').filter({ hasText: /root/i })).toBeVisible();
  await ready(page);
  await page
    .getByLabel('What it printed after the restart')
    .fill(`uid=2000(shell)\nuid=0(root)\n${met[0]}  -`);
  await button(page, 'Take it as proof').click();
  await expect(page.getByText(/after one more restart: shown/).first()).toBeVisible();
  await button(page, 'Close the round').click();
  await expect(heading(page, /First root: reached and closed/)).toBeVisible();
  await page.goto(emptyStack.url);
  await expect(
    page
      .getByRole('region', { name: 'My own' })
      .getByRole('img', { name: /proved/i })
      .first(),
  ).toBeVisible();
});

test('it loops after the write: brought back to stock by hand, and said to be not reached', async ({
  page,
  emptyStack,
}) => {
  await toTheWrite(page, emptyStack);
  await show(page, wrote('init_boot_a'), MET);
  await described(page).click();
  await expect(heading(page, /Start the system from slot a/)).toBeVisible();
  await button(page, 'It went otherwise').click();
  await page.getByRole('radio', { name: 'It starts over and over.' }).check();
  await page.locator('input[type="file"]').setInputFiles({
    name: 'screen.png',
    mimeType: 'image/png',
    buffer: Buffer.from(DOT, 'base64'),
  });
  await expect(page.getByText('screen.png is kept with this step.')).toBeVisible();
  await ready(page);
  await button(page, 'Write this down').click();
  await expect(page.getByText('This step did not succeed.')).toBeVisible();
  await button(page, 'Put the stock image back').click();
  await expect(heading(page, /into its bootloader/)).toBeVisible();
  await expect(page.getByLabel('Keys to hold')).toBeVisible();
  await show(page, variables, MET);
  await described(page).click();
  await button(page, 'All of this holds, go on').click();
  await expect(heading(page, /Write the stock image to init_boot on slot a/)).toBeVisible();
  await expect(page.getByRole('link', { name: /Download init_boot/ })).toBeVisible();
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await button(page, /^Copy: Do it/).click();
  const copied = await page.evaluate(() => navigator.clipboard.readText());
  await expect(page.getByText(copied, { exact: true })).toBeVisible();
  await page.getByText('I changed something else for this step').click();
  await button(page, 'The screen lock is off').click();
  await expect(button(page, 'The screen lock is off')).toBeHidden();
  await show(page, wrote('init_boot_a'), MET);
  await described(page).click();
  await expect(heading(page, /Start the system from slot a/)).toBeVisible();
  await show(page, dump, MET);
  await described(page).click();
  // no root is shown by asking for it, and not by a stock image that was written
  await expect(heading(page, /Ask My own for root: there has to be none/)).toBeVisible();
  await show(page, 'uid=0(root) gid=0(root)', OTHERWISE);
  await expect(described(page)).toBeDisabled();
  await show(page, '/system/bin/sh: su: not found', MET);
  await described(page).click();
  await expect(page.getByText(/Not reached: .*root works/)).toBeVisible();
  await expect(page.getByText(/Still changed: .*the screen lock is off/)).toBeVisible();
  await button(page, /Close it as not reached/).click();
  await expect(heading(page, /First root: closed, not reached/)).toBeVisible();
});
