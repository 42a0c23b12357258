import 'server-only';

/** One for the whole process: the server holds several copies of a module. */
const held = globalThis as { eternoStarted?: number };
const started = (held.eternoStarted ??= Date.now());
/** `ETERNO_NOW` sets the clock's start, for demo data, tests and pictures; it then runs on. */
const base = process.env.ETERNO_NOW ? Date.parse(process.env.ETERNO_NOW) : started;

/** UTC milliseconds. */
export function now(): number {
  return base + (Date.now() - started);
}
