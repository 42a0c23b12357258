'use client';
import type { HandsetDetail } from '@/contracts/handset-view';
import { WAY_GROUPS } from '@/core/ways/way-kinds';
import { ErrorNote } from '@/ui/error-note';
import { useAct } from '@/ui/use-act';
import { WayRow } from '@/ui/way-row';
import { forgetWayAction, sayWayAction } from './actions';

/** The sheet of its model: keys, menu lines, questions, parts, each with how sure it is and who says it. */
export function OwnWays({ handset }: { handset: HandsetDetail }) {
  const { act, busy, error, dismiss } = useAct();
  const { sheet, id } = handset;
  const known = sheet.ways.filter(({ sureness }) => sureness !== null && sureness !== 'guessed').length;
  return (
    <section aria-label="Its own ways">
      <p className="soft" style={{ maxWidth: 860 }}>
        Makers differ in keys, menus and words. What you say here is kept for every{' '}
        <span className="mono">{sheet.model}</span>, and the steps of its rounds speak in these words. {known}{' '}
        of {sheet.ways.length} are known.{' '}
        {sheet.handsetClass === null
          ? 'Too little was read of it to tell its class: nothing is guessed.'
          : `Its class: ${sheet.handsetClass}. What its class often does is shown as a guess, and never said as a fact.`}
      </p>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
      {WAY_GROUPS.map((group) => (
        <div key={group}>
          <h2>{group}</h2>
          <table className="ledger">
            <colgroup>
              <col style={{ width: '26%' }} />
              <col style={{ width: '32%' }} />
              <col />
              <col style={{ width: 230 }} />
            </colgroup>
            <tbody>
              {sheet.ways
                .filter((way) => way.group === group)
                .map((way) => (
                  <WayRow
                    key={way.id}
                    way={way}
                    busy={busy}
                    say={({ value, ...said }, then) =>
                      act(
                        () =>
                          sayWayAction({
                            handsetId: id,
                            way: way.id,
                            value: value as object | string,
                            ...said,
                            where: '',
                          }),
                        then,
                      )
                    }
                    forget={() => act(() => forgetWayAction({ handsetId: id, way: way.id }))}
                  />
                ))}
            </tbody>
          </table>
        </div>
      ))}
    </section>
  );
}
