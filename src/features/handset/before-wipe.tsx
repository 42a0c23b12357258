'use client';
import { Button, Input, InputNumber, Select } from 'antd';
import { useState } from 'react';
import type { HandsetDetail } from '@/contracts/handset-view';
import type { Answer, Question } from '@/core/feasibility/feasibility';
import type { Floor } from '@/core/feasibility/floors';
import { ErrorNote } from '@/ui/error-note';
import { formatDay } from '@/ui/format';
import { useAct } from '@/ui/use-act';
import { noteClockAction, noteDependencyAction, noteEdgeAction } from './actions';
import styles from './handset.module.css';
import { PatchLevelLine } from './patch-level-line';
import {
  feasibilityNext,
  feasibilityVerdictWords,
  feasibilityWords,
  QUESTIONS,
} from '@/core/words/feasibility';
import { FLOOR_TITLES, floorWords } from '@/core/words/floors';

interface Props {
  readonly handset: HandsetDetail;
  readonly now: number;
}

const ANSWER_SIGNS: Readonly<Record<Answer, string>> = { yes: '✓ yes', no: '✗ no', unknown: '? not known' };
const VERDICT_WORDS: Readonly<Record<HandsetDetail['feasibility']['verdict'], string>> = {
  go: 'It can be done.',
  no: 'It can’t be done as things stand.',
  "can't tell": 'It is not known yet whether it can be done.',
};

/**
 * Every go or no-go question, answered before anything is wiped; the unknown that matters most stands first.
 */
export function BeforeWipe({ handset, now }: Props) {
  const { feasibility, known } = handset;
  const first = feasibility.unknowns[0];
  return (
    <>
      <div className={styles.verdict}>
        <h2>
          {known.unlocked === true
            ? 'It is unlocked already: rooting it wipes nothing.'
            : VERDICT_WORDS[feasibility.verdict]}
        </h2>
        {feasibility.verdict === "can't tell" ? null : <p>{feasibilityVerdictWords(feasibility.says)}</p>}
        {first ? (
          <p>
            <b>Find out first:</b> {QUESTIONS[first.id]} {feasibilityNext(first.says)}
          </p>
        ) : null}
        {known.unlocked === true ? null : (
          <p className="bad small">
            Unlocking erases everything on the handset, may end its warranty, and payments, work and some
            other apps may stop. Only your own devices; what the maker, the carrier, your employer and the law
            where you live allow comes first.
          </p>
        )}
      </div>
      <div className={styles.columns}>
        <div>
          <h2>The questions</h2>
          <table className="ledger">
            <tbody>
              {sorted(feasibility.questions, feasibility.unknowns).map((question) => (
                <tr key={question.id}>
                  <td
                    style={{ width: 92 }}
                    className={question.answer === 'no' ? 'bad' : question.answer === 'unknown' ? 'wait' : ''}
                  >
                    <b>{ANSWER_SIGNS[question.answer]}</b>
                  </td>
                  <td>
                    {QUESTIONS[question.id]}
                    <div className="soft small">
                      {feasibilityWords(question.says)}{' '}
                      {question.answer === 'yes' ? null : <b>{feasibilityNext(question.says)}</b>}
                    </div>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        <div>
          <h2>Will the data open?</h2>
          <PatchLevelLine {...handset.data} now={now} />
          <h2 style={{ marginTop: 16 }}>Three floors</h2>
          <Floors floors={handset.floors} />
          <Edges handset={handset} />
          <Clocks handset={handset} now={now} />
          <Apps handset={handset} />
        </div>
      </div>
    </>
  );
}

const ANSWER_RANK: Readonly<Record<Answer, number>> = { no: 0, unknown: 1, yes: 2 };
/** Noes first, then unknowns by how much they would change the answer. */
const sorted = (questions: readonly Question[], unknowns: readonly Question[]) =>
  [...questions].sort(
    (a, b) => ANSWER_RANK[a.answer] - ANSWER_RANK[b.answer] || unknowns.indexOf(a) - unknowns.indexOf(b),
  );

const FLOOR_SIGNS: Readonly<Record<Floor['verdict'], string>> = {
  above: '✓ above',
  below: '✗ below',
  unknown: '? not known',
  'does not count': '– does not count',
};

function Floors({ floors }: { floors: readonly Floor[] }) {
  return (
    <table className="ledger">
      <tbody>
        {floors.map((floor) => (
          <tr key={floor.id}>
            <td
              style={{ width: 120 }}
              className={floor.verdict === 'below' ? 'bad' : floor.verdict === 'unknown' ? 'wait' : ''}
            >
              <b>{FLOOR_SIGNS[floor.verdict]}</b>
            </td>
            <td>
              {FLOOR_TITLES[floor.id]}
              <div className="soft small">{floorWords(floor.says)}</div>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Edges({ handset }: { handset: HandsetDetail }) {
  const { act, busy, error, dismiss } = useAct();
  const [[fromBuild, toBuild], setBuilds] = useState([handset.build ?? '', '']);
  const [allowed, setAllowed] = useState<'yes' | 'no'>('no');
  const [level, setLevel] = useState<number | null>(null);
  const keep = () =>
    act(
      () =>
        noteEdgeAction({
          handsetId: handset.id,
          fromBuild,
          toBuild,
          allowed,
          bootloader: allowed === 'yes' ? level : null,
          note: '',
        }),
      () => setBuilds([fromBuild, '']),
    );
  return (
    <>
      <h3 style={{ marginTop: 12 }}>Known ways down</h3>
      {handset.records.edges.map((edge) => (
        <p key={`${edge.fromBuild}${edge.toBuild}${edge.note}`} className="small">
          <span className="mono">{edge.fromBuild}</span> to <span className="mono">{edge.toBuild}</span>:{' '}
          <b>{edge.allowed ? 'went through' : 'refused'}</b>
          {edge.note ? `, ${edge.note}` : ''}
        </p>
      ))}
      {handset.records.edges.length === 0 ? (
        <p className="soft small">None noted for this code name.</p>
      ) : null}
      <details>
        <summary className="small">Note one</summary>
        <div className={styles.line}>
          <Input
            aria-label="From build"
            className="mono"
            style={{ width: 170 }}
            value={fromBuild}
            onChange={(event) => setBuilds([event.target.value, toBuild])}
          />
          <Input
            aria-label="To build"
            placeholder="down to"
            className="mono"
            style={{ width: 170 }}
            value={toBuild}
            onChange={(event) => setBuilds([fromBuild, event.target.value])}
          />
          <Select
            aria-label="Whether it worked"
            style={{ width: 130 }}
            value={allowed}
            onChange={setAllowed}
            options={[
              { value: 'yes', label: 'went through' },
              { value: 'no', label: 'was refused' },
            ]}
          />
          {allowed === 'yes' ? (
            <InputNumber
              aria-label="Highest bootloader level it wants"
              placeholder="bootloader at most"
              min={0}
              style={{ width: 160 }}
              value={level}
              onChange={setLevel}
            />
          ) : null}
          <Button loading={busy} disabled={fromBuild.trim() === '' || toBuild.trim() === ''} onClick={keep}>
            Note it
          </Button>
        </div>
      </details>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
    </>
  );
}

const DAY_MS = 86_400_000;

function Clocks({ handset, now }: Props) {
  const { act, busy, error, dismiss } = useAct();
  const [days, setDays] = useState<number | null>(7);
  const { clocks } = handset.records;
  return (
    <>
      <h3 style={{ marginTop: 12 }}>Clocks that run</h3>
      {clocks.map((clock) => (
        <p key={`${clock.kind}${clock.endsAt}`} className="small">
          <b>{clock.kind}</b>:{' '}
          {clock.endsAt > now ? `${Math.ceil((clock.endsAt - now) / DAY_MS)} days left` : 'over'},{' '}
          {formatDay(clock.endsAt)}
          {clock.note ? `, ${clock.note}` : ''}
        </p>
      ))}
      {clocks.length === 0 ? <p className="soft small">None.</p> : null}
      {handset.known.unlocked === true ? null : (
        <div className={styles.line}>
          <span className="small">The unlock switch is grey for</span>
          <InputNumber
            aria-label="Days until the switch opens"
            min={1}
            max={60}
            style={{ width: 70 }}
            value={days}
            onChange={setDays}
          />
          <span className="small">days more</span>
          <Button
            size="small"
            loading={busy}
            disabled={days === null}
            onClick={() =>
              act(() =>
                noteClockAction({
                  handsetId: handset.id,
                  kind: 'unlock switch',
                  endsAt: now + (days ?? 1) * DAY_MS,
                  note: '',
                }),
              )
            }
          >
            Start its clock
          </Button>
        </div>
      )}
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
    </>
  );
}

function Apps({ handset }: { handset: HandsetDetail }) {
  const { act, busy, error, dismiss } = useAct();
  const [name, setName] = useState('');
  const [effect, setEffect] = useState<'stops' | 'keeps working' | 'unknown'>('unknown');
  const [needed, setNeeded] = useState<'yes' | 'no'>('no');
  const { dependencies } = handset.records;
  return (
    <>
      <h3 style={{ marginTop: 12 }}>Apps and features that may stop</h3>
      {dependencies.map((one) => (
        <p key={one.name} className="small">
          <b>{one.name}</b>: {one.effect === 'unknown' ? 'not known' : one.effect}
          {one.needed ? ', and you need it' : ', and you can do without'}
        </p>
      ))}
      {dependencies.length === 0 ? <p className="soft small">None noted.</p> : null}
      <div className={styles.line}>
        <Input
          aria-label="App or feature"
          placeholder="App or feature"
          style={{ width: 150 }}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <Select
          aria-label="What happens to it"
          style={{ width: 140 }}
          value={effect}
          onChange={setEffect}
          options={(['stops', 'keeps working', 'unknown'] as const).map((one) => ({
            value: one,
            label: one === 'unknown' ? 'not known' : one,
          }))}
        />
        <Select
          aria-label="Whether you need it"
          style={{ width: 150 }}
          value={needed}
          onChange={setNeeded}
          options={[
            { value: 'no', label: 'can do without' },
            { value: 'yes', label: 'need it' },
          ]}
        />
        <Button
          loading={busy}
          disabled={name.trim() === ''}
          onClick={() =>
            act(
              () => noteDependencyAction({ handsetId: handset.id, name, effect, needed, note: '' }),
              () => setName(''),
            )
          }
        >
          Note it
        </Button>
      </div>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
    </>
  );
}
