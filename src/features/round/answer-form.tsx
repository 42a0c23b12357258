'use client';
import { Button, Input, Radio, Upload } from 'antd';
import { useEffect, useState } from 'react';
import type { AskedFact, HandView, RoundStepView, ShownView } from '@/contracts/round-view';
import { toEternoError } from '@/core/errors';
import type { OutcomeId } from '@/core/words/outcomes';
import { askServer } from '@/ui/ask-server';
import { formatTime } from '@/ui/format';
import { sendNote } from '@/ui/send';
import type { HandAnswer } from './actions';
import { answerAction, showAction } from './actions';
import { HandTurns } from './hand-turns';
import styles from './round.module.css';
import type { RoundActions } from './use-round-actions';

interface FormProps {
  readonly hand: HandView;
  readonly step: RoundStepView;
  readonly actions: RoundActions;
}

interface Props extends FormProps {
  /** What is asked of the person in a word at this step; each is said above. */
  readonly asks: readonly AskedFact[];
  /** Something above does the step: this is the other way. */
  readonly second: boolean;
}

function wentWords(asks: readonly AskedFact[], readBefore: boolean): string {
  if (asks.some(({ needed }) => needed)) return 'That is what I found';
  return readBefore ? 'It is still so' : 'It went as described';
}

/** How it went, in one of three answers, and one box for whatever shows it. */
export function AnswerForm({ hand, asks, step, actions, second }: Props) {
  const [asked, setAsked] = useState<'otherwise' | 'cannot-tell' | null>(null);
  const [text, setText] = useState('');
  const shown = useShown(actions, text);
  const answer = (said: Omit<HandAnswer, 'text'>) => actions.run((at) => answerAction(at, { ...said, text }));
  const isAgainst = shown?.verdict === 'otherwise';
  const leads = !isAgainst && asked === null && step.state !== 'failed' && !second;
  const readBefore = hand.readAt !== null && text.trim() === '';
  // what was neither said in a word nor pasted was not found out
  const notFound = text.trim() === '' && asks.some(({ needed, said }) => needed && said === null);
  return (
    <>
      {hand.turns.length > 0 ? <HandTurns turns={hand.turns} written={shown?.written ?? []} /> : null}
      <ShowBox hand={hand} text={text} setText={setText} shown={shown} />
      {readBefore ? (
        <p className="small soft">
          Read on {formatTime(hand.readAt!)}. If it still is so, you need not paste it again.
        </p>
      ) : null}
      <div className={styles.answers} role="group" aria-label="How did it go?">
        <Button
          type={leads ? 'primary' : 'default'}
          disabled={isAgainst || notFound}
          danger={step.erases}
          loading={actions.busy}
          onClick={() => answer({ how: 'as-described', note: '' })}
        >
          {wentWords(asks, readBefore)}
        </Button>
        <Button aria-expanded={asked === 'otherwise'} onClick={() => setAsked('otherwise')}>
          It went otherwise
        </Button>
        <Button type="text" aria-expanded={asked === 'cannot-tell'} onClick={() => setAsked('cannot-tell')}>
          I can’t tell
        </Button>
      </div>
      {asked === 'otherwise' ? <Otherwise hand={hand} step={step} actions={actions} answer={answer} /> : null}
      {asked === 'cannot-tell' ? (
        <CannotTell hand={hand} step={step} actions={actions} answer={answer} />
      ) : null}
    </>
  );
}

/** What was pasted, read at the server a moment after the last key. */
function useShown(actions: RoundActions, text: string): ShownView | null {
  const [shown, setShown] = useState<{ readonly of: string; readonly view: ShownView | null } | null>(null);
  const { at } = actions;
  useEffect(() => {
    if (text.trim() === '') return undefined;
    let over = false;
    const timer = setTimeout(() => {
      void askServer(() => showAction(at, text)).then((found) => {
        if (!over && found.ok) setShown({ of: text, view: found.value });
      });
    }, WAIT_MS);
    return () => {
      over = true;
      clearTimeout(timer);
    };
  }, [at, text]);
  return text.trim() !== '' && shown?.of === text ? shown.view : null;
}
const WAIT_MS = 300;

interface BoxProps {
  readonly hand: HandView;
  readonly text: string;
  readonly setText: (text: string) => void;
  readonly shown: ShownView | null;
}

function ShowBox({ hand, text, setText, shown }: BoxProps) {
  if (hand.shows.length === 0) return null;
  return (
    <div style={{ marginTop: 10 }}>
      <label>
        <b>Show it, if you can</b> <span className="soft small">{hand.shows.join(' ')}</span>
        <Input.TextArea
          aria-label="Show it: paste what was printed"
          rows={text === '' ? 2 : 6}
          className="mono"
          spellCheck={false}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
      </label>
      <div aria-live="polite">{shown ? <ShownLines shown={shown} /> : null}</div>
    </div>
  );
}

const MARKS = { met: '✓', differs: '✗', fault: '✗', harmless: '·', unknown: '?' } as const;
const TONES = { met: '', differs: 'bad', fault: 'bad', harmless: 'soft', unknown: 'soft' } as const;
const VERDICTS = {
  met: 'This shows that it went as described.',
  otherwise: 'This shows that it went otherwise.',
  'not-enough': 'This does not show it yet.',
} as const;

function ShownLines({ shown }: { shown: ShownView }) {
  return (
    <div className="small" style={{ marginTop: 6 }}>
      <b className={shown.verdict === 'otherwise' ? 'bad' : shown.verdict === 'met' ? '' : 'wait'}>
        {VERDICTS[shown.verdict]}
      </b>{' '}
      {shown.verdict === 'met' ? null : shown.next}
      <table className={styles.shown}>
        <tbody>
          {shown.lines.map(({ line, text, mark, says }) => (
            <tr key={`${line} ${says}`}>
              <td className={TONES[mark]}>
                {MARKS[mark]} {says}
              </td>
              <td className="soft num">line {line}</td>
              <td className="mono soft">{text}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

interface SaidProps {
  readonly hand: HandView;
  readonly step: RoundStepView;
  readonly actions: RoundActions;
  readonly answer: (said: Omit<HandAnswer, 'text'>) => void;
}

function Note({ note, setNote }: { readonly note: string; readonly setNote: (note: string) => void }) {
  return (
    <label style={{ display: 'block', margin: '8px 0' }}>
      <span className="soft small">In your own words, and the words on its screen</span>
      <Input value={note} maxLength={2000} onChange={(event) => setNote(event.target.value)} />
    </label>
  );
}

/** A picture of its screen stands at its step in the log. */
function Picture({ step, actions }: Pick<SaidProps, 'step' | 'actions'>) {
  const [kept, setKept] = useState<string | null>(null);
  const keep = (file: File) => {
    actions.run(async ({ roundId }) => {
      try {
        await sendNote({ roundId, stepId: step.id, text: '' }, file);
        setKept(file.name);
        return { ok: true, value: undefined };
      } catch (thrown) {
        return { ok: false, error: toEternoError(thrown).toData() };
      }
    });
    return false;
  };
  return (
    <div style={{ margin: '0 0 10px' }}>
      <Upload accept="image/png,image/jpeg,image/webp" showUploadList={false} beforeUpload={keep}>
        <Button size="small" loading={actions.busy}>
          Add a picture of its screen
        </Button>
      </Upload>{' '}
      {kept === null ? null : <span className="small soft">{kept} is kept with this step.</span>}
    </div>
  );
}

function Otherwise({ hand, step, actions, answer }: SaidProps) {
  const [outcome, setOutcome] = useState<OutcomeId | null>(null);
  const [note, setNote] = useState('');
  return (
    <div className={styles.more} role="group" aria-label="What happened?">
      <Radio.Group
        value={outcome}
        onChange={(event) => setOutcome(event.target.value as OutcomeId)}
        options={hand.outcomes.map(({ id, words }) => ({ value: id, label: words }))}
        className={styles.outcomes}
      />
      <Note note={note} setNote={setNote} />
      <Picture step={step} actions={actions} />
      <Button
        disabled={outcome === null || (outcome === 'own-words' && note.trim() === '')}
        loading={actions.busy}
        onClick={() => answer({ how: 'otherwise', outcome: outcome!, note })}
      >
        Write this down
      </Button>
    </div>
  );
}

function CannotTell({ hand, actions, answer }: SaidProps) {
  const [note, setNote] = useState('');
  return (
    <div className={styles.more} role="group" aria-label="It can’t be told">
      <p className="small">
        {hand.lasting
          ? 'This step changes the handset for good. What it wrote counts as unknown until it is read back or written again.'
          : 'You can go on without knowing. The sign-off says that nobody saw it, and a claim that rests on it stays open.'}
      </p>
      <Note note={note} setNote={setNote} />
      <Button loading={actions.busy} onClick={() => answer({ how: 'cannot-tell', note })}>
        {hand.lasting ? 'Write down that nobody knows' : 'Go on without knowing'}
      </Button>
    </div>
  );
}
