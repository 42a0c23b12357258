import type { Server, Socket } from 'node:net';
import { createServer } from 'node:net';
import { equalBytes } from '@/core/bytes/bytes';
import { EternoError } from '@/core/errors';
import { ByteQueue } from '@/core/wire/byte-queue';
import { frame, HANDSHAKE, readFrame } from '@/core/wire/messages';
import type { HandsetHost } from './handset-host';
import { isReachable, WireSession } from './wire-session';

/**
 * Answers the bootloader wire protocol over TCP, while the handset is in its bootloader or in user-space flashing
 * and its cable is in.
 */
export function createWireServer(host: HandsetHost): Server {
  const sockets = new Set<Socket>();
  host.onChange(() => {
    // leaving the bootloader, or losing the cable, ends every connection
    if (!isReachable(host)) for (const socket of sockets) socket.destroy();
  });
  return createServer((socket) => {
    socket.on('error', () => undefined);
    if (!isReachable(host)) {
      socket.destroy();
      return;
    }
    sockets.add(socket);
    socket.on('close', () => sockets.delete(socket));
    serve(socket, host).catch(() => socket.destroy());
  });
}

/** The handshake, then messages with a length before each. */
async function serve(socket: Socket, host: HandsetHost): Promise<void> {
  const queue = new ByteQueue();
  socket.on('data', (bytes) => queue.push(new Uint8Array(bytes)));
  socket.on('close', () => queue.end(new EternoError('link-lost', 'the connection ended')));
  socket.write(HANDSHAKE);
  if (!equalBytes(await queue.take(HANDSHAKE.length), HANDSHAKE))
    throw new EternoError('bad-magic', 'no handshake');
  const session = new WireSession(
    {
      send: (message) => void socket.write(frame(message)),
      receive: (limitBytes) => readFrame(queue, limitBytes),
      end: (after) => void socket.end(after),
      get isOpen() {
        return !socket.destroyed;
      },
    },
    host,
  );
  await session.serve();
}
