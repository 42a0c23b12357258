import 'server-only';
import { EventEmitter } from 'node:events';
import type { ServerMessage } from '@/contracts/job-view';

interface Numbered {
  readonly id: number;
  readonly message: ServerMessage;
}
interface Bus {
  readonly emitter: EventEmitter;
  readonly recent: Numbered[];
  next: number;
}

const KEPT = 500;
/*
 * Numbers begin at the time: what a tab heard of a server that ended is always older than what the next one
 * says.
 */
const held = globalThis as { eternoBus?: Bus };
function bus(): Bus {
  if (!held.eternoBus) {
    held.eternoBus = { emitter: new EventEmitter(), recent: [], next: Date.now() };
    held.eternoBus.emitter.setMaxListeners(200);
  }
  return held.eternoBus;
}

export function publish(message: ServerMessage): void {
  const { emitter, recent } = bus();
  const numbered = { id: bus().next++, message };
  recent.push(numbered);
  if (recent.length > KEPT) recent.shift();
  emitter.emit('message', numbered);
}

/** Messages after `lastId` that are still kept, then every new one until `off` is called. */
export function subscribe(lastId: number, listener: (numbered: Numbered) => void): () => void {
  for (const numbered of bus().recent) if (numbered.id > lastId) listener(numbered);
  bus().emitter.on('message', listener);
  return () => bus().emitter.off('message', listener);
}

/** The number of the newest message: where a page that was just rendered begins to listen. */
export function newestMessageId(): number {
  return bus().next - 1;
}
