/*
 * One stream of the server's events for all tabs of a browser, which has few connections to give: the tab
 * that holds the lock listens and passes on, and when it is closed the next one does. A tab that comes later
 * is told what it has missed.
 */

interface Told {
  /** 0 where the stream numbers nothing. */
  readonly id: number;
  readonly data: string;
}
type Word = ({ readonly kind: 'event' } & Told) | { readonly kind: 'ask'; readonly since: number };

export interface SharedStream {
  readonly name: string;
  /** Where to listen from, after the message of that number. */
  readonly url: (last: number) => string;
  readonly since: number;
  readonly handle: (data: string) => void;
  /** What a tab that comes later is told: the messages that count still, with a new one. */
  readonly remember: (known: readonly Told[], told: Told) => readonly Told[];
}

/** @returns what ends it */
export function shareEvents({ name, url, since, handle, remember }: SharedStream): () => void {
  const channel = new BroadcastChannel(`eterno ${name}`);
  const abort = new AbortController();
  let [last, known]: [number, readonly Told[]] = [since, []];
  let release: (() => void) | null = null;
  const take = ({ id, data }: Told) => {
    if (id > 0) last = id;
    known = remember(known, { id, data });
    handle(data);
  };
  channel.onmessage = ({ data: word }: MessageEvent<Word>) => {
    if (word.kind === 'event') take(word);
    else if (release !== null)
      for (const told of known)
        if (told.id === 0 || told.id > word.since) channel.postMessage({ kind: 'event', ...told });
  };
  channel.postMessage({ kind: 'ask', since } satisfies Word);
  const lead = () =>
    new Promise<void>((done) => {
      // the lock may come when nobody listens here any more: the next one has to get it
      if (abort.signal.aborted) return done();
      const source = new EventSource(url(last));
      source.onmessage = ({ data, lastEventId }: MessageEvent<string>) => {
        const told = { id: Number(lastEventId) || 0, data };
        take(told);
        channel.postMessage({ kind: 'event', ...told } satisfies Word);
      };
      release = () => {
        source.close();
        done();
      };
    });
  void navigator.locks.request(`eterno ${name}`, { signal: abort.signal }, lead).catch(() => undefined);
  return () => {
    abort.abort();
    release?.();
    channel.close();
  };
}
