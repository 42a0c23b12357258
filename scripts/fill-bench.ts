import { closeDatabase } from '@/server/db/connection';
import { now } from '@/server/services/clock';
import { fillBench } from '../tests/fixtures/full-bench';

/*
 * `node --conditions=react-server --import tsx scripts/fill-bench.ts HANDSETS MONTHS`: fills the empty,
 * migrated store of $ETERNO_DATA.
 */

const [handsets, months] = process.argv.slice(2).map(Number);
if (!handsets || !months) throw new Error('how many handsets, and how many months?');
await fillBench({ handsets, months, now: now() });
await closeDatabase();
