import { readFileSync } from 'node:fs';
import ts from 'typescript';

/* Places where one small fault can be planted in a source: what a tired person might write. */

const TURNED = new Map([
  [ts.SyntaxKind.LessThanToken, '<='],
  [ts.SyntaxKind.LessThanEqualsToken, '<'],
  [ts.SyntaxKind.GreaterThanToken, '>='],
  [ts.SyntaxKind.GreaterThanEqualsToken, '>'],
  [ts.SyntaxKind.EqualsEqualsEqualsToken, '!=='],
  [ts.SyntaxKind.ExclamationEqualsEqualsToken, '==='],
]);
const TERMS = [
  ts.SyntaxKind.AmpersandAmpersandToken,
  ts.SyntaxKind.BarBarToken,
  ts.SyntaxKind.PlusToken,
  ts.SyntaxKind.MinusToken,
];

/**
 * @typedef {{ file: string, start: number, end: number, text: string, kind: 'comparison' | 'dropped check' |
 *   'off by one' | 'swapped slot' | 'dropped term' }} Mutant characters `start` to `end` of the file are
 *   replaced by `text`
 * @param {string} file
 * @returns {Mutant[]}
 */
export function mutantsOf(file) {
  const content = readFileSync(file, 'utf8');
  const source = ts.createSourceFile(
    file,
    content,
    ts.ScriptTarget.Latest,
    true,
    file.endsWith('x') ? ts.ScriptKind.TSX : ts.ScriptKind.TS,
  );
  const found = [];
  const put = (kind, start, end, text) => found.push({ file, kind, start, end, text });
  const textOf = (node) => node.getText(source);
  const isNumber = (node) => ts.isNumericLiteral(node) && !textOf(node).startsWith('0x');
  const visit = (node) => {
    // words and types decide nothing
    if (ts.isTypeNode(node) || ts.isImportDeclaration(node) || ts.isInterfaceDeclaration(node)) return;
    if (ts.isBinaryExpression(node)) {
      const { operatorToken: operator, left, right } = node;
      const turned = TURNED.get(operator.kind);
      if (turned) put('comparison', operator.getStart(source), operator.end, turned);
      if (turned && isNumber(right))
        put('off by one', right.getStart(source), right.end, String(Number(right.text) + 1));
      const words = (side) => ts.isStringLiteralLike(side) || ts.isTemplateExpression(side);
      if (TERMS.includes(operator.kind) && !words(left) && !words(right))
        for (const [kept] of [[left], [right]])
          put('dropped term', node.getStart(source), node.end, textOf(kept));
    }
    if (ts.isPrefixUnaryExpression(node) && node.operator === ts.SyntaxKind.ExclamationToken)
      put('dropped term', node.getStart(source), node.end, textOf(node.operand));
    if (ts.isIfStatement(node) && !node.elseStatement) {
      const { thenStatement: then } = node;
      const last = ts.isBlock(then) ? then.statements.at(-1) : then;
      if (last && (ts.isReturnStatement(last) || ts.isThrowStatement(last) || ts.isContinueStatement(last)))
        put('dropped check', node.getStart(source), node.end, ';');
    }
    if (
      ts.isSpreadElement(node) ||
      (ts.isStringLiteral(node) &&
        ts.isArrayLiteralExpression(node.parent) &&
        node.parent.elements.length > 1)
    ) {
      const after = /^\s*,/.exec(content.slice(node.end));
      if (after) put('dropped term', node.getStart(source), node.end + after[0].length, '');
    }
    if (ts.isStringLiteral(node) && (node.text === 'a' || node.text === 'b'))
      put('swapped slot', node.getStart(source), node.end, node.text === 'a' ? "'b'" : "'a'");
    if (ts.isCallExpression(node) && textOf(node.expression) === 'otherSlot' && node.arguments.length === 1)
      put('swapped slot', node.getStart(source), node.end, textOf(node.arguments[0]));
    ts.forEachChild(node, visit);
  };
  visit(source);
  return found;
}

/** The file's content with the fault in it. */
export const planted = (content, { start, end, text }) => content.slice(0, start) + text + content.slice(end);

/**
 * Tells of a mutant whether it compiles: what the compiler refuses nobody can commit.
 * @returns {(mutant: Mutant) => boolean}
 */
export function compiler(configPath = 'tsconfig.json') {
  const config = ts.getParsedCommandLineOfConfigFile(
    configPath,
    {},
    { ...ts.sys, onUnRecoverableConfigFileDiagnostic: () => undefined },
  );
  let at = null;
  let version = 0;
  const versions = new Map();
  const host = {
    ...ts.sys,
    useCaseSensitiveFileNames: () => ts.sys.useCaseSensitiveFileNames,
    getCompilationSettings: () => ({ ...config.options, noEmit: true, incremental: false }),
    getScriptFileNames: () => config.fileNames,
    getScriptVersion: (name) => String(versions.get(name) ?? 0),
    getScriptSnapshot: (name) => {
      const content = ts.sys.readFile(name);
      if (content === undefined) return undefined;
      return ts.ScriptSnapshot.fromString(
        at && name.endsWith(`/${at.file}`) ? planted(content, at) : content,
      );
    },
    getCurrentDirectory: () => process.cwd(),
    getDefaultLibFileName: ts.getDefaultLibFilePath,
  };
  const service = ts.createLanguageService(host, ts.createDocumentRegistry());
  return (mutant) => {
    const path = config.fileNames.find((name) => name.endsWith(`/${mutant.file}`));
    at = mutant;
    versions.set(path, (version += 1));
    const fine =
      service.getSyntacticDiagnostics(path).length === 0 && service.getSemanticDiagnostics(path).length === 0;
    at = null;
    versions.set(path, (version += 1));
    return fine;
  };
}
