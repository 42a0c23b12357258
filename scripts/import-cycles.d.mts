export type ImportGraph = Map<string, Set<string>>;
export function importsOf(files: readonly string[]): ImportGraph;
export function circlesIn(graph: ImportGraph): string[][];
export function betweenFolders(graph: ImportGraph, folderOf: (file: string) => string | null): ImportGraph;
