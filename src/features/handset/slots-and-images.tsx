'use client';
import { Popover } from 'antd';
import { Link } from '@/ui/link';
import type { HandsetDetail, Holding, ShelvedImage, SlotCellView } from '@/contracts/handset-view';
import { formatBytes, formatDay, formatTime } from '@/ui/format';
import { HashText } from '@/ui/hash-text';
import { StateMark } from '@/ui/state-mark';
import { roleWords } from '@/ui/role-words';
import styles from './handset.module.css';
import { ReadBackPanel } from './read-back-panel';
import { SlotByHand } from './slot-by-hand';
import { LINEAGE_NOTE_TITLES, lineageNoteWords, lineageWords } from '@/core/words/lineage';

interface Props {
  readonly handset: HandsetDetail;
  readonly now: number;
}

/** What lies on the handset, as it was read or is only predicted, and what of it the vault keeps. */
export function SlotsAndImages({ handset }: Props) {
  return (
    <>
      <h2>What each partition holds</h2>
      <SlotMap handset={handset} />
      <div className={styles.columns}>
        <ReadBackPanel handset={handset} />
        <SlotByHand handset={handset} />
      </div>
      <h2 style={{ marginTop: 18 }}>Images of it in the vault</h2>
      <ImageShelf images={handset.shelf} />
    </>
  );
}

export function holdingWords({ sha256, role, kit, build }: Holding): string {
  if (sha256 === null) return 'its own stock image, not read';
  if (role === null) return 'an image the vault does not know';
  return `${roleWords({ role, kit })}, ${build ?? 'build not named'}`;
}

const VERDICT_WORDS: Readonly<Record<SlotCellView['verdict'], string>> = {
  read: 'read',
  predicted: 'predicted, not read',
  differs: 'read, and not what was predicted',
  unknown: 'unknown until it is written or read again',
};

function markOf(cell: SlotCellView): React.ComponentProps<typeof StateMark>['state'] {
  if (cell.verdict === 'unknown') return 'broken';
  if (cell.role === 'patched') return cell.verdict === 'read' ? 'proven' : 'unproven';
  if (cell.role === 'stock' || cell.sha256 === null)
    return cell.sha256 === null && cell.verdict === 'predicted' ? 'unknown' : 'stock';
  return 'unknown';
}

function SlotMap({ handset }: { handset: HandsetDetail }) {
  const { slots, known } = handset;
  if (slots.length === 0)
    return (
      <p className="soft">
        Nothing is known of its partitions yet. Bring its partitions as files, or let a write fill this in.
      </p>
    );
  const columns = [...new Set(slots.map((cell) => cell.slot))].sort();
  const partitions = [...new Set(slots.map((cell) => cell.partition))];
  return (
    <table className={`ledger ${styles.map}`}>
      <thead>
        <tr>
          <th style={{ width: 120 }}>Partition</th>
          {columns.map((slot) => (
            <th key={slot}>
              {slot === '-' ? 'The handset' : `Slot ${slot}`}
              {slot === known.currentSlot ? ', running' : ''}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {partitions.map((partition) => (
          <tr key={partition}>
            <td className="mono">{partition}</td>
            {columns.map((slot) => {
              const cell = slots.find((one) => one.partition === partition && one.slot === slot);
              return (
                <td key={slot}>
                  {cell ? <Cell cell={cell} /> : <span className="soft">nothing known</span>}
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Cell({ cell }: { cell: SlotCellView }) {
  const bad = cell.verdict === 'differs' || cell.verdict === 'unknown';
  return (
    <Popover
      content={<Lineage cell={cell} />}
      title="How it came to be"
      trigger={['hover', 'focus']}
      placement="bottomLeft"
    >
      <div className={styles.cell} tabIndex={0}>
        <StateMark state={markOf(cell)} size={18} />
        <div>
          <div>
            {cell.verdict === 'unknown' ? 'nobody knows' : holdingWords(cell)}{' '}
            {cell.sha256 ? <HashText hash={cell.sha256} /> : null}
          </div>
          <div className={`small ${bad ? 'bad' : 'soft'}`}>
            {VERDICT_WORDS[cell.verdict]}, {formatDay(cell.at)}: {cell.reason}
          </div>
          {cell.verdict === 'differs' && cell.predicted ? (
            <div className="small">Predicted was: {holdingWords(cell.predicted)}</div>
          ) : null}
        </div>
      </div>
    </Popover>
  );
}

function Lineage({ cell }: { cell: SlotCellView }) {
  return (
    <ol className={styles.lineage}>
      {cell.history.map((entry) => (
        <li key={`${entry.at}${entry.certainty}${entry.sha256}`}>
          {formatTime(entry.at)}: {holdingWords(entry)} <span className="soft">({entry.reason})</span>
        </li>
      ))}
    </ol>
  );
}

const byBuild = (images: readonly ShelvedImage[]) =>
  [...images].sort(
    (a, b) =>
      (b.build ?? '').localeCompare(a.build ?? '') ||
      a.partition.localeCompare(b.partition) ||
      a.role.localeCompare(b.role),
  );

function ImageShelf({ images }: { images: readonly ShelvedImage[] }) {
  if (images.length === 0)
    return (
      <p className="soft">None yet. Take them out of a package of the installed build, or read them back.</p>
    );
  return (
    <table className="ledger">
      <thead>
        <tr>
          <th>Build</th>
          <th>Partition</th>
          <th>What it is</th>
          <th>For this handset</th>
          <th className="num">Size</th>
          <th>SHA-256</th>
          <th>Kept</th>
        </tr>
      </thead>
      <tbody>
        {byBuild(images).map((image) => (
          <tr key={image.sha256}>
            <td className="mono">{image.build ?? 'not named'}</td>
            <td>
              <Link href={`/images/${image.sha256}`}>{image.partition}</Link>
            </td>
            <td>
              {lineageWords(image.lineage.says)}
              {image.lineage.notes
                .filter(({ code }) => code !== 'stale')
                .map((note) => (
                  <div key={note.code} className="bad small">
                    {LINEAGE_NOTE_TITLES[note.code]}: {lineageNoteWords(note)}
                  </div>
                ))}
            </td>
            <td className={image.fit.verdict === 'exact' ? '' : 'soft'}>
              <b>{image.fit.verdict}</b>
            </td>
            <td className="num">{formatBytes(image.sizeBytes)}</td>
            <td>
              <HashText hash={image.sha256} />
            </td>
            <td className="soft small">{image.guarded ? 'protected: a way back needs it' : 'may go'}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
