import { EternoError, throwIfAborted } from '@/core/errors';
import { ifAnswers } from '@/core/link/if-answers';
import type { HandsetLink } from '@/core/link/handset-link';
import { BootloaderClient } from './bootloader-client';
import { SystemClient } from './system-client';
import { openTcpTransport } from './tcp-transport';
import { startFromMemory, writeImage } from './write-image';

/** The two ports of a stand-in on this machine, and the word that its system link wants. */
export interface StandInAddress {
  readonly wirePort: number;
  readonly systemPort: number;
  readonly token: string;
}

/**
 * The port to a handset, for a stand-in over TCP: a fresh connection a call. An abort ends the connection at
 * once, whatever the other end does.
 * @param where where the stand-in is now; its own `link-lost` where none runs
 */
export function standInLink(where: () => Promise<StandInAddress>, signal?: AbortSignal): HandsetLink {
  async function on<C extends { close(): void }, T>(
    open: () => Promise<C>,
    work: (client: C) => Promise<T>,
    stopsItself = false,
  ): Promise<T> {
    throwIfAborted(signal);
    const client = await open();
    const stop = () => (stopsItself ? undefined : client.close());
    signal?.addEventListener('abort', stop, { once: true });
    try {
      throwIfAborted(signal);
      return await work(client);
    } catch (thrown) {
      throwIfAborted(signal);
      throw thrown;
    } finally {
      signal?.removeEventListener('abort', stop);
      client.close();
    }
  }
  const system = <T>(work: (client: SystemClient) => Promise<T>) =>
    on(async () => {
      const { systemPort, token } = await where();
      return SystemClient.open(systemPort, token);
    }, work);
  const bootloader = <T>(work: (client: BootloaderClient) => Promise<T>, stopsItself = false) =>
    on(
      async () =>
        new BootloaderClient(await openTcpTransport({ host: '127.0.0.1', port: (await where()).wirePort })),
      work,
      stopsItself,
    );
  const command = async (words: string) => void (await bootloader((client) => client.command(words)));

  const inBootloader = () => ifAnswers(bootloader((client) => client.listed()));

  return {
    reaches: 'every mode',
    listed: async () =>
      (await ifAnswers(system((client) => client.ask<'listed'>({ do: 'listed' })))) ?? (await inBootloader()),
    comings: async () =>
      (await ifAnswers(system((client) => client.ask<'comings'>({ do: 'comings' }))))?.comings ?? null,

    variables: () => bootloader((client) => client.allVariables()),
    variable: (name) => bootloader((client) => client.variable(name)),
    // stopped where nothing is cut: before the command that writes, or between two pieces
    write: (target, source, proved, watch) =>
      bootloader((client) => writeImage(client, target, source, watch, proved), true),
    startOnce: (source, proved, watch) =>
      bootloader((client) => startFromMemory(client, source, watch, proved)),
    setActive: (slot) => command(`set_active:${slot}`),
    unlock: (code) => command(code === null ? 'flashing unlock' : `flashing unlock ${code}`),
    lock: () => command('flashing lock'),

    properties: async () => (await system((client) => client.ask<'props'>({ do: 'props' }))).text,
    status: () => system((client) => client.ask<'status'>({ do: 'status' })),
    root: () => system((client) => client.ask<'root'>({ do: 'root' })),
    read: (partition) => system((client) => client.bytes({ do: 'read', partition })),
    writeInside: (partition, bytes) => system((client) => client.send({ do: 'write', partition }, bytes)),
    modules: async (only) =>
      void (await system((client) => client.ask<'modules'>({ do: 'modules', on: only.length > 0, only }))),
    installPackage: async (path) =>
      void (await system((client) => client.ask<'install-package'>({ do: 'install-package', path }))),

    list: async (path) => (await system((client) => client.ask<'list'>({ do: 'list', path }))).files,
    push: (path, bytes) => system((client) => client.send({ do: 'push', path }, bytes)),
    pull: (path) => system((client) => client.bytes({ do: 'pull', path })),
    imageOfData: () => system((client) => client.bytes({ do: 'image-data' })),

    writeSet: (parts, keepData) =>
      system(async (client) => {
        for await (const { partition, sizeBytes, pieces, onSent } of parts)
          await client.sendPieces({ do: 'set-part', partition, length: sizeBytes }, pieces, onSent);
        await client.ask<'set-end'>({ do: 'set-end', keepData });
      }),
    sideload: (size, pieces, onSent) =>
      system((client) => client.sendPieces({ do: 'sideload', length: size }, pieces, onSent)),

    async restart(to) {
      const listed = await this.listed();
      if (listed === null) throw new EternoError('link-lost', 'no handset is listed that could be restarted');
      if (listed.mode === 'bootloader' || listed.mode === 'userspace')
        return void (await bootloader((client) => client.restart(to)));
      if (to === 'userspace')
        throw new EternoError('handset-refused', 'only its bootloader leads to user-space flashing');
      await system((client) => client.ask<'restart'>({ do: 'restart', to }));
    },
  };
}
