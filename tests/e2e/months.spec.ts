import { readFile } from 'node:fs/promises';
import { expect, test } from './stack';

/* What every month asks for: modules judged, days kept, the log found, carried out and brought back. */

const RIDGE = '0b5a3d52-6f0e-4c52-9b57-1f6d2f1a0002';

test('modules are judged for the next build, and a file of one is read on the shelf', async ({
  page,
  stack,
}) => {
  await page.goto(`${stack.url}/modules?handset=${RIDGE}`);
  await expect(page.getByRole('heading', { name: /Switch off 1 of Ridge camera’s 5 modules/ })).toBeVisible();
  await expect(
    page.getByRole('row', { name: /Long exposure.*framework hook.*a monthly step/ }),
  ).toContainText('○ off');
  await page.getByRole('combobox', { name: 'How careful' }).click();
  await page.getByText('switch all of them off', { exact: true }).click();
  await expect(page.getByRole('heading', { name: /Switch off 5 of Ridge camera’s 5 modules/ })).toBeVisible();
  await expect(
    page.getByText(/Afterwards switch on .* first\. Expect about .* restarts and .* loops/),
  ).toBeVisible();
  await page.getByLabel('Files of modules').setInputFiles(stack.package('burrow-7.3.kit.zip'));
  await expect(page.getByRole('region', { name: 'The shelf of modules' }).getByRole('alert')).toContainText(
    /no module/,
  );
  await page.getByLabel('Files of modules').setInputFiles(stack.package('lantern-2.1.zip'));
  await expect(
    page.getByRole('region', { name: 'The shelf of modules' }).getByRole('row', { name: /Lantern 2\.1/ }),
  ).toHaveCount(2);
  await page.goto(`${stack.url}/modules?handset=0b5a3d52-6f0e-4c52-9b57-1f6d2f1a0001`);
  await expect(page.getByText(/lay different files over/)).toContainText('/system/etc/lantern.conf');
  // the limit that was chosen goes along into the ways, and can be changed there
  await page.goto(`${stack.url}/modules?handset=${RIDGE}&limit=0.02`);
  await page.getByRole('link', { name: 'Compare the ways' }).click();
  const limit = page.getByRole('spinbutton', { name: /Chance over which a module goes off/ });
  await expect(limit).toHaveValue('2.0');
  await limit.fill('40');
  await limit.press('Enter');
  await expect(page).toHaveURL(/limit=0\.4/);
  await expect(page.getByRole('heading', { name: /ways? leads? there/ })).toBeVisible();
});

test('rounds are begun together for handsets of one model, and what is due is told in every room, once', async ({
  page,
  context,
  stack,
}) => {
  await context.grantPermissions(['notifications']);
  await page.goto(stack.url);
  const together = page.getByRole('region', { name: 'Rounds together' });
  await expect(together).toContainText('2 handsets of the model Ondine Petrel 1 wait for OPA1.261105.006.');
  await expect(together).toContainText('By your rule Ridge camera still has to wait.');
  await together.getByRole('button', { name: 'Start a round for each' }).click();
  await expect(together.getByRole('link', { name: '2 of 2 rounds are open' })).toBeVisible();
  await expect(page.getByRole('region', { name: 'Saddle camera' })).toContainText('Monthly update is open');
  await page.goto(`${stack.url}/calendar`);
  await expect(page.getByText('This computer tells you when a wait is over')).toBeVisible();
  const barn = page.getByRole('table', { name: 'Handsets' }).getByRole('row', { name: /Barn tablet/ });
  await barn.getByText('30 days', { exact: true }).click();
  await barn.getByRole('spinbutton', { name: 'Days to wait' }).fill('20');
  await barn.getByRole('button', { name: 'Keep this rule' }).click();
  const due = page.getByRole('link', { name: /Due: Barn tablet: MS8\.261001\.790 has waited long enough/ });
  await expect(due).toBeVisible();
  await page.goto(`${stack.url}/log`);
  await expect(due).toBeVisible();
  expect(await page.evaluate(() => localStorage.getItem('eterno-told'))).toMatch(
    /^\["wait-[0-9a-f-]+-MS8\.261001\.790"\]$/,
  );
});

test('the calendar tells what waits for what, and its file goes out and comes back without doubles', async ({
  page,
  stack,
}) => {
  await page.goto(`${stack.url}/calendar`);
  const ridge = page.getByRole('table', { name: 'Handsets' }).getByRole('row', { name: /Ridge camera/ });
  await expect(ridge).toContainText('until a kit is known to work on it');
  await ridge.getByText('7 days, until a kit is known to work').click();
  await ridge.getByRole('spinbutton', { name: 'Days to wait' }).fill('0');
  await ridge.getByRole('checkbox', { name: 'until a kit is known to work on it' }).uncheck();
  await ridge.getByRole('button', { name: 'Keep this rule' }).click();
  await expect(ridge).toContainText('at once');
  const own = page.getByRole('region', { name: 'Your own days' });
  await expect(own.getByRole('row')).toHaveCount(2);
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Download the calendar file' }).click();
  const path = await (await download).path();
  expect(await readFile(path, 'utf8')).toContain('BEGIN:VCALENDAR');
  await page.getByLabel('A calendar file').setInputFiles(path);
  await expect(
    page.getByRole('status').filter({ hasText: '0 new, 0 changed, 2 as they were' }),
  ).toBeVisible();
  await expect(own.getByRole('row')).toHaveCount(2);
});

test('the log is found by a word, noted at, carried out without anything private, and brought into an empty store', async ({
  page,
  stack,
  emptyStack,
}) => {
  await page.goto(`${stack.url}/log`);
  await page.getByRole('textbox', { name: 'Find in the log' }).fill('held kit');
  await expect(page.getByRole('heading', { name: /^1 round/ })).toBeVisible();
  await expect(page.getByText(/Held for the kit/)).toBeVisible();
  await page.getByRole('button', { name: 'Add a note to this round' }).click();
  await page.getByLabel('Note', { exact: true }).fill('asked the provider');
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByText('asked the provider')).toBeVisible();
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'All of it, as JSON' }).click();
  const path = await (await download).path();
  expect(await readFile(path, 'utf8')).not.toContain('RC2M9X05LD');
  await page.goto(`${emptyStack.url}/log`);
  await expect(page.getByRole('heading', { name: 'The log is empty' })).toBeVisible();
  await page.getByLabel('A log of Eterno').setInputFiles(path);
  await expect(page.getByRole('status').filter({ hasText: /rows are new/ })).toContainText(
    '0 say something else here',
  );
  await page.getByRole('button', { name: 'Bring the new rows in' }).click();
  await expect(page.getByRole('heading', { name: /^11 rounds/ })).toBeVisible();
});
