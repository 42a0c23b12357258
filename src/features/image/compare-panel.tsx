'use client';
import { Button, Select } from 'antd';
import type { ReactNode } from 'react';
import { useRef, useState } from 'react';
import type { ImageSummary } from '@/contracts/image-view';
import type { ComparedValue } from '@/core/patch/compare-images';
import { formatBytes } from '@/ui/format';
import { HashText } from '@/ui/hash-text';
import { roleWords } from '@/ui/role-words';
import { ChangedText } from './changed-text';
import styles from './image.module.css';
import { JudgedList, KeepIt } from './judged-list';
import type { OtherImage, useImage } from './use-image';
import { monthMeaningWords, monthWords } from '@/core/words/lineage';

interface Props extends Pick<
  ReturnType<typeof useImage>,
  'other' | 'comparing' | 'compare' | 'read' | 'putAway'
> {
  readonly sha256: string;
  readonly stock: boolean;
  /** Images it can be held against. */
  readonly others: readonly ImageSummary[];
  /** Last month's stock image of this partition. */
  readonly before: ImageSummary | null;
}

export const labelOf = (image: ImageSummary) =>
  `${image.partition} of ${image.build ?? 'no named build'}, ${roleWords(image)}`;

/** Chooses the image to stand beside this one. */
export function CompareChooser({
  others,
  comparing,
  compare,
  before,
}: Pick<Props, 'others' | 'comparing' | 'compare' | 'before'>) {
  return (
    <span className={styles.chooser}>
      {before ? (
        <Button
          size="small"
          disabled={comparing !== null}
          onClick={() => void compare(labelOf(before), before.sha256, { month: true })}
        >
          What changed since {before.build ?? 'last month'}
        </Button>
      ) : null}
      <Select
        aria-label="Compare with an image of the vault"
        placeholder={comparing ? `Comparing with ${comparing}` : 'Compare with …'}
        size="small"
        style={{ width: 260 }}
        value={null}
        loading={comparing !== null}
        disabled={comparing !== null}
        onChange={(sha: string | null) => {
          const image = others.find((one) => one.sha256 === sha);
          if (image) void compare(labelOf(image), image.sha256);
        }}
        options={others.map((image) => ({ value: image.sha256, label: labelOf(image) }))}
      />
      <FileButton label="Choose a file to compare with" comparing={comparing} compare={compare}>
        or a file
      </FileButton>
    </span>
  );
}

interface FileButtonProps extends Pick<Props, 'comparing' | 'compare'> {
  readonly label: string;
  readonly children: ReactNode;
}

/** A file of the person's, held against this image. */
function FileButton({ label, comparing, compare, children }: FileButtonProps) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button size="small" disabled={comparing !== null} onClick={() => input.current?.click()}>
        {children}
      </Button>
      <input
        ref={input}
        type="file"
        className="visually-hidden"
        aria-label={label}
        tabIndex={-1}
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) void compare(file.name, file);
          event.target.value = '';
        }}
      />
    </>
  );
}

/** An image that a provider's own app patched is held against this stock image, then kept. */
export function BringPatched({ comparing, compare }: Pick<Props, 'comparing' | 'compare'>) {
  return (
    <p className={styles.bring}>
      <span>Patched by your provider’s own app? Eterno holds the result against this stock image.</span>{' '}
      <FileButton label="Choose a patched image" comparing={comparing} compare={compare}>
        Bring a patched image
      </FileButton>
    </p>
  );
}

/** Two images side by side: what is the same, what is not, and what became of the entries. */
export function ComparePanel({
  other,
  read,
  putAway,
  stock,
  sha256,
}: Omit<Props, 'other' | 'others' | 'comparing' | 'compare' | 'before'> & { other: OtherImage }) {
  const { comparison, report, months } = other;
  const [text, setText] = useState<{ name: string; nameHex: string } | null>(null);
  const entries = comparison.entries;
  const sections = comparison.sections.filter((section) => section.verdict !== 'same');
  return (
    <section className={styles.compare} aria-label="Comparison">
      <div className={styles.viewerHead}>
        <h2>{comparison.same ? `The same as ${other.label}, byte for byte.` : `Against ${other.label}`}</h2>
        <Button size="small" type="text" onClick={putAway}>
          Put it away
        </Button>
      </div>
      {other.month ? (
        <p className={styles.months}>
          <b>Since last month:</b> {monthWords(months.says)} {monthMeaningWords(months.says)}
        </p>
      ) : null}
      <Elsewhere other={other} stock={stock} sha256={sha256} />
      <div className={styles.columns}>
        <div>
          <h3>Sections</h3>
          <p>
            {sections.length === 0
              ? 'All sections are the same.'
              : sections
                  .map(
                    (section) =>
                      `${section.name} ${section.verdict}${sizeChange(section.a?.size, section.b?.size)}`,
                  )
                  .join(' · ')}
          </p>
          <Differences title="Header" values={comparison.header} stock={stock} />
          <Differences title="Verified-boot data" values={comparison.avb} stock={stock} />
        </div>
        <div>
          {entries ? (
            <EntryChanges entries={entries} onText={setText} />
          ) : (
            <p className="soft">Neither has a ramdisk.</p>
          )}
        </div>
      </div>
      {text ? (
        <ChangedText
          key={text.nameHex}
          {...text}
          sides={stock ? ['own', 'other'] : ['other', 'own']}
          read={read}
          onClose={() => setText(null)}
        />
      ) : null}
      <p className="soft small">
        The other image: {formatBytes(report.size)}, SHA-256 <HashText hash={report.sha256} />
      </p>
    </section>
  );
}

/** What is held against a stock image, from either side: this one, or the one beside it. */
function Elsewhere({ other, stock, sha256 }: { other: OtherImage } & Pick<Props, 'stock' | 'sha256'>) {
  const { comparison, judged, month, file } = other;
  const patched = judged.times > 0 || (comparison.entries?.added.length ?? 0) > 0;
  if (comparison.same || month || !patched) return null;
  const keep =
    stock && file && judged.belongs !== 'no' ? (
      <KeepIt file={file} other={other} stockSha256={sha256} />
    ) : null;
  return <JudgedList judged={judged} build={judged.build.patched} deed={keep} />;
}

interface EntryChangesProps {
  readonly entries: NonNullable<OtherImage['comparison']['entries']>;
  readonly onText: (text: { name: string; nameHex: string }) => void;
}

function EntryChanges({ entries, onText }: EntryChangesProps) {
  return (
    <>
      <h3>Entries: {entries.same.toLocaleString('en')} the same</h3>
      <ul className={styles.changes}>
        {entries.moved.map(({ from, to }) => (
          <li key={`${from}${to}`}>
            <b>moved</b> <span className="mono">{from}</span> to <span className="mono">{to}</span>
          </li>
        ))}
        {entries.changed.map(({ name, what, a, b }) => (
          <li key={a.nameHex}>
            <b>changed</b>{' '}
            <button
              type="button"
              className={styles.linkButton}
              onClick={() => onText({ name, nameHex: a.nameHex })}
            >
              <span className="mono">{name}</span>
            </button>{' '}
            <span className="soft small">
              {what.join(', ')}
              {sizeChange(a.size, b.size)}
            </span>
          </li>
        ))}
        {entries.added.map((entry) => (
          <li key={entry.nameHex}>
            <b>added</b> <span className="mono">{entry.name}</span>{' '}
            <span className="soft small">{formatBytes(entry.size)}</span>
          </li>
        ))}
        {entries.removed.map((entry) => (
          <li key={entry.nameHex}>
            <b>removed</b> <span className="mono">{entry.name}</span>{' '}
            <span className="soft small">{formatBytes(entry.size)}</span>
          </li>
        ))}
      </ul>
    </>
  );
}

function sizeChange(a: number | undefined, b: number | undefined): string {
  if (a === undefined || b === undefined || a === b) return '';
  return `, ${formatBytes(Math.abs(b - a))} ${b > a ? 'more' : 'less'}`;
}

interface DifferencesProps {
  readonly title: string;
  readonly values: readonly ComparedValue[];
  readonly stock: boolean;
}

function Differences({ title, values, stock }: DifferencesProps) {
  const different = values.filter((value) => !value.same);
  if (values.length === 0) return null;
  return (
    <>
      <h3>{title}</h3>
      {different.length === 0 ? (
        <p className="soft">{values.length} values, all the same.</p>
      ) : (
        <table className="ledger">
          <thead>
            <tr>
              <th />
              <th>{stock ? 'This one' : 'The other'}</th>
              <th>{stock ? 'The other' : 'This one'}</th>
            </tr>
          </thead>
          <tbody>
            {different.map(({ field, a, b }) => (
              <tr key={field}>
                <td className="soft">{field}</td>
                <td className="mono" style={{ overflowWrap: 'anywhere' }}>
                  {a === '' ? 'empty' : (a ?? 'none')}
                </td>
                <td className="mono" style={{ overflowWrap: 'anywhere' }}>
                  {b === '' ? 'empty' : (b ?? 'none')}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}
