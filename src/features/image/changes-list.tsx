import { Button } from 'antd';
import { whatChanged } from '@/core/patch/what-changed';
import { changeWords } from '@/core/words/changes';
import styles from './image.module.css';
import type { OtherImage, useImage } from './use-image';

const FEW = 9;

interface Props extends Pick<ReturnType<typeof useImage>, 'unfold'> {
  readonly other: OtherImage;
}

/** What the patch changed of its stock image, in a few lines; all of it is the comparison, one click away. */
export function ChangesList({ other, unfold }: Props) {
  const changes = whatChanged(other.comparison);
  const { entries } = other.comparison;
  return (
    <section className={styles.whatChanged} aria-label="What changed">
      <h3>What changed against the stock image</h3>
      <ul>
        {changes.slice(0, FEW).map((change) => {
          const { does, name, more } = changeWords(change);
          return (
            <li key={`${change.code} ${name}`}>
              <span>{does}</span> <span className="mono">{name}</span>{' '}
              <span className="soft small">{more}</span>
            </li>
          );
        })}
      </ul>
      <p className="soft small">
        {changes.length > FEW ? `and ${changes.length - FEW} more; ` : ''}
        {entries ? `${entries.same.toLocaleString('en')} entries are the same` : 'neither has a ramdisk'}
      </p>
      {other.folded ? (
        <Button size="small" onClick={unfold}>
          Open the comparison
        </Button>
      ) : null}
    </section>
  );
}
