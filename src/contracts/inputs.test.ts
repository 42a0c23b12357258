import { describe, expect, it } from 'vitest';
import type { AnySchema } from 'yup';
import { LIMITS } from '@/core/limits';
import * as inputs from './inputs';
import * as standIns from './stand-in-inputs';
import * as roundInputs from './round-inputs';

const ID = '0b5a3d52-6f0e-4c52-9b57-1f6d2f1a0001';
const SHA = 'a'.repeat(64);
const fails = async (schema: AnySchema, value: unknown) =>
  expect(await schema.isValid(value), JSON.stringify(value)?.slice(0, 120)).toBe(false);
const holds = async (schema: AnySchema, value: unknown) =>
  expect(await schema.isValid(value), JSON.stringify(value)?.slice(0, 120)).toBe(true);

describe('what a browser sends', () => {
  it('names handsets in words, not too long', async () => {
    await holds(inputs.addHandsetSchema, { name: ' North gate ', text: 'x' });
    for (const name of ['', '   ', 'x'.repeat(61), undefined])
      await fails(inputs.addHandsetSchema, { name, text: 'x' });
    await fails(inputs.addHandsetSchema, { name: 'a', text: 'x'.repeat(LIMITS.factsTextBytes + 1) });
  });
  it('names rows by their ids', async () => {
    await holds(inputs.handsetIdSchema, { handsetId: ID });
    for (const handsetId of ['', '1', "'; drop table handsets", `${ID}x`, null])
      await fails(inputs.handsetIdSchema, { handsetId });
  });
  it('says which version of a round it saw', async () => {
    await holds(roundInputs.roundStepSchema, { roundId: ID, version: 0 });
    for (const version of [-1, 1.5, NaN, 'x', null])
      await fails(roundInputs.roundStepSchema, { roundId: ID, version });
  });
  it('says what it saw, or why', async () => {
    const answer = { roundId: ID, version: 1, how: 'as-described', note: '', text: '' };
    await holds(roundInputs.handAnswerSchema, answer);
    await holds(roundInputs.handAnswerSchema, { ...answer, how: 'otherwise', outcome: 'loops' });
    await holds(roundInputs.handAnswerSchema, { ...answer, note: 'x'.repeat(2000) });
    await fails(roundInputs.handAnswerSchema, { ...answer, note: 'x'.repeat(2001) });
    for (const how of ['', 'done', null]) await fails(roundInputs.handAnswerSchema, { ...answer, how });
    for (const outcome of [undefined, 'it exploded'])
      await fails(roundInputs.handAnswerSchema, { ...answer, how: 'otherwise', outcome });
    await holds(roundInputs.confirmChecksSchema, {
      roundId: ID,
      version: 1,
      overrides: [{ checkId: 'battery', reason: 'full' }],
    });
    await fails(roundInputs.confirmChecksSchema, {
      roundId: ID,
      version: 1,
      overrides: [{ checkId: 'battery', reason: '' }],
    });
    await fails(roundInputs.confirmChecksSchema, {
      roundId: ID,
      version: 1,
      overrides: Array.from({ length: 21 }, () => ({ checkId: 'a', reason: 'b' })),
    });
  });
  it('says how each thing is that only a person can look at', async () => {
    const at = { roundId: ID, version: 1, data: 'works', calls: 'does not work', payments: 'not used here' };
    await holds(roundInputs.lookAroundSchema, at);
    for (const what of ['data', 'calls', 'payments']) {
      for (const how of ['works', 'does not work', 'not used here'])
        await holds(roundInputs.lookAroundSchema, { ...at, [what]: how });
      for (const how of ['', 'fine', undefined, null])
        await fails(roundInputs.lookAroundSchema, { ...at, [what]: how });
    }
    await holds(roundInputs.lookAroundSchema, { ...at, note: 'x'.repeat(200) });
    await fails(roundInputs.lookAroundSchema, { ...at, note: 'x'.repeat(201) });
    const apps = (name: string, how: string, count = 1) => ({
      ...at,
      apps: Array.from({ length: count }, () => ({ name, how })),
    });
    for (const good of [apps('Till', 'works', 60), apps('x'.repeat(80), 'stopped')])
      await holds(roundInputs.lookAroundSchema, good);
    for (const bad of [
      apps('Till', 'works', 61),
      apps(' ', 'works'),
      apps('x'.repeat(81), 'works'),
      apps('Till', 'no'),
    ])
      await fails(roundInputs.lookAroundSchema, bad);
  });
  it('says what is in a backup, in parts that there are', async () => {
    const at = { roundId: ID, version: 1, what: 'files', note: '' };
    await holds(roundInputs.backUpSchema, { ...at, parts: ['photos'] });
    await holds(roundInputs.backUpSchema, { ...at, what: 'none', parts: [] });
    for (const parts of [undefined, ['pictures'], [''], Array.from({ length: 13 }, () => 'photos')])
      await fails(roundInputs.backUpSchema, { ...at, parts });
  });
  it('says why it would not do it the same way again', async () => {
    const said = { roundId: ID, version: 1, again: 'no', note: 'too slow' };
    await holds(roundInputs.againSchema, said);
    await holds(roundInputs.againSchema, { ...said, again: 'yes', note: '' });
    await fails(roundInputs.againSchema, { ...said, note: ' ' });
    await fails(roundInputs.againSchema, { ...said, again: 'perhaps' });
    await holds(roundInputs.againSchema, { ...said, note: 'x'.repeat(500) });
    await fails(roundInputs.againSchema, { ...said, note: 'x'.repeat(501) });
  });
  it('gives a code that is one', async () => {
    const given = { roundId: ID, version: 1, code: 'x'.repeat(200) };
    await holds(roundInputs.codeSchema, given);
    for (const code of ['', ' ', 'x'.repeat(201), undefined])
      await fails(roundInputs.codeSchema, { ...given, code });
  });
  it('begins a round with a known goal, limits and a plain lane', async () => {
    const wish = {
      handsetId: ID,
      goal: 'first root',
      target: null,
      lane: null,
      limits: { computer: true, wipeAllowed: false, keepFuse: false },
    };
    await holds(inputs.startRoundSchema, wish);
    for (const bad of [{ goal: 'more' }, { lane: '../x' }, { limits: { computer: true } }])
      await fails(inputs.startRoundSchema, { ...wish, ...bad });
  });
  it('sends a package of a size that can be', async () => {
    await holds(roundInputs.sideloadSchema, { roundId: ID, version: 1, size: 5, name: 'a.zip' });
    for (const size of [0, -1, 1e18])
      await fails(roundInputs.sideloadSchema, { roundId: ID, version: 1, size, name: 'a.zip' });
  });
  it('names images by hash and partitions by plain names', async () => {
    await holds(standIns.forceImageSchema, { profile: 'ridge', sha256: SHA, partition: 'init_boot_a' });
    for (const partition of ['../x', 'Init', '', 'a'.repeat(64), 'a b'])
      await fails(standIns.forceImageSchema, { profile: 'ridge', sha256: SHA, partition });
    for (const sha256 of ['', SHA.slice(1), SHA.toUpperCase(), `${SHA}0`])
      await fails(standIns.forceImageSchema, { profile: 'ridge', sha256, partition: 'boot_a' });
  });
  it('says where an image comes from', async () => {
    await holds(inputs.imageOriginSchema, {
      from: 'package',
      package: 'a.zip',
      partition: 'boot',
      verified: 'yes',
    });
    await holds(inputs.imageOriginSchema, { from: 'patch', stock: SHA, kit: SHA });
    const options = (text: string) => ({ from: 'patch', stock: SHA, kit: SHA, options: text });
    for (const good of ['{}', '{"quiet":true,"home":"data"}'])
      await holds(inputs.imageOriginSchema, options(good));
    for (const bad of ['', 'x', '[]', 'null', '{"a":1}', '{"a":{}}', `{"a":"${'x'.repeat(4000)}"}`])
      await fails(inputs.imageOriginSchema, options(bad));
    await fails(inputs.imageOriginSchema, { from: 'elsewhere' });
    await fails(inputs.imageOriginSchema, { from: 'patch', stock: 'x', kit: SHA });
  });
  it('presses keys that are there', async () => {
    await holds(standIns.standInKeySchema, { profile: 'ridge', key: 'power', down: false });
    for (const profile of ['', '../x', 'A'])
      await fails(standIns.standInKeySchema, { profile, key: 'power', down: false });
    for (const value of [{ key: 'home', down: true }, { key: 'power' }, { key: 'power', down: 'yes' }])
      await fails(standIns.standInKeySchema, { profile: 'ridge', ...value });
  });
  it('reports packages within bounds', async () => {
    await holds(inputs.recordPackageSchema, { fileName: 'a.zip', sizeBytes: 5, report: { kind: 'kit' } });
    await fails(inputs.recordPackageSchema, { fileName: 'a.zip', sizeBytes: -1, report: {} });
    await fails(inputs.recordPackageSchema, { fileName: 'x'.repeat(256), sizeBytes: 5, report: {} });
    await fails(inputs.recordPackageSchema, {
      fileName: 'a.zip',
      sizeBytes: 5,
      report: { long: 'x'.repeat(1_000_001) },
    });
    await fails(inputs.recordPackageSchema, { fileName: 'a.zip', sizeBytes: 5, report: null });
  });
});
