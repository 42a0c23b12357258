import Papa from 'papaparse';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Clock } from '@/core/clock';
import { machineClock } from '@/platform/node/machine-clock';
import { appendEvent } from '@/server/repositories/event-repository';
import { recordBuild } from '@/server/repositories/image-repository';
import { installedText } from '@/core/modules/installed';
import { insertFacts } from '@/server/repositories/handset-repository';
import { insertModuleTrials } from '@/server/repositories/module-repository';
import { insertTrial } from '@/server/repositories/record-repository';
import { findRound, stepsOf } from '@/server/repositories/round-repository';
import { addHandset } from '@/server/services/bench-service';
import { startBatch } from '@/server/services/batch-service';
import { addEntry, calendarView, saveWaitingRule } from '@/server/services/calendar-service';
import { runOnClock } from '@/server/services/clock';
import { logFile } from '@/server/services/log-export';
import { logView } from '@/server/services/log-service';
import { addNote } from '@/server/services/note-service';
import { notePutBack } from '@/server/services/put-back-service';
import { noteClock } from '@/server/services/record-service';
import { openRound } from '@/server/rounds/open-rounds';
import { tellRoot } from '@/server/services/root-history';
import { storeKit } from '@/server/services/image-service';
import { FINGERPRINT, kitZip } from '../fixtures/images';
import { rawRound, rawStep } from '../fixtures/raw-round';
import { DUMP, freshServer, pieces, sha256 } from '../fixtures/server-world';

/* What several handsets, rounds and notes look like together: of each only its own. */

const DAY = 86_400_000;
const HOUR = 3_600_000;
const MINUTE = 60_000;
const NOW = Date.UTC(2026, 10, 20, 12);
const still: Clock = { ...machineClock(), now: () => NOW };

let server: Awaited<ReturnType<typeof freshServer>>;
beforeEach(async () => {
  server = await freshServer();
  runOnClock(still);
});
afterEach(async () => {
  runOnClock(machineClock());
  await server.end();
});

const OTHER_DUMP = DUMP.replace('SERIAL42', 'SERIAL43')
  .replaceAll('hill_eu', 'dale_eu')
  .replaceAll('/hill:', '/dale:');
async function record(product: string, month: string, publishedAt: number): Promise<string> {
  const fingerprint = FINGERPRINT.replace('260905', month).replaceAll('hill', product.split('_')[0]!);
  await recordBuild({
    fingerprint,
    product,
    device: product.split('_')[0]!,
    buildId: `HC1.${month}.007`,
    patchLevel: `2026-${month.slice(2, 4)}-05`,
    publishedAt,
  });
  return fingerprint;
}

/** Two handsets; a round each, with notes at steps and beside them. */
async function twoRounds() {
  const [north, south] = [await addHandset('North', DUMP), await addHandset('South', OTHER_DUMP)];
  const began = NOW - 10 * DAY;
  const closed = await rawRound(
    north,
    {
      title: 'Root again',
      state: 'closed',
      reached: 'yes',
      overrides: [{ checkId: 'backup', reason: 'nothing on it' }],
      openedAt: began,
      closedAt: began + 30 * MINUTE,
      plan: { version: 1, compared: [{ id: 'x', title: 'The other lane', chosen: true } as never] },
    },
    [
      rawStep('write-root', {
        state: 'done',
        startedAt: began,
        endedAt: began + 90_000,
        actor: 'link',
        evidence: [
          { what: 'written', strength: 'strong' },
          { what: 'it hummed', strength: 'weak' },
        ],
      }),
      rawStep('start', {
        state: 'done',
        startedAt: began + 2 * MINUTE,
        endedAt: began + 150_000,
        actor: 'hand',
      }),
    ],
  );
  const open = await rawRound(south, { title: 'First root', openedAt: NOW - HOUR }, [rawStep('write-root')]);
  const [write, start] = await stepsOf([closed.id]);
  const [waiting] = await stepsOf([open.id]);
  await addNote({ roundId: closed.id, stepId: write!.id, text: 'cable two', picture: null });
  await addNote({ roundId: closed.id, stepId: start!.id, text: 'it took long', picture: null });
  await addNote({ roundId: closed.id, stepId: null, text: 'on the bench', picture: null });
  await addNote({ roundId: open.id, stepId: waiting!.id, text: 'tomorrow', picture: null });
  await addNote({ roundId: open.id, stepId: null, text: 'for the club', picture: null });
  for (const [handsetId, minutes, state] of [
    [north, -DAY / MINUTE, 'proven'],
    [north, 5, 'lost'],
    [north, 17, 'proven'],
    [south, (-2 * DAY) / MINUTE, 'proven'],
  ] as const)
    await appendEvent({
      at: began + minutes * MINUTE,
      handsetId,
      roundId: null,
      kind: 'root',
      data: { version: 1, state, why: '' },
    });
  return { north, south, closed, open, began };
}

describe('the log', () => {
  it('tells of each round its own steps, notes and times, the newest first', async () => {
    const { closed, open, began } = await twoRounds();
    const { rounds, held } = await logView();
    const notes = (list: readonly { text: string }[]) => list.map(({ text }) => text);
    expect(
      rounds.map((round) => ({
        ...round,
        notes: notes(round.notes),
        steps: round.steps.map((step) => [
          step.key,
          step.stage,
          step.state,
          step.actor,
          step.seconds,
          step.plannedSeconds,
          step.evidence.length,
          notes(step.notes),
        ]),
      })),
    ).toEqual([
      {
        id: open.id,
        kind: 'first root',
        title: 'First root',
        handset: 'South',
        lane: 'One image, written once',
        state: 'open',
        openedAt: NOW - HOUR,
        closedAt: null,
        reached: null,
        seconds: 0,
        minutesWithoutRoot: 0,
        overrides: [],
        notes: ['for the club'],
        again: null,
        steps: [['write-root', 'Flash', 'waiting', null, null, 5, 0, ['tomorrow']]],
      },
      {
        id: closed.id,
        kind: 'first root',
        title: 'Root again',
        handset: 'North',
        lane: 'The other lane',
        state: 'closed',
        openedAt: began,
        closedAt: began + 30 * MINUTE,
        reached: 'yes',
        seconds: 120,
        minutesWithoutRoot: 12,
        overrides: [{ check: 'backup', reason: 'nothing on it' }],
        notes: ['on the bench'],
        again: null,
        steps: [
          ['write-root', 'Flash', 'done', 'link', 90, 5, 2, ['cable two']],
          ['start', expect.any(String), 'done', 'hand', 30, expect.any(Number), 0, ['it took long']],
        ],
      },
    ]);
    expect(held).toEqual([
      {
        handset: 'North',
        share: expect.closeTo((11 * DAY - 12 * MINUTE) / (11 * DAY), 6),
        longestMs: 10 * DAY - 17 * MINUTE,
        minutesWithoutRoot: 12,
      },
      { handset: 'South', share: 1, longestMs: 12 * DAY, minutesWithoutRoot: 0 },
    ]);
  });

  it('as a table has a row a step, with what was seen weakly marked', async () => {
    const { began } = await twoRounds();
    const { data } = Papa.parse<Record<string, string>>(await logFile('csv', false), { header: true });
    expect(data).toHaveLength(3);
    expect(data[0]).toMatchObject({
      handset: 'South',
      seconds: '',
      started: '',
      done_by: '',
      notes: 'tomorrow',
    });
    expect(data[1]).toMatchObject({
      handset: 'North',
      round: 'Root again',
      lane: 'The other lane',
      round_state: 'closed',
      round_opened: new Date(began).toISOString(),
      stage: 'Flash',
      step_state: 'done',
      started: new Date(began).toISOString(),
      seconds: '90',
      planned_seconds: '5',
      done_by: 'link',
      seen: 'written; it hummed (weak)',
      notes: 'cable two',
    });
  });

  it('as a report has every reason, note and answer at its own round', async () => {
    await twoRounds();
    const text = await logFile('markdown', false);
    const [south, north] = text.split(/^## /m).slice(1);
    const has = (part: string | undefined, ...words: string[]) =>
      expect(words.filter((word) => !part!.includes(word))).toEqual([]);
    has(
      north,
      '2026-11-10',
      'Root again',
      'North',
      'The other lane',
      'closed',
      '2 min',
      '12 min without root',
    );
    has(north, 'backup', 'nothing on it', 'on the bench', 'cable two', 'it took long', '1.5 min', '0.1 min');
    has(south, 'First root', 'South', 'open', '0 min', 'for the club', 'tomorrow', 'waiting');
    for (const word of ['without root', 'Overridden', 'cable two', 'on the bench'])
      expect(south).not.toContain(word);
    for (const word of ['for the club', 'tomorrow']) expect(north).not.toContain(word);
    expect(text).toContain('2 rounds');
  });
});

describe('the calendar', () => {
  it('has of each handset its own, of builds those of its model, in the order of time', async () => {
    const [north, south] = [await addHandset('North', DUMP), await addHandset('South', OTHER_DUMP)];
    const noon = NOW - 12 * HOUR;
    await record('hill_eu', '260905', noon - 70 * DAY);
    await record('hill_eu', '261005', noon - 40 * DAY);
    await record('dale_eu', '260905', noon - 71 * DAY);
    await noteClock({ handsetId: south, kind: 'mailed code', endsAt: NOW + 2 * DAY, note: 'junk too' });
    await noteClock({ handsetId: north, kind: 'return window', endsAt: NOW + DAY, note: '' });
    await notePutBack(south, null, 'debugging');
    await saveWaitingRule(north, { days: 50, kit: false, modules: 0 });
    await addEntry('away', NOW + 3 * DAY, NOW + 4 * DAY, true);
    await addEntry('club day', noon + 5 * DAY, noon + 6 * DAY, false);
    const ended = await rawRound(south, {
      state: 'closed',
      openedAt: NOW - 5 * DAY,
      closedAt: NOW - 4 * DAY,
    });
    const given = await rawRound(north, {
      state: 'given-up',
      openedAt: NOW - 6 * DAY,
      closedAt: NOW - 6 * DAY,
    });
    const open = await rawRound(south, { openedAt: NOW - HOUR });
    const { items, handsets } = await calendarView(NOW);
    const mine = items
      .filter(({ kind }) => kind !== 'expected')
      .map(({ kind, from, to, allDay, handset }) => [
        kind,
        (from - noon) / HOUR,
        (to - noon) / HOUR,
        allDay,
        handset?.name,
      ]);
    expect(mine).toEqual([
      ['out', -71 * 24, -70 * 24, true, 'South'],
      ['out', -70 * 24, -69 * 24, true, 'North'],
      ['out', -40 * 24, -39 * 24, true, 'North'],
      ['round', -6 * 24 + 12, -6 * 24 + 12 + 1 / 60, false, 'North'],
      ['round', -5 * 24 + 12, -4 * 24 + 12, false, 'South'],
      ['put back', 0, 24, true, 'South'],
      ['round', 11, 12, false, 'South'],
      ['clock', 36, 36.25, false, 'North'],
      ['clock', 60, 60.25, false, 'South'],
      ['quiet', 84, 108, false, undefined],
      ['own', 120, 144, true, undefined],
      ['waiting ends', 240, 240.25, false, 'North'],
    ]);
    expect(items.map(({ from }) => from)).toEqual(items.map(({ from }) => from).sort((a, b) => a - b));
    for (const { id } of [ended, given, open])
      expect(items.filter(({ uid }) => uid === `round-${id}@eterno`)).toHaveLength(1);
    expect(
      handsets.map(({ name, daysBehind, waiting, putBacks, clocks, wait }) => [
        name,
        daysBehind,
        waiting?.buildId ?? null,
        putBacks.map(({ what }) => what),
        clocks.map(({ what }) => what),
        wait?.over ?? null,
      ]),
    ).toEqual([
      ['North', 40, 'HC1.261005.007', [], ['return window'], false],
      ['South', 0, null, ['debugging'], ['mailed code: junk too'], null],
    ]);
  });

  it('of two things of one moment the order is that of their names', async () => {
    for (const what of ['one', 'two', 'three', 'four']) await addEntry(what, NOW, NOW + HOUR, false);
    const uids = (await calendarView(NOW)).items.map(({ uid }) => uid);
    expect(uids).toEqual([...uids].sort());
    expect(uids).toHaveLength(4);
  });

  it('a wait counts trials of the waiting build only: a kit that worked, modules that are on', async () => {
    const north = await addHandset('North', `${DUMP}`);
    await record('hill_eu', '260905', NOW - 70 * DAY);
    const next = await record('hill_eu', '261005', NOW - 40 * DAY);
    await saveWaitingRule(north, { days: 1, kit: true, modules: 0 });
    const over = async () => (await calendarView(NOW)).handsets[0]!.wait?.over;
    const trial = { item: 'burrow 7.3', handsetId: null, roundId: null, note: '', at: NOW };
    await insertTrial({ ...trial, shelf: 'kit', fingerprint: FINGERPRINT, outcome: 'worked' });
    await insertTrial({ ...trial, shelf: 'recovery', fingerprint: next, outcome: 'worked' });
    await insertTrial({ ...trial, shelf: 'kit', fingerprint: next, outcome: 'looped' });
    expect(await over()).toBe(false);
    await insertTrial({ ...trial, shelf: 'kit', fingerprint: next, outcome: 'worked' });
    expect(await over()).toBe(true);
    await saveWaitingRule(north, { days: 1, kit: false, modules: 2 });
    // nobody says that it has any
    expect(await over()).toBe(true);
    const modules = installedText([
      { id: 'lantern', version: null },
      { id: 'hosts', version: '3' },
      { id: 'fonts', version: null },
    ]);
    await insertFacts(north, [{ key: 'modules', value: modules }], {
      source: 'link',
      witness: 'system',
      at: NOW,
    });
    const tried = (module: string, outcome: 'worked' | 'looped', fingerprint = next) =>
      insertModuleTrials([
        {
          module,
          handsetId: north,
          moduleVersion: null,
          fingerprint,
          roundId: null,
          outcome,
          note: '',
          at: NOW,
        },
      ]);
    await tried('lantern', 'worked');
    await tried('lantern', 'worked');
    await tried('hosts', 'looped');
    await tried('fonts', 'worked', FINGERPRINT);
    await tried('elsewhere', 'worked');
    expect(await over()).toBe(false);
    await tried('fonts', 'worked');
    expect(await over()).toBe(true);
  });
});

describe('rounds together', () => {
  it('go to the newest build where root is there, and bring root back where it is not', async () => {
    const kit = await kitZip();
    await storeKit(sha256(kit), pieces(kit), 'burrow.kit.zip');
    await record('hill_eu', '260905', NOW - 70 * DAY);
    const next = await record('hill_eu', '261005', NOW - 40 * DAY);
    const [proven, unproven, lost] = [
      await addHandset('One', DUMP),
      await addHandset('Two', DUMP.replace('SERIAL42', 'SERIAL43')),
      await addHandset('Three', DUMP.replace('SERIAL42', 'SERIAL44')),
    ];
    await tellRoot(proven, null, 'proven', '');
    await tellRoot(unproven, null, 'unproven', '');
    await tellRoot(lost, null, 'lost', '');
    await startBatch([proven, unproven, lost]).catch(() => undefined);
    const begun = async (id: string) => {
      const open = await openRound(id);
      const round = open && (await findRound(open.id));
      return round && [round.kind, round.target];
    };
    expect(await begun(proven)).toEqual(['monthly update', next]);
    expect(await begun(unproven)).toEqual(['monthly update', next]);
    expect((await begun(lost))?.[0]).toBe('root again');
    expect((await begun(lost))?.[1]).not.toBe(next);
  });
});
