import 'server-only';
import { readFile, stat } from 'node:fs/promises';
import { object, number } from 'yup';
import type { TryItView } from '@/contracts/try-it-view';
import { waysQuery } from '@/contracts/ways-query';
import { TRY_IT } from '@/core/try-it/works';
import { demoMarker } from '../db/data-dir';
import { listHandsets } from '../repositories/handset-repository';

/* Pieces of work to try: only where the demo made this world. */

const MARKER = object({ way: number().integer().nullable().default(null) });

export const isDemo = (): Promise<boolean> =>
  stat(/*turbopackIgnore: true*/ demoMarker()).then(
    () => true,
    () => false,
  );

/** @returns null where this is no demo */
export async function tryItView(): Promise<TryItView | null> {
  if (!(await isDemo())) return null;
  const text = await readFile(/*turbopackIgnore: true*/ demoMarker(), 'utf8');
  const { way } = await MARKER.validate(JSON.parse(text));
  const [handset] = way === null ? [] : await listHandsets();
  return {
    way,
    handset: handset?.name ?? null,
    works: TRY_IT.map(({ n, sentence, goal, limits }) => ({
      n,
      sentence,
      begin:
        n === way && handset
          ? `/rounds/new?${new URLSearchParams(waysQuery(handset.id, goal, limits, null)).toString()}`
          : null,
      command: `npm run demo -- --way ${n}`,
    })),
  };
}
