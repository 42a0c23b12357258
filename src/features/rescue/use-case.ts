'use client';
import { useMemo, useState } from 'react';
import type { RescueCase, RescueView } from '@/contracts/rescue-view';
import { adviceOf } from '@/core/rescue/advice';
import type { Answered, Seen } from '@/core/rescue/belief';
import { believe } from '@/core/rescue/belief';
import type { CheckId, RepairId, SymptomId } from '@/core/words/rescue';

/** One case as it goes: what shows, what was answered and done, and what follows from it. */
export function useCase(one: RescueCase, counts: RescueView['counts']) {
  const [symptoms, setSymptoms] = useState<readonly SymptomId[]>([]);
  const [answers, setAnswers] = useState<readonly Answered[]>([]);
  const [tried, setTried] = useState<readonly RepairId[]>([]);
  const barred = useMemo(() => one.barred.map(({ repair }) => repair), [one]);
  const now = useMemo(() => {
    const seen: Seen = { symptoms, answers, ruledOut: tried.flatMap((repair) => [...one.works[repair]]) };
    const believed = believe(one.record, seen, counts);
    return { believed, advice: adviceOf(believed, one.works, seen, tried, barred) };
  }, [one, counts, symptoms, answers, tried, barred]);
  return {
    symptoms,
    answers,
    tried,
    ...now,
    show: (symptom: SymptomId) =>
      setSymptoms((known) =>
        known.includes(symptom) ? known.filter((other) => other !== symptom) : [...known, symptom],
      ),
    answer: (check: CheckId, answer: string | null) => setAnswers((known) => [...known, { check, answer }]),
    takeBack: (check: CheckId) => setAnswers((known) => known.filter((other) => other.check !== check)),
    asBefore: (repair: RepairId) => setTried((known) => [...known, repair]),
  };
}
export type Case = ReturnType<typeof useCase>;
