import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Counted, Handset } from '../../../tests/fixtures/bring-back-rivals';
import { halving, inBatches, oneByOne, seededCases } from '../../../tests/fixtures/bring-back-rivals';
import { afterBatch, beginBringBack, costsWith, isDone, nextBatch, suspectsOf } from './bring-back';
import { tries } from '../../../tests/fixtures/soak';

const COSTS = costsWith(3);
const modules = (...chances: readonly number[]) => chances.map((chance, i) => ({ id: `m${i}`, chance }));

describe('what a loop costs', () => {
  it('is as many starts as its kit lets fail, else the way back by the stock image', () => {
    expect([costsWith(3), costsWith(1)].map(({ loop, restart }) => loop / restart)).toEqual([3, 1]);
    expect(costsWith(null).loop).toBeGreaterThan(costsWith(3).loop);
  });
  it('makes batches smaller the more it costs', () => {
    const state = beginBringBack(modules(...Array.from({ length: 9 }, () => 0.12)));
    const taken = (costs: ReturnType<typeof costsWith>) => nextBatch(state, costs)!.batch.length;
    expect(taken(costsWith(null))).toBeLessThan(taken(costsWith(1)));
  });
});

describe('the next batch', () => {
  it('takes all at once where hardly any of them breaks anything', () =>
    expect(nextBatch(beginBringBack(modules(0.01, 0.01, 0.02)), COSTS)!.batch).toHaveLength(3));
  it('names the one that surely breaks it without trying it alone', () => {
    const looped = afterBatch(beginBringBack(modules(0.01, 0.9, 0.02)), ['m0', 'm1', 'm2'], 'looped');
    const { batch } = nextBatch(looped, COSTS)!;
    expect([...batch].sort()).toEqual(['m0', 'm2']);
    expect(afterBatch(looped, batch, 'started')).toMatchObject({ bad: ['m1'], good: ['m0', 'm2'] });
  });
  it('goes one by one where each is as likely to break it as not', () =>
    expect(nextBatch(beginBringBack(modules(0.6, 0.6, 0.6)), COSTS)!.batch).toHaveLength(1));
  it('is none where nothing is left', () => expect(nextBatch(beginBringBack([]), COSTS)).toBeNull());
  it('expects no more restarts than one by one would take on average, loops counted', () =>
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0.001, max: 0.9, noNaN: true }), { minLength: 1, maxLength: 14 }),
        (chances) => {
          const next = nextBatch(beginBringBack(modules(...chances)), { restart: 1, loop: 1 })!;
          const each = chances.reduce((sum, chance) => sum + 1 + chance, 0);
          expect(next.restarts + next.loops).toBeLessThanOrEqual(each + 0.02 * chances.length);
        },
      ),
      tries(),
    ));
  it('of two hundred is found', () => {
    const many = Array.from({ length: 200 }, (_one, i) => ({ id: `m${i}`, chance: 0.002 + (i % 7) / 100 }));
    expect(nextBatch(beginBringBack(many), COSTS)!.batch.length).toBeGreaterThan(5);
  });
});

describe('after a batch', () => {
  it('a start makes it good, a loop makes it suspected, one suspect alone is the culprit', () => {
    const all = beginBringBack(modules(0.1, 0.1, 0.1));
    expect(afterBatch(all, ['m0', 'm1'], 'started')).toMatchObject({
      good: ['m0', 'm1'],
      free: [{ id: 'm2' }],
      suspects: [],
    });
    const looped = afterBatch(all, ['m0', 'm1'], 'looped');
    expect(looped).toMatchObject({ good: [], free: [{ id: 'm2' }], suspects: [{ id: 'm0' }, { id: 'm1' }] });
    expect(suspectsOf(looped).map(({ chance }) => chance.toFixed(3))).toEqual(['0.526', '0.526']);
    expect(afterBatch(looped, ['m0'], 'started')).toMatchObject({ good: ['m0'], bad: ['m1'], suspects: [] });
    expect(afterBatch(looped, ['m0'], 'looped')).toMatchObject({
      bad: ['m0'],
      free: [{ id: 'm1' }, { id: 'm2' }],
    });
  });
});

describe('on a thousand seeded cases', () => {
  it('names every culprit and no other, with fewer restarts on average than one by one and than halving', () => {
    const sums = { batches: 0, one: 0, half: 0, ourLoops: 0, halfLoops: 0 };
    for (const { modules: all, bad } of seededCases(1000, 20261125)) {
      const starts: Handset = (on) => !bad.some((id) => on.includes(id));
      const [ours, one, half]: Counted[] = [
        inBatches(all, starts),
        oneByOne(all, starts),
        halving(all, starts),
      ];
      for (const way of [ours!, one!, half!]) expect([...way.named].sort()).toEqual([...bad].sort());
      sums.batches += ours!.restarts;
      sums.one += one!.restarts;
      sums.half += half!.restarts;
      sums.ourLoops += ours!.loops;
      sums.halfLoops += half!.loops;
    }
    expect(sums.batches).toBeLessThan(sums.one);
    expect(sums.batches).toBeLessThan(sums.half);
    expect(sums.ourLoops).toBeLessThan(sums.halfLoops);
  });

  it('ends whatever the handset does, and tries nothing twice that is settled', () =>
    fc.assert(
      fc.property(
        fc.array(fc.record({ chance: fc.double({ min: 0, max: 1, noNaN: true }), bad: fc.boolean() }), {
          maxLength: 12,
        }),
        (told) => {
          const all = told.map(({ chance }, i) => ({ id: `m${i}`, chance }));
          const bad = all.filter((_one, i) => told[i]!.bad).map(({ id }) => id);
          let state = beginBringBack(all);
          for (let i = 0; !isDone(state); i += 1) {
            expect(i).toBeLessThan(4 * all.length + 4);
            const { batch } = nextBatch(state, COSTS)!;
            for (const id of batch) expect([...state.good, ...state.bad]).not.toContain(id);
            state = afterBatch(
              state,
              batch,
              bad.some((id) => [...state.good, ...batch].includes(id)) ? 'looped' : 'started',
            );
          }
          expect([...state.bad].sort()).toEqual([...bad].sort());
        },
      ),
      tries(),
    ));
});
