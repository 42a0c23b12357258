import 'server-only';
import { flattenPrinted } from '@/core/facts/catalogue';
import { parsePrinted } from '@/core/formats/facts/parse-facts';
import { ifAnswers } from '@/core/link/if-answers';
import type { Evidence } from '@/core/rounds/evidence';
import * as say from '@/core/words/step-evidence';
import type { BootloaderReading, StepRun } from './running';
import { keepBootloaderFacts, strong } from './running';

/* Fuse and counter of writes as the bootloader says them, before and after what can change them. */

const recordIn = ({ text }: Pick<BootloaderReading, 'text'>): say.TamperReading => {
  const { values } = parsePrinted(text);
  return { fuse: values['warranty-fuse'] ?? null, writes: values['write-count'] ?? null };
};

/**
 * Reads the record once more, keeps it, and says what became of it; nothing where the handset keeps none, or
 * does not answer any more: then nothing is said of it.
 */
export async function recordAfter(running: StepRun, reading: BootloaderReading): Promise<Evidence[]> {
  const before = recordIn(reading);
  if (before.fuse === null && before.writes === null) return [];
  const after = await ifAnswers(keepBootloaderFacts(running));
  return after === null ? [] : [strong(say.tamperRecord(before, recordIn(after)))];
}

/** What a system that started says of the record, against what was known before; null where it says nothing. */
export function recordSaid(known: StepRun['known'], text: string): string | null {
  const after = new Map(flattenPrinted(parsePrinted(text).values).map(({ key, value }) => [key, value]));
  const reading = { fuse: after.get('fuse') ?? null, writes: after.get('writeCounter') ?? null };
  if (reading.fuse === null && reading.writes === null) return null;
  return say.tamperRecord({ fuse: known.value('fuse'), writes: known.value('writeCounter') }, reading);
}
