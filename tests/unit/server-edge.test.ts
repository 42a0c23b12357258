import { describe, expect, it, vi } from 'vitest';
import type { ServerMessage } from '@/contracts/job-view';
import { EternoError } from '@/core/errors';
import { ERROR_CODES, exitCodeFor, toEternoError } from '@/core/errors';
import { outcome } from '@/contracts/outcome';
import { newestMessageId, publish, subscribe } from '@/server/services/message-bus';
import { guarded, isLocalRequest } from '@/server/services/request-guard';
import { bodyPieces, eventStream } from '@/server/services/streams';
import { ERROR_WORDS } from '@/ui/error-words';

const headers = (host: string, origin?: string) => new Headers({ host, ...(origin ? { origin } : {}) });

describe('requests', () => {
  it.each([
    ['127.0.0.1:3210', undefined, true],
    ['localhost:3210', 'http://localhost:3210', true],
    ['[::1]:3210', 'http://[::1]:3210', true],
    ['127.0.0.1:3210', 'http://127.0.0.1:9999', false],
    ['127.0.0.1:3210', 'https://127.0.0.1:3210', false],
    ['127.0.0.1:3210', 'null', false],
    ['evil.example', undefined, false],
    ['127.0.0.1.evil.example', undefined, false],
    ['', undefined, false],
  ])('to %s from %s: %s', (host, origin, local) =>
    expect(isLocalRequest(headers(host, origin), '/')).toBe(local),
  );

  const fetched = (site: string, mode: string, dest: string) =>
    new Headers({
      host: '127.0.0.1:3210',
      'sec-fetch-site': site,
      'sec-fetch-mode': mode,
      'sec-fetch-dest': dest,
    });
  it.each([
    ['same-origin', 'cors', 'empty', '/api/events', true],
    ['none', 'navigate', 'document', '/api/store/backup', true],
    ['cross-site', 'navigate', 'document', '/', true],
    ['cross-site', 'navigate', 'document', '/handsets/x', true],
    ['cross-site', 'navigate', 'iframe', '/', false],
    ['same-site', 'navigate', 'iframe', '/icon.svgx', false],
    ['cross-site', 'no-cors', 'image', '/icon.svg', false],
    ['cross-site', 'navigate', 'document', '/api/store/backup', false],
    ['same-site', 'navigate', 'document', '/api', false],
    ['same-site', 'no-cors', 'empty', '/api/rounds/x/pages/rescue', false],
  ] as const)('from a page that is %s, as %s of a %s, to %s: %s', (site, mode, dest, path, local) =>
    expect(isLocalRequest(fetched(site, mode, dest), path)).toBe(local),
  );

  const handler = guarded<unknown>(async () => Response.json({ ok: true }));
  const request = (method: string, host: string, origin?: string) => {
    const made = new Request('http://127.0.0.1:3210/api/x', { method });
    Object.defineProperty(made, 'headers', { value: headers(host, origin) });
    return made;
  };
  it.each([
    ['GET', undefined, 200],
    ['POST', 'http://127.0.0.1:3210', 200],
    ['POST', undefined, 403],
    ['PUT', 'http://other.example', 403],
  ])('%s with origin %s answers %d', async (method, origin, status) =>
    expect((await handler(request(method, '127.0.0.1:3210', origin), {})).status).toBe(status),
  );

  it.each([
    [new EternoError('not-found', 'x'), 404],
    [new EternoError('conflict', 'x'), 409],
    [new EternoError('too-large', 'x'), 413],
    [new EternoError('bad-hash', 'x'), 400],
    [new Error('surprise'), 500],
  ])('that fail with %s answer %d and the error as data', async (thrown, status) => {
    const failing = guarded<unknown>(async () => {
      throw thrown;
    });
    const response = await failing(request('GET', '127.0.0.1:3210'), {});
    expect(response.status).toBe(status);
    expect(((await response.json()) as { error: { code: string } }).error.code).toBe(
      toEternoError(thrown).code,
    );
  });

  const answerOf = async (thrown: Error) => {
    const failing = guarded<unknown>(async () => {
      throw thrown;
    });
    const response = await failing(request('GET', '127.0.0.1:3210'), {});
    return ((await response.json()) as { error: { code: string; message: string } }).error;
  };
  it('is not sent out where nobody foresaw it, and names no folder', async () => {
    expect(await answerOf(new Error('surprise in /srv/place/file.ts'))).toMatchObject({
      code: 'internal',
      message: 'Something here went wrong.',
    });
    const io = await answerOf(new EternoError('io', "can't write '/srv/place/file.img'"));
    expect(io.code).toBe('io');
    expect(io.message).toContain('file.img');
    expect(io.message).not.toContain('/srv');
    expect((await answerOf(new EternoError('conflict', 'somebody was faster'))).message).toBe(
      'somebody was faster',
    );
  });
});

describe('the message bus', () => {
  const message = (roundId: string): ServerMessage => ({ type: 'round', roundId, version: 1 });
  it('goes on where a listener left off', () => {
    publish(message('before'));
    const last = newestMessageId();
    publish(message('missed'));
    const heard: string[] = [];
    const off = subscribe(last, (numbered) => heard.push((numbered.message as { roundId: string }).roundId));
    publish(message('live'));
    off();
    publish(message('after'));
    expect(heard).toEqual(['missed', 'live']);
  });
});

describe('streams', () => {
  it('give a body in pieces', async () => {
    const request = new Request('http://x', { method: 'PUT', body: 'abcdef' });
    const parts: Uint8Array[] = [];
    for await (const piece of bodyPieces(request)) parts.push(piece);
    expect(Buffer.concat(parts).toString()).toBe('abcdef');
  });
  it('send events with their numbers until the browser leaves', async () => {
    const abort = new AbortController();
    const ended = vi.fn();
    const response = eventStream(abort.signal, (send) => {
      send({ hello: 1 }, 7);
      return ended;
    });
    const reader = response.body!.getReader();
    const text =
      new TextDecoder().decode((await reader.read()).value) +
      new TextDecoder().decode((await reader.read()).value);
    expect(text).toContain('id: 7\ndata: {"hello":1}\n\n');
    abort.abort();
    expect(ended).toHaveBeenCalledOnce();
  });
});

describe('errors', () => {
  it('each have words: what, what is safe, what next', () => {
    expect(Object.keys(ERROR_WORDS).sort()).toEqual([...ERROR_CODES].sort());
    for (const words of Object.values(ERROR_WORDS))
      for (const text of Object.values(words)) expect(text).toMatch(/\.$/);
  });
  it('cross as data and come back as they were', () => {
    const error = new EternoError('bad-hash', 'no', { file: 'f', offset: 5, details: { a: 1 } });
    expect(EternoError.fromData(structuredClone(error.toData())).toData()).toEqual(error.toData());
    expect(error.inFile('other').file).toBe('f');
    expect(new EternoError('io', 'x').inFile('named').file).toBe('named');
  });
  it('have the exit codes of the command', () => {
    expect(ERROR_CODES.filter((code) => exitCodeFor(code) === 2)).toEqual(['usage']);
    expect(ERROR_CODES.filter((code) => exitCodeFor(code) === 4).sort()).toEqual([
      'already-patched',
      'does-not-fit',
      'refused',
    ]);
    expect(ERROR_CODES.filter((code) => exitCodeFor(code) === 1).sort()).toEqual([
      'cancelled',
      'conflict',
      'handset-refused',
      'internal',
      'io',
      'link-lost',
      'server-gone',
    ]);
  });
  it('of an action are an answer, not a crash', async () => {
    expect(await outcome(async () => 5)).toEqual({ ok: true, value: 5 });
    expect(await outcome(async () => Promise.reject(new EternoError('refused', 'no')))).toEqual({
      ok: false,
      error: { code: 'refused', message: 'no' },
    });
  });
});
