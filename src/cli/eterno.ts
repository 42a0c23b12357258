import { createInterface } from 'node:readline';
import { EternoError } from '@/core/errors';
import type { Progress } from '@/core/ports';
import type { Answer } from './run-verb';
import { runVerb } from './run-verb';

/*
 * The `eterno` command: one JSON object on standard output, progress on standard error when that is a
 * terminal.
 */

const stop = new AbortController();
process.once('SIGINT', () => stop.abort());
process.once('SIGTERM', () => stop.abort());

function showProgress({ phase, doneBytes, totalBytes }: Progress): void {
  process.stderr.write(
    `\r${phase} ${((100 * doneBytes) / Math.max(1, totalBytes)).toFixed(0)} % of ${totalBytes} bytes `,
  );
}

async function batch(): Promise<number> {
  for await (const line of createInterface({ input: process.stdin, crlfDelay: Infinity })) {
    if (line.trim() === '') continue;
    process.stdout.write(`${JSON.stringify(await runBatchLine(line))}\n`);
  }
  return 0;
}

async function runBatchLine(line: string): Promise<Answer> {
  let argv: unknown;
  try {
    argv = JSON.parse(line);
  } catch {
    argv = null;
  }
  if (!Array.isArray(argv) || argv.some((item) => typeof item !== 'string')) {
    return {
      exit: 2,
      out: null,
      error: new EternoError('usage', 'a line of a batch is one JSON list of texts').toData(),
    };
  }
  return runVerb(argv as string[], { signal: stop.signal });
}

async function main(): Promise<number> {
  const argv = process.argv.slice(2);
  if (argv[0] === 'batch') return batch();
  const terminal = process.stderr.isTTY === true;
  const answer = await runVerb(argv, {
    signal: stop.signal,
    ...(terminal ? { onProgress: showProgress } : {}),
  });
  if (terminal) process.stderr.write('\r\x1b[K');
  if (answer.out)
    process.stdout.write(`${'help' in answer.out ? String(answer.out.help) : JSON.stringify(answer.out)}\n`);
  if (answer.error) process.stderr.write(`${JSON.stringify({ error: answer.error })}\n`);
  return answer.exit;
}

process.exitCode = await main();
