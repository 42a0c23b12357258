import type { PackageContent } from '@/core/packages/package-report';

/** A row of the contents tree: a folder (or an archive in the archive), or a thing in it. */
export interface ContentRow {
  readonly key: string;
  readonly label: string;
  readonly depth: number;
  readonly folder: boolean;
  readonly open: boolean;
  /** Of a folder: all that is in it. */
  readonly size: number | null;
  readonly count: number;
  readonly content: PackageContent | null;
}

interface Branch {
  readonly children: Map<string, Branch>;
  content: PackageContent | null;
}

function grow(contents: readonly PackageContent[]): Branch {
  const root: Branch = { children: new Map(), content: null };
  for (const content of contents) {
    let at = root;
    for (const part of content.path.split('/').filter((one) => one !== '')) {
      let next = at.children.get(part);
      if (!next) {
        next = { children: new Map(), content: null };
        at.children.set(part, next);
      }
      at = next;
    }
    at.content = content;
  }
  return root;
}

const total = (branch: Branch): { size: number; count: number } => {
  if (branch.children.size === 0) return { size: branch.content?.size ?? 0, count: 1 };
  let [size, count] = [0, 0];
  for (const child of branch.children.values()) {
    const inner = total(child);
    size += inner.size;
    count += inner.count;
  }
  return { size: branch.content?.size ?? size, count };
};

/**
 * The tree as rows from top to bottom, closed folders without what is in them. Images first, the rest by
 * name.
 */
export function contentRows(contents: readonly PackageContent[], closed: ReadonlySet<string>): ContentRow[] {
  const rows: ContentRow[] = [];
  const hasImage = (branch: Branch): boolean =>
    (branch.content?.partition ?? null) !== null || [...branch.children.values()].some(hasImage);
  const walk = (branch: Branch, path: string, depth: number) => {
    const sorted = [...branch.children].sort(
      ([a, one], [b, other]) => Number(hasImage(other)) - Number(hasImage(one)) || (a < b ? -1 : 1),
    );
    for (const [label, child] of sorted) {
      const key = path === '' ? label : `${path}/${label}`;
      const folder = child.children.size > 0;
      const { size, count } = total(child);
      const open = folder && !closed.has(key);
      rows.push({
        key,
        label,
        depth,
        folder,
        open,
        size: folder || (child.content?.size ?? null) !== null ? size : null,
        count,
        content: child.content,
      });
      if (open) walk(child, key, depth + 1);
    }
  };
  walk(grow(contents), '', 0);
  return rows;
}
