import Papa from 'papaparse';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { LogRound } from '@/contracts/log-view';
import { EVERYTHING } from '@/contracts/log-view';
import { memorySource } from '@/core/bytes/byte-source';
import { openZip } from '@/platform/any/open-zip';
import { backupResponse } from '@/server/services/backup-service';
import { filterRounds, timeByLane } from '@/server/services/log-filter';
import { appendEvent } from '@/server/repositories/event-repository';
import { writeSecret } from '@/server/repositories/handset-repository';
import { listNotes } from '@/server/repositories/module-repository';
import { stepsOf } from '@/server/repositories/round-repository';
import { addHandset } from '@/server/services/bench-service';
import { logFile } from '@/server/services/log-export';
import { importLog } from '@/server/services/log-import';
import { logRounds, logView } from '@/server/services/log-service';
import { learnt } from '@/server/services/learnt-service';
import { addNote, pictureResponse } from '@/server/services/note-service';
import { tellRoot } from '@/server/services/root-history';
import { rawRound, rawStep } from '../fixtures/raw-round';
import { codeOf } from '../fixtures/expect-error';
import { DUMP, freshServer } from '../fixtures/server-world';

const importText = (text: string, apply: boolean) => importLog(new TextEncoder().encode(text), apply);

/* The log out and in again, with a real database, and what it teaches. */

let server: Awaited<ReturnType<typeof freshServer>>;
beforeEach(async () => {
  server = await freshServer();
});
afterEach(() => server.end());

const SERIAL = 'HX77PRIVATE42';
const PNG = new Uint8Array([0x89, 0x50, 0x4e, 0x47, 1, 2, 3]);
const MINUTE = 60_000;

async function aRound(
  handsetId: string,
  change: { openedAt?: number; seconds?: number; seen?: string } = {},
) {
  const { openedAt = Date.now() - 3_600_000, seconds = 90, seen = 'written' } = change;
  return rawRound(
    handsetId,
    {
      kind: 'root again',
      title: 'Root again',
      state: 'closed',
      version: 1,
      overrides: [{ checkId: 'backup', reason: 'nothing on it' }],
      openedAt,
      closedAt: openedAt + 30 * MINUTE,
    },
    [
      rawStep('write-root', {
        state: 'done',
        startedAt: openedAt,
        endedAt: openedAt + seconds * 1000,
        actor: 'link',
        evidence: [{ what: seen, strength: 'strong' }],
      }),
    ],
  );
}

async function aLog() {
  const handset = await addHandset('North gate', DUMP);
  await writeSecret(handset, 'serial', SERIAL);
  const round = await aRound(handset, { seen: `the bootloader says ${SERIAL}, slot a` });
  return { handset, round };
}

describe('the log as files', () => {
  it('holds nothing private in any form unless it is asked for, wherever it stands', async () => {
    const { round } = await aLog();
    await addNote({
      roundId: round.id,
      stepId: null,
      text: `looked at ${SERIAL.toLowerCase()}`,
      picture: null,
    });
    for (const form of ['json', 'csv', 'markdown', 'calendar'] as const) {
      const text = await logFile(form, false);
      expect(text.length).toBeGreaterThan(100);
      expect(text.toLowerCase()).not.toContain(SERIAL.toLowerCase());
    }
    expect(await logFile('json', true)).toContain(SERIAL);
    expect(await logFile('csv', true)).not.toContain(SERIAL);
  });

  it('as CSV is a row a step that a table program reads, and no formula', async () => {
    const { handset } = await aLog();
    await aRound(handset, { seen: '=HYPERLINK("x"), with "quotes"\nand a line' });
    const { data, errors } = Papa.parse<Record<string, string>>(await logFile('csv', false), {
      header: true,
    });
    expect(errors).toEqual([]);
    expect(data).toHaveLength(2);
    const odd = data.find((row) => row['seen']!.includes('HYPERLINK'))!;
    expect(odd['seen']!.startsWith('=')).toBe(false);
    expect(odd).toMatchObject({ handset: 'North gate', stage: 'Flash', seconds: '90', done_by: 'link' });
  });

  it('as JSON comes back whole on another store, and a second time brings nothing', async () => {
    const { round } = await aLog();
    await addNote({
      roundId: round.id,
      stepId: (await stepsOf([round.id]))[0]!.id,
      text: 'cable two',
      picture: null,
    });
    const file = await logFile('json', true);
    const before = await logRounds();
    await server.end();
    server = await freshServer();
    const seen = await importText(file, false);
    expect(seen).toMatchObject({ applied: false, conflicts: [] });
    expect(await logRounds()).toEqual([]);
    await importText(file, true);
    expect(await logRounds()).toEqual(before);
    const again = await importText(file, false);
    expect(again.tables.every((table) => table.fresh === 0 && table.differing === 0)).toBe(true);
  });

  it('shows what is here and says something else, and leaves it as it is', async () => {
    const { round } = await aLog();
    const told = JSON.parse(await logFile('json', false)) as { tables: { rounds: { title: string }[] } };
    told.tables.rounds[0]!.title = 'Something else';
    const found = await importText(JSON.stringify(told), true);
    expect(found.conflicts).toContainEqual({ table: 'rounds', key: round.id, columns: ['title'] });
    expect(found.moreConflicts).toBe(0);
    expect((await logRounds())[0]!.title).toBe('Root again');
  });

  it('lists the first fifty rows that say something else, and counts the others', async () => {
    for (let i = 0; i < 53; i += 1) await addHandset(`North ${i}`, DUMP.replace('SERIAL42', `SERIAL${i}`));
    const told = JSON.parse(await logFile('json', false)) as { tables: { handsets: { name: string }[] } };
    for (const handset of told.tables.handsets) handset.name = `Other ${handset.name}`;
    const found = await importText(JSON.stringify(told), false);
    expect(found.conflicts).toHaveLength(50);
    expect(found.moreConflicts).toBe(told.tables.handsets.length - 50);
  });

  it('that is damaged, newer, strange or speaks of what is not in it is refused by type, and nothing has changed', async () => {
    const { round } = await aLog();
    const good = await logFile('json', false);
    const changed = (change: (told: Record<string, unknown>) => void) => {
      const told = JSON.parse(good) as Record<string, unknown>;
      change(told);
      return JSON.stringify(told);
    };
    expect(await codeOf(() => importText(good.slice(0, -20), true))).toBe('bad-magic');
    for (const text of ['[]', 'null', '5', '""', '{}'])
      expect(await codeOf(() => importText(text, true)), text).toBe('bad-magic');
    expect(
      await codeOf(() =>
        importText(
          changed((told) => void (told['formatVersion'] = 9)),
          true,
        ),
      ),
    ).toBe('unsupported');
    expect(
      await codeOf(() =>
        importText(
          changed((told) => void ((told['tables'] as Record<string, unknown>)['spies'] = [])),
          true,
        ),
      ),
    ).toBe('unsupported');
    expect(
      await codeOf(() =>
        importText(
          changed((told) => void ((told['tables'] as Record<string, unknown>)['rounds'] = [{ id: 5 }])),
          true,
        ),
      ),
    ).toBe('bad-field');
    const orphan = changed((told) => {
      const tables = told['tables'] as Record<string, { id: string; roundId?: string }[]>;
      tables['steps'] = [{ ...tables['steps']![0]!, id: 'x', roundId: 'no-such-round' }];
    });
    expect(await codeOf(() => importText(orphan, true))).toBe('bad-field');
    expect((await stepsOf([round.id])).length).toBe(1);
  });
});

describe('notes and pictures', () => {
  it('stand at their step, the picture in the vault under its hash', async () => {
    const { round } = await aLog();
    const [step] = await stepsOf([round.id]);
    await addNote({ roundId: round.id, stepId: step!.id, text: 'what it showed', picture: PNG });
    const { picture } = (await listNotes())[0]!;
    const response = await pictureResponse(picture!);
    expect(response.headers.get('content-type')).toBe('image/png');
    expect(new Uint8Array(await response.arrayBuffer())).toEqual(PNG);
    expect((await logRounds())[0]!.steps[0]!.notes).toMatchObject([{ text: 'what it showed', picture }]);
  });
  it('of one picture twice take it along once', async () => {
    const { round } = await aLog();
    for (const text of ['before', 'after'])
      await addNote({ roundId: round.id, stepId: null, text, picture: PNG });
    const bytes = new Uint8Array(await (await backupResponse(true)).arrayBuffer());
    const { entries } = await openZip(memorySource(bytes, 'backup.zip'));
    expect(entries.filter(({ name }) => name.startsWith('pictures/'))).toHaveLength(1);
  });
  it('are refused empty, for another round’s step, and for what is no picture', async () => {
    const { round } = await aLog();
    const note = (change: object) =>
      addNote({ roundId: round.id, stepId: null, text: '', picture: null, ...change });
    expect(await codeOf(() => note({}))).toBe('bad-field');
    expect(await codeOf(() => note({ text: 'x', stepId: '0b5a3d52-6f0e-4c52-9b57-1f6d2f1a0001' }))).toBe(
      'not-found',
    );
    expect(await codeOf(() => note({ picture: new TextEncoder().encode('<svg onload=x>') }))).toBe(
      'unsupported',
    );
    expect(await codeOf(() => pictureResponse('a'.repeat(64)))).toBe('not-found');
  });
});

describe('what the log teaches', () => {
  it('ten rounds change what the planner takes a step to last', async () => {
    const { handset } = await aLog();
    const before = (await learnt()).pace['write-root']![0];
    for (let i = 0; i < 10; i += 1)
      await aRound(handset, { openedAt: Date.now() - (i + 2) * 86_400_000, seconds: 600 });
    const after = (await learnt()).pace['write-root']!;
    expect(before).toBeLessThan(2);
    expect(after[0]).toBeGreaterThan(5);
    expect(after[1]).toBeGreaterThanOrEqual(after[0]);
  });
  it('counts minutes without root by round, and the longest run', async () => {
    const { handset, round } = await aLog();
    const at = round.openedAt;
    for (const [minutes, state] of [
      [-1440, 'proven'],
      [5, 'lost'],
      [17, 'proven'],
    ] as const)
      await appendEvent({
        at: at + minutes * MINUTE,
        handsetId: handset,
        roundId: null,
        kind: 'root',
        data: { version: 1, state, why: '' },
      });
    const { rounds, held } = await logView();
    expect(rounds[0]!.minutesWithoutRoot).toBe(12);
    expect(held[0]!.longestMs).toBe(1445 * MINUTE);
    await tellRoot(handset, null, 'lost', 'again');
  });
});

describe('finding in the log', () => {
  const round = (change: Partial<LogRound>): LogRound => ({
    id: '1',
    kind: 'root again',
    title: 'Root again',
    handset: 'Ridge',
    lane: 'One image',
    reached: null,
    state: 'closed',
    openedAt: 0,
    closedAt: 1,
    seconds: 60,
    minutesWithoutRoot: 4,
    overrides: [],
    notes: [],
    again: null,
    steps: [],
    ...change,
  });
  const rounds = [
    round({ notes: [{ text: 'held for the kit', picture: null, at: 0 }] }),
    round({
      id: '2',
      handset: 'Barn',
      title: 'Recovery',
      lane: 'Another',
      state: 'given-up',
      seconds: 120,
      minutesWithoutRoot: 0,
    }),
    round({ id: '3', seconds: 180, minutesWithoutRoot: 8, again: { answer: 'no', note: 'matched by eye' } }),
  ];
  it.each([
    [{ text: 'KIT held' }, ['1']],
    [{ text: 'barn kit' }, []],
    [{ handset: 'Ridge' }, ['1', '3']],
    [{ title: 'Recovery' }, ['2']],
    [{ text: 'by eye' }, ['3']],
    [{ state: 'closed' as const, text: 'ridge' }, ['1', '3']],
  ])('%j', (filter, ids) =>
    expect(filterRounds(rounds, { ...EVERYTHING, ...filter }).map(({ id }) => id)).toEqual(ids),
  );
  it('looks everywhere in a round, what was seen at its steps too', () => {
    const step = {
      title: 'Write it',
      evidence: [{ what: 'read back: abc', strength: 'strong' }],
      notes: [{ text: 'cable two', picture: null, at: 0 }],
    } as unknown as LogRound['steps'][number];
    const all = [round({ steps: [step], overrides: [{ check: 'room', reason: 'looked myself' }] })];
    for (const text of [
      'root again',
      'ridge',
      'one image',
      'looked myself',
      'write it',
      'back: abc',
      'cable two',
    ])
      expect(filterRounds(all, { ...EVERYTHING, text }), text).toHaveLength(1);
    expect(filterRounds(all, { ...EVERYTHING, text: 'nowhere' })).toEqual([]);
  });
  it('sums by lane', () =>
    expect(timeByLane(rounds)).toEqual([
      { lane: 'One image', rounds: 2, seconds: 120, minutesWithoutRoot: 6 },
      { lane: 'Another', rounds: 1, seconds: 120, minutesWithoutRoot: 0 },
    ]));
});
