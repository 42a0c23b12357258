import 'server-only';
import Papa from 'papaparse';
import { EternoError } from '@/core/errors';
import type { JudgedList, ListedLine } from '@/core/finding/listed-builds';
import { judgeList, lineOfRow, lineOfText } from '@/core/finding/listed-builds';
import { listHandsets, readSecret } from '../repositories/handset-repository';
import { needHandset, readSubject } from './bench-reading';
import { installedOf } from './fact-service';

/* A maker's list of builds: JSON, a table with headings, or the text of a page. */

const MOST_LINES = 5000;

type Row = Readonly<Record<string, string>>;

/** The rows of a list, or of the first list in an object; null where it is no JSON of rows. */
function rowsOfJson(text: string): Row[] | null {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return null;
  }
  const list = Array.isArray(value)
    ? value
    : typeof value === 'object' && value !== null
      ? Object.values(value).find(Array.isArray)
      : undefined;
  if (!Array.isArray(list)) throw new EternoError('bad-field', 'There is no list of builds in this JSON.');
  return list.map((item: unknown) =>
    typeof item === 'object' && item !== null
      ? Object.fromEntries(
          Object.entries(item).flatMap(([key, one]) =>
            typeof one === 'string' || typeof one === 'number' ? [[key, String(one)]] : [],
          ),
        )
      : { line: String(item) },
  );
}

/** The rows under a line of headings; null where the text has none. */
function rowsOfTable(text: string): Row[] | null {
  const { data, meta } = Papa.parse<Row>(text.trim(), { header: true, skipEmptyLines: 'greedy' });
  const headings = meta.fields ?? [];
  const named = headings.filter((one) => /^[\p{L}][\p{L}\p{N} ()_-]{0,39}$/u.test(one.trim()));
  // a heading is a short word; a page's text is none
  return headings.length >= 2 && named.length === headings.length && data.length > 0 ? data : null;
}

/** @throws {EternoError} `too-large`, `bad-field` */
export function readList(text: string): ListedLine[] {
  const rows = rowsOfJson(text) ?? rowsOfTable(text);
  const lines = rows
    ? rows.map(lineOfRow)
    : text
        .split(/\r?\n/)
        .filter((line) => line.trim() !== '')
        .map(lineOfText);
  if (lines.length > MOST_LINES)
    throw new EternoError('too-large', `A list of ${lines.length} lines; at most ${MOST_LINES} are read.`);
  return lines;
}

/** Handsets whose build a list can be held against. */
export const handsetNames = async () => (await listHandsets()).map(({ id, name }) => ({ id, name }));

/** @throws {EternoError} `not-found`, of `readList`, `bad-field` where the handset's build was never read */
export async function findInList(handsetId: string, text: string): Promise<JudgedList> {
  return judgeFor(handsetId, readList(text));
}

/** Lines of a list against a handset. @throws {EternoError} `not-found`, `bad-field` */
export async function judgeFor(handsetId: string, lines: readonly ListedLine[]): Promise<JudgedList> {
  const { facts } = await readSubject(await needHandset(handsetId));
  const installed = installedOf(facts);
  if (installed.fingerprint === null)
    throw new EternoError('bad-field', 'The build of this handset was never read: read its dump first.');
  return judgeList(lines, installed, await readSecret(handsetId, 'serial'));
}
