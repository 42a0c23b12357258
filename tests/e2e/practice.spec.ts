import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from './stack';

const RIDGE = '0b5a3d52-6f0e-4c52-9b57-1f6d2f1a0002';

test('a world of practice has a store of its own, is marked on every page, and says how it went', async ({
  page,
  emptyStack: stack,
}) => {
  await page.goto(`${stack.url}/practice`);
  await page.getByLabel('whose waits pass').click();
  await page.getByText('twenty times as quick').click();
  await page
    .getByRole('button', { name: 'Begin number 9: the root prompt goes away before anybody answers it' })
    .click();
  await expect(page.getByText('Its world is being made')).toBeVisible();
  const there = page.getByRole('link', { name: 'Go there' });
  await expect(there).toBeVisible();
  const url = (await there.getAttribute('href'))!;
  expect(new URL(url).origin).not.toBe(new URL(stack.url).origin);
  const practice = await page.context().newPage();
  const mark = practice.getByRole('complementary', { name: 'Practice' });
  for (const path of ['/', '/rescue', '/store']) {
    await practice.goto(url + path);
    await expect(mark).toContainText('Nothing here touches your own handsets.');
  }
  await practice.goto(`${url}/try`);
  await practice.getByRole('button', { name: 'Begin' }).click();
  await practice.getByRole('button', { name: 'Start this round' }).click();
  await practice.waitForURL(/\/rounds\/[0-9a-f-]{36}/);
  // how it is done is said to who asks
  await expect(practice.getByText('You will see')).toHaveCount(0);
  await practice.getByRole('button', { name: 'Show me how' }).click();
  await expect(practice.getByText('You will see')).toBeVisible();
  await practice.getByRole('button', { name: 'Read it over the link' }).click();
  await expect(practice.getByRole('heading', { name: /Step 2 of 5/ })).toBeVisible();
  await mark.getByRole('link', { name: 'How it went' }).click();
  const went = practice.getByRole('region', { name: /How Root without unlocking went/ });
  await expect(went).toContainText('1 right, 0 luck, 0 wrong.');
  await expect(went).toContainText('A hint was asked for at one step.');
  await went.getByRole('link', { name: 'Go this way with a handset of your own' }).click();
  await expect(practice.getByText('Put a handset on the bench first')).toBeVisible();
  await practice.goBack();
  await expect(mark.getByRole('link', { name: 'Back to your own Eterno' })).toHaveAttribute(
    'href',
    stack.url,
  );

  // nothing of it is here, and its end takes it all along
  await page.goto(stack.url);
  await expect(page.getByRole('button', { name: 'Put a handset on the bench' })).toBeVisible();
  await page.goto(`${stack.url}/practice`);
  await page.getByRole('button', { name: 'End it' }).click();
  await expect(there).toHaveCount(0);
  await expect
    .poll(() =>
      fetch(url).then(
        () => 'answers',
        () => 'gone',
      ),
    )
    .toBe('gone');
  await expect.poll(() => existsSync(join(stack.dir, 'practice'))).toBe(false);
});

test('a copy of a handset of one’s own is practised with, and what becomes of it stays there', async ({
  page,
  stack,
}) => {
  await page.goto(`${stack.url}/rounds/new?handset=${RIDGE}`);
  await page.getByRole('link', { name: 'Practise it first, with a copy' }).click();
  const own = page.getByRole('region', { name: 'As it stands now' });
  await expect(own).toBeVisible();
  await page.getByLabel('whose waits pass').click();
  await page.getByText('twenty times as quick').click();
  await page.getByRole('button', { name: 'Begin the month' }).click();
  const there = page.getByRole('link', { name: 'Go there' });
  await expect(there).toBeVisible();
  const url = (await there.getAttribute('href'))!;
  const practice = await page.context().newPage();
  await practice.goto(url);
  const mark = practice.getByRole('complementary', { name: 'Practice' });
  await expect(mark).toContainText('A copy of your handset: a month with surprises.');
  await practice.goto(`${url}/practice`);
  const shelf = practice.getByRole('navigation', { name: 'Handsets' });
  // nothing of the other handsets is there
  await expect(shelf.getByText('Ridge camera')).toBeVisible();
  await expect(shelf.getByText('Barn tablet')).toHaveCount(0);
  await expect(practice.getByText('3 of 3 did not come, or may come yet.')).toBeVisible();
  await practice.goto(`${url}/handsets/${RIDGE}`);
  await practice.getByRole('button', { name: 'Read it over the link' }).click();
  await expect(practice.getByText('Stand-in Ondine Petrel 1 · running, slot b')).toBeVisible();
  await practice.goto(`${url}/rounds/new?handset=${RIDGE}`);
  await expect(practice.getByRole('link', { name: 'Practise it first, with a copy' })).toHaveCount(0);
  await practice.getByRole('link', { name: 'How it went' }).click();
  await practice.getByRole('link', { name: 'To its beginning' }).click();
  await practice.waitForURL(/goal=monthly/);
  await page.getByRole('button', { name: 'End it' }).click();
  await expect(there).toHaveCount(0);
  // the handset itself was never asked anything
  await page.goto(`${stack.url}/log`);
  await expect(page.getByText('Ridge camera').first()).toBeVisible();
});
