import { existsSync, readFileSync } from 'node:fs';
import { dirname, join, normalize } from 'node:path';
import ts from 'typescript';

/* Who imports whom, and who in a circle. Type imports count: a reader has to follow them too. */

const ENDINGS = ['', '.ts', '.tsx', '.mjs', '.d.ts'];

/** The file that an import of `from` means, relative to the checkout; null for a package. */
function fileOf(from, wanted) {
  const path = wanted.startsWith('@/')
    ? join('src', wanted.slice(2))
    : wanted.startsWith('.')
      ? normalize(join(dirname(from), wanted))
      : null;
  return path === null
    ? null
    : (ENDINGS.map((ending) => path + ending).find(
        (name) => /\.(tsx?|mjs)$/.test(name) && existsSync(name),
      ) ?? null);
}

/** @returns {Map<string, Set<string>>} the files that each of these files imports */
export function importsOf(files) {
  const graph = new Map();
  for (const name of files) {
    const { importedFiles } = ts.preProcessFile(readFileSync(name, 'utf8'), true, true);
    graph.set(
      name,
      new Set(
        importedFiles.map(({ fileName }) => fileOf(name, fileName)).filter((target) => target !== null),
      ),
    );
  }
  return graph;
}

/**
 * Circles of a graph: its strongly connected parts of more than one, by Tarjan's way with one stack of its
 * own.
 * @returns {string[][]} each in the order in which it was met
 */
export function circlesIn(graph) {
  const [index, low, open, circles] = [new Map(), new Map(), [], []];
  const visit = (start) => {
    const path = [{ node: start, next: [...(graph.get(start) ?? [])] }];
    index.set(start, index.size);
    low.set(start, index.get(start));
    open.push(start);
    while (path.length > 0) {
      const { node, next } = path.at(-1);
      const target = next.pop();
      if (target === undefined) {
        path.pop();
        if (path.length > 0) low.set(path.at(-1).node, Math.min(low.get(path.at(-1).node), low.get(node)));
        if (low.get(node) === index.get(node)) {
          const circle = open.splice(open.indexOf(node));
          if (circle.length > 1) circles.push(circle);
        }
      } else if (!index.has(target)) {
        index.set(target, index.size);
        low.set(target, index.get(target));
        open.push(target);
        path.push({ node: target, next: [...(graph.get(target) ?? [])] });
      } else if (open.includes(target)) low.set(node, Math.min(low.get(node), index.get(target)));
    }
  };
  for (const node of graph.keys()) if (!index.has(node)) visit(node);
  return circles;
}

/** The same graph between folders: `folderOf` names a file's, or null where it does not count. */
export function betweenFolders(graph, folderOf) {
  const folders = new Map();
  for (const [file, targets] of graph) {
    const folder = folderOf(file);
    if (folder === null) continue;
    const known = folders.get(folder) ?? folders.set(folder, new Set()).get(folder);
    for (const target of targets) {
      const other = folderOf(target);
      if (other !== null && other !== folder) known.add(other);
    }
  }
  return folders;
}
