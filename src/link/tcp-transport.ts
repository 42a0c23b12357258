import type { Socket } from 'node:net';
import { connect } from 'node:net';
import { equalBytes } from '@/core/bytes/bytes';
import { EternoError } from '@/core/errors';
import { ByteQueue } from '@/core/wire/byte-queue';
import { DATA_MESSAGE_BYTES, frame, HANDSHAKE, readFrame } from '@/core/wire/messages';
import type { Silence } from './silence';
import { SILENCE } from './silence';
import type { WireTransport } from './wire-transport';

export interface HostPort {
  readonly host: string;
  readonly port: number;
}

/**
 * A socket whose bytes arrive in a queue; its end is `link-lost` to whoever waits.
 * @throws {EternoError} `link-lost`
 */
export async function openSocket({ host, port }: HostPort): Promise<{ socket: Socket; queue: ByteQueue }> {
  const queue = new ByteQueue();
  const socket = connect({ host, port, noDelay: true });
  const lost = (why: string) => new EternoError('link-lost', why);
  socket.on('data', (bytes) => queue.push(new Uint8Array(bytes)));
  socket.on('close', () => queue.end(lost('the handset is gone: cable, mode or power')));
  await new Promise<void>((resolve, reject) => {
    socket.setTimeout(SILENCE.answer, () => socket.destroy());
    socket.once('connect', resolve);
    socket.once('error', (error) => reject(lost(`no handset answers there: ${error.message}`)));
    socket.once('close', () => reject(lost('no handset answers there')));
  });
  socket.on('error', (error) => queue.end(lost(error.message)));
  socket.on('timeout', () => {
    queue.end(lost(`the handset has said nothing for ${Math.round(socket.timeout! / 1000)} s`));
    socket.destroy();
  });
  socket.setTimeout(0);
  return { socket, queue };
}

/**
 * Work during which the other end has to go on talking or listening; a silence that is longer ends the
 * connection as `link-lost`.
 */
export async function unlessSilent<T>(socket: Socket, silenceMs: number, work: () => Promise<T>): Promise<T> {
  socket.setTimeout(silenceMs);
  try {
    return await work();
  } finally {
    socket.setTimeout(0);
  }
}

/**
 * The wire protocol over TCP: handshake, then messages with a length before each.
 * @throws {EternoError} `link-lost`, `bad-magic`
 */
export async function openTcpTransport(to: HostPort, silence: Silence = SILENCE): Promise<WireTransport> {
  const { socket, queue } = await openSocket(to);
  try {
    socket.write(HANDSHAKE);
    if (
      !equalBytes(await unlessSilent(socket, silence.answer, () => queue.take(HANDSHAKE.length)), HANDSHAKE)
    )
      throw new EternoError('bad-magic', 'what answers there does not speak this protocol');
  } catch (thrown) {
    socket.destroy();
    throw thrown;
  }
  return {
    silence,
    breaksOff: true,
    send: (message) =>
      unlessSilent(
        socket,
        silence.work,
        () =>
          new Promise((resolve, reject) => {
            if (socket.destroyed) reject(new EternoError('link-lost', 'the handset is gone'));
            else
              socket.write(frame(message), (error) =>
                error ? reject(new EternoError('link-lost', error.message, { cause: error })) : resolve(),
              );
          }),
      ),
    receive: (silenceMs) => unlessSilent(socket, silenceMs, () => readFrame(queue, DATA_MESSAGE_BYTES)),
    close: () => socket.destroy(),
  };
}
