'use client';
import { Button, Checkbox, Select } from 'antd';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { RescueCase, RescueView } from '@/contracts/rescue-view';
import type { ClassId } from '@/core/ways/classes';
import type { CauseId, RepairId, RungId } from '@/core/words/rescue';
import { REPAIR_WORDS } from '@/core/words/rescue';
import { RUNGS } from '@/core/rescue/line-ladder';
import { PractiseLink } from '@/ui/frame/practise-link';
import { ErrorNote } from '@/ui/error-note';
import { Link } from '@/ui/link';
import { useAct } from '@/ui/use-act';
import { closeCaseAction } from './actions';
import { BeliefBars } from './belief-bars';
import type { EndedCase } from './closed-case';
import { BackByRound, ClosedCase } from './closed-case';
import { LineLadder } from './line-ladder';
import { NextQuestion, NextRepair, NothingLeft } from './next-step';
import { ReadIt } from './read-it';
import styles from './rescue.module.css';
import { SymptomPicker } from './symptom-picker';
import { PastCases } from './past-cases';
import { Told } from './told';
import type { Case } from './use-case';
import { mutable, useCase } from './use-case';

/** A handset in trouble: what it shows, what may be behind it, one question or one repair at a time. */
export function RescueRoom({ view, like }: { readonly view: RescueView; readonly like: ClassId | null }) {
  const { chosen } = view;
  const [hurt, setHurt] = useState(false);
  return (
    <div className={styles.room}>
      <Which view={view} />
      <p className={styles.danger}>
        <Checkbox checked={hurt} onChange={({ target }) => setHurt(target.checked)}>
          Its battery is swollen, hot or wet, or it smells
        </Checkbox>
      </p>
      {hurt ? (
        <p className="bad">
          <b>Stop here.</b> Off the charger, away from people and from what burns, and to a licensed repairer.
          Nothing on it is worth more.
        </p>
      ) : chosen ? (
        <OneCase one={chosen} like={like} view={view} />
      ) : (
        <p className="soft">
          Choose the handset, or its class where it was never here. Nothing is wrong?{' '}
          <PractiseLink handsetId={null}>Practise with a handset in trouble</PractiseLink>
        </p>
      )}
    </div>
  );
}

function Which({ view: { handsets, classes, chosen } }: { readonly view: RescueView }) {
  const router = useRouter();
  return (
    <div className={styles.which}>
      <h1>{chosen?.handset ? `What is wrong with ${chosen.handset.name}?` : 'What is wrong with it?'}</h1>
      <Select
        aria-label="Which handset"
        placeholder="which handset"
        style={{ minWidth: 240, maxWidth: 420 }}
        popupMatchSelectWidth={false}
        value={chosen?.handset?.id ?? null}
        onChange={(value: string) =>
          router.push(
            value.startsWith('like ') ? `/rescue?like=${value.slice(5)}` : `/rescue?handset=${value}`,
          )
        }
        options={[
          ...handsets.map(({ id, name, broken, open }) => ({
            value: id,
            label: open ? `${name}: its case is open` : broken ? `${name}: does not start` : name,
          })),
          ...classes.map(({ id, title, open }) => ({
            value: `like ${id}`,
            label: `never here: ${title}${open ? ', a case is open' : ''}`,
          })),
        ]}
      />
      {chosen ? <span className="soft small">{chosen.about}</span> : null}
    </div>
  );
}

interface CaseProps {
  readonly one: RescueCase;
  readonly like: ClassId | null;
  readonly view: RescueView;
}

/** How a case ends: by a repair, by a rung of the line's ladder, or with nothing. */
export interface Ending {
  readonly repair: RepairId | null;
  readonly rung: RungId | null;
}

function causeOf({ repair, rung }: Ending, now: Case, one: RescueCase): CauseId | null {
  if (rung !== null) return RUNGS[rung].cause;
  return repair && (now.believed.find(({ cause }) => one.works[repair].includes(cause))?.cause ?? null);
}

function OneCase({ one, like, view }: CaseProps) {
  const now = useCase(one, like, view);
  const [ended, setEnded] = useState<EndedCase | null>(null);
  const { act, busy, error, dismiss } = useAct();
  const end = (how: Ending) => {
    const cause = causeOf(how, now, one);
    act(
      async () => {
        await now.settled();
        return closeCaseAction({
          handsetId: one.handset?.id ?? null,
          like,
          state: mutable(now.state),
          ...how,
          cause,
        });
      },
      (closed) => setEnded({ ...closed, ...how, cause }),
    );
  };
  const round = one.kept?.round ?? null;
  if (ended !== null) return <ClosedCase ended={ended} handset={one.handset} />;
  return (
    <div className={styles.case}>
      <SymptomPicker chosen={now.symptoms} onChange={now.show} />
      <div>
        {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
        {now.error ? <ErrorNote error={now.error} onDismiss={now.dismiss} /> : null}
        {one.backByRound && round ? (
          <BackByRound
            repair={round.repair}
            busy={busy}
            onEnd={() => end({ repair: round.repair, rung: null })}
            onNot={() => now.asBefore(round.repair)}
          />
        ) : now.symptoms.length === 0 ? (
          <p>
            <b>Choose what you see, as many as apply.</b> Nothing is written, and nothing is erased, before it
            says so in plain words.
          </p>
        ) : (
          <Now one={one} now={now} end={end} cures={view.cures} />
        )}
        <Told now={now} />
        {now.symptoms.length === 0 ? null : (
          <p className="soft small" role="status">
            {now.isKept ? 'This case is kept as it stands.' : 'Keeping this case …'}
          </p>
        )}
        <PastCases past={one.past} />
      </div>
      {now.symptoms.length === 0 ? null : <BeliefBars believed={now.believed} />}
    </div>
  );
}

function Now({
  one,
  now,
  end,
  cures,
}: {
  readonly one: RescueCase;
  readonly now: Case;
  readonly end: (how: Ending) => void;
  readonly cures: RescueView['cures'];
}) {
  const { next, checks, repairs, wanting } = now.advice;
  const [check] = checks;
  const [repair] = repairs;
  const back = (id: RepairId) => end({ repair: id, rung: null });
  const line = now.symptoms.includes('not-listed') && !now.symptoms.includes('dead');
  return (
    <>
      {line ? (
        <LineLadder now={now} onListed={(rung) => end({ repair: null, rung })} cures={cures} />
      ) : next === 'check' && check ? (
        <NextQuestion check={check} now={now} />
      ) : next === 'repair' && repair ? (
        <NextRepair offered={repair} one={one} now={now} onBack={back} />
      ) : (
        <NothingLeft onClose={() => end({ repair: null, rung: null })} />
      )}
      {wanting ? (
        <p className={styles.wanting}>
          <b>{REPAIR_WORDS[wanting.repair]}</b> would help in {Math.round(wanting.chance * 100)} of 100 cases
          like this. {one.barred.find((bar) => bar.repair === wanting.repair)?.why}{' '}
          <Link href="/firmware">Go to the firmware</Link>
        </p>
      ) : null}
      {one.handset === null ? null : <ReadIt handset={one.handset} now={now} />}
      {(next === 'check' || line) && repair ? (
        <details>
          <summary className="soft">What could be done at once</summary>
          {repairs.slice(0, 4).map((offered) => (
            <p key={offered.repair} className="small">
              <b>{REPAIR_WORDS[offered.repair]}</b>: {Math.round(offered.chance * 100)} of 100, about{' '}
              {offered.minutes} min{' '}
              <Button size="small" type="link" onClick={() => now.asBefore(offered.repair)}>
                I did it: as before
              </Button>
              <Button size="small" type="link" onClick={() => back(offered.repair)}>
                It is back
              </Button>
            </p>
          ))}
        </details>
      ) : null}
      {one.barred.length === 0 ? null : (
        <details>
          <summary className="soft">What lacks its file</summary>
          {one.barred.map(({ repair: id, why }) => (
            <p key={id} className="small">
              <b>{REPAIR_WORDS[id]}</b>: {why}
            </p>
          ))}
        </details>
      )}
    </>
  );
}
