import { EternoError } from '../errors';

/*
 * What of a calendar file is read here: events by name, time and length, and the time zones that they name.
 * Everything else is left out before the parser sees it, and so is every rule whose unfolding takes longer
 * than a calendar is worth.
 */

const COMPONENTS = ['VCALENDAR', 'VEVENT', 'VTIMEZONE', 'STANDARD', 'DAYLIGHT'];
const OF_EVENTS = /^(UID|DTSTART|DTEND|DURATION|SUMMARY|TRANSP)[;:]/i;
const OF_ZONES = /^(TZID|DTSTART|TZOFFSETFROM|TZOFFSETTO|RRULE|RDATE)[;:]/i;
/** Once a year, on a day that a rule of summer time names. */
const YEARLY =
  /^RRULE:FREQ=YEARLY(;(INTERVAL=1|BYMONTH=\d{1,2}|BYDAY=[+-]?\d?[A-Z]{2}|BYMONTHDAY=[\d,-]{1,40}|UNTIL=[\dTZ]{8,16}|WKST=[A-Z]{2}))*$/i;
const DURATION =
  /^DURATION(;[A-Z-]{1,20}=[^;:]{1,40}){0,4}:[+-]?P(?=[\dT])(\d{1,4}W)?(\d{1,4}D)?(T(\d{1,4}H)?(\d{1,4}M)?(\d{1,6}S)?)?$/i;
const LINE_CHARACTERS = 4096;
const MOST_ZONES = 100;
const MOST_ZONE_LINES = 400;

/** Lines as they were before folding. */
const unfolded = (text: string): string[] => text.split(/\r\n|\n|\r/).reduce<string[]>(joinLine, []);
function joinLine(lines: string[], line: string): string[] {
  if (/^[ \t]/.test(line) && lines.length > 0) lines[lines.length - 1] += line.slice(1);
  else lines.push(line);
  return lines;
}

function keepsIn(component: string, line: string, number: number): boolean {
  if (component === 'VEVENT') {
    if (!OF_EVENTS.test(line)) return false;
    if (line.length > LINE_CHARACTERS)
      throw new EternoError(
        'too-large',
        `Line ${number} of the calendar is longer than ${LINE_CHARACTERS} characters.`,
      );
    if (/^DURATION/i.test(line) && !DURATION.test(line))
      throw new EternoError('bad-field', `Line ${number} of the calendar is no length of time.`);
    return true;
  }
  if (component === 'VCALENDAR') return /^(VERSION|PRODID)[;:]/i.test(line) && line.length <= LINE_CHARACTERS;
  return (
    OF_ZONES.test(line) && line.length <= LINE_CHARACTERS && (!/^RRULE/i.test(line) || YEARLY.test(line))
  );
}

/**
 * The part of a calendar file that is read, in CRLF lines.
 * @throws {EternoError} `too-large` for a line of an event that no event has, `bad-field` for a length of
 *   time that is none
 */
export function plainCalendar(text: string): string {
  const kept: string[] = [];
  const open: string[] = [];
  let [zones, zoneLines, skipped] = [0, 0, 0];
  for (const [i, line] of unfolded(text).entries()) {
    const bound = /^(BEGIN|END):([A-Z-]{1,40})\s*$/i.exec(line);
    if (bound) {
      const [, which, raw] = bound;
      const name = raw!.toUpperCase();
      const begins = which!.toUpperCase() === 'BEGIN';
      // what is in a part that is left out is left out too
      if (
        skipped > 0 ||
        !COMPONENTS.includes(name) ||
        (begins && name === 'VTIMEZONE' && (zones += 1) > MOST_ZONES)
      ) {
        skipped = Math.max(0, skipped + (begins ? 1 : -1));
        continue;
      }
      if (begins) open.push(name);
      else open.pop();
      kept.push(`${which!.toUpperCase()}:${name}`);
      continue;
    }
    if (skipped > 0) continue;
    const component = open.at(-1);
    if (component === undefined || !keepsIn(component, line, i + 1)) continue;
    if (component !== 'VEVENT' && component !== 'VCALENDAR' && (zoneLines += 1) > MOST_ZONE_LINES) continue;
    kept.push(line);
  }
  return `${kept.join('\r\n')}\r\n`;
}
