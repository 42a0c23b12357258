import { readdir, readFile, stat, truncate, utimes, writeFile } from 'node:fs/promises';
import { randomUUID } from 'node:crypto';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { BACKUP_FORMAT, BACKUP_MANIFEST, BACKUP_VERSION } from '@/contracts/backup-manifest';
import { boundedJson } from '@/core/bounded-json';
import { closeDatabase, database } from '@/server/db/connection';
import { databasePath } from '@/server/db/data-dir';
import { mendRows } from '@/server/db/mend-rows';
import { migrate } from '@/server/db/migrate';
import { appendEvent, listEvents } from '@/server/repositories/event-repository';
import { writeSecret } from '@/server/repositories/handset-repository';
import { readSetting, writeSetting } from '@/server/repositories/setting-repository';
import { addHandset, benchRows } from '@/server/services/bench-service';
import { backupResponse, receiveBackup } from '@/server/services/backup-service';
import { bringInCalendar, calendarText } from '@/server/services/calendar-file';
import { saveWaitingRule } from '@/server/services/calendar-service';
import { storeImage } from '@/server/services/image-service';
import { receiveFile, sweepIncoming } from '@/server/services/incoming';
import { jobEnded } from '@/server/services/jobs';
import { logFile } from '@/server/services/log-export';
import { importLog } from '@/server/services/log-import';
import { recover } from '@/server/services/recover';
import { noteBackup } from '@/server/services/record-service';
import { checkVault, storeView } from '@/server/services/vault-service';
import { saveCommands } from '@/server/services/vocabulary-service';
import { rawRound, rawStep } from '../fixtures/raw-round';
import { codeOf, errorOf } from '../fixtures/expect-error';
import { stockImage, zipBytes } from '../fixtures/images';
import { begin, walk } from '../fixtures/lane-walk';
import { laneWorld } from '../fixtures/lane-world';
import { lifeboat } from '../fixtures/lifeboat';
import { parseZip } from '../fixtures/read-zip';
import { DUMP, freshServer, pieces, sha256 } from '../fixtures/server-world';

/* What comes from elsewhere never shuts the rooms, never hangs the server, and nothing private leaves. */

let server: Awaited<ReturnType<typeof freshServer>>;
beforeEach(async () => {
  server = await freshServer();
});
afterEach(() => server.end());

const bytesOf = (value: unknown) => new TextEncoder().encode(JSON.stringify(value));
const log = (tables: object) =>
  bytesOf({ format: 'eterno-log', formatVersion: 1, madeAt: 1, withPrivate: false, tables });
const query = async (sql: string) => (await database()).sequelize.query(sql);
const keepOne = async () => {
  const image = await stockImage();
  await storeImage(sha256(image), pieces(image), { from: 'file' });
};

describe('a store at its start', () => {
  it('whose database was emptied is not taken for a new one', async () => {
    await keepOne();
    await closeDatabase();
    await truncate(databasePath(), 0);
    const error = await errorOf(() => migrate());
    expect(error.code).toBe('conflict');
    expect(error.message).toContain('vault');
  });
  it('of a newer version is left alone', async () => {
    await query("INSERT INTO SequelizeMeta (name) VALUES ('9999-of-later')");
    expect(await codeOf(() => migrate())).toBe('unsupported');
  });
  it.each([
    [
      'garbage',
      async () =>
        writeFile(databasePath(), 'no database at all, and longer than a header of one would be'.repeat(20)),
    ],
    ['cut off', async () => truncate(databasePath(), 5000)],
  ])('whose database is %s says so in one sentence', async (_what, spoil) => {
    await closeDatabase();
    await spoil();
    for (const ending of ['-wal', '-shm']) await writeFile(`${databasePath()}${ending}`, '');
    const error = await errorOf(() => migrate());
    expect(error.code).toBe('corrupt');
    expect(error.message).toContain('eterno.sqlite');
  });
  it('is for its owner alone', async () => {
    await keepOne();
    for (const path of [server.dir, databasePath()]) expect((await stat(path)).mode & 0o077, path).toBe(0);
  });
});

describe('rows that no room could show', () => {
  const event = (change: object) => ({
    id: 1,
    at: 5,
    handsetId: null,
    roundId: null,
    kind: 'vault-checked',
    data: '{"version":1}',
    ...change,
  });
  it.each<[string, object]>([
    ['a check of the vault that holds none', event({ data: 'x' })],
    ['one without its lists', event({})],
    ['a time that is none', event({ kind: 'note', data: '{}', at: 9e15 })],
    ['data that is no object', event({ kind: 'note', data: '[]' })],
  ])('are refused in a log: %s', async (_what, row) => {
    expect(await codeOf(() => importLog(log({ events: [row] }), true))).toBe('bad-field');
    expect((await storeView()).lastCheck).toBeNull();
  });
  it('and a word that is in no list', async () => {
    const round = {
      id: 'r',
      handsetId: 'h',
      kind: 'first root',
      lane: 'x',
      title: 'x',
      target: null,
      plan: '{}',
      basedOn: null,
      state: 'ajar',
    };
    const whole = {
      ...round,
      version: 0,
      overrides: '[]',
      openedAt: 1,
      closedAt: null,
      again: null,
      againNote: null,
    };
    expect(await codeOf(() => importLog(log({ rounds: [whole] }), true))).toBe('bad-field');
  });

  it('that are in the store already are set aside whole at the next start, and the rooms show', async () => {
    const handset = await addHandset('North', DUMP);
    const round = await rawRound(handset, { openedAt: 5 }, [rawStep('read-facts')]);
    await appendEvent({
      at: 6,
      handsetId: null,
      roundId: null,
      kind: 'vault-checked',
      data: {} as { version: 1 },
    });
    await query(`UPDATE rounds SET plan = 'x', overrides = '{' WHERE id = '${round.id}'`);
    await query(`UPDATE steps SET evidence = '{}' WHERE roundId = '${round.id}'`);
    await query(`INSERT INTO settings (key, value) VALUES ('vocabulary', '{"vocabulary":{"write":5}}')`);
    await expect(storeView()).rejects.toThrow();
    await recover();
    expect((await storeView()).lastCheck).toBeNull();
    expect((await benchRows()).map(({ name }) => name)).toEqual(['North']);
    expect(await readSetting('vocabulary')).toBeNull();
    const files = (await readdir(server.dir)).filter((name) => name.startsWith('set-aside-'));
    const rows = (await Promise.all(files.map((name) => readFile(join(server.dir, name), 'utf8')))).flatMap(
      (text) => (JSON.parse(text) as { rows: { table: string; row: { plan?: string } }[] }).rows,
    );
    expect(new Set(rows.map(({ table }) => table))).toEqual(
      new Set(['events', 'rounds', 'steps', 'settings']),
    );
    expect(rows.some(({ row }) => row.plan === 'x')).toBe(true);
    expect(
      (await listEvents({ kind: 'rows-set-aside' })).map(
        ({ data }) => (JSON.parse(data) as { rows: number }).rows,
      ),
    ).toEqual([5]);
    await recover();
    expect((await readdir(server.dir)).filter((name) => name.startsWith('set-aside-'))).toEqual(files);
  });

  it('are none that Eterno itself has kept', async () => {
    await server.end();
    const world = await laneWorld();
    try {
      const round = await begin(world, 'first root');
      await walk(world, round);
      await saveWaitingRule(world.handset, { days: 7, kit: true, modules: 2 });
      await saveCommands('posix', { write: 'mytool {target} {file}' }, 'mytool 1.2');
      await lifeboat();
      await noteBackup({
        handsetId: world.handset,
        what: 'files',
        place: 'off the handset',
        note: '',
        parts: null,
      });
      await jobEnded((await checkVault()).id);
      expect(await mendRows(1)).toBeNull();
      const file = new Uint8Array(await (await backupResponse(true)).arrayBuffer());
      expect(
        (await receiveBackup(pieces(file))).tables.every(
          ({ fresh, differing }) => fresh === 0 && differing === 0,
        ),
      ).toBe(true);
    } finally {
      await world.end();
      server = await freshServer();
    }
  });

  it('a text that a backup could not bring back is not kept, and one of before does not spoil the backup', async () => {
    expect(await codeOf(() => writeSetting('x', 'a\0b'))).toBe('bad-field');
    const handset = await addHandset('North', DUMP);
    await query(`UPDATE handsets SET name = 'a' || char(0) || 'b' WHERE id = '${handset}'`);
    const file = new Uint8Array(await (await backupResponse(true)).arrayBuffer());
    const seen = await receiveBackup(pieces(file));
    expect(seen.tables.find(({ name }) => name === 'handsets')).toMatchObject({ rows: 1 });
  });
});

describe('small files that unfold', () => {
  const event = (lines: string) =>
    `BEGIN:VCALENDAR\r\nVERSION:2.0\r\n${lines}BEGIN:VEVENT\r\nUID:a@b\r\nDTSTART;TZID=X:20261128T100000\r\nDURATION:PT1H\r\nSUMMARY:A day\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`;
  const zone = (rule: string) =>
    `BEGIN:VTIMEZONE\r\nTZID:X\r\nBEGIN:STANDARD\r\nDTSTART:19000101T000000\r\nTZOFFSETFROM:+0100\r\nTZOFFSETTO:+0200\r\nRRULE:${rule}\r\nEND:STANDARD\r\nEND:VTIMEZONE\r\n`;
  it.each([
    'FREQ=SECONDLY',
    'FREQ=MINUTELY;INTERVAL=2',
    'FREQ=YEARLY;BYSECOND=0,1,2;BYMINUTE=0,1,2',
    'FREQ=DAILY',
  ])('a calendar whose zone changes %s is read without that rule', async (rule) =>
    expect(await bringInCalendar(event(zone(rule)))).toMatchObject({ fresh: 1 }),
  );
  it('a calendar keeps the zones that people live in', async () => {
    const summer = zone('FREQ=YEARLY;BYMONTH=10;BYDAY=-1SU');
    expect(await bringInCalendar(event(summer))).toMatchObject({ fresh: 1 });
    expect(await bringInCalendar(event(summer))).toMatchObject({ same: 1 });
  });
  it.each([
    ['a line of a thousand parts', `SUMMARY${';A=b'.repeat(200_000)}:x`, 'too-large'],
    ['a length that never ends', 'DURATION:P99999999W', 'bad-field'],
  ])('a calendar with %s is refused', async (_what, line, code) =>
    expect(await codeOf(() => bringInCalendar(event('').replace('SUMMARY:A day', line)))).toBe(code),
  );
  it('a calendar with a thousand alarms and notes is read past them', async () => {
    const alarm =
      'BEGIN:VALARM\r\nTRIGGER:-PT5M\r\nBEGIN:VEVENT\r\nUID:inner\r\nEND:VEVENT\r\nEND:VALARM\r\n';
    const text = event('').replace(
      'END:VEVENT',
      `DESCRIPTION:${'x'.repeat(300_000)}\r\n${alarm.repeat(1000)}END:VEVENT`,
    );
    expect(await bringInCalendar(text)).toMatchObject({ fresh: 1 });
  });
  it('our own calendar holds no bare return', () => {
    const text = calendarText(
      [{ uid: 'a', what: 'x\rATTACH:y', from: 0, to: 60_000, kind: 'own', allDay: false } as never],
      0,
    );
    expect(text.replaceAll('\r\n', '')).not.toContain('\r');
  });

  it.each<[string, (name: string) => string]>([
    ['a list of a million lists', () => `[${'[],'.repeat(1_000_000)}[]]`],
    ['rows inside rows', () => `[${'{"a":['.repeat(1000)}${']}'.repeat(1000)}]`],
    ['more rows than it says', () => `[${'{},'.repeat(1000)}{}]`],
  ])('a backup with %s is refused before it is built', async (_what, table) => {
    const rows = new TextEncoder().encode(table(''));
    const listed = { name: 'events', rows: 1, sizeBytes: rows.length, sha256: sha256(rows) };
    const list = {
      format: BACKUP_FORMAT,
      formatVersion: BACKUP_VERSION,
      madeAt: 1,
      withPrivate: false,
      tables: [listed],
      files: [],
    };
    const zip = await zipBytes({ [BACKUP_MANIFEST]: JSON.stringify(list), 'tables/events.json': rows });
    expect(await codeOf(() => receiveBackup(pieces(zip)))).toBe('too-large');
    expect(await readdir(join(server.dir, 'incoming'))).toEqual([]);
  });
  it('bounds count lists and objects, not what stands in texts', () => {
    expect(boundedJson(bytesOf([{ a: '[[{"\\"{[' }]), { depth: 2, structures: 2 })).toEqual([
      { a: '[[{"\\"{[' },
    ]);
  });

  it('a file may be as large as it may be, in however many pieces, and not a byte larger', async () => {
    const token = randomUUID();
    const sizes: number[] = [];
    const come = (...lengths: number[]) =>
      receiveFile(token, Readable.from(lengths.map((length) => new Uint8Array(length))), 10, (size) =>
        sizes.push(size),
      );
    expect(await come(4, 6)).toBe(10);
    expect(sizes).toEqual([4, 10]);
    expect(await readdir(join(server.dir, 'incoming'))).toEqual([`${token}.zip`]);
    await sweepIncoming();
    for (const lengths of [[4, 7], [11]]) expect(await codeOf(() => come(...lengths))).toBe('too-large');
    expect(await readdir(join(server.dir, 'incoming'))).toEqual([]);
  });

  it('previews that nobody answered go when the next one comes', async () => {
    const file = new Uint8Array(await (await backupResponse(false)).arrayBuffer());
    await receiveBackup(pieces(file));
    const [first] = await readdir(join(server.dir, 'incoming'));
    await utimes(join(server.dir, 'incoming', first!), 0, 0);
    await receiveBackup(pieces(file));
    expect(await readdir(join(server.dir, 'incoming'))).not.toContain(first);
    await sweepIncoming();
    expect(await readdir(join(server.dir, 'incoming'))).toEqual([]);
  });
});

describe('private values', () => {
  const secrets = ['UN_LOCK_4711', 'AB|CD|99', 'with "quotes" \\ in', 'Z7'];
  async function told(): Promise<string> {
    const handset = await addHandset('North', DUMP);
    for (const value of secrets) await writeSecret(handset, 'code', value);
    await query(`UPDATE handsets SET name = 'North ${secrets[0]}' WHERE id = '${handset}'`);
    await appendEvent({
      at: 9,
      handsetId: handset,
      roundId: null,
      kind: 'note',
      data: { version: 1, text: secrets.join(' and ') } as { version: 1 },
    });
    return handset;
  }
  it.each(['json', 'csv', 'markdown', 'calendar'] as const)(
    'are in no log that leaves as %s, not even replaced, escaped or short ones',
    async (form) => {
      await told();
      const text = await logFile(form, false);
      for (const value of [
        ...secrets,
        ...secrets.map((one) => JSON.stringify(one).slice(1, -1)),
        'UN\\_LOCK',
        'SERIAL42',
      ])
        expect(text).not.toContain(value);
    },
  );
  it('are in a log that is asked to carry them', async () => {
    await told();
    expect(await logFile('json', true)).toContain('UN_LOCK_4711');
  });
  it('are in no backup that is made without them, wherever they stand', async () => {
    await told();

    const without = new Uint8Array(await (await backupResponse(false)).arrayBuffer());
    for (const table of ['handsets', 'events']) {
      const text = await parseZip(without, `tables/${table}.json`);
      expect(text).toContain('[private]');
      for (const value of ['UN_LOCK', 'AB|CD', 'SERIAL42', 'quotes']) expect(text).not.toContain(value);
    }
    const whole = new Uint8Array(await (await backupResponse(true)).arrayBuffer());
    expect(await parseZip(whole, 'tables/handsets.json')).toContain('UN_LOCK_4711');
  });
});
