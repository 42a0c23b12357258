import { Button } from 'antd';
import { regionChoice } from '@/core/packages/region-part';
import type { SetHistory, SetManifest, SetPart } from '@/core/packages/set-manifest';
import { ROLE_WORDS } from '@/core/packages/set-roles';
import { formatBytes, listNames } from '@/ui/format';
import styles from './firmware.module.css';

const CHECKS: Readonly<Record<SetPart['checksum'], string>> = {
  ok: 'holds',
  bad: 'fails: damaged',
  none: 'it has none',
  stated: 'there, held against it when an image is taken out',
};

const MISSING_WORDS: Readonly<Record<string, string>> = {
  bootloader: 'the bootloader part',
  system: 'the system archive',
  modem: 'the modem part',
  'region-keep': 'a region part',
};

interface Props {
  /** None where the package is no set of several archives. */
  readonly set: SetManifest | undefined;
  /** Of the handset that it is held against. */
  readonly history: SetHistory;
  /** Opens the set again with this region part only; null where that can't be. */
  readonly onRegion: ((file: string) => void) | null;
}

/** A firmware set of several archives as one thing: its parts, what does not go together, and the region choice. */
export function SetParts({ set, history, onRegion }: Props) {
  if (!set) return null;
  return (
    <section aria-label="Parts of the set">
      <h3 style={{ marginTop: 16 }}>
        {set.parts.length === 1 ? 'One part of a set' : `A set of ${set.parts.length} parts`}
        {set.build === null ? '' : `, build ${set.build}`}
      </h3>
      <Faults set={set} />
      <table className="ledger">
        <thead>
          <tr>
            <th>What it is</th>
            <th>File</th>
            <th>Build</th>
            <th>Its own check</th>
            <th>Holds</th>
            <th className="num">Size</th>
          </tr>
        </thead>
        <tbody>
          {set.parts.map((part) => (
            <tr key={part.file}>
              <td>
                <b>{ROLE_WORDS[part.role]}</b>
              </td>
              <td className={styles.breaks}>{part.file}</td>
              <td className="mono">{part.build ?? 'names none'}</td>
              <td className={part.checksum === 'bad' ? 'bad' : 'soft'}>{CHECKS[part.checksum]}</td>
              <td>{listNames(part.members.map(({ partition, name }) => partition ?? name))}</td>
              <td className="num">{formatBytes(part.members.reduce((sum, { size }) => sum + size, 0))}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <Choice parts={set.parts} history={history} onRegion={onRegion} />
    </section>
  );
}

/** What keeps it from being one whole set, each in one sentence. */
function Faults({ set: { missing, mixed, doubled, build } }: { readonly set: SetManifest }) {
  const faults = [
    ...mixed.map(
      (one) =>
        `${one.file} is of build ${one.build}, the others of ${build}: parts of two builds never go together.`,
    ),
    ...doubled
      .filter(({ harmless }) => !harmless)
      .map(({ partition, files }) => `${partition} stands in it twice, in ${listNames(files)}.`),
  ];
  return (
    <>
      {faults.map((text) => (
        <p key={text} className="bad">
          {text}
        </p>
      ))}
      {missing.length > 0 ? (
        <p className="wait">
          Not here: {listNames(missing.map((role) => MISSING_WORDS[role] ?? role))}. Open all parts of the set
          together.
        </p>
      ) : null}
    </>
  );
}

/** Erasing is never chosen for anybody: each part has a button of its own. */
function Choice({
  parts,
  history,
  onRegion,
}: Pick<Props, 'history' | 'onRegion'> & { readonly parts: readonly SetPart[] }) {
  const choice = regionChoice(parts, history);
  if (choice.length === 0) return null;
  const open = choice.length > 1;
  return (
    <>
      <h3 style={{ marginTop: 16 }}>{open ? 'Choose one region part' : 'The region part'}</h3>
      {open ? <p className="soft">One of these is written, never both: the other one is left out.</p> : null}
      <ul className={styles.evidence}>
        {choice.map(({ file, wipes, advised, why }) => (
          <li key={file}>
            <b className={wipes ? 'bad' : ''}>{wipes ? 'Erases' : 'Keeps'}</b>
            {advised ? ', advised here' : ''}: <span className={styles.breaks}>{file}</span>. {why}{' '}
            {open && onRegion ? (
              <Button size="small" onClick={() => onRegion(file)}>
                {wipes ? 'Take the one that erases' : 'Take the one that keeps'}
              </Button>
            ) : null}
          </li>
        ))}
      </ul>
    </>
  );
}
