import { describe, expect, it } from 'vitest';
import type { CauseId, RungId } from '../words/rescue';
import { RUNG_WORDS } from '../words/rescue';
import type { Believed } from './belief';
import { believe } from './belief';
import type { Cure } from './line-ladder';
import { lineLadder, RUNG_IDS, RUNGS } from './line-ladder';
import { NO_RECORD } from './record';

const seen = { symptoms: ['not-listed'], answers: [] } as const;
const believed = believe(NO_RECORD, seen);
const only = (cause: CauseId): Believed[] => [{ cause, chance: 1, because: [] }];
const first = (
  cures: readonly Cure[],
  line: { cable: string | null; host: string | null },
  tried: RungId[] = [],
) => lineLadder(believed, cures, line, tried)[0]!.rung;
const NOWHERE = { cable: null, host: null };

describe('the ladder of a handset that is not listed', () => {
  it('has every rung once, each of a cause that is there', () => {
    const rungs = lineLadder(believed, [], NOWHERE, []).map(({ rung }) => rung);
    expect([...rungs].sort()).toEqual(Object.keys(RUNG_WORDS).sort());
    for (const rung of RUNG_IDS) expect(believed.some(({ cause }) => cause === RUNGS[rung].cause)).toBe(true);
  });
  it('goes by what cures most a minute, and what was tried goes to its end', () => {
    const ladder = lineLadder(believed, [], NOWHERE, []);
    const worth = ladder.map(({ chance, minutes }) => chance / minutes);
    expect(worth).toEqual([...worth].sort((a, b) => b - a));
    const [top] = ladder;
    expect(lineLadder(believed, [], NOWHERE, [top!.rung]).at(-1)!.rung).toBe(top!.rung);
  });
  it('follows the cause that is believed', () => {
    expect(RUNGS[lineLadder(only('driver'), [], NOWHERE, [])[0]!.rung].cause).toBe('driver');
    expect(RUNGS[lineLadder(only('debugging-off'), [], NOWHERE, [])[0]!.rung].cause).toBe('debugging-off');
  });
  it('offers first what cured this very cable, or this very computer, and no other', () => {
    const cures: Cure[] = [1, 2, 3].map(() => ({
      rung: 'other-cable',
      cable: 'the red one',
      host: 'old laptop',
    }));
    expect(first(cures, { cable: 'The red one ', host: null })).toBe('other-cable');
    expect(first(cures, { cable: 'the blue one', host: 'old laptop' })).toBe(first([], NOWHERE));
    const driver: Cure[] = [1, 2, 3].map(() => ({ rung: 'put-driver', cable: null, host: 'old laptop' }));
    const here = lineLadder(believed, driver, { cable: null, host: 'old laptop' }, []);
    const there = lineLadder(believed, driver, { cable: null, host: 'new laptop' }, []);
    const chance = (ladder: typeof here) => ladder.find(({ rung }) => rung === 'put-driver')!;
    expect(chance(here)).toMatchObject({ before: 3 });
    expect(chance(there)).toMatchObject({ before: 0 });
    expect(chance(here).chance).toBeGreaterThan(chance(there).chance);
    // who named no line has none remembered
    expect(lineLadder(believed, cures, NOWHERE, []).every(({ before }) => before === 0)).toBe(true);
  });
});
