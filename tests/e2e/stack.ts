import { cpSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { test as base } from '@playwright/test';
import {
  environment,
  makeDemo,
  migrate,
  startServer,
  startDownloadPage,
  startServerSomewhere,
  startStandIn,
  stop,
  stopStandIn,
} from '../../scripts/stack.mjs';
import { WORLD_DIR } from './world-dir';

export interface Stack {
  readonly url: string;
  readonly dir: string;
  package(name: string): string;
  stopServer(): Promise<void>;
  startServer(): Promise<void>;
  stopStandIn(): Promise<void>;
}

/** The demo world, an empty store, or the world of one piece of work. */
type World = 'demo' | 'empty' | number;

async function startStack(
  world: World,
  speed: string,
  withPage = false,
): Promise<Stack & { end: () => Promise<void> }> {
  const dir = mkdtempSync(join(tmpdir(), 'eterno-e2e-'));
  if (world === 'demo') cpSync(WORLD_DIR, dir, { recursive: true });
  const env = environment(dir, { ETERNO_STAND_IN_SPEED: speed });
  if (world === 'empty') migrate(env);
  if (typeof world === 'number') makeDemo({ ...env, ETERNO_DEMO_WAY: String(world) });
  if (world !== 'empty') await startStandIn(env);
  const page = withPage ? await startDownloadPage(env) : null;
  const started = await startServerSomewhere(env);
  const { port } = started;
  let { server } = started;
  return {
    url: `http://127.0.0.1:${port}`,
    dir,
    package: (name) => join(dir, 'packages', name),
    stopServer: () => stop(server),
    startServer: async () => {
      server = await startServer(env, port);
    },
    stopStandIn: () => stopStandIn(env),
    async end() {
      await stop(server);
      await stopStandIn(env);
      if (page !== null) await stop(page);
      const aside = readdirSync(dir).filter((name) => name.startsWith('set-aside-'));
      rmSync(dir, { recursive: true, force: true });
      if (aside.length > 0) throw new Error('rows that Eterno itself kept were set aside at its start');
    },
  };
}

interface OfATest {
  speed: string;
  stack: Stack;
  emptyStack: Stack;
  way: number;
  withPage: boolean;
  wayStack: Stack;
  quietPage: void;
}
interface OfAWorker {
  readOnly: Stack;
}

/**
 * Every test has a whole Eterno of its own: server, database, vault, stand-in; those that change nothing
 * share one. A browser error fails it.
 */
export const test = base.extend<OfATest, OfAWorker>({
  readOnly: [
    // its argument has to be taken apart: that is how the runner learns what it needs
    async ({}, provide) => {
      const stack = await startStack('demo', '8');
      await provide(stack);
      await stack.end();
    },
    { scope: 'worker', timeout: 300_000 },
  ],
  /** The handset's own times are this much shorter. */
  speed: ['8', { option: true }],
  stack: async ({ page, speed }, provide) => {
    const stack = await startStack('demo', speed);
    await provide(stack);
    // before its server: workers that are still loading would call that an error
    await page.close();
    await stack.end();
  },
  emptyStack: async ({ page, speed }, provide) => {
    const stack = await startStack('empty', speed);
    await provide(stack);
    await page.close();
    await stack.end();
  },
  /** The piece of work whose beginning the world is at. */
  way: [0, { option: true }],
  /** The maker's download page runs too. */
  withPage: [false, { option: true }],
  wayStack: async ({ page, speed, way, withPage }, provide) => {
    const stack = await startStack(way, speed, withPage);
    await provide(stack);
    await page.close();
    await stack.end();
  },
  quietPage: [
    async ({ page }, provide) => {
      const errors: string[] = [];
      page.on('pageerror', (error) => errors.push(error.message));
      page.on('console', (message) => {
        // a refused request shows up here by itself; the journeys check what the page says about it
        if (
          message.type() === 'error' &&
          !message.text().includes('Failed to load resource') &&
          !message.text().includes('ERR_')
        )
          errors.push(message.text());
      });
      await provide();
      base.expect(errors).toEqual([]);
    },
    { auto: true },
  ],
});
export { expect } from '@playwright/test';
