import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Stack } from './stack';
import { expect, test } from './stack';

interface Page {
  bytesPerSecond: number;
  builds: { build: string; fingerprint: string; published: string; file: string; sha256: string }[];
}
const change = (stack: Stack, how: (page: Page) => void): Page => {
  const path = join(stack.dir, 'download-page', 'page.json');
  const page = JSON.parse(readFileSync(path, 'utf8')) as Page;
  how(page);
  writeFileSync(path, JSON.stringify(page));
  return page;
};

test.use({ way: 20, withPage: true });

test('the exact line of the maker’s page is fetched, stopped, gone on with and opened; what comes out is noticed', async ({
  page,
  wayStack: stack,
}) => {
  const { builds } = change(stack, (one) => (one.bytesPerSecond = 150 * 1024));
  await page.goto(`${stack.url}/firmware`);
  const room = page.getByRole('region', { name: 'The maker’s download page' });
  await expect(room.getByText('One line is exactly the installed build: take that one.')).toBeVisible();
  const exact = room.getByRole('row').filter({ has: page.getByText('this one', { exact: true }) });
  await expect(exact).toHaveCount(1);
  const line = builds.find(({ sha256 }) => sha256 !== '')!;
  expect(await exact.textContent()).toContain(line.build.slice(0, 4));

  await exact.getByRole('button', { name: 'Fetch it' }).click();
  await expect(exact.getByText(/^[1-9][\d.]* (KiB|MiB) of /)).toBeVisible();
  await exact.getByRole('button', { name: 'Stop' }).click();
  await expect(exact.getByRole('button', { name: 'Go on' })).toBeVisible();
  const have = await exact.getByText(/ of [\d.]+ MiB$/).textContent();
  expect(have).toMatch(/^[1-9]/);
  change(stack, (one) => (one.bytesPerSecond = 50 * 1024 * 1024));
  await exact.getByRole('button', { name: 'Go on' }).click();
  await expect(exact.getByText('here, its hash is right')).toBeVisible({ timeout: 60_000 });
  await exact.getByRole('button', { name: 'Open it' }).click();
  await expect(page.getByRole('heading', { name: /^Exactly the build installed on / })).toBeVisible();

  // next month's comes out while somebody works
  const next = change(stack, (one) => {
    const [newest] = [...one.builds].sort((a, b) => b.published.localeCompare(a.published));
    one.builds.push({
      ...newest!,
      build: newest!.build.replace(/\.26\d\d/, '.2612'),
      fingerprint: newest!.fingerprint.replace(/\.26\d\d/, '.2612'),
      published: '2026-12-03',
    });
  }).builds.at(-1)!;
  await page.goto(stack.url);
  await expect(page.getByRole('main')).toContainText(next.build, { timeout: 60_000 });
  await page.goto(`${stack.url}/calendar`);
  await expect(page.getByRole('main')).toContainText(next.build);
});
