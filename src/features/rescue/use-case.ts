'use client';
import { useCallback, useMemo, useState } from 'react';
import type { CaseState, KeptAnswer, RescueCase, RescueView } from '@/contracts/rescue-view';
import { NEW_CASE } from '@/contracts/rescue-view';
import { adviceOf } from '@/core/rescue/advice';
import type { Seen } from '@/core/rescue/belief';
import { believe } from '@/core/rescue/belief';
import { lineLadder } from '@/core/rescue/line-ladder';
import type { ReadAnswer } from '@/core/rescue/read-answers';
import type { ClassId } from '@/core/ways/classes';
import type { CheckId, RepairId, RungId, SymptomId } from '@/core/words/rescue';
import { useKeeper } from './use-keeper';

/** What is kept of a case: all but when it began and the round that does its repair. */
function stateOf({ kept }: RescueCase): CaseState {
  if (!kept) return NEW_CASE;
  const { openedAt: _openedAt, round: _round, ...state } = kept;
  return state;
}

/** One case as it goes, kept at every turn: what shows, what was answered and done, and what follows from it. */
export function useCase(one: RescueCase, like: ClassId | null, { counts, cures }: RescueView) {
  const [state, setState] = useState(() => stateOf(one));
  const handsetId = one.handset?.id ?? null;
  const { keep, settled, isKept, error, dismiss } = useKeeper({ handsetId, like }, one.kept === null);
  const barred = useMemo(() => one.barred.map(({ repair }) => repair), [one]);
  const { symptoms, answers, tried, rungs, cable, host } = state;
  const now = useMemo(() => {
    const seen: Seen = { symptoms, answers, ruledOut: tried.flatMap((repair) => [...one.works[repair]]) };
    const believed = believe(one.record, seen, counts);
    return {
      believed,
      advice: adviceOf(believed, one.works, seen, tried, barred),
      ladder: lineLadder(believed, cures, { cable, host }, rungs),
    };
  }, [one, counts, cures, symptoms, answers, tried, rungs, cable, host, barred]);
  const change = useCallback(
    (next: Partial<CaseState>) => {
      const changed = { ...state, ...next };
      setState(changed);
      keep(changed);
    },
    [state, keep],
  );
  const add = (answer: KeptAnswer) => change({ answers: [...answers, answer] });
  return {
    ...state,
    ...now,
    state,
    isKept,
    settled,
    error,
    dismiss,
    show: (symptom: SymptomId) =>
      change({
        symptoms: symptoms.includes(symptom)
          ? symptoms.filter((other) => other !== symptom)
          : [...symptoms, symptom],
      }),
    answer: (check: CheckId, answer: string | null) => add({ check, answer, by: 'you', saw: null }),
    /** What was read takes the place of what was said. */
    read: (found: readonly ReadAnswer[], by: 'paste' | 'link') =>
      change({
        answers: [
          ...answers.filter(({ check }) => !found.some((one) => one.check === check)),
          ...found.map((one): KeptAnswer => ({ ...one, by })),
        ],
      }),
    takeBack: (check: CheckId) => change({ answers: answers.filter((other) => other.check !== check) }),
    asBefore: (repair: RepairId) => change({ tried: [...tried, repair] }),
    stillNot: (rung: RungId) => change({ rungs: [...rungs, rung] }),
    nameLine: (line: Pick<CaseState, 'cable' | 'host'>) => change(line),
  };
}
export type Case = ReturnType<typeof useCase>;

/** As it is sent: the shapes of what comes in are not read-only. */
export const mutable = (state: CaseState) => ({
  ...state,
  symptoms: [...state.symptoms],
  answers: [...state.answers],
  tried: [...state.tried],
  rungs: [...state.rungs],
});
