import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { environment, freePort, migrate, startServer } from '../../scripts/stack.mjs';
import type { Page } from '@playwright/test';
import { expect, test } from './stack';

/* What a page from elsewhere can do, in a real browser: nothing but lead here. */

/** Every path that once answered without a look at who asked. */
const PATHS = [
  '/',
  '/store',
  '/api/x',
  '/api',
  '/icon.svgx',
  '/icon.svg',
  '/_next/static',
  '/_next/static/x.js',
  '/_next/x',
  '/api/store/backup?private=yes',
  '/api/events',
];

async function foreignPage(html: string): Promise<{ url: string; end: () => void }> {
  const server = createServer((_request, response) =>
    response.writeHead(200, { 'content-type': 'text/html' }).end(html),
  );
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  return { url: `http://127.0.0.1:${(server.address() as AddressInfo).port}/`, end: () => server.close() };
}

test('a foreign page frames nothing, downloads nothing, listens to nothing and posts nothing', async ({
  browser,
  request,
  readOnly: stack,
}) => {
  const frames = PATHS.map((path) => `<iframe src="${stack.url}${path}"></iframe>`).join('');
  const { url, end } = await foreignPage(
    `<!doctype html>${frames}<form method="post" action="${stack.url}/api/look"><input name="look" value="dark"></form>`,
  );
  const before = await (await request.get(`${stack.url}/log`)).text();
  const context = await browser.newContext();
  const page = await context.newPage();
  const downloads: string[] = [];
  page.on('download', (download) => downloads.push(download.url()));
  const answers: number[] = [];
  page.on('response', (response) => {
    if (response.url().startsWith(stack.url)) answers.push(response.status());
  });
  await page.goto(url);
  await page.waitForLoadState('networkidle').catch(() => undefined);
  for (const frame of page.frames().slice(1))
    expect(
      await frame
        .locator('nav, main, [role=navigation]')
        .count()
        .catch(() => 0),
    ).toBe(0);
  expect(answers.length).toBeGreaterThanOrEqual(PATHS.length);
  expect(answers.every((status) => status === 403)).toBe(true);
  const heard = await page.evaluate(
    (from) =>
      new Promise<string>((done) => {
        const events = new EventSource(from);
        events.onopen = () => done('open');
        events.onerror = () => done('refused');
      }),
    `${stack.url}/api/events`,
  );
  expect(heard).toBe('refused');
  const [answer] = await Promise.all([
    page.waitForResponse(`${stack.url}/api/look`),
    page.evaluate(() => document.forms[0]!.submit()),
  ]);
  expect(answer.status()).toBe(403);
  expect(downloads).toEqual([]);
  expect(before).not.toContain('evil');
  await context.close();
  end();
});

test('a link from elsewhere opens a page, and another name for this machine opens none', async ({
  browser,
  request,
  readOnly: stack,
}) => {
  const { url, end } = await foreignPage(`<!doctype html><a href="${stack.url}/">there</a>`);
  const context = await browser.newContext();
  const page = await context.newPage();
  await page.goto(url);
  await page.getByText('there').click();
  await expect(page.getByRole('heading').first()).toBeVisible();
  for (const path of PATHS) {
    const answer = await request.get(`${stack.url}${path}`, {
      headers: { host: `evil.test:${new URL(stack.url).port}` },
    });
    expect(answer.status(), path).toBe(403);
    expect(answer.headers(), path).toMatchObject({
      'x-frame-options': 'DENY',
      'x-content-type-options': 'nosniff',
    });
    expect(answer.headers()['content-security-policy'], path).toContain("frame-ancestors 'none'");
  }
  await context.close();
  end();
});

test('every answer keeps out of frames, and no other protocol is spoken', async ({
  request,
  readOnly: stack,
}) => {
  for (const path of PATHS.filter((one) => !one.includes('events') && !one.includes('backup'))) {
    const headers = (await request.get(`${stack.url}${path}`)).headers();
    expect(headers, path).toMatchObject({ 'x-frame-options': 'DENY', 'x-content-type-options': 'nosniff' });
    expect(headers['content-security-policy'], path).toContain("frame-ancestors 'none'");
  }
  const { port } = new URL(stack.url);
  for (const path of ['/', '/api/events', '/_next/x']) {
    const said = await new Promise<string>((done) => {
      const socket = connect(Number(port), '127.0.0.1');
      let text = '';
      socket.on('data', (bytes) => (text += bytes.toString()));
      socket.on('close', () => done(text));
      socket.on('error', () => done(text));
      socket.write(
        `GET ${path} HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\nConnection: Upgrade\r\nUpgrade: websocket\r\nSec-WebSocket-Version: 13\r\nSec-WebSocket-Key: dGhlIHNhbXBsZSBub25jZQ==\r\n\r\n`,
      );
    });
    expect(said, path).not.toContain('101');
  }
});

test('a second server on the same store says so and ends', async ({ readOnly: stack }) => {
  const child = spawn(process.execPath, ['scripts/serve.mjs', String(await freePort())], {
    env: { ...environment(stack.dir), NODE_ENV: 'production' },
    stdio: ['ignore', 'ignore', 'pipe'],
  });
  let said = '';
  child.stderr.on('data', (bytes: Buffer) => (said += bytes.toString()));
  expect(await new Promise((done) => child.on('close', done))).toBe(1);
  expect(said).toContain('Another Eterno works on');
});

test('a server on a port that is taken says so and ends', async () => {
  const taken = createServer().listen(0, '127.0.0.1');
  await once(taken, 'listening');
  const dir = mkdtempSync(join(tmpdir(), 'eterno-taken-'));
  try {
    migrate(environment(dir));
    const { port } = taken.address() as AddressInfo;
    await expect(startServer(environment(dir), port)).rejects.toThrow('uses port');
    const child = spawn(process.execPath, ['scripts/serve.mjs', String(port)], {
      env: { ...environment(dir), NODE_ENV: 'production' },
      stdio: 'ignore',
    });
    expect(await new Promise((done) => child.on('close', done))).toBe(1);
  } finally {
    taken.close();
    rmSync(dir, { recursive: true, force: true });
  }
});

test('seven tabs of one browser all live, and go on when the one that listens is closed', async ({
  context,
  stack,
}) => {
  const tabs: Page[] = [];
  for (let i = 0; i < 7; i += 1) {
    const tab = await context.newPage();
    await tab.goto(stack.url);
    tabs.push(tab);
  }
  for (const tab of tabs) {
    await expect(tab.getByText('4 stand-ins linked')).toBeVisible();
    await tab.getByRole('link', { name: /Ridge/ }).first().click();
    await expect(tab).toHaveURL(/\/handsets\//);
  }
  const cable = (connected: boolean) =>
    tabs[6]!.evaluate(
      (on) =>
        fetch('/api/stand-in/cable', {
          method: 'POST',
          body: JSON.stringify({ profile: 'ridge', connected: on }),
        }).then((answer) => answer.ok),
      connected,
    );
  expect(await cable(false)).toBe(true);
  for (const tab of tabs) await expect(tab.getByText('· unplugged')).toBeVisible();
  for (const tab of tabs.slice(0, 3)) await tab.close();
  expect(await cable(true)).toBe(true);
  for (const tab of tabs.slice(3)) await expect(tab.getByText('· unplugged')).toHaveCount(0);
});
