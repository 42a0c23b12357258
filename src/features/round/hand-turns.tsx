'use client';
import type { HandTurn } from '@/contracts/round-view';
import { ROLE_WORDS } from '@/core/packages/set-roles';
import { formatBytes, listNames } from '@/ui/format';
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
      {wanted.length > 0 ? (
        <p className="small">
          <b className="num">
            {done} of {wanted.length} written
          </b>{' '}
          <span className="soft">
            by what you pasted below. Write them in this order, and see first that each file still has its
            hash.
          </span>
        </p>
      ) : (
        <p className="small soft">
          Give each archive of the set to its own place in your tool. Leave out whatever is not in this list.
        </p>
      )}
      <ol className={styles.turns}>
        {turns.map((turn, i) => (
          // a restart into one mode may stand there twice
          <li key={`${i} ${turn.do}`}>
            {turn.do === 'write' ? (
              <WriteTurn turn={turn} written={written} />
            ) : turn.do === 'part' ? (
              <PartTurn turn={turn} />
            ) : (
              <RestartTurn turn={turn} />
            )}
          </li>
        ))}
      </ol>
    </section>
  );
}

function PartTurn({
  turn: { role, fileName, holds, patched },
}: {
  readonly turn: Extract<HandTurn, { do: 'part' }>;
}) {
  return (
    <div className="small">
      <b>{ROLE_WORDS[role]}</b>: <span className="mono">{fileName}</span>{' '}
      <span className="soft">holds {listNames(holds)}</span>
      {patched ? (
        <div className="wait">
          Not this archive itself: the patched one that you made of it in the Firmware room.
        </div>
      ) : null}
    </div>
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
