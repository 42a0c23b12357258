'use client';
import type { HandTurn } from '@/contracts/round-view';
import { formatBytes } from '@/ui/format';
import { HashText } from '@/ui/hash-text';
import { CommandLine } from './command-line';
import styles from './round.module.css';

const MODES = { bootloader: 'its bootloader', userspace: 'user-space flashing' } as const;

/**
 * A whole build as it is written by hand: every file in its turn, and the restarts in between. What was
 * pasted ticks off what it says was written.
 */
export function HandTurns({
  turns,
  written,
}: {
  readonly turns: readonly HandTurn[];
  readonly written: readonly string[];
}) {
  const wanted = turns.flatMap((turn) => (turn.do === 'write' ? turn.targets : []));
  const done = wanted.filter((name) => written.includes(name)).length;
  return (
    <section aria-label="Files of the build">
      <p className="small">
        <b className="num">
          {done} of {wanted.length} written
        </b>{' '}
        <span className="soft">
          by what you pasted below. Write them in this order, and see first that each file still has its hash.
        </span>
      </p>
      <ol className={styles.turns}>
        {turns.map((turn, i) => (
          // a restart into one mode may stand there twice
          <li key={`${i} ${turn.do === 'write' ? turn.partition : turn.into}`}>
            {turn.do === 'write' ? <WriteTurn turn={turn} written={written} /> : <RestartTurn turn={turn} />}
          </li>
        ))}
      </ol>
    </section>
  );
}

function RestartTurn({ turn }: { readonly turn: Extract<HandTurn, { do: 'restart' }> }) {
  return (
    <div className="small">
      Restart it into {MODES[turn.into]}, and wait until it is listed there.
      {turn.command ? <CommandLine does={`Restart into ${MODES[turn.into]}`} command={turn.command} /> : null}
    </div>
  );
}

function WriteTurn({
  turn,
  written,
}: {
  readonly turn: Extract<HandTurn, { do: 'write' }>;
  readonly written: readonly string[];
}) {
  const { targets, file, fileName, take, sizeBytes, sha256, hashCommand, commands } = turn;
  return (
    <div className="small">
      {targets.map((name) => (
        <b key={name} className="mono" style={{ marginRight: 10 }}>
          {written.includes(name) ? '✓ ' : ''}
          {name}
        </b>
      ))}
      {file ? (
        <a href={`/api/images/${file.sha256}`} download={file.name}>
          Download <span className="mono">{fileName}</span>
        </a>
      ) : (
        <span className="mono">{fileName}</span>
      )}{' '}
      <span className="soft">
        {sizeBytes === null ? 'size not stated' : formatBytes(sizeBytes)},{' '}
        {sha256 === null ? 'the package states no hash' : <HashText hash={sha256} />}
      </span>
      {take ? <CommandLine does={`Take ${turn.partition} out of the package`} command={take} /> : null}
      {sha256 === null ? null : <CommandLine does={`Hash of ${fileName}`} command={hashCommand} />}
      {commands.map((command, i) => (
        <CommandLine key={command} does={`Write ${targets[i] ?? turn.partition}`} command={command} />
      ))}
    </div>
  );
}
