import { mkdtemp, mkdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { betweenFolders, circlesIn, importsOf } from '../../scripts/import-cycles.mjs';

const graph = (edges: Readonly<Record<string, string>>) =>
  new Map(
    Object.entries(edges).map(([from, to]) => [from, new Set(to.split(' ').filter((name) => name !== ''))]),
  );
const circles = (edges: Readonly<Record<string, string>>) =>
  circlesIn(graph(edges)).map((circle) => [...circle].sort().join(''));

describe('circles', () => {
  it('are found wherever they hang, and only they', () => {
    expect(circles({ a: 'b c', b: 'c', c: '' })).toEqual([]);
    expect(circles({ a: 'b', b: 'c', c: 'a' })).toEqual(['abc']);
    expect(circles({ r: 'a x', a: 'b', b: 'a', x: 'y', y: 'z', z: 'y b' }).sort()).toEqual(['ab', 'yz']);
    expect(circles({ a: 'b c', b: 'd', c: 'd', d: '' })).toEqual([]);
  });
  it('between folders need no circle of files', () => {
    const files = graph({
      'fit/a': 'packages/a',
      'packages/b': 'fit/b',
      'packages/a': '',
      'fit/b': '',
      'rest/a': 'fit/a',
    });
    expect(circlesIn(files)).toEqual([]);
    expect(
      circlesIn(betweenFolders(files, (name) => name.split('/')[0]!)).map((circle) => [...circle].sort()),
    ).toEqual([['fit', 'packages']]);
  });
});

describe('imports', () => {
  let dir: string;
  beforeAll(async () => {
    dir = await mkdtemp(join(tmpdir(), 'eterno-imports-'));
    await mkdir(join(dir, 'x'));
    await writeFile(
      join(dir, 'a.ts'),
      "import type { B } from './b';\nexport * from './x/c';\nimport yup from 'yup';\n",
    );
    await writeFile(join(dir, 'b.tsx'), "export const later = () => import('./a');\n// import './x/c'\n");
    await writeFile(join(dir, 'x', 'c.ts'), 'export const c = 1;\n');
  });
  afterAll(() => rm(dir, { recursive: true, force: true }));
  it('are read with types, what is passed on and what is loaded later, without packages and comments', () => {
    const [a, b, c] = ['a.ts', 'b.tsx', 'x/c.ts'].map((name) => join(dir, name)) as [string, string, string];
    const found = importsOf([a, b, c]);
    expect(found.get(a)).toEqual(new Set([b, c]));
    expect(found.get(b)).toEqual(new Set([a]));
    expect(found.get(c)).toEqual(new Set());
  });
});
