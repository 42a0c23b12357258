import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { insertFacts } from '@/server/repositories/handset-repository';
import { recordBuild } from '@/server/repositories/image-repository';
import { startBatch } from '@/server/services/batch-service';
import { addHandset, benchRows } from '@/server/services/bench-service';
import { storeKit } from '@/server/services/image-service';
import { openRound } from '@/server/rounds/open-rounds';
import { tellRoot } from '@/server/services/root-history';
import { errorOf } from '../fixtures/expect-error';
import { FINGERPRINT, kitZip } from '../fixtures/images';
import { DUMP, freshServer, pieces, sha256 } from '../fixtures/server-world';

/* A round for each of several handsets of one model. */

let server: Awaited<ReturnType<typeof freshServer>>;
beforeEach(async () => {
  server = await freshServer();
  const kit = await kitZip();
  await storeKit(sha256(kit), pieces(kit), 'burrow.kit.zip');
  for (const [i, month] of ['260905', '261005'].entries())
    await recordBuild({
      fingerprint: FINGERPRINT.replace('260905', month),
      product: 'hill_eu',
      device: 'hill',
      buildId: `HC1.${month}.007`,
      patchLevel: `2026-${month.slice(2, 4)}-05`,
      publishedAt: 1_000_000 + i,
    });
});
afterEach(() => server.end());

async function handset(name: string, dump = DUMP, root: 'proven' | 'lost' = 'proven'): Promise<string> {
  // each has a serial of its own
  const id = await addHandset(name, dump.replace('SERIAL42', `SERIAL${name}`));
  const facts = Object.entries({ slotCount: '2', antiRollback: '1', snapshot: 'none', unlocked: 'true' }).map(
    ([key, value]) => ({ key, value }),
  );
  await insertFacts(id, facts, { source: 'link', witness: 'bootloader', at: Date.now() });
  await tellRoot(id, null, root, 'for this test');
  return id;
}

describe('rounds together', () => {
  it('are begun for each of them, each with its own goal and checks, and once only', async () => {
    const [north, south] = [await handset('North'), await handset('South', DUMP, 'lost')];
    expect((await benchRows()).map((row) => row.waiting?.buildId)).toEqual([
      'HC1.261005.007',
      'HC1.261005.007',
    ]);
    await startBatch([north, south, north]);
    const rounds = [await openRound(north), await openRound(south)];
    expect(rounds.map((round) => round?.kind)).toEqual(['monthly update', 'root again']);
    await startBatch([north, south]);
    expect((await openRound(north))!.id).toBe(rounds[0]!.id);
  });

  it('are refused for handsets of two models: siblings never share a file', async () => {
    const [north, other] = [
      await handset('North'),
      await handset('Other', DUMP.replaceAll('hill_eu', 'dale_eu').replaceAll('/hill:', '/dale:')),
    ];
    expect((await errorOf(() => startBatch([north, other]))).message).toContain('not of one model');
    expect(await openRound(north)).toBeNull();
  });

  it('name those that need none, and begin the others', async () => {
    const newest = await handset('Newest', DUMP.replaceAll('260905', '261005'));
    const north = await handset('North');
    const error = await errorOf(() => startBatch([newest, north]));
    expect(error.message).toContain('Newest: it is on the newest build known');
    expect(await openRound(north)).not.toBeNull();
  });
});
