'use client';
import { Button } from 'antd';
import { Link } from '@/ui/link';
import { useRef, useState } from 'react';
import type { PackageImage } from '@/core/packages/package-report';
import { formatBytes } from '@/ui/format';
import { HashText } from '@/ui/hash-text';
import styles from './firmware.module.css';
import type { OpenPackage, TakenImage } from './use-package';
import { pristineWords } from '@/core/words/fit';

interface Props {
  readonly pack: OpenPackage;
  readonly taken: readonly TakenImage[];
  readonly busy: boolean;
  readonly onTake: (partition: string, old: Blob | null) => void;
}

/**
 * The old images an incremental package starts from: where they are, what can be made of them, and whether a
 * handset would take the update.
 */
export function IncrementalPanel({ pack, taken, busy, onTake }: Props) {
  const images = pack.report.images.filter((image) => image.needsSource);
  const ready = images.filter(
    (image) =>
      image.unsupported.length === 0 &&
      pack.pristine.some((one) => one.partition === image.partition && one.inVault),
  );
  const [wanted, setWanted] = useState<string | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const saved =
    pack.fullBytes !== null && pack.fullBytes > pack.sizeBytes ? pack.fullBytes - pack.sizeBytes : null;
  return (
    <section className={styles.incremental} aria-label="What it starts from">
      <h2>
        {ready.length === 0
          ? 'It starts from images that are not in the vault.'
          : `Last build’s ${ready.map((image) => image.partition).join(' and ')} ${ready.length === 1 ? 'is' : 'are'} in the vault: that is enough to make the new ${ready.length === 1 ? 'one' : 'ones'}.`}
      </h2>
      <p className="soft">
        {ready.length > 0
          ? `Every block is made here from the old image and this package, and the result is held against the hash the package states.${saved === null ? '' : ` The full package need not be fetched: ${formatBytes(saved)} less.`}`
          : 'Take them out of the last full package, or read them back from the handset before it is updated. A file of yours does as well, if it is the very same image.'}
      </p>
      <table className="ledger">
        <thead>
          <tr>
            <th>Image</th>
            <th>Starts from</th>
            <th>Becomes</th>
            {pack.starts.map((one) => (
              <th key={one.name}>
                {one.name}, slot {one.slot}
              </th>
            ))}
            <th />
          </tr>
        </thead>
        <tbody>
          {images.map((image) => (
            <StartRow
              key={image.partition}
              image={image}
              pack={pack}
              done={taken.find((one) => one.partition === image.partition)}
              busy={busy}
              onMake={() => onTake(image.partition, null)}
              onGive={() => {
                setWanted(image.partition);
                input.current?.click();
              }}
            />
          ))}
        </tbody>
      </table>
      {pack.starts.map((one) =>
        one.prediction ? (
          <p key={one.name} className={one.prediction.refusedFor.length > 0 ? 'bad' : ''}>
            <b>{one.name}:</b> {pristineWords(one.prediction.refusedFor)}
          </p>
        ) : null,
      )}
      <input
        ref={input}
        type="file"
        className="visually-hidden"
        aria-label="Choose the old image"
        tabIndex={-1}
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file && wanted) onTake(wanted, file);
          event.target.value = '';
        }}
      />
    </section>
  );
}

const STATES = {
  'holds it': '✓ holds it',
  'holds another': '✗ holds another image',
  'not known': 'not known',
} as const;

type StartRowProps = Omit<MakeProps, 'inVault'> & Pick<Props, 'pack'>;

/** One old image: where it is, what can be made of it, and who has it on the handset. */
function StartRow({ pack, ...make }: StartRowProps) {
  const { image } = make;
  const pristine = pack.pristine.find((one) => one.partition === image.partition);
  return (
    <tr>
      <td>
        <b>{image.partition}</b>
      </td>
      <td>
        {image.source ? <HashText hash={image.source.sha256} /> : <span className="soft">not stated</span>}
        <div className="small">
          {pristine?.inVault ? (
            <Link href={`/images/${pristine.sha256}`}>in the vault</Link>
          ) : (
            <span className="wait">not in the vault</span>
          )}
        </div>
      </td>
      <td>
        {image.sha256 ? <HashText hash={image.sha256} /> : <span className="soft">no hash stated</span>}
      </td>
      {pack.starts.map((one) => {
        const state = one.states.find((each) => each.partition === image.partition)?.state ?? 'not known';
        return (
          <td key={one.name} className={state === 'holds another' ? 'bad' : ''}>
            {STATES[state]}
          </td>
        );
      })}
      <td style={{ textAlign: 'right' }}>
        <Make {...make} inVault={pristine?.inVault ?? false} />
      </td>
    </tr>
  );
}

interface MakeProps {
  readonly image: PackageImage;
  readonly done: TakenImage | undefined;
  readonly inVault: boolean;
  readonly busy: boolean;
  readonly onMake: () => void;
  readonly onGive: () => void;
}

function Make({ image, done, inVault, busy, onMake, onGive }: MakeProps) {
  if (done)
    return (
      <span className="small">
        <Link href={`/images/${done.sha256}`}>in the vault</Link>,{' '}
        {done.verified ? 'made and verified' : 'made, no hash to verify by'}
      </span>
    );
  if (image.unsupported.length > 0)
    return <span className="small wait">can’t be made here: {image.unsupported.join(', ')}</span>;
  return inVault ? (
    <Button size="small" disabled={busy} onClick={onMake}>
      Make it
    </Button>
  ) : (
    <Button size="small" disabled={busy} onClick={onGive}>
      Give the old image
    </Button>
  );
}
