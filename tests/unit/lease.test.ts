import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { inTransaction } from '@/server/db/connection';
import { takeLease } from '@/server/repositories/lease-repository';
import { holdHandset } from '@/server/services/lease';
import { recover } from '@/server/services/recover';
import { codeOf } from '../fixtures/expect-error';
import { freshServer } from '../fixtures/server-world';

/* One at a time on a handset. */

let server: Awaited<ReturnType<typeof freshServer>>;
beforeEach(async () => {
  server = await freshServer();
});
afterEach(() => server.end());

describe('a lease on a handset', () => {
  it('keeps everybody else off until it is given back, and no other handset', async () => {
    const giveBack = await holdHandset('north');
    expect(await codeOf(() => holdHandset('north'))).toBe('conflict');
    await (
      await holdHandset('ridge')
    )();
    await giveBack();
    await (
      await holdHandset('north')
    )();
  });

  it('of a process that was killed ends by itself, and at once at the next start', async () => {
    expect(await takeLease({ handsetId: 'north', holder: 'gone', until: 2000 }, 1000)).toBe(true);
    expect(await takeLease({ handsetId: 'north', holder: 'next', until: 3000 }, 1500)).toBe(false);
    expect(await takeLease({ handsetId: 'north', holder: 'next', until: 4000 }, 2500)).toBe(true);
    expect(await takeLease({ handsetId: 'north', holder: 'gone', until: 5000 }, 3000)).toBe(false);
    await recover();
    expect(await takeLease({ handsetId: 'north', holder: 'gone', until: 5000 }, 3000)).toBe(true);
  });

  it('that is being renewed at the moment it is given back stays given back', async () => {
    const pause = () => new Promise((resolve) => setTimeout(resolve, 30));
    const giveBack = await holdHandset('north', undefined, 5);
    let go: () => void = () => undefined;
    // the store is busy: renewals wait
    const busy = inTransaction(() => new Promise<void>((resolve) => (go = resolve)));
    await pause();
    const given = giveBack();
    go();
    await Promise.all([busy, given]);
    await pause();
    await (
      await holdHandset('north')
    )();
  });

  it('is renewed by its holder', async () => {
    expect(await takeLease({ handsetId: 'north', holder: 'one', until: 2000 }, 1000)).toBe(true);
    expect(await takeLease({ handsetId: 'north', holder: 'one', until: 9000 }, 1900)).toBe(true);
    expect(await takeLease({ handsetId: 'north', holder: 'two', until: 9000 }, 2500)).toBe(false);
  });
});
