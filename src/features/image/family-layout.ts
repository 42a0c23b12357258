import { cluster, hierarchy } from 'd3';
import type { Family, FamilyNode } from '@/core/lineage/families';

/* A family as a picture: a column for each stage, a row for each end. */

export const COLUMNS = ['Came from', 'As it came', 'Patched', 'On handsets'] as const;

export interface PlacedNode {
  readonly node: FamilyNode;
  /** Left edge, in the unit of the widths, and middle, in that of the rows. */
  readonly x: number;
  readonly y: number;
}
export interface FamilyLink {
  readonly key: string;
  readonly from: { readonly x: number; readonly y: number };
  readonly to: { readonly x: number; readonly y: number };
}
export interface FamilyPicture {
  readonly nodes: readonly PlacedNode[];
  readonly links: readonly FamilyLink[];
  readonly height: number;
}

/** Widths in one unit, heights in another: across they may be shares of a room. */
export interface FamilySizes {
  readonly columnWidth: number;
  readonly nodeWidth: number;
  readonly rowHeight: number;
}

/** Its column by what it is, so that a place of a stock image stands below those of patched ones. */
function columnOf({ data, depth }: { readonly data: FamilyNode | null; readonly depth: number }): number {
  if (data === null || data.kind === 'origin') return 0;
  if (data.kind === 'place') return COLUMNS.length - 1;
  return depth === 2 && data.image.role !== 'patched' ? 1 : 2;
}

type Grown = { readonly node: FamilyNode | null; readonly children: readonly Grown[] };
const grown = (node: FamilyNode): Grown => ({ node, children: node.children.map(grown) });

/** A row for each end, columns by stage; all from the top left. */
export function layOutFamily({ roots }: Pick<Family, 'roots'>, sizes: FamilySizes): FamilyPicture {
  const { columnWidth, nodeWidth, rowHeight } = sizes;
  const top = hierarchy<Grown>({ node: null, children: roots.map(grown) }, ({ children }) => [...children]);
  const placed = cluster<Grown>()
    .nodeSize([rowHeight, 1])
    .separation(() => 1)(top);
  const own = placed.descendants().filter(({ data }) => data.node !== null);
  const least = Math.min(...own.map(({ x }) => x));
  const most = Math.max(...own.map(({ x }) => x));
  const at = (one: (typeof own)[number]) => ({
    x: columnOf({ data: one.data.node, depth: one.depth }) * columnWidth,
    y: one.x - least + rowHeight / 2,
  });
  return {
    nodes: own.map((one) => ({ node: one.data.node!, ...at(one) })),
    links: placed.links().flatMap(({ source, target }) => {
      if (source.data.node === null) return [];
      const [from, to] = [at(source), at(target)];
      return [
        {
          key: `${source.data.node.id} ${target.data.node!.id}`,
          from: { x: from.x + nodeWidth, y: from.y },
          to,
        },
      ];
    }),
    height: own.length === 0 ? 0 : most - least + rowHeight,
  };
}
