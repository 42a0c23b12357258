import 'server-only';

const started = Date.now();
/** `ETERNO_NOW` sets the clock's start, for demo data, tests and pictures; it then runs on. */
const base = process.env.ETERNO_NOW ? Date.parse(process.env.ETERNO_NOW) : started;

/** UTC milliseconds. */
export function now(): number {
  return base + (Date.now() - started);
}
