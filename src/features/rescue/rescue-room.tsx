'use client';
import { Button, Checkbox, Select } from 'antd';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { RescueCase, RescueView } from '@/contracts/rescue-view';
import type { RepairId } from '@/core/words/rescue';
import { CAUSE_WORDS, CHECK_WORDS, REPAIR_WORDS } from '@/core/words/rescue';
import { ErrorNote } from '@/ui/error-note';
import { useAct } from '@/ui/use-act';
import { closeCaseAction } from './actions';
import { BeliefBars } from './belief-bars';
import { NextQuestion, NextRepair, NothingLeft } from './next-step';
import styles from './rescue.module.css';
import { SymptomPicker } from './symptom-picker';
import type { Case } from './use-case';
import { useCase } from './use-case';

/** A handset in trouble: what it shows, what may be behind it, one question or one repair at a time. */
export function RescueRoom({ view }: { readonly view: RescueView }) {
  const { chosen, counts } = view;
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
        <OneCase one={chosen} counts={counts} />
      ) : (
        <p className="soft">Choose the handset, or its class where it was never here.</p>
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
        style={{ minWidth: 240 }}
        popupMatchSelectWidth={false}
        value={chosen?.handset?.id ?? null}
        onChange={(value: string) =>
          router.push(
            value.startsWith('like ') ? `/rescue?like=${value.slice(5)}` : `/rescue?handset=${value}`,
          )
        }
        options={[
          ...handsets.map(({ id, name, broken }) => ({
            value: id,
            label: broken ? `${name}: does not start` : name,
          })),
          ...classes.map(({ id, title }) => ({ value: `like ${id}`, label: `never here: ${title}` })),
        ]}
      />
      {chosen ? <span className="soft small">{chosen.about}</span> : null}
    </div>
  );
}

function OneCase({ one, counts }: { readonly one: RescueCase; readonly counts: RescueView['counts'] }) {
  const now = useCase(one, counts);
  const [closed, setClosed] = useState<RepairId | 'nothing' | null>(null);
  const { act, error, dismiss } = useAct();
  const close = (repair: RepairId | null) => {
    const cause = repair && (now.believed.find((it) => one.works[repair].includes(it.cause))?.cause ?? null);
    act(
      () =>
        closeCaseAction({
          handsetId: one.handset?.id ?? null,
          symptoms: [...now.symptoms],
          checks: now.answers.length,
          tried: [...now.tried],
          repair,
          cause,
        }),
      () => setClosed(repair ?? 'nothing'),
    );
  };
  return (
    <div className={styles.case}>
      <SymptomPicker chosen={now.symptoms} onChange={now.show} />
      <div>
        {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
        {closed !== null ? (
          <Closed how={closed} one={one} now={now} />
        ) : now.symptoms.length === 0 ? (
          <p>
            <b>Choose what you see, as many as apply.</b> Nothing is written, and nothing is erased, before it
            says so in plain words.
          </p>
        ) : (
          <Now one={one} now={now} close={close} />
        )}
        <Told now={now} />
      </div>
      {now.symptoms.length === 0 ? null : <BeliefBars believed={now.believed} />}
    </div>
  );
}

function Now({
  one,
  now,
  close,
}: {
  readonly one: RescueCase;
  readonly now: Case;
  readonly close: (repair: RepairId | null) => void;
}) {
  const { next, checks, repairs } = now.advice;
  const [check] = checks;
  const [repair] = repairs;
  return (
    <>
      {next === 'check' && check ? (
        <NextQuestion check={check} now={now} />
      ) : next === 'repair' && repair ? (
        <NextRepair offered={repair} one={one} now={now} onBack={close} />
      ) : (
        <NothingLeft onClose={() => close(null)} />
      )}
      {next === 'check' && repair ? (
        <details>
          <summary className="soft">What could be done at once</summary>
          {repairs.slice(0, 4).map((offered) => (
            <p key={offered.repair} className="small">
              <b>{REPAIR_WORDS[offered.repair]}</b>: {Math.round(offered.chance * 100)} of 100, about{' '}
              {offered.minutes} min{' '}
              <Button size="small" type="link" onClick={() => now.asBefore(offered.repair)}>
                I did it: as before
              </Button>
              <Button size="small" type="link" onClick={() => close(offered.repair)}>
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

/** What was answered and done so far; each answer can be taken back. */
function Told({ now }: { readonly now: Case }) {
  if (now.answers.length + now.tried.length === 0) return null;
  return (
    <section aria-label="What is known so far" className={styles.told}>
      <h3>Known so far</h3>
      {now.answers.map(({ check, answer }) => (
        <p key={check} className="small">
          {CHECK_WORDS[check].asks}{' '}
          <b>
            {answer === null
              ? 'I can’t tell'
              : (CHECK_WORDS[check].answers as Readonly<Record<string, string>>)[answer]}
          </b>{' '}
          <Button size="small" type="link" onClick={() => now.takeBack(check)}>
            Take it back
          </Button>
        </p>
      ))}
      {now.tried.map((repair) => (
        <p key={repair} className="small">
          {REPAIR_WORDS[repair]}: <b>as before</b>
        </p>
      ))}
    </section>
  );
}

function Closed({
  how,
  one,
  now,
}: {
  readonly how: RepairId | 'nothing';
  readonly one: RescueCase;
  readonly now: Case;
}) {
  const cause = how === 'nothing' ? undefined : now.believed.find((it) => one.works[how].includes(it.cause));
  return (
    <section aria-label="The case is closed" className={styles.card}>
      <h2>
        {how === 'nothing' ? 'Written down: nothing brought it back.' : 'It is back, and written down.'}
      </h2>
      {cause ? (
        <p>
          It was most likely this: <b>{CAUSE_WORDS[cause.cause]}</b>. The next case weighs it by one more.
        </p>
      ) : null}
      <p>It stands in the log. What it runs and whether it has root is read when it answers again.</p>
    </section>
  );
}
