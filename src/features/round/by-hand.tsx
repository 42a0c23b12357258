'use client';
import { Button } from 'antd';
import { useState } from 'react';
import type { AskedFact, HandCommand, HandFile, HandView, RoundStepView } from '@/contracts/round-view';
import { formatBytes } from '@/ui/format';
import { HashText } from '@/ui/hash-text';
import { Link } from '@/ui/link';
import { lowerFirst } from '@/core/words/sentence';
import { commandsAction } from './actions';
import { AnswerForm } from './answer-form';
import { CommandLine } from './command-line';
import styles from './round.module.css';
import type { RoundActions } from './use-round-actions';

interface Props {
  readonly hand: HandView;
  readonly asks: readonly AskedFact[];
  readonly step: RoundStepView;
  readonly actions: RoundActions;
  /** Something above does the step: what is said here is the other way. */
  readonly second: boolean;
}

/** The same step on a real handset: its file, the commands for it, and what is said and shown of it. */
export function ByHand({ hand, asks, step, actions, second }: Props) {
  return (
    <div className={styles.hand}>
      {hand.file ? <FileLine file={hand.file} /> : null}
      {hand.files.map((file) => (
        <FileLine key={file.sha256} file={file} />
      ))}
      {hand.commands.length > 0 ? <Commands commands={hand.commands} actions={actions} /> : null}
      {hand.ownWordsMissing ? (
        <p className="small soft">
          Commands stand here in the words of your own tool, once you have{' '}
          <Link href="/store">given them</Link>.
        </p>
      ) : null}
      <AnswerForm second={second} hand={hand} asks={asks} step={step} actions={actions} />
      {hand.ahead ? <Ahead ahead={hand.ahead} /> : null}
    </div>
  );
}

/** What is written right after it: in an emergency it is at hand before anything is clicked. */
function Ahead({ ahead }: { ahead: NonNullable<HandView['ahead']> }) {
  return (
    <div style={{ marginTop: 14 }}>
      <h3>Have ready: {lowerFirst(ahead.title)}</h3>
      {ahead.file ? (
        <FileLine file={ahead.file} />
      ) : (
        <p className="bad small">Its image is not in the vault.</p>
      )}
      <Commands commands={ahead.commands} actions={null} />
    </div>
  );
}

function FileLine({ file }: { file: HandFile }) {
  return (
    <div className="small">
      <a href={`/api/images/${file.sha256}`} download={file.name}>
        Download <span className="mono">{file.name}</span>
      </a>{' '}
      <span className="soft">
        {formatBytes(file.sizeBytes)}, SHA-256 <HashText hash={file.sha256} />. Before you write it, see on
        this computer that it still has this hash:
      </span>
      <code className="mono small">{file.hashCommand}</code>
    </div>
  );
}

/** What the person types, and where; the serial stands in it only when it is asked for. */
export function Commands({
  commands,
  actions,
}: {
  commands: readonly HandCommand[];
  actions: RoundActions | null;
}) {
  const [own, setOwn] = useState<readonly HandCommand[] | null>(null);
  const shown = own ?? commands;
  const hasSerial = shown.some(({ command }) => command.includes('SERIAL'));
  return (
    <>
      {shown.map(({ does, where, command }) => (
        <div key={does} className="small">
          {does}, <span className="soft">{where}</span>
          <CommandLine does={does} command={command} />
        </div>
      ))}
      {hasSerial && actions ? (
        <Button
          size="small"
          type="text"
          style={{ marginLeft: -7 }}
          onClick={() =>
            actions.run(async (at) => {
              const found = await commandsAction(at);
              if (found.ok) setOwn(found.value);
              return found;
            })
          }
        >
          Put this handset’s serial in
        </Button>
      ) : null}
    </>
  );
}
