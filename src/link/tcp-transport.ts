import type { Socket } from 'node:net';
import { connect } from 'node:net';
import { equalBytes } from '@/core/bytes/bytes';
import { EternoError } from '@/core/errors';
import { ByteQueue } from '@/core/wire/byte-queue';
import { DATA_MESSAGE_BYTES, frame, HANDSHAKE, readFrame } from '@/core/wire/messages';
import type { WireTransport } from './wire-transport';

export interface HostPort {
  readonly host: string;
  readonly port: number;
}

/** A socket whose bytes arrive in a queue; its end is `link-lost` to whoever waits. @throws {EternoError} `link-lost` */
export async function openSocket({ host, port }: HostPort): Promise<{ socket: Socket; queue: ByteQueue }> {
  const queue = new ByteQueue();
  const socket = connect({ host, port, noDelay: true });
  const lost = (why: string) => new EternoError('link-lost', why);
  socket.on('data', (bytes) => queue.push(new Uint8Array(bytes)));
  socket.on('close', () => queue.end(lost('the handset is gone: cable, mode or power')));
  await new Promise<void>((resolve, reject) => {
    socket.once('connect', resolve);
    socket.once('error', (error) => reject(lost(`no handset answers there: ${error.message}`)));
  });
  socket.on('error', (error) => queue.end(lost(error.message)));
  return { socket, queue };
}

/** The wire protocol over TCP: handshake, then messages with a length before each. @throws {EternoError} `link-lost`, `bad-magic` */
export async function openTcpTransport(to: HostPort): Promise<WireTransport> {
  const { socket, queue } = await openSocket(to);
  try {
    socket.write(HANDSHAKE);
    if (!equalBytes(await queue.take(HANDSHAKE.length), HANDSHAKE))
      throw new EternoError('bad-magic', 'what answers there does not speak this protocol');
  } catch (thrown) {
    socket.destroy();
    throw thrown;
  }
  return {
    send: (message) =>
      new Promise((resolve, reject) => {
        if (socket.destroyed) reject(new EternoError('link-lost', 'the handset is gone'));
        else socket.write(frame(message), (error) => (error ? reject(new EternoError('link-lost', error.message, { cause: error })) : resolve()));
      }),
    receive: () => readFrame(queue, DATA_MESSAGE_BYTES),
    close: () => socket.destroy(),
  };
}
