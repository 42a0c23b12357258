import { Button, Select } from 'antd';
import type { SetOnTable } from '@/core/table/roll-call';
import { FILE_SOURCES, setOnTable } from '@/core/table/roll-call';
import { formatBytes } from '@/ui/format';
import styles from './firmware.module.css';
import { roleWordsOf, SOURCE_WORDS } from './role-words';
import type { TableEntry, useTable } from './use-table';
import { canOpen } from './use-table';
import { closestFit } from './verdict-words';
import type { TableNote } from '@/core/words/fit';
import { TABLE_NOTE_TITLES, tableNoteWords } from '@/core/words/fit';

type Props = Pick<ReturnType<typeof useTable>, 'entries' | 'notes' | 'calling' | 'stop' | 'tellSource'> & {
  readonly onOpen: (file: File) => void;
  readonly onHash: (file: File) => void;
};

const FIT_RANK = ['exact', 'newer', 'older', "can't tell", 'other variant', 'other handset'];
/** The file to open first: what fits best, packages before the rest. */
function bestOf(entries: readonly TableEntry[]): TableEntry | null {
  const rank = (entry: TableEntry) =>
    FIT_RANK.indexOf(closestFit(entry.fits)?.fit.verdict ?? 'other handset') * 2 +
    (entry.found?.role === 'package' ? 0 : 1);
  return (
    [...entries]
      .filter((entry) => canOpen(entry) && entry.fits.length > 0)
      .sort((a, b) => rank(a) - rank(b))[0] ?? null
  );
}

function bestWords(best: TableEntry | null, inSets: boolean): string {
  const fit = best && closestFit(best.fits);
  if (!best || !fit) return 'Nothing on the table is a package for a handset on the bench.';
  const what = inSets && isPart(best) ? 'The firmware set' : best.file.name;
  return `${what} fits ${fit.name} best: ${fit.fit.verdict}.`;
}

/** Every file on the table: what it is by its content, for whom it speaks, and what is odd about it. */
export function RollCall({ entries, notes, calling, stop, tellSource, onOpen, onHash }: Props) {
  const done = entries.filter((entry) => entry.found !== null || entry.error !== null).length;
  const set = setOnTable(entries.flatMap(({ found }) => found ?? []));
  // parts of one set stand under it
  const inOrder = set ? [...partsOf(entries), ...entries.filter((one) => !isPart(one))] : entries;
  const best = calling === null ? bestOf(entries) : null;
  return (
    <section aria-label="Roll-call">
      <div className={styles.verdict}>
        <div>
          <h1>
            {calling !== null
              ? `Reading ${calling}`
              : entries.length === 1
                ? 'One file, by what is in it.'
                : `${entries.length} files, each by what is in it.`}
          </h1>
          <p className="soft" aria-live="polite">
            {calling !== null ? `${done} of ${entries.length} are read.` : bestWords(best, set !== null)}
          </p>
        </div>
        {calling !== null ? (
          <Button onClick={stop}>Stop</Button>
        ) : best ? (
          <Button type="primary" onClick={() => onOpen(best.file)}>
            Open {best.found?.report?.build.buildId ?? 'it'}
          </Button>
        ) : null}
      </div>
      <table className="ledger" style={{ marginTop: 14 }}>
        <thead>
          <tr>
            <th style={{ width: '30%' }}>File</th>
            <th style={{ width: '22%' }}>What it is</th>
            <th style={{ width: '18%' }}>Of build</th>
            <th>Note</th>
            <th style={{ width: 130 }} />
          </tr>
        </thead>
        <tbody>
          {set ? <SetRow set={set} first={partsOf(entries)[0]!} onOpen={onOpen} /> : null}
          {inOrder.map((entry) => (
            <Row
              key={`${entry.file.name}${entry.file.size}`}
              entry={entry}
              inSet={set !== null && entry.found?.role === 'part of a set'}
              notes={notes.get(entry.file) ?? []}
              onOpen={onOpen}
              onHash={onHash}
              onSource={tellSource}
            />
          ))}
        </tbody>
      </table>
    </section>
  );
}

const isPart = ({ found }: TableEntry) => found?.role === 'part of a set';
const partsOf = (entries: readonly TableEntry[]) => entries.filter(isPart);

/** Parts that make one set: told, judged and opened together. */
function SetRow({
  set,
  first,
  onOpen,
}: {
  readonly set: SetOnTable;
  readonly first: TableEntry;
  readonly onOpen: Props['onOpen'];
}) {
  const { parts, builds, devices, partitions } = set;
  return (
    <tr>
      <td>
        <b>One firmware set in {parts.length} parts</b>
        <div className="soft small">{formatBytes(parts.reduce((sum, { size }) => sum + size, 0))}</div>
      </td>
      <td className="small">{partitions.join(', ')}</td>
      <td>
        {builds.length === 0 ? (
          <span className="soft">names no build</span>
        ) : (
          <span className="mono">{builds.join(', ')}</span>
        )}
        <div className="soft small">{devices.join(', ')}</div>
      </td>
      <td>
        {builds.length > 1 ? (
          <div className="small">
            <b className="bad">Mixed</b> Its parts name {builds.length} builds. Take all parts of one build.
          </div>
        ) : null}
      </td>
      <td style={{ textAlign: 'right', whiteSpace: 'nowrap' }}>
        <Button size="small" disabled={builds.length > 1} onClick={() => onOpen(first.file)}>
          Open all parts
        </Button>
      </td>
    </tr>
  );
}

interface RowProps extends Pick<Props, 'onOpen' | 'onHash'> {
  readonly entry: TableEntry;
  /** It is told of with its set. */
  readonly inSet: boolean;
  readonly notes: readonly TableNote[];
  readonly onSource: Props['tellSource'];
}

function Row({ entry, inSet, notes, onOpen, onHash, onSource }: RowProps) {
  const { file, found, fits, error } = entry;
  return (
    <tr>
      <td className={styles.fileCell} style={inSet ? { paddingLeft: 22 } : undefined}>
        <span className="mono small">{file.name}</span>
        <div className="soft small">
          {formatBytes(file.size)}{' '}
          <Select
            aria-label={`Where ${file.name} is from`}
            size="small"
            variant="borderless"
            popupMatchSelectWidth={false}
            value={entry.source}
            onChange={(source) => onSource(file, source)}
            options={FILE_SOURCES.map((value) => ({ value, label: SOURCE_WORDS[value] }))}
          />
        </div>
      </td>
      <td>
        <b className={error ? 'bad' : ''}>
          {error ? 'can’t be read' : found ? roleWordsOf(found) : 'being read'}
        </b>
        <div className="soft small">{error?.message ?? found?.says ?? ''}</div>
      </td>
      <td>
        {inSet ? (
          <span className="mono small soft">{found?.report?.build.buildId ?? ''}</span>
        ) : (
          <SpeaksFor found={found} fits={fits} />
        )}
      </td>
      <td>
        {notes.map((note) => (
          <div key={JSON.stringify(note)} className="small">
            <b className="wait">{TABLE_NOTE_TITLES[note.code]}</b> {tableNoteWords(note)}
          </div>
        ))}
      </td>
      <td style={{ textAlign: 'right', whiteSpace: 'nowrap' }}>
        <Button size="small" type="text" onClick={() => onHash(file)}>
          Hash
        </Button>
        {canOpen(entry) && !inSet ? (
          <Button size="small" onClick={() => onOpen(file)}>
            Open
          </Button>
        ) : null}
      </td>
    </tr>
  );
}

/** The build that a file names, and how close it is to a handset. */
function SpeaksFor({ found, fits }: Pick<TableEntry, 'found' | 'fits'>) {
  const build = found?.report?.build;
  const fit = closestFit(fits);
  return (
    <>
      {build?.buildId ? (
        <span className="mono">{build.buildId}</span>
      ) : (
        <span className="soft">{found ? 'names no build' : ''}</span>
      )}
      <div className="soft small">
        {[build?.devices.join(', ') ?? '', fit ? `${fit.name}: ${fit.fit.verdict}` : '']
          .filter((part) => part !== '')
          .join(' · ')}
      </div>
    </>
  );
}
