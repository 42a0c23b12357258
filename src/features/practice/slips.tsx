'use client';
import { Checkbox } from 'antd';
import type { SlipsOfPractice } from '@/contracts/practice-view';
import type { SlipId } from '@/core/planning/slips';
import { SLIPS } from '@/core/planning/slips';
import { PRACTICE_WEIGHT } from '@/core/practice/scene';
import { upperFirst } from '@/core/words/sentence';
import { ErrorNote } from '@/ui/error-note';
import { useAct } from '@/ui/use-act';
import { weighSlipsAction } from './actions';

/** How often the usual slips happened in practice, apart from those of one's own handsets. */
export function Slips({ slips: { counts, weight } }: { readonly slips: SlipsOfPractice }) {
  const { act, busy, error, dismiss } = useAct();
  const rows = (Object.keys(SLIPS) as SlipId[]).flatMap((id) => {
    const counted = counts[id];
    return counted && counted.chances > 0 ? [{ id, ...counted }] : [];
  });
  return (
    <section aria-label="Slips in practice">
      <h2>Your slips in practice</h2>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
      {rows.length === 0 ? (
        <p className="soft">None was counted yet. They are counted when a world of practice ends.</p>
      ) : (
        <>
          <table className="ledger">
            <tbody>
              {rows.map(({ id, slips, chances }) => (
                <tr key={id}>
                  <td>{upperFirst(SLIPS[id].title)}</td>
                  <td style={{ width: 200 }}>
                    {slips} of {chances} times
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <p>
            <Checkbox
              checked={weight !== null}
              disabled={busy}
              onChange={(event) => act(() => weighSlipsAction(event.target.checked))}
            >
              Let them weigh in the plans of my own handsets, each as {Math.round(PRACTICE_WEIGHT * 100)} % of
              a real one
            </Checkbox>
          </p>
        </>
      )}
    </section>
  );
}
