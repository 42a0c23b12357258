'use client';
import { Button, Input, Radio, Select } from 'antd';
import { useState } from 'react';
import type { FactView, HandsetDetail } from '@/contracts/handset-view';
import { FACT_CHOICES, FACT_KINDS, factWord, isFactKey, TYPED_FACTS } from '@/core/facts/catalogue';
import type { FactGroup } from '@/core/facts/catalogue';
import { ErrorNote } from '@/ui/error-note';
import { formatAge, formatTime } from '@/ui/format';
import { useAct } from '@/ui/use-act';
import { chooseFactAction, typeFactAction } from './actions';
import styles from './handset.module.css';
import { ON_UPDATE_WORDS, onRootWriteWords, RECOVERY_HOME_WORDS, rootWords } from '@/core/words/root';
import { lowerFirst } from '@/core/words/sentence';

interface Props {
  readonly handset: HandsetDetail;
  readonly now: number;
}

const GROUPS: readonly (readonly FactGroup[])[] = [
  ['Build', 'Bootloader'],
  ['Handset', 'Slots', 'Floors', 'Partitions'],
];

/** Every fact with who said it and when; what contradicts itself stands on top until somebody settles it. */
export function Passport({ handset, now }: Props) {
  const contradicted = handset.facts.filter((fact) => fact.contradiction !== null);
  if (handset.facts.length === 0)
    return <p className="soft">Nothing is known of it yet. Paste what it prints.</p>;
  return (
    <>
      {contradicted.map((fact) => (
        <ContradictionNote key={fact.key} handsetId={handset.id} fact={fact} />
      ))}
      <div className={styles.columns}>
        {GROUPS.map((groups) => (
          <div key={groups[0]}>
            {groups.map((group) => (
              <FactGroupTable
                key={group}
                group={group}
                facts={handset.facts.filter((fact) => fact.group === group)}
                now={now}
              />
            ))}
            {groups[0] === 'Build' ? (
              <>
                <TypeFact handsetId={handset.id} />
                <p className="soft small">
                  {handset.serialEnd
                    ? `The serial ends in ${handset.serialEnd} and is kept apart. `
                    : 'No serial is kept. '}
                  {handset.unread > 0
                    ? `${handset.unread} lines of what it printed could not be read; they are kept as they are.`
                    : ''}
                </p>
              </>
            ) : (
              <RootSeat handset={handset} />
            )}
          </div>
        ))}
      </div>
    </>
  );
}

function FactGroupTable({
  group,
  facts,
  now,
}: {
  group: FactGroup;
  facts: readonly FactView[];
  now: number;
}) {
  if (facts.length === 0) return null;
  return (
    <>
      <h2>{group}</h2>
      <table className="ledger" style={{ marginBottom: 16 }}>
        <tbody>
          {facts.map((fact) => (
            <tr key={fact.key}>
              <td className="soft" style={{ width: 150 }}>
                {fact.label}
              </td>
              <td className="mono" style={{ overflowWrap: 'anywhere' }}>
                {factWord(fact.value)}
                {fact.contradiction && !fact.contradiction.chosen ? (
                  <b className="bad"> contradicted</b>
                ) : null}
              </td>
              <td
                className={`small ${fact.stale ? 'wait' : 'soft'}`}
                style={{ width: 200, whiteSpace: 'nowrap' }}
                title={`${fact.said}, ${formatTime(fact.at)}`}
              >
                {fact.saidShort}, {formatAge(fact.at, now)}
                {fact.claim ? ' (claim)' : null}
                {fact.stale ? <b> stale</b> : null}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

/**
 * Two sources that differ: between equals the person chooses, a claim against evidence is only settled by
 * reading again.
 */
function ContradictionNote({ handsetId, fact }: { handsetId: string; fact: FactView }) {
  const { act, busy, error, dismiss } = useAct();
  const [value, setValue] = useState(fact.value);
  const [reason, setReason] = useState('');
  const { kind, others, chosen } = fact.contradiction!;
  const claim = kind === 'claim against evidence';
  const sides = [{ value: fact.value, said: fact.said, at: fact.at }, ...others];
  return (
    <section
      className={chosen ? styles.settled : styles.contradiction}
      aria-label={`${fact.label} is contradicted`}
    >
      <h2>
        {fact.label}:{' '}
        {chosen ? 'you chose between two sources' : claim ? 'a claim against evidence' : 'two sources differ'}
      </h2>
      {claim || chosen ? (
        <ul className={styles.sides}>
          {sides.map((side) => (
            <li key={`${side.value}${side.at}`}>
              <b className="mono">{factWord(side.value)}</b> {side.said}, {formatTime(side.at)}
              {side.value === fact.value ? <b>: this counts</b> : ''}
            </li>
          ))}
        </ul>
      ) : (
        <Radio.Group value={value} onChange={(event) => setValue(event.target.value as string)}>
          {sides.map((side) => (
            <div key={`${side.value}${side.at}`}>
              <Radio value={side.value}>
                <span className="mono">{factWord(side.value)}</span>{' '}
                <span className="soft small">
                  {side.said}, {formatTime(side.at)}
                </span>
              </Radio>
            </div>
          ))}
        </Radio.Group>
      )}
      {claim ? (
        <p>
          A system that runs with root can be made to say anything. Nothing is written to this handset until
          both say the same: bring it into its bootloader and paste its variables, or paste the dump again
          with the module off.
        </p>
      ) : chosen ? null : (
        <div className={styles.line}>
          <Input
            aria-label="Why this one"
            placeholder="Why this one, for the log"
            value={reason}
            onChange={(event) => setReason(event.target.value)}
          />
          <Button
            loading={busy}
            disabled={reason.trim() === ''}
            onClick={() => act(() => chooseFactAction({ handsetId, key: fact.key, value, reason }))}
          >
            Take this one
          </Button>
        </div>
      )}
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
    </section>
  );
}

/** For what no dump says. */
function TypeFact({ handsetId }: { handsetId: string }) {
  const { act, busy, error, dismiss } = useAct();
  const [key, setKey] = useState<string>(TYPED_FACTS[0]!);
  const [value, setValue] = useState('');
  const choices = isFactKey(key) ? FACT_CHOICES[key] : undefined;
  return (
    <>
      <h3>Say what it does not print</h3>
      <div className={styles.line}>
        <Select
          aria-label="Which fact"
          style={{ width: 200 }}
          value={key}
          onChange={(next: string) => {
            setKey(next);
            setValue('');
          }}
          options={TYPED_FACTS.map((one) => ({ value: one, label: FACT_KINDS[one].label }))}
        />
        {choices ? (
          <Select
            aria-label="What it is"
            style={{ width: 160 }}
            value={value || null}
            placeholder="what you see"
            onChange={(next: string | null) => setValue(next ?? '')}
            options={[...choices]}
          />
        ) : (
          <Input
            aria-label="What it is"
            style={{ width: 160 }}
            value={value}
            onChange={(event) => setValue(event.target.value)}
          />
        )}
        <Button
          loading={busy}
          disabled={value.trim() === ''}
          onClick={() =>
            act(
              () => typeFactAction({ handsetId, key, value }),
              () => setValue(''),
            )
          }
        >
          Keep it
        </Button>
      </div>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
    </>
  );
}

/** Which image carries root and where the recovery lives: the evidence, and the rule of thumb beside it. */
function RootSeat({ handset }: { handset: HandsetDetail }) {
  const { rootPartition: root, recoveryHome: recovery, writeSlots } = handset;
  return (
    <>
      <h2>Where root and recovery sit</h2>
      <table className="ledger">
        <tbody>
          {root.opinions.map((opinion) => (
            <tr key={opinion.witness}>
              <td className="soft" style={{ width: 150 }}>
                {opinion.witness === 'handset'
                  ? 'the handset itself'
                  : opinion.witness === 'rule of thumb'
                    ? 'rule of thumb'
                    : `the ${opinion.witness}`}
              </td>
              <td className="mono" style={{ width: 90 }}>
                {opinion.partition ?? 'none'}
              </td>
              <td className="small">{rootWords(opinion.because)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p style={{ marginTop: 6 }}>
        {root.agree ? (
          <>
            Root sits in <b>{root.partition ?? 'a partition not known yet'}</b>
            {root.sure ? '.' : ', by rule of thumb only: open its package, which decides.'}
          </>
        ) : (
          <b className="bad">They disagree, and nothing is written until they agree.</b>
        )}{' '}
        {root.recoveryOnly
          ? 'It is there only when the handset is started with the recovery’s keys: an ordinary start without root is not “lost”. '
          : ''}
        {writeSlots.reason}
      </p>
      <p>
        {recovery.home === null
          ? 'Where the recovery lives is not known: '
          : `The recovery lives in ${recovery.home === 'own partition' ? 'its own partition' : recovery.home}: `}
        {lowerFirst(RECOVERY_HOME_WORDS[recovery.because])}{' '}
        {recovery.home === null
          ? ''
          : `${onRootWriteWords(recovery.onWrite)} ${ON_UPDATE_WORDS[recovery.onUpdate]}`}
        {recovery.recoveryFirst ? ' So recovery goes in before root.' : ''}
      </p>
    </>
  );
}
