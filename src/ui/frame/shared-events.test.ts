import { afterEach, expect, it, vi } from 'vitest';
import { shareEvents } from './shared-events';

/*
 * The browser's locks and streams stand here as what they promise: a lock is given later, and to one at a
 * time.
 */

let grant: (() => void)[] = [];
let opened: { url: string; closed: boolean; say: (id: string, data: string) => void }[] = [];

function browser() {
  let held: Promise<void> = Promise.resolve();
  vi.stubGlobal('navigator', {
    locks: {
      request: (_name: string, _options: object, work: () => Promise<void>) =>
        new Promise<void>((resolve) => {
          grant.push(() => {
            held = held.then(work);
            void held.then(resolve);
          });
        }),
    },
  });
  vi.stubGlobal(
    'EventSource',
    class {
      onmessage: ((event: { data: string; lastEventId: string }) => void) | null = null;
      private readonly self;
      constructor(url: string) {
        this.self = {
          url,
          closed: false,
          say: (lastEventId: string, data: string) => this.onmessage?.({ data, lastEventId }),
        };
        opened.push(this.self);
      }
      close() {
        this.self.closed = true;
      }
    },
  );
}
afterEach(() => {
  vi.unstubAllGlobals();
  [grant, opened] = [[], []];
});

const share = (heard: string[]) =>
  shareEvents({
    name: 'a test',
    url: (last) => `/events?since=${last}`,
    since: 7,
    remember: (known) => known,
    handle: (data) => heard.push(data),
  });
const soon = () => new Promise((resolve) => setTimeout(resolve, 5));

it('listens where it got the lock, and goes on after what was heard when the next one does', async () => {
  browser();
  const [first, second]: [string[], string[]] = [[], []];
  const end = share(first);
  const endSecond = share(second);
  grant.forEach((one) => one());
  await soon();
  expect(opened.map(({ url }) => url)).toEqual(['/events?since=7']);
  opened[0]!.say('9', 'hello');
  await soon();
  expect([first, second]).toEqual([['hello'], ['hello']]);
  end();
  await soon();
  expect(opened.map(({ url, closed }) => [url, closed])).toEqual([
    ['/events?since=7', true],
    ['/events?since=9', false],
  ]);
  endSecond();
});

it('one that ended before the lock came opens nothing, and the next one gets it', async () => {
  browser();
  const heard: string[] = [];
  share([])();
  const end = share(heard);
  grant.forEach((one) => one());
  await soon();
  expect(opened).toHaveLength(1);
  opened[0]!.say('8', 'hello');
  expect(heard).toEqual(['hello']);
  end();
  expect(opened[0]!.closed).toBe(true);
});
