import 'server-only';
import Papa from 'papaparse';
import type { ExportForm, LogRound } from '@/contracts/log-view';
import { againWords } from '@/contracts/round-view';
import { toMarkdown } from '@/core/rounds/documents';
import { blankIn } from '@/core/sharing/blank-private';
import type { BackupTable } from '../db/backup-tables';
import { dumpTable } from '../db/backup-tables';
import { calendarView } from './calendar-service';
import { calendarText } from './calendar-file';
import { now } from './clock';
import { logRounds } from './log-service';
import { allPrivateValues } from './private-values';

/* The log on its way out: everything as JSON, steps as CSV, a report as Markdown, its times as a calendar. */

export const LOG_FORMAT = 'eterno-log';
export const LOG_VERSION = 1;
/** What belongs to the log, parents before children. */
export const LOG_TABLES = [
  'handsets',
  'model_ways',
  'builds',
  'trials',
  'module_trials',
  'rounds',
  'steps',
  'step_notes',
  'put_backs',
  'events',
] as const satisfies readonly BackupTable[];

async function asJson(withPrivate: boolean, secret: readonly string[]): Promise<string> {
  const tables: Record<string, object> = {};
  for (const name of LOG_TABLES) tables[name] = blankIn(await dumpTable(name), secret);
  if (withPrivate) tables['secrets'] = await dumpTable('secrets');
  return JSON.stringify({
    format: LOG_FORMAT,
    formatVersion: LOG_VERSION,
    madeAt: now(),
    withPrivate,
    tables,
  });
}

const iso = (at: number | null) => (at === null ? '' : new Date(at).toISOString());

/**
 * What table programs take for the beginning of a formula, behind spaces and line ends too, and in wide
 * letters.
 */
const FORMULA = /^\s*[=+\-@＝＋－＠]|^[\t\r\n]/;

/**
 * A row a step; times in ISO 8601, UTC; durations in seconds. A text that a table program would take for a
 * formula begins with a quote.
 */
function asCsv(rounds: readonly LogRound[]): string {
  const rows = rounds.flatMap((round) =>
    round.steps.map((step) => ({
      handset: round.handset,
      round: round.title,
      lane: round.lane,
      round_state: round.state,
      round_opened: iso(round.openedAt),
      stage: step.stage,
      step: step.title,
      step_state: step.state,
      started: iso(step.startedAt),
      seconds: step.seconds ?? '',
      planned_seconds: step.plannedSeconds,
      done_by: step.actor ?? '',
      seen: step.evidence
        .map(({ what, strength }) => (strength === 'weak' ? `${what} (weak)` : what))
        .join('; '),
      notes: step.notes.map((note) => note.text).join('; '),
    })),
  );
  return Papa.unparse(rows, { escapeFormulae: FORMULA, newline: '\r\n' });
}

const minutes = (seconds: number) => `${Math.round(seconds / 6) / 10} min`;

function asMarkdown(rounds: readonly LogRound[]): string {
  return toMarkdown({
    title: 'The log',
    about: [`${rounds.length} rounds`, `Made ${iso(now()).slice(0, 16).replace('T', ' ')} UTC`],
    sections: rounds.map((round) => ({
      heading: `${iso(round.openedAt).slice(0, 10)} ${round.title}, ${round.handset}`,
      lines: [
        `${round.lane}; ${round.state}; ${minutes(round.seconds)}${round.minutesWithoutRoot > 0 ? `; ${Math.round(round.minutesWithoutRoot)} min without root` : ''}`,
        ...round.overrides.map(({ check, reason }) => `Overridden: ${check}: ${reason}`),
        ...round.notes.map((note) => note.text),
        ...(round.again ? [againWords(round.again)] : []),
      ],
      table: {
        head: ['Step', 'Took', 'Planned', 'Seen'],
        rows: round.steps.map((step) => [
          step.title,
          step.seconds === null ? step.state : minutes(step.seconds),
          minutes(step.plannedSeconds),
          [...step.evidence.map(({ what }) => what), ...step.notes.map((note) => note.text)].join('; '),
        ]),
      },
    })),
  });
}

const TYPES: Readonly<Record<ExportForm, readonly [string, string]>> = {
  json: ['application/json', 'eterno-log.json'],
  csv: ['text/csv', 'eterno-steps.csv'],
  markdown: ['text/markdown', 'eterno-log.md'],
  calendar: ['text/calendar', 'eterno-rounds.ics'],
};

/**
 * The log as a file. Serials, tokens and codes stay in, wherever they stand, unless they are asked for; only
 * JSON can carry them.
 */
export async function logFile(form: ExportForm, withPrivate: boolean): Promise<string> {
  // taken out before anything is written down: escaped they would not be found
  const secret = withPrivate && form === 'json' ? [] : await allPrivateValues();
  switch (form) {
    case 'json':
      return asJson(withPrivate, secret);
    case 'csv':
      return asCsv(blankIn(await logRounds(), secret));
    case 'markdown':
      return asMarkdown(blankIn(await logRounds(), secret));
    case 'calendar': {
      const { items } = await calendarView(now());
      return calendarText(
        blankIn(
          items.filter((item) => item.kind === 'round'),
          secret,
        ),
        now(),
      );
    }
  }
}

export async function logExport(form: ExportForm, withPrivate: boolean): Promise<Response> {
  const [type, name] = TYPES[form];
  return new Response(await logFile(form, withPrivate), {
    headers: {
      'content-type': `${type}; charset=utf-8`,
      'content-disposition': `attachment; filename="${name}"`,
      'cache-control': 'no-store',
    },
  });
}
