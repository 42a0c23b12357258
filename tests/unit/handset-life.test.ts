import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { database } from '@/server/db/connection';
import { findRound } from '@/server/repositories/round-repository';
import { giveUpRound } from '@/server/rounds/by-hand';
import { saidNotToStart, saidToBeRooted } from '@/server/rounds/said-state';
import { startRound } from '@/server/rounds/opening';
import { roundView } from '@/server/rounds/round-view';
import { addHandset, addTypedHandset, benchRows, putAwayHandsets } from '@/server/services/bench-service';
import { knownFacts, applyFacts, previewFacts } from '@/server/services/fact-service';
import { bringBack, putAway, removeHandset, renameHandset } from '@/server/services/handset-life';
import { storeImage, storeKit } from '@/server/services/image-service';
import { storeView } from '@/server/services/vault-service';
import { notePutBack } from '@/server/services/put-back-service';
import { rootChanges, tellRoot } from '@/server/services/root-history';
import { waysOf } from '@/server/services/plan-service';
import { codeOf, errorOf } from '../fixtures/expect-error';
import { kitZip, stockImage } from '../fixtures/images';
import { DUMP, freshServer, pieces, sha256, VARIABLES } from '../fixtures/server-world';

/* A handset comes onto the bench, is called something else, goes out of the way, and goes for good. */

let server: Awaited<ReturnType<typeof freshServer>>;
beforeEach(async () => {
  server = await freshServer();
});
afterEach(() => server.end());

const FROM_PACKAGE = {
  from: 'package',
  package: 'a.zip',
  verified: 'yes',
  partition: 'init_boot',
} as const;
const LIMITS = { computer: true, wipeAllowed: false, keepFuse: false };
const names = async () => (await benchRows()).map(({ name }) => name);
async function withKit(): Promise<string> {
  const kit = await kitZip();
  await storeKit(sha256(kit), pieces(kit), 'burrow.kit.zip');
  return addHandset('North', DUMP);
}
const open = (handsetId: string) =>
  startRound({ handsetId, goal: 'first root', target: null, lane: null, limits: LIMITS });

describe('putting a handset on the bench', () => {
  it('with a serial that is there leads to that one, and what it printed is kept with it', async () => {
    const first = await addHandset('North', DUMP);
    await putAway(first);
    expect(await addHandset('Twin', `${DUMP}[sys.oem_unlock_allowed]: [1]\n`)).toBe(first);
    expect(await names()).toEqual(['North']);
    expect((await knownFacts(first)).value('unlockAllowed')).toBe('on');
    expect(await addHandset('Other', DUMP.replace('SERIAL42', 'OTHER99'))).not.toBe(first);
  });
  it('with nothing to paste counts what is typed as said, and asks for the rest', async () => {
    const id = await addTypedHandset('Loft', 'Hill 2', 'HC1.260905.007');
    const [row] = await benchRows();
    expect(row).toMatchObject({ id, model: 'Hill 2', build: 'HC1.260905.007', root: 'unknown' });
    expect((await knownFacts(id)).resolved).toMatchObject([{ source: 'typed', witness: 'person' }]);
    await addTypedHandset('Bare', 'Hill 2', '');
    expect((await benchRows()).find(({ name }) => name === 'Bare')!.build).toBeNull();
  });
  it.each(['RO.BUILD.ID=X', '[nothing.known]: [x]', 'hello'])(
    'by %j, of which nothing is understood, is refused',
    async (text) => {
      expect(await codeOf(() => addHandset('Blank', text))).toBe('bad-field');
      expect(await names()).toEqual([]);
    },
  );
});

describe('a text of another handset', () => {
  it('by its code name is refused whole, with a serial or without', async () => {
    const id = await addHandset('North', DUMP);
    const before = (await knownFacts(id)).resolved;
    const moor = DUMP.replaceAll('hill', 'moor').replace('[ro.serialno]: [SERIAL42]\n', '');
    expect(await codeOf(() => applyFacts(id, moor, 'pasted'))).toBe('refused');
    expect(
      await codeOf(() => applyFacts(id, VARIABLES.replace('product:hill', 'product:moor'), 'pasted')),
    ).toBe('refused');
    expect((await knownFacts(id)).resolved).toEqual(before);
    // it is said before anybody presses
    expect((await previewFacts(id, moor)).against).not.toBeNull();
    expect(await previewFacts(id, DUMP.replace('SERIAL42', 'OTHER99'))).toMatchObject({
      serial: 'no',
      against: expect.any(String) as string,
    });
    expect(await previewFacts(id, DUMP)).toMatchObject({ serial: 'yes', against: null });
    await applyFacts(id, VARIABLES, 'pasted');
  });
});

describe('a handset', () => {
  it('is called something else', async () => {
    const id = await addHandset('North', DUMP);
    await renameHandset(id, 'South');
    expect(await names()).toEqual(['South']);
    expect(await codeOf(() => renameHandset(crypto.randomUUID(), 'X'))).toBe('not-found');
  });
  it('is put away with all that is kept of it, and brought back', async () => {
    const id = await withKit();
    const round = await open(id);
    expect(await codeOf(() => putAway(id))).toBe('conflict');
    await giveUpRound(round, (await findRound(round))!.version);
    await putAway(id);
    expect(await names()).toEqual([]);
    expect(await putAwayHandsets()).toMatchObject([{ id, name: 'North' }]);
    expect((await knownFacts(id)).typed.buildId).not.toBeNull();
    await bringBack(id);
    expect(await names()).toEqual(['North']);
    expect(await putAwayHandsets()).toEqual([]);
  });
  it('keeps its way back while it is put away', async () => {
    const id = await addHandset('North', DUMP);
    const bytes = await stockImage();
    await storeImage(sha256(bytes), pieces(bytes), FROM_PACKAGE);
    const guardian = async () => (await storeView()).images[0]!.guardian;
    const before = await guardian();
    expect(before).not.toBeNull();
    await putAway(id);
    expect(await guardian()).toBe(before);
    await removeHandset(id);
    expect(await guardian()).toBeNull();
  });
  it('is removed with every row that speaks of it, and of no other', async () => {
    const id = await withKit();
    const other = await addHandset('Other', DUMP.replace('SERIAL42', 'OTHER99'));
    const round = await open(id);
    await notePutBack(id, round, 'a lock');
    expect(await codeOf(() => removeHandset(id))).toBe('conflict');
    await giveUpRound(round, (await findRound(round))!.version);
    const kept = async (handset: string) => {
      const { models } = await database();
      const counts: Record<string, number> = {};
      for (const [name, model] of Object.entries(models) as [string, never][]) {
        const { count, getAttributes } = model as unknown as {
          count: (query: object) => Promise<number>;
          getAttributes: () => object;
        };
        if ('handsetId' in getAttributes.call(model))
          counts[name] = await count.call(model, { where: { handsetId: handset } });
      }
      return { ...counts, steps: await models.Step.count() };
    };
    const ofOther = await kept(other);
    expect(Object.values(await kept(id)).some((count) => count > 0)).toBe(true);
    await removeHandset(id);
    expect(Object.values(await kept(id)).every((count) => count === 0)).toBe(true);
    expect({ ...(await kept(other)), steps: 0 }).toEqual({ ...ofOther, steps: 0 });
    expect(await names()).toEqual(['Other']);
  });
});

describe('what is told of root', () => {
  it('again is no change, and something else is', async () => {
    const id = await withKit();
    for (const state of ['proven', 'proven', 'lost', 'proven'] as const)
      await tellRoot(id, null, state, 'test');
    expect((await rootChanges(id)).map(({ state }) => state)).toEqual([
      'unknown',
      'proven',
      'lost',
      'proven',
    ]);
  });
});

describe('what is said of a handset', () => {
  it('that it does not start begins the way back in the state that it is in', async () => {
    const id = await withKit();
    const round = await saidNotToStart(id);
    expect((await benchRows())[0]).toMatchObject({ root: 'broken', roundId: round });
    const { steps } = await roundView(round);
    const keys = steps.map(({ key }) => key);
    expect(keys).not.toContain('read-facts');
    expect(keys).not.toContain('protect');
    expect(keys).toEqual(expect.arrayContaining(['bootloader', 'write-stock', 'start', 'close']));
    // said again, the same round goes on
    expect(await saidNotToStart(id)).toBe(round);
  });
  it('in the middle of a round turns that round', async () => {
    const id = await withKit();
    const round = await open(id);
    expect(await saidNotToStart(id)).toBe(round);
    expect((await roundView(round)).steps.map(({ key }) => key)).toContain('write-stock');
    expect((await findRound(round))!.kind).toBe('first root');
  });
  it('that it is rooted is said only, and the next thing is a short round that proves it', async () => {
    const id = await withKit();
    await saidToBeRooted(id);
    expect((await benchRows())[0]!.root).toBe('unproven');
    const ways = await waysOf(id, { goal: null, target: null, limits: LIMITS });
    expect(ways.goal).toBe('prove root');
    const round = await startRound({
      handsetId: id,
      goal: 'prove root',
      target: null,
      lane: null,
      limits: LIMITS,
    });
    expect((await roundView(round)).steps.map(({ key }) => key)).toEqual([
      'read-facts',
      'prove-root',
      'close',
    ]);
    expect((await errorOf(() => saidToBeRooted(id))).code).toBe('conflict');
  });
  it('no root that could be proved is no such round', async () => {
    const id = await withKit();
    await tellRoot(id, null, 'stock', 'test');
    expect(
      await codeOf(() =>
        startRound({ handsetId: id, goal: 'prove root', target: null, lane: null, limits: LIMITS }),
      ),
    ).toBe('refused');
  });
});
