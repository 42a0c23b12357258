import { readdir, readFile, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { memorySource } from '@/core/bytes/byte-source';
import { readKit } from '@/core/kits/read-kit';
import { openPackage } from '@/core/packages/open-package';
import { patchImage } from '@/core/patch/patch-image';
import { nodePorts } from '@/platform/node/node-ports';
import { closeDatabase, database } from '@/server/db/connection';
import { COLUMNS } from '@/server/db/columns';
import { migrate } from '@/server/db/migrate';
import { listEvents } from '@/server/repositories/event-repository';
import { newestFacts, readSecret } from '@/server/repositories/handset-repository';
import { findImage, listImages, originsOf } from '@/server/repositories/image-repository';
import { findRound, stepsOf } from '@/server/repositories/round-repository';
import { applyFacts, previewFacts } from '@/server/services/fact-service';
import {
  keepPackage,
  rememberHash,
  seenPackages,
  sourceOfFile,
  tellSource,
} from '@/server/services/firmware-service';
import { listPackages as packageViews } from '@/server/repositories/image-repository';
import { addHandset, benchRows } from '@/server/services/bench-service';
import { handsetDetail } from '@/server/services/handset-service';
import { tellRoot } from '@/server/services/root-history';
import { slotCells } from '@/server/services/slot-service';
import { kitViews, storeImage, storeKit } from '@/server/services/image-service';
import { imageDetail, imagesBeside } from '@/server/services/image-view';
import { logRounds } from '@/server/services/log-service';
import { recover } from '@/server/services/recover';
import { dependenciesOf } from '@/server/repositories/record-repository';
import { noteDependency } from '@/server/services/record-service';
import { closeRound, confirmChecks, confirmProtect, giveUpRound, lookAround } from '@/server/rounds/by-hand';
import { pasteAtStep, sayAtStep } from '../fixtures/at-step';
import { startRound } from '@/server/rounds/opening';
import { carryOut } from '@/server/rounds/carry-out';
import { learnt } from '@/server/services/learnt-service';
import { pageResponse } from '@/server/services/pages-service';
import { closePutBackByHand, notePutBack } from '@/server/services/put-back-service';
import { roundView } from '@/server/rounds/round-view';
import { isWhole, openInVault, putInVault, sweepVault, vaultPath, vaultSize } from '@/server/vault/vault';
import { rawRound, rawStep } from '../fixtures/raw-round';
import { codeOf, errorOf } from '../fixtures/expect-error';
import { FINGERPRINT, kitZip, seeded, stockImage, zipBytes } from '../fixtures/images';
import { OTHER_MONTH } from '../fixtures/stand-in-world';
import { DUMP, freshServer, pieces, sha256, VARIABLES } from '../fixtures/server-world';

let server: Awaited<ReturnType<typeof freshServer>>;
beforeEach(async () => {
  server = await freshServer();
});
afterEach(() => server.end());

const FROM_PACKAGE = {
  from: 'package',
  package: 'hill.zip',
  partition: 'init_boot',
  verified: 'yes',
} as const;

async function keepKit() {
  const bytes = await kitZip();
  await storeKit(sha256(bytes), pieces(bytes), 'burrow-7.3.kit.zip');
  return { sha: sha256(bytes), kit: (await readKit(memorySource(bytes), nodePorts)).kit };
}
async function keepStock(options = {}) {
  const bytes = await stockImage(options);
  await storeImage(sha256(bytes), pieces(bytes), FROM_PACKAGE);
  return { bytes, sha: sha256(bytes) };
}
async function keepPatched() {
  const [stock, { kit, sha: kitSha }] = [await keepStock(), await keepKit()];
  const { bytes, sha256: sha } = await patchImage(memorySource(stock.bytes), kit, nodePorts);
  await storeImage(sha, pieces(bytes), { from: 'patch', stock: stock.sha, kit: kitSha });
  return { stock, sha, bytes, kit, kitSha };
}

describe('the database', () => {
  it('has exactly the columns the models speak of', async () => {
    const { sequelize } = await database();
    for (const [table, columns] of Object.entries(COLUMNS)) {
      const described = await sequelize.getQueryInterface().describeTable(table);
      expect(Object.keys(described).sort(), table).toEqual(Object.keys(columns).sort());
      for (const [name, column] of Object.entries(columns)) {
        expect(described[name]!.allowNull, `${table}.${name}`).toBe(
          (column as { allowNull?: boolean }).allowNull ?? described[name]!.allowNull,
        );
      }
    }
  });
  it('migrates once, and survives being opened again', async () => {
    expect(await migrate()).toEqual([]);
    await addHandset('Kept', DUMP);
    await closeDatabase();
    expect((await benchRows()).map((row) => row.name)).toEqual(['Kept']);
  });
});

describe('the vault', () => {
  const bytes = seeded(4, 50_000);
  it('keeps bytes under their hash, once', async () => {
    expect(await putInVault('images', sha256(bytes), pieces(bytes))).toBe(bytes.length);
    await putInVault('images', sha256(bytes), pieces(bytes));
    expect(await vaultSize()).toEqual({ files: 1, bytes: bytes.length });
    const source = await openInVault('images', sha256(bytes));
    expect(await source.read(0, source.size)).toEqual(bytes);
    await source.close();
  });
  it('keeps nothing of what is not what was announced, too long, or breaks off', async () => {
    expect(await codeOf(() => putInVault('images', sha256(seeded(5, 10)), pieces(bytes)))).toBe('bad-hash');
    expect(await codeOf(() => putInVault('images', sha256(bytes), pieces(bytes), 1000))).toBe('too-large');
    const breaking = async function* () {
      yield bytes.subarray(0, 100);
      throw new Error('the browser went away');
    };
    await expect(putInVault('images', sha256(bytes), breaking())).rejects.toThrow('went away');
    const left = (await readdir(join(server.dir, 'vault'), { recursive: true, withFileTypes: true })).filter(
      (entry) => entry.isFile(),
    );
    expect(left).toEqual([]);
  });
  it.each(['', 'abc', '../../../etc/passwd', `${'a'.repeat(63)}/`, 'A'.repeat(64)])(
    'lets no %j near the disk',
    async (name) => expect(await codeOf(() => vaultPath('images', name))).toBe('unsafe-path'),
  );
  it('notices damage', async () => {
    await putInVault('images', sha256(bytes), pieces(bytes));
    expect(await isWhole('images', sha256(bytes))).toBe(true);
    await writeFile(vaultPath('images', sha256(bytes)), seeded(6, 50_000));
    expect(await isWhole('images', sha256(bytes))).toBe(false);
    expect(await isWhole('images', sha256(seeded(1, 5)))).toBe(false);
  });
  it('sweeps what a killed process left', async () => {
    await putInVault('images', sha256(bytes), pieces(bytes));
    await writeFile(`${vaultPath('images', sha256(bytes))}.99-1.part`, 'half');
    expect(await sweepVault()).toBe(1);
    expect((await vaultSize()).files).toBe(1);
  });
});

describe('images', () => {
  it('taken out of a package are stock, with their origin', async () => {
    const { sha } = await keepStock();
    expect(await findImage(sha)).toMatchObject({
      role: 'stock',
      partition: 'init_boot',
      fingerprint: FINGERPRINT,
    });
    expect(await originsOf(sha)).toMatchObject([{ detail: { from: 'package', verified: true } }]);
    await keepStock();
    expect(await originsOf(sha)).toHaveLength(1);
    const detail = await imageDetail(sha);
    expect(detail.origins[0]!.sentence).toContain('hill.zip');
    expect(detail.report.ramdisk).toMatchObject({ archives: 1, entries: 5 });
  });
  it('stand beside each other, those of the same partition first', async () => {
    const [boot, init] = [
      await stockImage({ partition: 'boot', kernel: seeded(5, 9000), version: 2 }),
      await stockImage({ fingerprint: OTHER_MONTH }),
    ];
    const { sha } = await keepStock();
    for (const bytes of [boot, init]) await storeImage(sha256(bytes), pieces(bytes), { from: 'file' });
    expect((await imagesBeside(sha)).map((one) => one.sha256)).toEqual([sha256(init), sha256(boot)]);
    expect((await imagesBeside(sha256(boot))).map((one) => one.sha256)).not.toContain(sha256(boot));
  });
  it('that nothing speaks for are not called stock', async () => {
    const bytes = await stockImage({ footer: false });
    await storeImage(sha256(bytes), pieces(bytes), { from: 'file' });
    // without a kernel and a word of its own it may be of either
    expect(await findImage(sha256(bytes))).toMatchObject({
      role: 'unknown',
      partition: 'init_boot or recovery',
    });
  });
  it('that are no images are not kept', async () => {
    const noise = seeded(8, 9000);
    expect(await codeOf(() => storeImage(sha256(noise), pieces(noise), FROM_PACKAGE))).toBe('bad-magic');
    expect(await vaultSize()).toEqual({ files: 0, bytes: 0 });
    expect(await listImages()).toEqual([]);
  });
  it('patched are proved again by the server', async () => {
    const { sha, stock } = await keepPatched();
    const row = (await findImage(sha))!;
    expect(row).toMatchObject({ role: 'patched', kit: 'burrow 7.3', stockSha256: stock.sha });
    expect(row.proof!.every((line) => line.ok)).toBe(true);
    expect((await imageDetail(stock.sha)).patchedFromIt[0]!.sha256).toBe(sha);
  });
  it('patched that fail the server’s proof are not kept, whatever the browser said', async () => {
    const { stock, kitSha, bytes } = await keepPatched();
    const forged = bytes.slice();
    forged[forged.length - 4000]! ^= 1;
    const error = await errorOf(() =>
      storeImage(sha256(forged), pieces(forged), { from: 'patch', stock: stock.sha, kit: kitSha }),
    );
    expect(error.code).toBe('bad-hash');
    expect(await findImage(sha256(forged))).toBeNull();
    expect(await codeOf(() => openInVault('images', sha256(forged)))).toBe('not-found');
    expect(await codeOf(() => storeImage(sha256(forged), pieces(forged), { from: 'patch' }))).toBe(
      'bad-field',
    );
  });
});

describe('kits', () => {
  it('are read before they are kept', async () => {
    const { sha } = await keepKit();
    expect((await kitViews()).map((kit) => kit.sha256)).toEqual([sha]);
    const bad = await zipBytes({ 'kit.json': '{}' });
    expect(await codeOf(() => storeKit(sha256(bad), pieces(bad), 'bad.zip'))).toBe('kit-invalid');
    expect((await vaultSize()).files).toBe(1);
  });
});

describe('facts', () => {
  it('are kept with their source, the serial apart', async () => {
    const id = await addHandset('North', DUMP);
    const rows = await newestFacts(id);
    expect(rows.length).toBeGreaterThan(8);
    expect(rows.some((row) => row.value.includes('SERIAL42'))).toBe(false);
    expect(await readSecret(id, 'serial')).toBe('SERIAL42');
    const detail = await handsetDetail(id);
    expect(detail.serialEnd).toBe('AL42');
    expect(detail.known).toMatchObject({
      fingerprint: FINGERPRINT,
      unlocked: true,
      currentSlot: 'a',
      sdk: 36,
    });
    expect(JSON.stringify(detail)).not.toContain('SERIAL42');
  });
  it('show what would change before it changes', async () => {
    const id = await addHandset('North', DUMP);
    const preview = await previewFacts(id, DUMP.replaceAll('260905', '261005'));
    expect(preview.changes.map((change) => change.key)).toEqual(['fingerprint', 'buildId']);
    expect(preview.serial).toBe('yes');
    expect((await handsetDetail(id)).build).toBe('HC1.260905.007');
  });
  it('of another handset are not kept', async () => {
    const id = await addHandset('North', DUMP);
    const other = DUMP.replace('SERIAL42', 'OTHER');
    expect((await previewFacts(id, other)).serial).toBe('no');
    const silent = DUMP.replace('[ro.serialno]: [SERIAL42]\n', '');
    expect((await previewFacts(id, silent)).serial).toBe('not told');
    expect((await previewFacts(await addHandset('No serial', silent), DUMP)).serial).toBe('not told');
    expect(await codeOf(() => applyFacts(id, other.replaceAll('260905', '261005'), 'pasted'))).toBe(
      'refused',
    );
    expect((await handsetDetail(id)).build).toBe('HC1.260905.007');
  });
  it('that say nothing are refused', async () => {
    expect(await codeOf(() => addHandset('North', 'nothing here'))).toBe('bad-field');
    expect(await benchRows()).toEqual([]);
  });
});

describe('packages', () => {
  const report = async (fingerprint: string) => ({
    ...(await openPackage(memorySource(await stockImage({ fingerprint })), nodePorts)).report,
  });
  it('are held against every handset and remembered', async () => {
    await addHandset('North', DUMP);
    expect(
      (
        await keepPackage({
          fileName: 'a.img',
          sizeBytes: 5,
          report: await report(FINGERPRINT),
          readBy: 'server',
        })
      ).fits[0]!.fit.verdict,
    ).toBe('exact');
    expect((await packageViews()).map((view) => view.fileName)).toEqual(['a.img']);
  });
  it('that change under their name are noticed by their first hash', async () => {
    const first = await rememberHash('a.zip', 5, 'a'.repeat(64));
    expect(first.changedFrom).toBeNull();
    expect(await rememberHash('a.zip', 5, 'a'.repeat(64))).toEqual(first);
    expect(await rememberHash('a.zip', 6, 'b'.repeat(64))).toEqual({ ...first, changedFrom: 'a'.repeat(64) });
    expect((await rememberHash('b.zip', 6, 'b'.repeat(64))).changedFrom).toBeNull();
  });
  it('keep where they are from, as it was said last', async () => {
    expect(await sourceOfFile('a.zip', 5)).toBe('not said');
    await tellSource('a.zip', 5, 'mirror');
    await tellSource('a.zip', 5, 'maker');
    expect([await sourceOfFile('a.zip', 5), await sourceOfFile('a.zip', 6)]).toEqual(['maker', 'not said']);
  });
  it('that start from old images say which are in the vault, and who would refuse them', async () => {
    const { sha } = await keepStock();
    await addHandset('North', DUMP);
    const { report } = await openPackage(memorySource(await stockImage()), nodePorts);
    const image = { ...report.images[0]!, needsSource: true, source: { size: 1, sha256: sha } };
    const other = { ...image, partition: 'boot', source: { size: 1, sha256: 'f'.repeat(64) } };
    const build = { ...report.build, sourceFingerprint: FINGERPRINT };
    const judged = await keepPackage({
      fileName: 'inc.zip',
      sizeBytes: 5,
      report: { ...report, incremental: true, images: [image, other], build },
      readBy: 'server',
    });
    expect(judged.pristine).toEqual([
      { partition: 'init_boot', sha256: sha, inVault: true },
      { partition: 'boot', sha256: 'f'.repeat(64), inVault: false },
    ]);
    expect(judged.starts).toMatchObject([{ name: 'North', prediction: null }]);
  });
  it('opened last are listed newest first, and the rest counted', async () => {
    expect(await seenPackages()).toEqual({ newest: [], older: 0 });
    const one = await report(FINGERPRINT);
    const keep = (name: string) =>
      keepPackage({ fileName: name, sizeBytes: name.length, report: one, readBy: 'server' });
    await keep('first.img');
    expect(await seenPackages()).toMatchObject({
      newest: [{ product: 'hill_eu', incremental: false }],
      older: 0,
    });
    for (let i = 0; i < 60; i += 1) await keep(`${'x'.repeat(i + 20)}.img`);
    const { newest, older } = await seenPackages();
    expect(newest.length + older).toBe(61);
    expect(older).toBeGreaterThan(0);
    expect(newest.length).toBeGreaterThan(1);
    expect(newest.map(({ openedAt }) => openedAt)).toEqual(
      newest.map(({ openedAt }) => openedAt).sort((a, b) => b - a),
    );
  });
  it('of the look-alike are judged, and nothing of them is kept', async () => {
    await addHandset('North', DUMP);
    expect(
      (
        await keepPackage({
          fileName: 'b.img',
          sizeBytes: 5,
          report: await report(FINGERPRINT.replace('hill_eu', 'hill_am')),
          readBy: 'server',
        })
      ).fits[0]!.fit.verdict,
    ).toBe('other variant');
    expect(await packageViews()).toEqual([]);
  });
});

const LIMITS_OF = { computer: true, wipeAllowed: false, keepFuse: false };
const open = (handsetId: string, lane = 'one-image-once') =>
  startRound({ handsetId, goal: 'first root', target: null, lane, limits: LIMITS_OF });

describe('a round by hand', () => {
  const at = async (id: string) => (await findRound(id))!.version;
  const current = async (id: string) => {
    const view = await roundView(id);
    return view.current === null ? null : view.steps[view.current]!.key;
  };
  async function begin(): Promise<{ id: string; handset: string }> {
    const handset = await addHandset('North', DUMP);
    const kit = await kitZip();
    await storeKit(sha256(kit), pieces(kit), 'burrow.kit.zip');
    return { id: await open(handset), handset };
  }

  /** What it prints of itself, and what no dump says. */
  async function know(id: string): Promise<void> {
    await pasteAtStep(id, await at(id), DUMP);
    await sayAtStep(id, await at(id), 'no update waits');
  }

  async function toWrite(): Promise<{ id: string; handset: string; sha: string }> {
    const { id, handset } = await begin();
    await know(id);
    expect(await current(id)).toBe('open-installed-package');
    const { sha } = await keepPatched();
    expect(await current(id)).toBe('protect');
    expect(await codeOf(async () => confirmProtect(id, await at(id), ''))).toBe('refused');
    const page = await (await pageResponse(id, 'rescue')).text();
    expect(page).toContain('When it starts over and over');
    expect(page).not.toContain('SERIAL42');
    await confirmProtect(id, await at(id), '');
    await pasteAtStep(id, await at(id), VARIABLES);
    await confirmChecks(id, await at(id), []);
    expect(await current(id)).toBe('write-root');
    return { id, handset, sha };
  }
  async function toTheEnd(id: string): Promise<void> {
    while ((await current(id)) !== 'look-around') await sayAtStep(id, await at(id), 'it looks right');
    await lookAround(id, await at(id), { data: 'works', calls: 'works', payments: 'not used here' }, '', [
      { name: 'Till', how: 'stopped' },
      { name: 'Maps', how: 'stopped' },
      { name: 'Post', how: 'works' },
    ]);
  }

  it('goes from the first fact to the log, its words marked as weak', async () => {
    const { id, handset, sha } = await toWrite();
    for (const name of ['Maps', 'Post'])
      await noteDependency({ handsetId: handset, name, effect: 'unknown', needed: 'yes', note: 'own' });
    await sayAtStep(id, await at(id), 'my tool said it is written');
    expect((await slotCells(handset))[0]).toMatchObject({
      slot: 'a',
      partition: 'init_boot',
      sha256: sha,
      verdict: 'predicted',
    });
    await toTheEnd(id);
    const apps = await dependenciesOf(handset);
    expect(apps.map(({ name, effect, needed, note }) => [name, effect, needed, note])).toEqual([
      ['Maps', 'stops', 'yes', 'own'],
      ['Post', 'keeps working', 'yes', 'own'],
      ['Till', 'stops', 'no', ''],
    ]);
    const { signOff } = await roundView(id);
    expect(signOff.every((claim) => claim.evidence.length > 0)).toBe(true);
    expect(signOff.find((claim) => claim.claim === 'Root works')).toMatchObject({
      missing: expect.stringContaining('two kinds') as string,
    });
    await closeRound(id, await at(id));
    expect(await roundView(id)).toMatchObject({ state: 'closed', current: null });
    expect((await benchRows())[0]!.root).toBe('unproven');
    const logged = (await logRounds())[0]!;
    expect(
      logged.steps.every((step) => step.state === 'done' && step.seconds !== null && step.seconds >= 0),
    ).toBe(true);
    expect((await listEvents({ roundId: id })).map((event) => event.kind)).toContain('round-closed');
    for (const kind of ['run-sheet', 'report'] as const)
      expect(await (await pageResponse(id, kind)).text()).not.toContain('SERIAL42');
  });

  it('the next one of its kind begins from the last good one, with only what changed lit up', async () => {
    const { id, handset } = await toWrite();
    await toTheEnd(id);
    await closeRound(id, await at(id));
    await tellRoot(handset, null, 'lost', 'test');
    const again = await startRound({
      handsetId: handset,
      goal: 'first root',
      target: null,
      lane: null,
      limits: LIMITS_OF,
    });
    const view = await roundView(again);
    expect((await findRound(again))!.basedOn).toBe(id);
    expect(view.steps.filter((step) => step.isNew)).toEqual([]);
    expect((await learnt()).pace['write-root']).toBeDefined();
  });

  it('what was changed for a while keeps it open until it is put back', async () => {
    const { id, handset } = await toWrite();
    await notePutBack(handset, id, 'the screen lock is off');
    await toTheEnd(id);
    expect((await errorOf(async () => closeRound(id, await at(id)))).message).toContain(
      'the screen lock is off',
    );
    const [one] = (await roundView(id)).putBacks;
    await closePutBackByHand(handset, one!.id, 'set again');
    await closeRound(id, await at(id));
    expect(await codeOf(() => closePutBackByHand(handset, one!.id, 'twice'))).toBe('not-found');
  });

  it('refuses a step that is not the one to do now, and a version that is old', async () => {
    const { id } = await begin();
    expect(await codeOf(() => closeRound(id, 0))).toBe('conflict');
    await pasteAtStep(id, 0, DUMP);
    expect(await codeOf(() => pasteAtStep(id, 0, DUMP))).toBe('conflict');
    const strengths = async (round: string) =>
      (await roundView(round)).steps[0]!.evidence.map(({ strength }) => strength);
    // only a text that names the serial proves whose it is
    expect(await strengths(id)).toEqual(['strong', 'strong']);
    const other = await addHandset('Another', DUMP.replaceAll('SERIAL42', 'OTHER99'));
    const silent = await rawRound(other, {}, [rawStep('read-facts')]);
    await pasteAtStep(silent.id, 0, DUMP.replace('[ro.serialno]: [SERIAL42]\n', ''));
    expect(await strengths(silent.id)).toEqual(['weak']);
    await sayAtStep(id, await at(id), 'no update waits');
    expect(await codeOf(async () => sayAtStep(id, await at(id), 'found'))).toBe('refused');
  });

  it('is no round where no way leads there, and says why', async () => {
    const handset = await addHandset('North', DUMP);
    const error = await errorOf(() => open(handset, 'start-once-kit-inside'));
    expect(error).toMatchObject({ code: 'refused' });
    expect(error.message).toContain('No kit');
  });

  it('is one a handset at a time', async () => {
    const { id, handset } = await begin();
    expect(await open(handset)).toBe(id);
    await giveUpRound(id, await at(id));
    expect(await open(handset)).not.toBe(id);
  });

  it('of two changes at once only one goes through', async () => {
    const { id } = await begin();
    const results = await Promise.allSettled([pasteAtStep(id, 0, DUMP), pasteAtStep(id, 0, DUMP)]);
    expect(results.map((result) => result.status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(await at(id)).toBe(1);
  });

  it('stops at the checks for a locked handset, and no reason helps', async () => {
    const { id } = await begin();
    await know(id);
    await keepPatched();
    await confirmProtect(id, await at(id), 'no printer');
    await pasteAtStep(id, await at(id), VARIABLES.replace('unlocked:yes', 'unlocked:no'));
    const error = await errorOf(async () =>
      confirmChecks(id, await at(id), [{ checkId: 'unlocked', reason: 'please' }]),
    );
    expect(error).toMatchObject({ code: 'refused' });
    expect(error.message).toContain('unlocked');
    expect(await current(id)).toBe('check');
  });

  it('is planned anew when what it reads is another build', async () => {
    const { id } = await begin();
    const other = DUMP.replaceAll('HC1.260905.007', 'HC1.261005.007');
    await pasteAtStep(id, await at(id), other);
    const view = await roundView(id);
    expect(view.steps.find((step) => step.key === 'write-root')!.build).toContain('HC1.261005.007');
    expect((await listEvents({ roundId: id })).map((event) => event.kind)).toContain('planned-anew');
  });

  it('is not served by images of another build', async () => {
    const { id } = await begin();
    await know(id);
    await keepStock({ fingerprint: FINGERPRINT.replace('260905', '261005') });
    expect(await current(id)).toBe('open-installed-package');
    expect(await roundView(id)).toMatchObject({ stock: null, image: null });
  });

  it('does not lose its stock image unnoticed', async () => {
    const { id } = await toWrite();
    const { stock } = await roundView(id);
    await writeFile(vaultPath('images', stock!.sha256), 'damaged');
    expect(await codeOf(async () => sayAtStep(id, await at(id), 'written'))).toBe('refused');
  });

  it('that was interrupted says so at the next start', async () => {
    const { id } = await toWrite();
    const step = (await stepsOf([id])).find((one) => one.key === 'write-root')!;
    await carryOut(id, await at(id), () => ({ do: 'begin', stepId: step.id, checks: [], overrides: [] }));
    expect((await recover()).steps).toBe(1);
    const view = await roundView(id);
    expect(view.steps[view.current!]).toMatchObject({ key: 'write-root', state: 'interrupted' });
    const { handsetId } = (await findRound(id))!;
    expect((await slotCells(handsetId)).find((cell) => cell.partition === 'init_boot')).toMatchObject({
      verdict: 'unknown',
      sha256: null,
    });
    expect((await recover()).steps).toBe(0);
  });
});

describe('the data folder', () => {
  it('holds the database and nothing outside it was touched', async () => {
    expect((await stat(join(server.dir, 'eterno.sqlite'))).size).toBeGreaterThan(0);
    expect((await readFile(join(server.dir, 'eterno.sqlite'))).subarray(0, 6).toString()).toBe('SQLite');
  });
});
