import 'server-only';
import type { InferType } from 'yup';
import type { forgetWaySchema, sayWaySchema } from '@/contracts/way-inputs';
import { EternoError } from '@/core/errors';
import { readWay } from '@/core/ways/read-way';
import type { WayId } from '@/core/ways/way-kinds';
import { appendEvent } from '../repositories/event-repository';
import { deleteWay, insertWay, listWays } from '../repositories/way-repository';
import { needHandset, readSubject } from './bench-reading';
import { now } from './clock';
import { modelOf } from './way-service';

/* What a person says of a model's own ways, at a step or in the room of one of its handsets. */

/**
 * Keeps it for every handset of the model.
 * @throws {EternoError} `bad-field` for a value that is none of its kind, `not-found`
 */
export async function sayWayAt({
  handsetId,
  way,
  value,
  sureness,
  where,
  note,
}: InferType<typeof sayWaySchema>): Promise<void> {
  const subject = await readSubject(await needHandset(handsetId));
  await insertWay({
    model: modelOf(subject),
    way,
    value: readWay(way, value),
    sureness,
    source: `${note === '' ? 'you' : `${note}, noted by you`}, ${where === '' ? 'in the room of' : `at “${where}” with`} ${subject.handset.name}`,
    at: now(),
  });
  await noteWay(handsetId, way, 'said');
}

/** What was said of a way is taken back; its class's guess is left. @throws {EternoError} `not-found` */
export async function forgetWayAt({ handsetId, way }: InferType<typeof forgetWaySchema>): Promise<void> {
  const model = modelOf(await readSubject(await needHandset(handsetId)));
  if (!(await listWays(model)).some((one) => one.way === way))
    throw new EternoError('not-found', 'Nobody has said anything of this.');
  await deleteWay(model, way);
  await noteWay(handsetId, way, 'taken back');
}

const noteWay = (handsetId: string, way: WayId, what: 'said' | 'taken back') =>
  appendEvent({ at: now(), handsetId, roundId: null, kind: 'way', data: { version: 1, way, what } });
