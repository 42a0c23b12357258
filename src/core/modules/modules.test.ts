import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { codeOf } from '../../../tests/fixtures/expect-error';
import { zipBytes } from '../../../tests/fixtures/images';
import { nodePorts } from '../../platform/node/node-ports';
import { memorySource } from '../bytes/byte-source';
import type { ChanceInput, ModuleTrial } from './chance';
import { chanceOf } from './chance';
import { clashesOf } from './clashes';
import type { ModuleScope } from './read-module';
import { readModule, SCOPES } from './read-module';
import { stepSize } from './step-size';
import { switchOff } from './switch-off';
import { tries } from '../../../tests/fixtures/soak';

const NOTE = 'id=lantern\nname=Lantern\nversion=2.1\nversionCode=21\ndescription=keeps the torch warm\n';
const read = async (members: Readonly<Record<string, string>>) =>
  readModule(memorySource(await zipBytes({ 'module.prop': NOTE, ...members }), 'lantern.zip'), nodePorts);

describe('a module ZIP', () => {
  it('tells itself, what it lays over and which scripts it runs', async () => {
    const facts = await read({
      'system/etc/lantern.conf': 'a',
      'vendor/etc/b.xml': 'b',
      'late.sh': 'c',
      'readme.txt': 'no note',
    });
    expect(facts).toEqual({
      id: 'lantern',
      name: 'Lantern',
      version: '2.1',
      versionCode: 21,
      description: 'keeps the torch warm',
      scopes: [{ scope: 'overlay', because: '/system/etc/lantern.conf' }],
      paths: ['/system/etc/lantern.conf', '/vendor/etc/b.xml'],
      scripts: ['late.sh'],
    });
  });
  it.each<[string, Readonly<Record<string, string>>, readonly ModuleScope[]]>([
    ['a host list', { 'system/etc/hosts': '0.0.0.0 x' }, ['host list']],
    ['fonts', { 'system/fonts/trail.ttf': 'f' }, ['looks']],
    ['a kernel module', { 'vendor/lib/modules/torch.ko': 'k' }, ['kernel', 'framework hook']],
    [
      'a library beside its trees',
      { 'hook/arm64.so': 's', 'system/media/x.ogg': 'm' },
      ['framework hook', 'looks'],
    ],
    ['a file of the framework', { 'system/framework/services.jar': 'j' }, ['framework hook']],
    ['properties', { 'system.prop': 'a=b' }, ['settings']],
    ['nothing but a script', { 'late.sh': 'x' }, []],
  ])('with %s', async (_what, members, scopes) =>
    expect((await read(members)).scopes.map(({ scope }) => scope)).toEqual(scopes),
  );
  it('without a note, with another name, with a path that leaves it or is too long, or cut off is refused by type', async () => {
    expect(
      await codeOf(async () => readModule(memorySource(await zipBytes({ 'a.sh': 'x' })), nodePorts)),
    ).toBe('bad-magic');
    expect(await codeOf(() => read({ 'module.prop': NOTE.replace('id=lantern', 'id=../x') }))).toBe(
      'bad-field',
    );
    expect(await codeOf(() => read({ 'system/../../x': 'x' }))).toBe('corrupt');
    expect(await codeOf(() => read({ [`system/${'x'.repeat(400)}`]: 'x' }))).toBe('too-large');
    const whole = await zipBytes({ 'module.prop': NOTE });
    await fc.assert(
      fc.asyncProperty(fc.nat(whole.length - 1), async (length) => {
        const code = await codeOf(() =>
          readModule(memorySource(whole.subarray(0, length), 'cut.zip'), nodePorts),
        );
        expect(['truncated', 'corrupt', 'bad-magic', 'unsupported', 'bad-field']).toContain(code);
      }),
      tries(40),
    );
  });
});

describe('clashes', () => {
  it('are every path that two lay over', () =>
    expect(
      clashesOf([
        { id: 'b', paths: ['/system/etc/x', '/system/etc/y'] },
        { id: 'a', paths: ['/system/etc/x', '/system/etc/x'] },
        { id: 'c', paths: ['/system/etc/z'] },
      ]),
    ).toEqual([{ path: '/system/etc/x', modules: ['a', 'b'] }]));
});

describe('the size of a step', () => {
  const at = (patchLevel: string | null, release = '16') => ({ release, patchLevel });
  it.each([
    ['2026-10-05', '2026-11-05', 'monthly'],
    ['2026-11-05', '2026-12-05', 'quarterly'],
    ['2026-12-05', '2027-01-05', 'monthly'],
    ['2026-10-01', '2026-10-05', 'same'],
    ['2026-12-05', '2026-11-05', 'quarterly'],
    [null, '2026-11-05', 'quarterly'],
  ])('from %s to %s is %s', (from, to, size) => expect(stepSize(at(from), at(to))).toBe(size));
  it('to another release is major', () =>
    expect(stepSize(at('2026-10-05'), at('2026-11-05', '17'))).toBe('major'));
});

const input = (change: Partial<ChanceInput> = {}): ChanceInput => ({
  module: 'lantern',
  version: '2.1',
  scope: 'overlay',
  build: 'next',
  size: 'monthly',
  kernelChanged: false,
  trials: [],
  scopeOf: () => null,
  ...change,
});
const trial = (change: Partial<ModuleTrial> = {}): ModuleTrial => ({
  module: 'lantern',
  version: '2.1',
  build: 'last',
  outcome: 'worked',
  ...change,
});

describe('the chance that a module breaks the next build', () => {
  it('begins with what it touches and with the size of the step', () => {
    const of = (scope: ModuleScope, size: ChanceInput['size'] = 'monthly') =>
      chanceOf(input({ scope, size })).mean;
    const ranked = SCOPES.map((scope) => of(scope));
    expect([...ranked].sort((a, b) => b - a)).toEqual(ranked);
    expect(of('overlay', 'major')).toBeGreaterThan(of('overlay', 'quarterly'));
    expect(of('overlay', 'quarterly')).toBeGreaterThan(of('overlay'));
    expect(chanceOf(input({ scope: 'kernel', kernelChanged: true })).mean).toBeGreaterThan(of('kernel'));
  });
  it('falls with each build it worked on, rises with a loop, and says why', () => {
    const fresh = chanceOf(input());
    const tried = chanceOf(input({ trials: [trial(), trial({ build: 'older' })] }));
    const looped = chanceOf(input({ trials: [trial({ outcome: 'looped' })] }));
    expect(tried.mean).toBeLessThan(fresh.mean);
    expect(looped.mean).toBeGreaterThan(fresh.mean);
    expect(tried.reasons).toContain('it worked on 2 builds before');
    expect(fresh.reasons).toContain('it was never tried here');
  });
  it('is all but settled by what happened on this very build', () => {
    expect(chanceOf(input({ trials: [trial({ build: 'next', outcome: 'looped' })] }))).toMatchObject({
      loopedHere: true,
    });
    expect(chanceOf(input({ trials: [trial({ build: 'next', outcome: 'looped' })] })).mean).toBeGreaterThan(
      0.6,
    );
    expect(chanceOf(input({ trials: [trial({ build: 'next' })] })).mean).toBeLessThan(0.02);
    const older = chanceOf(input({ trials: [trial({ build: 'next', outcome: 'looped', version: '2.0' })] }));
    expect(older.loopedHere).toBe(false);
    expect(older.reasons).toContain('an older version looped on this very build');
  });
  it('learns a little from others of its kind', () => {
    const scopeOf = () => 'overlay' as const;
    const others = [
      trial({ module: 'fonts', outcome: 'looped' }),
      trial({ module: 'hosts', outcome: 'looped' }),
    ];
    expect(chanceOf(input({ trials: others, scopeOf })).mean).toBeGreaterThan(chanceOf(input()).mean);
  });
  it('is a share with its interval around it, whatever was seen', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            outcome: fc.constantFrom('worked' as const, 'looped' as const, 'misbehaved' as const),
            build: fc.constantFrom('next', 'a', 'b'),
          }),
          {
            maxLength: 20,
          },
        ),
        (told) => {
          const { mean, between } = chanceOf(input({ trials: told.map((one) => trial(one)) }));
          expect(mean).toBeGreaterThan(0);
          expect(mean).toBeLessThan(1);
          expect(between[0]).toBeLessThanOrEqual(between[1]);
        },
      ),
      tries(30),
    ));
});

describe('what to switch off', () => {
  const judged = [
    { id: 'fonts', chance: { mean: 0.01, between: [0, 0.02] as const, reasons: [], loopedHere: false } },
    { id: 'hook', chance: { mean: 0.2, between: [0.1, 0.3] as const, reasons: [], loopedHere: false } },
    { id: 'torch', chance: { mean: 0.7, between: [0.5, 0.9] as const, reasons: [], loopedHere: true } },
  ];
  const off = (...told: Parameters<typeof switchOff>) =>
    switchOff(...told)
      .filter((one) => one.off)
      .map(({ id }) => id);
  it('is all, those over the limit, or only what is known to loop', () => {
    expect(off(judged, 'all')).toEqual(['fonts', 'hook', 'torch']);
    expect(off(judged, 'by chance')).toEqual(['hook', 'torch']);
    expect(off(judged, 'by chance', 0.3)).toEqual(['torch']);
    expect(off(judged, 'none')).toEqual(['torch']);
    expect(switchOff(judged, 'by chance')[1]!.why).toBe('20 % is over your limit of 5.0 %.');
  });
});
