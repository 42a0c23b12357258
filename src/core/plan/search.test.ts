import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Move } from './search';
import { search } from './search';
import { tries } from '../../../tests/fixtures/soak';

type Graph = readonly (readonly [number, number])[][];
const problem = (graph: Graph, goal: number) => ({
  start: 0,
  key: String,
  isGoal: (state: number) => state === goal,
  moves: (state: number): Move<number, string>[] =>
    graph[state]!.map(([to, cost]) => ({ action: `${state}→${to}`, state: to, cost })),
});
/** The plain way to the same answer. */
function cheapest(graph: Graph, goal: number): number {
  const cost = graph.map((_, i) => (i === 0 ? 0 : Number.POSITIVE_INFINITY));
  for (let round = 0; round < graph.length; round += 1)
    graph.forEach((edges, from) =>
      edges.forEach(([to, step]) => (cost[to] = Math.min(cost[to]!, cost[from]! + step))),
    );
  return cost[goal]!;
}
const SIZE = 8;
const anyGraph: fc.Arbitrary<Graph> = fc.array(
  fc.array(fc.tuple(fc.nat(SIZE - 1), fc.nat(9)), { maxLength: 4 }),
  {
    minLength: SIZE,
    maxLength: SIZE,
  },
);

describe('search', () => {
  it('finds the cheapest way wherever there is one, and says so where there is none', () => {
    fc.assert(
      fc.property(anyGraph, fc.nat(SIZE - 1), (graph, goal) => {
        const result = search(problem(graph, goal), 1000);
        const least = cheapest(graph, goal);
        if (least === Number.POSITIVE_INFINITY) {
          expect(result.kind).toBe('exhausted');
          return;
        }
        expect(result).toMatchObject({ kind: 'found', cost: least });
        const moves = result.kind === 'found' ? result.moves : [];
        expect(moves.reduce((sum, move) => sum + move.cost, 0)).toBe(least);
        let at = 0;
        for (const { action, state } of moves) {
          expect(action).toBe(`${at}→${state}`);
          at = state;
        }
        expect(at).toBe(goal);
      }),
      tries(),
    );
  });
  it('that runs out of budget says just that', () => {
    const line: Graph = Array.from({ length: 50 }, (_, i) => (i < 49 ? [[i + 1, 1]] : []));
    expect(search(problem(line, 49), 10)).toEqual({ kind: 'out of budget', expanded: 10 });
    expect(search(problem(line, 49), 100)).toMatchObject({ kind: 'found', cost: 49 });
  });
  it('gives the same way every time', () => {
    const even: Graph = [
      [
        [1, 1],
        [2, 1],
      ],
      [[3, 1]],
      [[3, 1]],
      [],
    ];
    const first = search(problem(even, 3), 100);
    expect(search(problem(even, 3), 100)).toEqual(first);
    expect(first).toMatchObject({ moves: [{ action: '0→1' }, { action: '1→3' }] });
  });
  it('needs no step where it is there already', () =>
    expect(search(problem([[]], 0), 10)).toEqual({ kind: 'found', moves: [], cost: 0, expanded: 0 }));
  it('for any way finds one wherever there is one, whatever each state is said to lack', () => {
    fc.assert(
      fc.property(
        anyGraph,
        fc.nat(SIZE - 1),
        fc.array(fc.nat(3), { minLength: SIZE, maxLength: SIZE }),
        (graph, goal, lacking) => {
          const result = search({ ...problem(graph, goal), lacks: (state) => lacking[state]! }, 1000);
          expect(result.kind === 'found').toBe(cheapest(graph, goal) < Number.POSITIVE_INFINITY);
          const moves = result.kind === 'found' ? result.moves : [];
          let at = 0;
          for (const { action, state, cost } of moves) {
            expect(action).toBe(`${at}→${state}`);
            expect(graph[at]!.some(([to, step]) => to === state && step === cost)).toBe(true);
            at = state;
          }
        },
      ),
      tries(),
    );
  });
  it('for any way looks first at what lacks least', () => {
    const fork: Graph = [
      [
        [1, 1],
        [2, 9],
      ],
      [[4, 1]],
      [[3, 9]],
      [],
      [],
    ];
    const near = search({ ...problem(fork, 3), lacks: (state) => (state === 2 || state === 3 ? 0 : 1) }, 100);
    expect(near).toMatchObject({ kind: 'found', expanded: 2 });
    expect(search(problem(fork, 3), 100)).toMatchObject({ kind: 'found', expanded: 4 });
  });
});
