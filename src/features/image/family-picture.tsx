import { linkHorizontal } from 'd3';
import type { FamilyRow, FamilyView } from '@/contracts/image-view';
import type { FamilyImage, FamilyNode, Place } from '@/core/lineage/families';
import { formatBytes, formatTime, listNames, shortHash } from '@/ui/format';
import { Link } from '@/ui/link';
import type { FamilySizes } from './family-layout';
import { COLUMNS, layOutFamily } from './family-layout';
import styles from './family.module.css';

/** Widths are hundredths of the picture, so that it is as wide as its room; rows are pixels. */
const SIZES: FamilySizes = { columnWidth: 26, nodeWidth: 22, rowHeight: 54 };

/** From left to right: where it came from, the stock image, what was patched from it, where that lies. */
export function FamilyPicture({ family }: { readonly family: FamilyView }) {
  const { nodes, links, height } = layOutFamily(family, SIZES);
  const line = linkHorizontal<unknown, { readonly x: number; readonly y: number }>()
    .x(({ x }) => x)
    .y(({ y }) => y);
  const used = new Set(nodes.map(({ x }) => x));
  return (
    <div className={styles.picture} role="group" aria-label="Where they came from and where they lie">
      <div className={styles.columns} aria-hidden>
        {COLUMNS.map((column, i) => (
          <span key={column} style={{ left: `${i * SIZES.columnWidth}%` }}>
            {used.has(i * SIZES.columnWidth) ? column : ''}
          </span>
        ))}
      </div>
      <div className={styles.tree} style={{ height }}>
        <svg viewBox={`0 0 100 ${height}`} preserveAspectRatio="none" aria-hidden>
          {links.map(({ key, from, to }) => (
            <path key={key} d={line({ source: from, target: to }) ?? ''} vectorEffect="non-scaling-stroke" />
          ))}
        </svg>
        {nodes.map(({ node, x, y }) => (
          <div
            key={node.id}
            className={styles.node}
            style={{ left: `${x}%`, top: y, width: `${SIZES.nodeWidth}%` }}
          >
            <NodeText node={node} images={family.images} />
          </div>
        ))}
      </div>
    </div>
  );
}

function NodeText({ node, images }: { readonly node: FamilyNode; readonly images: readonly FamilyRow[] }) {
  if (node.kind === 'origin') {
    const { name, how } = originWords(node);
    return (
      <div className={styles.origin} title={name}>
        <b>{name}</b>
        <small>{how}</small>
      </div>
    );
  }
  if (node.kind === 'place') {
    const { where, when } = placeWords(node.place);
    return (
      <div className={node.place.now ? styles.place : styles.past} title={`${where}, ${when}`}>
        <b>{where}</b>
        <small>{when}</small>
      </div>
    );
  }
  const row = images.find(({ sha256 }) => sha256 === node.image.sha256)!;
  const { title, how } = imageWords(row, node.image, images);
  return (
    <div
      className={node.image.role === 'patched' ? styles.patched : styles.stock}
      title={[title, how, needWords(row)].join(' · ')}
    >
      <Link href={`/images/${row.sha256}`}>{title}</Link>
      <small>{[how, needWords(row)].filter((text) => text !== '').join(' · ')}</small>
    </div>
  );
}

const needWords = ({ neededFor, wayBackOf }: FamilyRow) => {
  if (wayBackOf.length > 0) return `way back of ${listNames(wayBackOf)}`;
  return neededFor === null ? 'nothing needs it' : '';
};

type OriginNode = Extract<FamilyNode, { kind: 'origin' }>;

function originWords({ origin, madeFrom }: OriginNode): { readonly name: string; readonly how: string } {
  const { kind, name, verified } = origin;
  if (kind === 'patch' || kind === 'rebuilt') {
    if (madeFrom === null) return { name: 'made here', how: 'from what, is not recorded' };
    return {
      name: `stock image ${shortHash(madeFrom.sha256)}`,
      how: madeFrom.here ? 'names another build' : 'not in the vault any more',
    };
  }
  if (kind === 'package')
    return { name: name ?? 'a package', how: verified ? 'package, its hashes verified' : 'package' };
  if (kind === 'read-back') return { name: name ?? 'a handset', how: 'read back' };
  return { name: name ?? 'a file', how: 'brought as a file' };
}

function imageWords(
  { partition, role, kit, sizeBytes, wayBackOf }: FamilyRow,
  { origins, stockSha256 }: FamilyImage,
  images: readonly FamilyRow[],
): { readonly title: string; readonly how: string } {
  if (role === 'recovery' && origins.some(({ kind }) => kind === 'rebuilt'))
    return { title: `${partition} with a recovery in it`, how: 'put in here' };
  if (role !== 'patched')
    return {
      title: `${role === 'unknown' ? '' : `${role} `}${partition === role ? '' : partition}`.trim(),
      how: role === 'unknown' ? 'origin not proved' : wayBackOf.length > 0 ? '' : formatBytes(sizeBytes),
    };
  const chosen = Object.entries(origins.find(({ kind }) => kind === 'patch')?.options ?? {});
  const options = chosen.map(([name, value]) => `, ${name}=${String(value)}`).join('');
  const over = images.find(({ sha256 }) => sha256 === stockSha256);
  const recovery = over?.role === 'recovery' ? ' with a recovery in it' : '';
  return {
    title: `patched ${partition}${recovery}`,
    how: kit === null ? 'patched elsewhere' : `by ${kit}${options}`,
  };
}

export function placeWords({ handset, slot, partition, writtenAt, readAt, now }: Place): {
  readonly where: string;
  readonly when: string;
} {
  const times = [
    writtenAt === null ? '' : `written ${formatTime(writtenAt)}`,
    readAt === null ? '' : `read back ${formatTime(readAt)}`,
  ].filter((text) => text !== '');
  return {
    where: `${handset}, ${slot === null ? partition : `${partition} of slot ${slot}`}`,
    when: `${now ? '' : 'lay there: '}${times.join(', ') || 'said to lie there'}`,
  };
}
