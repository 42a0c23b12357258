import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { RoundStepView } from '@/contracts/round-view';
import type { StepKey } from '@/core/steps/step-key';
import { openRoundOf } from '@/server/repositories/round-repository';
import { expectationAt } from '@/server/rounds/shown';
import { roundContext } from '@/server/rounds/round-context';
import { roundView } from '@/server/rounds/round-view';
import { addHandset } from '@/server/services/bench-service';
import { knownFacts, typeFact } from '@/server/services/fact-service';
import { removeHandset } from '@/server/services/handset-life';
import { handsetDetail } from '@/server/services/handset-service';
import { importLog } from '@/server/services/log-import';
import { logFile } from '@/server/services/log-export';
import { forgetWayAt, sayWayAt } from '@/server/services/say-way';
import { codeOf } from '../fixtures/expect-error';
import { rawRound, rawStep } from '../fixtures/raw-round';
import { DUMP, freshServer } from '../fixtures/server-world';

/* What is learnt of a model's own ways, where it is said, where it shows and where it stays. */

let server: Awaited<ReturnType<typeof freshServer>>;
let handset: string;
beforeEach(async () => {
  server = await freshServer();
  handset = await addHandset('North', DUMP);
});
afterEach(() => server.end());

const another = (name: string, device = 'hill') =>
  addHandset(name, DUMP.replaceAll('SERIAL42', `SERIAL-${name}`).replaceAll('hill', device));

async function step(key: Extract<StepKey, 'bootloader' | 'recovery'>, of = handset): Promise<RoundStepView> {
  const open = await openRoundOf(of);
  const { id } = open ?? (await rawRound(of, {}, [rawStep('bootloader'), rawStep('recovery')]));
  return (await roundView(id)).steps.find((one) => one.key === key)!;
}
const KEYS = { keys: ['up', 'power'], seconds: 5 };
const say = (way: 'keys-bootloader' | 'line-recovery' | 'tool-done', value: object | string, of = handset) =>
  sayWayAt({
    handsetId: of,
    way,
    value,
    sureness: 'seen done',
    where: 'Bring North into its bootloader',
    note: '',
  });

describe('a model’s own ways', () => {
  it('are guesses of its class until somebody says them, and no text names a guess', async () => {
    const before = await step('bootloader');
    expect(before.keyCard).toMatchObject({ guess: true });
    expect(JSON.stringify(before.text)).not.toMatch(/Volume|hold Power/);
    await say('keys-bootloader', KEYS);
    const after = await step('bootloader');
    expect(after.keyCard).toMatchObject({
      guess: false,
      keys: ['Volume up', 'Power'],
      hold: '5 s, from dark',
    });
    expect(after.text.todo).toContain('Volume up and Power for 5 seconds');
    expect(after.ways.find(({ id }) => id === 'keys-bootloader')).toMatchObject({
      sureness: 'seen done',
      source: expect.stringContaining('Bring North into its bootloader') as string,
    });
  });
  it('are those of every handset of the model, and of no other', async () => {
    await say('keys-bootloader', KEYS);
    expect((await step('bootloader', await another('Mine'))).keyCard).toMatchObject({ guess: false });
    expect((await step('bootloader', await another('Other', 'dale'))).keyCard).toMatchObject({ guess: true });
  });
  it('stay when the handset goes at which they were learnt', async () => {
    const twin = await another('Twin');
    await say('line-recovery', 'To the lifeboat', twin);
    await removeHandset(twin);
    expect((await step('recovery')).text.todo).toContain('“To the lifeboat”');
  });
  it('are said anew and taken back, and what is no way is refused and changes nothing', async () => {
    await say('line-recovery', 'First');
    await say('line-recovery', 'Second');
    expect((await step('recovery')).text.todo).toContain('“Second”');
    expect(await codeOf(() => say('line-recovery', 'two\nlines'))).toBe('bad-field');
    expect(await codeOf(() => say('keys-bootloader', { keys: [], seconds: 5 }))).toBe('bad-field');
    expect((await step('recovery')).text.todo).toContain('“Second”');
    await forgetWayAt({ handsetId: handset, way: 'line-recovery' });
    expect((await step('recovery')).text.todo).not.toContain('“');
    expect(await codeOf(() => forgetWayAt({ handsetId: handset, way: 'line-recovery' }))).toBe('not-found');
  });
  it('tell the reader of outputs what its tool prints', async () => {
    await say('tool-done', ['All is well.']);
    const { id } = await rawRound(handset, {}, [rawStep('bootloader')]);
    const context = await roundContext(id);
    expect((await expectationAt(context, context.steps[0]!))?.words).toEqual({
      done: ['All is well.'],
      refused: [],
    });
  });
  it('are in a log, and come back on another computer', async () => {
    await say('keys-bootloader', KEYS);
    const log = new TextEncoder().encode(await logFile('json', false));
    await server.end();
    server = await freshServer();
    await importLog(log, true);
    handset = await another('Elsewhere');
    expect((await step('bootloader')).keyCard).toMatchObject({ guess: false });
  });
  it('in a log that holds no way of any kind are refused whole', async () => {
    await say('keys-bootloader', KEYS);
    const log = JSON.parse(await logFile('json', false)) as { tables: { model_ways: { value: string }[] } };
    for (const value of ['{"keys":["camera"],"seconds":1}', '7', 'no json']) {
      log.tables.model_ways[0]!.value = value;
      const bytes = new TextEncoder().encode(JSON.stringify(log));
      expect(await codeOf(() => importLog(bytes, true)), value).toBe('bad-field');
    }
  });
  it('stand on the handset’s sheet with their class', async () => {
    await typeFact(handset, 'unlockPath', 'none');
    const { sheet } = await handsetDetail(handset);
    expect(sheet).toMatchObject({ model: 'hill', handsetClass: 'Locked for good' });
    expect(new Set(sheet.ways.map(({ sureness }) => sureness))).toEqual(new Set(['guessed', null]));
  });
});

describe('a fact of its model', () => {
  const startsOnce = async (of: string) => {
    const { resolved } = await knownFacts(of);
    return resolved.find(({ key }) => key === 'startsOnce') ?? null;
  };
  it('said of one is taken for the others, and says whence', async () => {
    const [twin, other] = [await another('Twin'), await another('Other', 'dale')];
    await typeFact(handset, 'startsOnce', 'yes');
    expect(await startsOnce(twin)).toMatchObject({ value: 'yes', source: 'model' });
    expect(await startsOnce(other)).toBeNull();
    // what is said of itself counts
    await typeFact(twin, 'startsOnce', 'no');
    expect(await startsOnce(twin)).toMatchObject({ value: 'no', source: 'typed' });
    expect(await startsOnce(handset)).toMatchObject({ value: 'yes' });
  });
  it('that one is never unlocked says nothing of others: it may be its carrier', async () => {
    const twin = await another('Twin');
    await typeFact(handset, 'unlockPath', 'none');
    expect((await knownFacts(twin)).value('unlockPath')).toBeNull();
    await typeFact(handset, 'unlockPath', 'mailed code');
    expect((await knownFacts(twin)).value('unlockPath')).toBe('mailed code');
  });
});
