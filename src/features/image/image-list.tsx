'use client';
import { Link } from '@/ui/link';
import { Button } from 'antd';
import type { ImageSummary } from '@/contracts/image-view';
import { EmptyNote } from '@/ui/empty-note';
import { formatBytes, formatTime } from '@/ui/format';
import { HashText } from '@/ui/hash-text';
import { roleWords } from '@/ui/role-words';
import styles from './image.module.css';

/** Every image in the vault, newest first. */
export function ImageList({ images }: { images: readonly ImageSummary[] }) {
  if (images.length === 0) {
    return (
      <EmptyNote
        title="The vault is empty"
        action={
          <Link href="/firmware">
            <Button type="primary">Open a package</Button>
          </Link>
        }
      >
        Images you take out of packages are kept here by their hash, with where they came from.
      </EmptyNote>
    );
  }
  return (
    <div className={styles.room}>
      <h1>Images in the vault</h1>
      <table className="ledger" style={{ marginTop: 12 }}>
        <thead>
          <tr>
            <th>Image</th>
            <th>Build</th>
            <th>Variant</th>
            <th>What it is</th>
            <th className="num">Size</th>
            <th>SHA-256</th>
            <th>Kept</th>
          </tr>
        </thead>
        <tbody>
          {images.map((image) => (
            <tr key={image.sha256}>
              <td>
                <Link href={`/images/${image.sha256}`}>{image.partition}</Link>
              </td>
              <td className="mono">{image.build ?? 'not named'}</td>
              <td className="mono">{image.product ?? ''}</td>
              <td>{roleWords(image)}</td>
              <td className="num">{formatBytes(image.sizeBytes)}</td>
              <td>
                <HashText hash={image.sha256} />
              </td>
              <td className="soft">{formatTime(image.addedAt)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
