/* Uniform-cost search over whatever it is given: it knows nothing of handsets. */

export interface Move<S, A> {
  readonly action: A;
  readonly state: S;
  /** Never negative. */
  readonly cost: number;
}

export interface Problem<S, A> {
  readonly start: S;
  /** Two states with one key are one state. */
  readonly key: (state: S) => string;
  readonly isGoal: (state: S) => boolean;
  readonly moves: (state: S) => Iterable<Move<S, A>>;
  /**
   * What a state lacks of its goal; states that lack less are looked at first, and the way that is found is any,
   * not the cheapest. Without it the cheapest is found.
   */
  readonly lacks?: (state: S) => number;
}

/**
 * `exhausted`: everything reachable was looked at. `out of budget` says nothing of whether there is a way.
 */
export type Searched<S, A> =
  | {
      readonly kind: 'found';
      readonly moves: readonly Move<S, A>[];
      readonly cost: number;
      readonly expanded: number;
    }
  | { readonly kind: 'exhausted'; readonly expanded: number }
  | { readonly kind: 'out of budget'; readonly expanded: number };

interface Node<S, A> {
  readonly state: S;
  readonly key: string;
  readonly cost: number;
  readonly lacks: number;
  /**
   * Order of discovery: of two equal costs the first found goes first, so that the same problem gives the
   * same plan.
   */
  readonly order: number;
  readonly from: Node<S, A> | null;
  readonly move: Move<S, A> | null;
}

const before = <S, A>(a: Node<S, A>, b: Node<S, A>) =>
  a.lacks !== b.lacks ? a.lacks < b.lacks : a.cost < b.cost || (a.cost === b.cost && a.order < b.order);

/** A binary heap, the cheapest on top. */
class Frontier<S, A> {
  private readonly nodes: Node<S, A>[] = [];

  push(node: Node<S, A>): void {
    const { nodes } = this;
    let at = nodes.push(node) - 1;
    while (at > 0) {
      const above = (at - 1) >> 1;
      if (!before(nodes[at]!, nodes[above]!)) return;
      [nodes[at], nodes[above]] = [nodes[above]!, nodes[at]!];
      at = above;
    }
  }

  pop(): Node<S, A> | null {
    const { nodes } = this;
    const top = nodes[0];
    const last = nodes.pop();
    if (top === undefined || last === undefined) return null;
    if (nodes.length === 0) return top;
    nodes[0] = last;
    let at = 0;
    for (;;) {
      const [left, right] = [2 * at + 1, 2 * at + 2];
      let least = at;
      if (left < nodes.length && before(nodes[left]!, nodes[least]!)) least = left;
      if (right < nodes.length && before(nodes[right]!, nodes[least]!)) least = right;
      if (least === at) return top;
      [nodes[at], nodes[least]] = [nodes[least]!, nodes[at]!];
      at = least;
    }
  }
}

const LOOKED_AT = Number.NEGATIVE_INFINITY;

/** The cheapest way to a goal, or any. @param maxExpanded states that are looked at before it gives up */
export function search<S, A>(
  { start, key, isGoal, moves, lacks = () => 0 }: Problem<S, A>,
  maxExpanded: number,
): Searched<S, A> {
  const frontier = new Frontier<S, A>();
  /** The least that each state was reached for; once it was looked at, nothing is less. */
  const best = new Map<string, number>([[key(start), 0]]);
  let order = 0;
  let expanded = 0;
  frontier.push({
    state: start,
    key: key(start),
    cost: 0,
    lacks: lacks(start),
    order,
    from: null,
    move: null,
  });
  for (let node = frontier.pop(); node; node = frontier.pop()) {
    if (best.get(node.key) === LOOKED_AT) continue;
    best.set(node.key, LOOKED_AT);
    if (isGoal(node.state)) return { kind: 'found', moves: trail(node), cost: node.cost, expanded };
    if (expanded >= maxExpanded) return { kind: 'out of budget', expanded };
    expanded += 1;
    for (const move of moves(node.state)) {
      const next = key(move.state);
      const cost = node.cost + move.cost;
      if ((best.get(next) ?? Number.POSITIVE_INFINITY) <= cost) continue;
      best.set(next, cost);
      frontier.push({
        state: move.state,
        key: next,
        cost,
        lacks: lacks(move.state),
        order: (order += 1),
        from: node,
        move,
      });
    }
  }
  return { kind: 'exhausted', expanded };
}

function trail<S, A>(node: Node<S, A>): Move<S, A>[] {
  const moves: Move<S, A>[] = [];
  for (let at: Node<S, A> | null = node; at?.move; at = at.from) moves.push(at.move);
  return moves.reverse();
}
