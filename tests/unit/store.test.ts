import { readdir, readFile, rm, stat, truncate, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { memorySource } from '@/core/bytes/byte-source';
import { readKit } from '@/core/kits/read-kit';
import { patchImage } from '@/core/patch/patch-image';
import { openZip } from '@/platform/any/open-zip';
import { nodePorts } from '@/platform/node/node-ports';
import { BACKUP_TABLES, dumpTable } from '@/server/db/backup-tables';
import { appendEvent } from '@/server/repositories/event-repository';
import { listImages } from '@/server/repositories/image-repository';
import { addHandset } from '@/server/services/bench-service';
import { agreeToCable, cableSettings, cableSwitchedOn, switchCable } from '@/server/services/cable-service';
import { backupResponse, receiveBackup, restoreBackup } from '@/server/services/backup-service';
import { sweepIncoming } from '@/server/services/incoming';
import { jobEnded } from '@/server/services/jobs';
import { keepSecret } from '@/server/services/record-service';
import { storeImage, storeKit } from '@/server/services/image-service';
import { startRound } from '@/server/rounds/opening';
import { setSlotByHand } from '@/server/services/slot-service';
import { checkVault, storeView, throwAway } from '@/server/services/vault-service';
import { isWhole, vaultPath, vaultSize } from '@/server/vault/vault';
import { ended } from '../fixtures/ended-job';
import { codeOf, errorOf } from '../fixtures/expect-error';
import { kitZip, stockImage, zipBytes } from '../fixtures/images';
import { DUMP, freshServer, pieces, sha256 } from '../fixtures/server-world';
import { OTHER_MONTH } from '../fixtures/stand-in-world';

let server: Awaited<ReturnType<typeof freshServer>>;
beforeEach(async () => {
  server = await freshServer();
});
afterEach(() => server.end());

interface World {
  readonly handset: string;
  readonly stock: string;
  readonly patched: string;
  readonly old: string;
}

/** A handset with a patched image on slot a, its stock, and a stock image that nobody needs. */
async function makeWorld(): Promise<World> {
  const handset = await addHandset('North', DUMP);
  const [stock, old] = [await stockImage(), await stockImage({ fingerprint: OTHER_MONTH })];
  for (const bytes of [stock, old])
    await storeImage(sha256(bytes), pieces(bytes), {
      from: 'package',
      package: 'hill.zip',
      partition: 'init_boot',
      verified: 'yes',
    });
  const kitBytes = await kitZip();
  await storeKit(sha256(kitBytes), pieces(kitBytes), 'burrow.kit.zip');
  const { kit } = await readKit(memorySource(kitBytes), nodePorts);
  const patched = await patchImage(memorySource(stock), kit, nodePorts);
  await storeImage(patched.sha256, pieces(patched.bytes), {
    from: 'patch',
    stock: sha256(stock),
    kit: sha256(kitBytes),
  });
  await setSlotByHand(handset, 'a', 'init_boot', patched.sha256, 'as it is');
  await keepSecret(handset, 'code', 'CODE1234');
  await startRound({
    handsetId: handset,
    goal: 'first root',
    target: null,
    lane: null,
    limits: { computer: true, wipeAllowed: false, keepFuse: false },
  });
  return { handset, stock: sha256(stock), patched: patched.sha256, old: sha256(old) };
}

const backupBytes = async (withPrivate: boolean) =>
  new Uint8Array(await (await backupResponse(withPrivate)).arrayBuffer());
const restored = async (bytes: Uint8Array) =>
  ended(await restoreBackup((await receiveBackup(pieces(bytes, 65_536))).token));
const allTables = async () =>
  Object.fromEntries(
    await Promise.all(BACKUP_TABLES.map(async (table) => [table, await dumpTable(table)] as const)),
  );
const elsewhere = async () => {
  await server.end();
  server = await freshServer();
};
const incoming = () => readdir(join(server.dir, 'incoming')).catch(() => [] as string[]);

describe('the vault', () => {
  it('is checked file by file, and says what is damaged, gone or nobody’s', async () => {
    const { stock, old } = await makeWorld();
    expect(await ended(await checkVault())).toMatchObject({
      state: 'done',
      doneBytes: (await vaultSize()).bytes,
    });
    expect((await storeView()).lastCheck).toMatchObject({ checked: 4, damaged: [], missing: [], strays: 0 });
    await truncate(vaultPath('images', stock), 1000);
    await rm(vaultPath('images', old));
    await writeFile(join(vaultPath('images', stock), '..', 'f'.repeat(64)), 'x');
    await ended(await checkVault());
    const view = await storeView();
    expect(view.lastCheck).toMatchObject({ damaged: [stock], missing: [old], strays: 1 });
    expect(view.images.find((image) => image.sha256 === stock)?.state).toBe('damaged');
  });

  it('keeps every way back, and lets go of what nobody needs', async () => {
    const { stock, patched, old } = await makeWorld();
    expect((await errorOf(() => throwAway(stock))).message).toMatch(/way back to stock init_boot/);
    expect((await errorOf(() => throwAway(patched))).message).toMatch(/on North now/);
    await throwAway(old);
    await expect(stat(vaultPath('images', old))).rejects.toThrow();
    expect(await codeOf(() => throwAway(old))).toBe('not-found');
    expect((await storeView()).images).toHaveLength(2);
  });
});

describe('a backup', () => {
  it('brings everything back into an empty store, on another computer too', async () => {
    const { stock, patched, old } = await makeWorld();
    const before = await allTables();
    const bytes = await backupBytes(true);
    await elsewhere();
    const preview = await receiveBackup(pieces(bytes));
    expect(preview).toMatchObject({ withPrivate: true, files: 4, filesHere: 0 });
    expect(preview.tables.find((table) => table.name === 'handsets')).toMatchObject({
      rows: 1,
      fresh: 1,
      differing: 0,
    });
    expect(await dumpTable('handsets')).toEqual([]);
    expect(await ended(await restoreBackup(preview.token))).toMatchObject({ state: 'done', error: null });
    const after = await allTables();
    for (const table of BACKUP_TABLES)
      if (table !== 'events') expect(after[table], table).toEqual(before[table]);
    const said = (events: readonly object[]) => events.map((event) => ({ ...event, id: 0 }));
    expect(said(after['events']!).slice(0, before['events']!.length)).toEqual(said(before['events']!));
    for (const hash of [stock, patched, old]) expect(await isWhole('images', hash)).toBe(true);
    expect(await incoming()).toEqual([]);
  });

  it('brings no leave to reach real handsets along, and takes none away that is here', async () => {
    const { handset } = await makeWorld();
    await switchCable(true);
    await agreeToCable(handset);
    const bytes = await backupBytes(true);
    await restored(bytes);
    expect(await cableSettings(handset)).toMatchObject({ agreed: true });
    expect(await cableSwitchedOn()).not.toBeNull();
    await elsewhere();
    expect(await restored(bytes)).toMatchObject({ state: 'done', error: null });
    expect(await cableSettings(handset)).toEqual({ on: null, agreed: false });
  });

  it('restored twice at the same time loses no file, of one upload or of two', async () => {
    await makeWorld();
    const bytes = await backupBytes(true);
    await elsewhere();
    const [one, two] = [await receiveBackup(pieces(bytes)), await receiveBackup(pieces(bytes))];
    const jobs = await Promise.all([one, two, one].map(({ token }) => restoreBackup(token)));
    const ends = await Promise.all(jobs.map((job) => jobEnded(job.id)));
    expect(ends).toHaveLength(3);
    expect((await listImages()).length).toBe(3);
    for (const { sha256: hash } of await listImages()) expect(await isWhole('images', hash), hash).toBe(true);
    expect(await incoming()).toEqual([]);
  });

  it('mends what was damaged here, and is not made of what is', async () => {
    const { stock, patched, old } = await makeWorld();
    const bytes = await backupBytes(true);
    const whole = await readFile(vaultPath('images', stock));
    await writeFile(
      vaultPath('images', stock),
      whole.map((byte, i) => (i === 4000 ? byte ^ 1 : byte)),
    );
    await truncate(vaultPath('images', patched), 1000);
    await truncate(vaultPath('images', old), 0);
    expect((await errorOf(() => backupResponse(true))).code).toBe('bad-hash');
    const preview = await receiveBackup(pieces(bytes));
    expect(preview).toMatchObject({ files: 4, filesHere: 1 });
    expect(await ended(await restoreBackup(preview.token))).toMatchObject({ state: 'done' });
    for (const hash of [stock, patched, old]) expect(await isWhole('images', hash)).toBe(true);
  });

  it('is an open ZIP with its own list in front, and without private values if so wished', async () => {
    await makeWorld();
    const archive = await openZip(memorySource(await backupBytes(false), 'backup.zip'));
    expect(archive.entries[0]!.name).toBe('eterno-backup.json');
    expect(archive.entries.some((entry) => entry.name === 'tables/secrets.json')).toBe(false);
    expect(
      archive.entries
        .filter((entry) => entry.name.startsWith('images/'))
        .every((entry) => entry.method === 'stored'),
    ).toBe(true);
    const text = JSON.stringify(
      await Promise.all(
        archive.entries
          .filter((one) => one.name.endsWith('.json'))
          .map(async (one) => new TextDecoder().decode(await archive.readEntry(one, 1e8))),
      ),
    );
    expect(text).not.toMatch(/SERIAL42|CODE1234/);
  });

  it('twice restored doubles nothing, and what differs stays as it is here', async () => {
    const { handset } = await makeWorld();
    const bytes = await backupBytes(true);
    await appendEvent({ at: 5, handsetId: handset, roundId: null, kind: 'mine', data: {} });
    const { updateHandset } = await import('@/server/repositories/handset-repository');
    await updateHandset(handset, { name: 'Renamed here' });
    const before = await allTables();
    const preview = await receiveBackup(pieces(bytes));
    expect(preview.tables.find((table) => table.name === 'handsets')).toMatchObject({
      fresh: 0,
      differing: 1,
    });
    expect(preview.filesHere).toBe(preview.files);
    await ended(await restoreBackup(preview.token));
    const after = await allTables();
    for (const table of BACKUP_TABLES)
      expect(after[table]!.length - before[table]!.length, table).toBe(table === 'events' ? 1 : 0);
    expect((after['handsets']![0] as { name: string }).name).toBe('Renamed here');
  });

  it('that is damaged anywhere restores nothing and leaves nothing behind', async () => {
    await makeWorld();
    const bytes = await backupBytes(true);
    const archive = await openZip(memorySource(bytes, 'b'));
    const images = archive.entries.filter((entry) => entry.name.startsWith('images/'));
    await elsewhere();
    // before the first file of it is here, and after all the others are
    for (const { headerOffset } of [images[0]!, images.at(-1)!]) {
      const flipped = bytes.slice();
      flipped[headerOffset + 4000] = flipped[headerOffset + 4000]! ^ 0xff;
      expect(await restored(flipped)).toMatchObject({ state: 'failed', error: { code: 'bad-hash' } });
      expect(await dumpTable('handsets')).toEqual([]);
      expect((await vaultSize()).files).toBe(0);
    }
    for (const share of [0.3, 0.6, 0.9, 0.999])
      await expect(receiveBackup(pieces(bytes.slice(0, Math.floor(bytes.length * share))))).rejects.toThrow();
    await sweepIncoming();
    expect(await incoming()).toEqual([]);
  });

  it('that lists a member twice is refused by type', async () => {
    await makeWorld();
    const bytes = Buffer.from(await backupBytes(true));
    // another table gets the name of the first, in its own header and in the directory
    const [one, other] = ['tables/facts.json', 'tables/steps.json'];
    for (let at = bytes.indexOf(other!); at >= 0; at = bytes.indexOf(other!, at + 1)) bytes.write(one!, at);
    await elsewhere();
    const code = await receiveBackup(pieces(bytes)).then(
      () => null,
      (thrown: { code: string }) => thrown.code,
    );
    expect(code).toBe('duplicate');
    expect(await incoming()).toEqual([]);
  });

  it('can be stopped in the middle, and leaves the store as it was', async () => {
    await makeWorld();
    const bytes = await backupBytes(true);
    await elsewhere();
    const { token } = await receiveBackup(pieces(bytes));
    const job = await restoreBackup(token);
    const { cancelJob } = await import('@/server/services/jobs');
    const end = ended(job);
    cancelJob(job.id);
    expect((await end).state).toBe('cancelled');
    expect(await dumpTable('handsets')).toEqual([]);
    expect((await vaultSize()).files).toBe(0);
    expect(await restored(bytes)).toMatchObject({ state: 'done' });
  });

  describe('made by somebody else is refused when', () => {
    const manifest = (change: object = {}) => ({
      format: 'eterno-backup',
      formatVersion: 1,
      madeAt: 1,
      withPrivate: true,
      tables: [],
      files: [],
      ...change,
    });
    const table = (name: string, rows: unknown[]) => {
      const text = JSON.stringify(rows);
      return {
        entry: {
          name,
          rows: rows.length,
          sizeBytes: text.length,
          sha256: sha256(new TextEncoder().encode(text)),
        },
        text,
      };
    };
    const make = (list: object, members: Record<string, string> = {}) =>
      zipBytes({ 'eterno-backup.json': JSON.stringify(list), ...members });
    const handsets = (...rows: unknown[]) => {
      const { entry, text } = table('handsets', rows);
      return make(manifest({ tables: [entry] }), { 'tables/handsets.json': text });
    };
    const GOOD = {
      id: 'x',
      name: 'n',
      model: 'm',
      rootPartition: null,
      slotCount: 2,
      link: 'hand',
      createdAt: 1,
    };
    const code = async (bytes: Promise<Uint8Array>) => {
      const made = await bytes;
      return codeOf(() => receiveBackup(pieces(made)));
    };

    it.each<[string, () => Promise<Uint8Array>, string]>([
      [
        'it is no ZIP',
        async () => new TextEncoder().encode('no zip at all, but long enough to be looked at'),
        'bad-magic',
      ],
      ['it has no list', () => zipBytes({ 'a.txt': 'x' }), 'bad-magic'],
      ['its list is no JSON', () => zipBytes({ 'eterno-backup.json': '{' }), 'bad-magic'],
      ['its list is another program’s', () => make({ format: 'other' }), 'bad-magic'],
      ['it is newer', () => make(manifest({ formatVersion: 2 })), 'unsupported'],
      ['its list has a wrong kind', () => make(manifest({ files: 'all' })), 'bad-field'],
      [
        'a name tries to leave its place',
        () => make(manifest({ files: [{ shelf: 'images', sha256: '../../etc', sizeBytes: 1 }] })),
        'bad-field',
      ],
      [
        'a shelf is not one of ours',
        () => make(manifest({ files: [{ shelf: 'keys', sha256: 'a'.repeat(64), sizeBytes: 1 }] })),
        'bad-field',
      ],
      [
        'a file is listed twice',
        () =>
          make(manifest({ files: Array(2).fill({ shelf: 'images', sha256: 'a'.repeat(64), sizeBytes: 1 }) })),
        'duplicate',
      ],
      [
        'a file is not in it',
        () => make(manifest({ files: [{ shelf: 'images', sha256: 'a'.repeat(64), sizeBytes: 1 }] })),
        'not-found',
      ],
      [
        'a table is not known',
        () => make(manifest({ tables: [table('jobs', []).entry] }), { 'tables/jobs.json': '[]' }),
        'unsupported',
      ],
      ['a table is missing', () => make(manifest({ tables: [table('handsets', []).entry] })), 'not-found'],
      [
        'a table is not what the list says',
        () => make(manifest({ tables: [table('handsets', []).entry] }), { 'tables/handsets.json': '[1]' }),
        'bad-hash',
      ],
      ['a row has a column too many', () => handsets({ ...GOOD, isAdmin: 1 }), 'bad-field'],
      ['a row lacks a column', () => handsets({ ...GOOD, name: undefined }), 'bad-field'],
      ['a row has the wrong kind', () => handsets({ ...GOOD, createdAt: 'yesterday' }), 'bad-field'],
      ['a row is no row', () => handsets(7), 'bad-field'],
      ['a row is there twice', () => handsets(GOOD, GOOD), 'duplicate'],
      [
        'it says it holds nothing private and does',
        () =>
          make(manifest({ withPrivate: false, tables: [table('secrets', []).entry] }), {
            'tables/secrets.json': '[]',
          }),
        'bad-field',
      ],
    ])('%s', async (_what, make_, expected) => {
      expect(await code(make_())).toBe(expected);
      expect(await incoming()).toEqual([]);
    });

    it('a row speaks of a handset that is not in it: nothing is restored', async () => {
      const { entry, text } = table('facts', [
        {
          id: 'f',
          handsetId: 'gone',
          key: 'device',
          value: 'hill',
          source: 'typed',
          witness: 'person',
          at: 1,
        },
      ]);
      const bytes = await make(manifest({ tables: [entry] }), { 'tables/facts.json': text });
      expect(await restored(bytes)).toMatchObject({ state: 'failed', error: { code: 'bad-field' } });
      expect(await dumpTable('facts')).toEqual([]);
    });
    it('a token is no token', async () =>
      expect(await codeOf(async () => restored_('../../x'))).toBe('unsafe-path'));
    const restored_ = async (token: string) => {
      const job = await ended(await restoreBackup(token));
      throw (await import('@/core/errors')).EternoError.fromData(job.error!);
    };
  });
});
