import { expect, it } from 'vitest';
import { newestMessageId, publish, subscribe } from '@/server/services/message-bus';

const held = globalThis as { eternoBus?: unknown };

it('a server that starts again numbers on: what a tab heard of the one before is older than all it says', async () => {
  for (let i = 0; i < 50; i += 1) publish({ type: 'round', roundId: 'r', version: i });
  const heard = newestMessageId();
  // no server ends and starts again within the time of its own messages
  await new Promise((resolve) => setTimeout(resolve, 60));
  delete held.eternoBus;
  publish({ type: 'round', roundId: 'r', version: 99 });
  expect(newestMessageId()).toBeGreaterThan(heard);
  const versions: number[] = [];
  subscribe(heard, ({ message }) => message.type === 'round' && versions.push(message.version))();
  expect(versions).toEqual([99]);
});
