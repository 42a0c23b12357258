import { Button } from 'antd';
import type { FamilyRow, FamilyView } from '@/contracts/image-view';
import { EmptyNote } from '@/ui/empty-note';
import { formatBytes, listNames } from '@/ui/format';
import { HashText } from '@/ui/hash-text';
import { Link } from '@/ui/link';
import { roleWords } from '@/ui/role-words';
import styles from './family.module.css';
import { FamilyPicture, placeWords } from './family-picture';

/** Every image of the vault, build by build: where it came from, what was made of it, where it lies. */
export function ImageFamilies({ families }: { readonly families: readonly FamilyView[] }) {
  const images = families.flatMap((family) => family.images);
  if (images.length === 0)
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
  return (
    <div className={styles.room}>
      <h1>Images in the vault</h1>
      <Unneeded images={images} />
      {families.map((family) => (
        <section key={family.key} aria-label={titleOf(family)}>
          <h2>{titleOf(family)}</h2>
          <p className="soft">{runsWords(family)}</p>
          <FamilyPicture family={family} />
          <details>
            <summary>As a table</summary>
            <FamilyTable images={family.images} />
          </details>
        </section>
      ))}
    </div>
  );
}

const titleOf = ({ build, product }: FamilyView) =>
  build === null ? 'Images that name no build' : `${build}${product === null ? '' : `, ${product}`}`;

const runsWords = ({ build, runsOn }: FamilyView) => {
  if (build === null) return 'Which handset they are for is not in them.';
  return runsOn.length === 0 ? 'No handset runs this build.' : `Runs on ${listNames(runsOn)}.`;
};

const sizeOf = (images: readonly FamilyRow[]) =>
  formatBytes(images.reduce((sum, { sizeBytes }) => sum + sizeBytes, 0));

function Unneeded({ images }: { readonly images: readonly FamilyRow[] }) {
  const free = images.filter(({ neededFor }) => neededFor === null);
  const all = `${images.length} ${images.length === 1 ? 'image' : 'images'}, ${sizeOf(images)}.`;
  return (
    <p>
      {all}{' '}
      {free.length === 0 ? (
        'Each is needed for something.'
      ) : (
        <>
          Nothing needs {free.length} of them, {sizeOf(free)}: the <Link href="/store">Store</Link> throws
          them away.
        </>
      )}
    </p>
  );
}

const FamilyTable = ({ images }: { readonly images: readonly FamilyRow[] }) => (
  <table className="ledger">
    <thead>
      <tr>
        <th>Image</th>
        <th>What it is</th>
        <th className="num">Size</th>
        <th>SHA-256</th>
        <th>Came from</th>
        <th>Lies on</th>
        <th>Needed for</th>
      </tr>
    </thead>
    <tbody>
      {images.map((image) => (
        <tr key={image.sha256}>
          <td>
            <Link href={`/images/${image.sha256}`}>{image.partition}</Link>
          </td>
          <td>{roleWords(image)}</td>
          <td className={`num ${styles.whole}`}>{formatBytes(image.sizeBytes)}</td>
          <td className={styles.whole}>
            <HashText hash={image.sha256} />
          </td>
          <td className={styles.wraps}>
            {image.origins.map(({ sentence, at }) => (
              <div key={`${sentence}${at}`}>{sentence}</div>
            ))}
          </td>
          <td>
            {image.places.map((place) => (
              <div key={`${place.handset} ${place.partition} ${place.slot ?? ''}`}>
                {placeWords(place).where}, {placeWords(place).when}
              </div>
            ))}
          </td>
          <td>{image.neededFor ?? <span className="soft">nothing</span>}</td>
        </tr>
      ))}
    </tbody>
  </table>
);
