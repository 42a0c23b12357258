const UNITS = ['bytes', 'KiB', 'MiB', 'GiB', 'TiB'] as const;

/** `8 MiB`, `198.1 MiB`, `412 bytes`. */
export function formatBytes(bytes: number): string {
  let value = bytes;
  let unit = 0;
  while (value >= 1024 && unit < UNITS.length - 1) {
    value /= 1024;
    unit += 1;
  }
  const digits = unit === 0 || Number.isInteger(value) || value >= 1000 ? 0 : 1;
  return `${value.toFixed(digits)} ${UNITS[unit]}`;
}

/** `44 s`, `4 min 12 s`, `1 h 5 min`. */
export function formatSeconds(seconds: number): string {
  const s = Math.round(seconds);
  if (s < 60) return seconds > 0 && seconds < 1 ? 'under 1 s' : `${s} s`;
  if (s < 3600) return s % 60 === 0 ? `${s / 60} min` : `${Math.floor(s / 60)} min ${s % 60} s`;
  return `${Math.floor(s / 3600)} h ${Math.floor((s % 3600) / 60)} min`;
}

/** Seconds left by the pace so far; null before there is a pace to speak of. */
export function secondsLeft(doneBytes: number, totalBytes: number, elapsedSeconds: number): number | null {
  return elapsedSeconds < 0.5 || doneBytes <= 0 || totalBytes <= doneBytes
    ? null
    : (elapsedSeconds * (totalBytes - doneBytes)) / doneBytes;
}

const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];
const LONG_MONTHS = [
  'January',
  'February',
  'March',
  'April',
  'May',
  'June',
  'July',
  'August',
  'September',
  'October',
  'November',
  'December',
];
const DAYS = ['Sunday', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday'];
const two = (n: number) => String(n).padStart(2, '0');

/* All times are shown in UTC, so that server and browser say the same. */

/** `9 Nov 18:20` */
export function formatTime(at: number): string {
  const d = new Date(at);
  return `${d.getUTCDate()} ${MONTHS[d.getUTCMonth()]} ${two(d.getUTCHours())}:${two(d.getUTCMinutes())}`;
}
/** `9 Nov 2026` */
export function formatDay(at: number): string {
  const d = new Date(at);
  return `${d.getUTCDate()} ${MONTHS[d.getUTCMonth()]} ${d.getUTCFullYear()}`;
}
/** `Tuesday 10 November` in short form. */
export function formatWeekday(at: number): string {
  const d = new Date(at);
  return `${DAYS[d.getUTCDay()]} ${d.getUTCDate()} ${MONTHS[d.getUTCMonth()]}`;
}
export const monthName = (at: number) => MONTHS[new Date(at).getUTCMonth()]!;

/** `Ridge`, `Ridge and Fen`, `Ridge, Fen and 6 others`. */
export function listNames(names: readonly string[]): string {
  return names.length <= 3
    ? [names.slice(0, -1).join(', '), names.at(-1) ?? ''].filter((part) => part !== '').join(' and ')
    : `${names.slice(0, 2).join(', ')} and ${names.length - 2} others`;
}

/** `November 2026` */
export const formatMonth = (at: number) =>
  `${LONG_MONTHS[new Date(at).getUTCMonth()]} ${new Date(at).getUTCFullYear()}`;

/** `2 min ago`, `3 days ago`. */
export function formatAge(at: number, now: number): string {
  const s = Math.max(0, (now - at) / 1000);
  if (s < 60) return 'just now';
  if (s < 3600) return `${Math.floor(s / 60)} min ago`;
  if (s < 86_400) return `${Math.floor(s / 3600)} h ago`;
  const days = Math.floor(s / 86_400);
  return days === 1 ? 'yesterday' : `${days} days ago`;
}

/** `9f3c…a41e`: the ends that people compare by, never instead of the whole. */
export const shortHash = (hash: string) => `${hash.slice(0, 4)}…${hash.slice(-4)}`;
/** `…261005.014`: the meaningful end of a build number. */
export const shortBuild = (build: string) => (build.length > 12 ? `…${build.slice(-10)}` : build);
