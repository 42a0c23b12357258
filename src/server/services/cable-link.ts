import 'server-only';
import type { InferType, Schema } from 'yup';
import { array, boolean, object, string } from 'yup';
import type { CableWork } from '@/contracts/cable-view';
import type { ByteSource } from '@/core/bytes/byte-source';
import type { Proved } from '@/core/bytes/hashed-source';
import { EternoError, toEternoError } from '@/core/errors';
import type { HandsetLink, Listed } from '@/core/link/handset-link';
import type { Watch } from '@/core/ports';
import { readSecret } from '../repositories/handset-repository';
import { orderOver } from './cable-desk';

/*
 * The port to a handset whose cable a page of the browser holds: what its bootloader can do, and no more. Its
 * running system stays by hand.
 */

const text = string().max(4096);
const LISTED = object({
  mode: string<'bootloader' | 'userspace'>().oneOf(['bootloader', 'userspace']).required(),
  serial: text.nullable().defined(),
  unlocked: boolean().nullable().defined(),
  batteryOk: boolean().nullable().defined(),
});
const LINES = array(text.defined()).max(10_000).required();
const TEXT = text.nullable().defined();
const NAME = text.required();

/** @throws {EternoError} `bad-field` where the page answers otherwise than asked */
function asAsked<S extends Schema>(schema: S, value: unknown): InferType<S> {
  try {
    return schema.validateSync(value, { strict: true }) as InferType<S>;
  } catch (thrown) {
    throw new EternoError('bad-field', 'The page that holds the cable answered something else.', {
      cause: thrown,
    });
  }
}

const byHand = async (): Promise<never> => {
  throw new EternoError(
    'refused',
    'The browser’s cable reaches only its bootloader: do this on the handset, and say what you see.',
  );
};

/**
 * @param signal of the job that asks; a stop goes on to the page, which ends where nothing is cut
 */
export function cableLink(handsetId: string, signal?: AbortSignal): HandsetLink {
  async function order(work: CableWork, watch: Watch = {}, source?: ByteSource): Promise<unknown> {
    const serial = await readSecret(handsetId, 'serial');
    return orderOver(handsetId, {
      serial,
      work,
      ...(source ? { source } : {}),
      ...(signal ? { signal } : {}),
      ...(watch.onProgress ? { onProgress: watch.onProgress } : {}),
    });
  }
  const image = (source: ByteSource, { sha256 }: Proved) => ({ sizeBytes: source.size, sha256 });
  const listed = async (): Promise<Listed | null> => {
    try {
      const line = asAsked(LISTED, await order({ do: 'listed' }));
      return { ...line, recovery: null, batteryPercent: null };
    } catch (thrown) {
      if (toEternoError(thrown).code === 'link-lost') return null;
      throw thrown;
    }
  };
  return {
    reaches: 'its bootloader',
    listed,
    comings: async () => null,
    variables: async () => asAsked(LINES, await order({ do: 'variables' })),
    variable: async (name) => asAsked(TEXT, await order({ do: 'variable', name })),
    write: async ({ partition, slot }, source, proved, watch) =>
      asAsked(
        NAME,
        await order({ do: 'write', partition, slot, image: image(source, proved) }, watch, source),
      ),
    startOnce: async (source, proved, watch) =>
      void (await order({ do: 'start-once', image: image(source, proved) }, watch, source)),
    setActive: async (slot) => void (await order({ do: 'set-active', slot })),
    restart: async (to) => void (await order({ do: 'restart', to })),
    unlock: byHand,
    lock: byHand,
    properties: byHand,
    status: byHand,
    root: byHand,
    read: byHand,
    writeInside: byHand,
    modules: byHand,
    installPackage: byHand,
    list: byHand,
    push: byHand,
    pull: byHand,
    imageOfData: byHand,
    writeSet: byHand,
    sideload: byHand,
  };
}
