'use client';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { KitView } from '@/contracts/image-view';
import type { ErrorData } from '@/core/errors';
import type { EntryRow } from '@/core/packages/entry-rows';
import { EternoError, toEternoError } from '@/core/errors';
import { fetchFromVault } from '@/ui/send';
import type { ComparedImage, EntryBytes, OpenedImage } from '@/workers/image/image-client';
import { ImageClient } from '@/workers/image/image-client';

const ROWS_AT_ONCE = 1000;

/** What stands beside the image: one of the vault, or a file of the person's. */
export interface OtherImage extends ComparedImage {
  readonly label: string;
  /** The file it was read from; null where it is in the vault already. */
  readonly file: Blob | null;
  /** It is last month's image of the same partition. */
  readonly month: boolean;
  /** Only what a patch changed is told, in a few lines; the comparison itself is not open. */
  readonly folded: boolean;
}

/** How another image stands beside this one. */
type Beside = Partial<Pick<OtherImage, 'month' | 'folded'>>;

/** What the kit that its note names changes is expected, where the vault has that kit. */
async function withItsKit(
  client: ImageClient,
  judged: ComparedImage['judged'],
  kits: readonly KitView[],
): Promise<ComparedImage['judged']> {
  const kit = judged.unexpected.length > 0 ? kits.find(({ item }) => judged.by.includes(item)) : undefined;
  if (!kit) return judged;
  const again = await client.judgeWithKit(await fetchFromVault('kits', kit.sha256));
  return again.ok ? again.value : judged;
}

function useBeside() {
  const [other, setOther] = useState<OtherImage | null>(null);
  const putAway = useCallback(() => setOther(null), []);
  const unfold = useCallback(() => setOther((now) => now && { ...now, folded: false }), []);
  return { other, setOther, putAway, unfold };
}

/** An image of the vault, taken apart in a worker, with another one beside it on wish. */
export function useImage(sha256: string, ownIs: 'stock' | 'made', kits: readonly KitView[]) {
  const client = useRef<ImageClient | null>(null);
  const [opened, setOpened] = useState<OpenedImage | null>(null);
  const [rows, setRows] = useState<readonly EntryRow[]>([]);
  const { setOther, ...beside } = useBeside();
  const [comparing, setComparing] = useState<string | null>(null);
  const [error, setError] = useState<ErrorData | null>(null);

  useEffect(() => {
    const mine = new ImageClient();
    client.current = mine;
    const begin = async () => {
      try {
        const result = await mine.open(await fetchFromVault('images', sha256));
        if (client.current !== mine) return;
        if (!result.ok) return setError(result.error);
        setOpened(result.value);
        for (let start = 0; start < (result.value.entries ?? 0); start += ROWS_AT_ONCE) {
          const more = await mine.rows(start, start + ROWS_AT_ONCE);
          if (client.current !== mine) return;
          setRows((now) => [...now, ...more]);
        }
      } catch (thrown) {
        if (client.current === mine) setError(toEternoError(thrown).toData());
      }
    };
    void begin();
    return () => {
      client.current = null;
      mine.end();
    };
  }, [sha256]);

  /** @param given a file, or the hash of an image in the vault */
  const compare = useCallback(
    async (label: string, given: File | string, { month = false, folded = false }: Beside = {}) => {
      const mine = client.current;
      if (!mine) return;
      setError(null);
      setOther(null);
      setComparing(label);
      try {
        const file = typeof given === 'string' ? null : given;
        const result = await mine.compare(
          typeof given === 'string' ? await fetchFromVault('images', given) : given,
          ownIs,
        );
        if (client.current !== mine) return;
        if (!result.ok) setError(result.error);
        else {
          const judged = await withItsKit(mine, result.value.judged, kits);
          if (client.current === mine) setOther({ ...result.value, judged, label, file, month, folded });
        }
      } catch (thrown) {
        setError(toEternoError(thrown).toData());
      }
      setComparing(null);
    },
    [ownIs, kits, setOther],
  );

  const read = useCallback(async (side: 'own' | 'other', nameHex: string): Promise<EntryBytes | null> => {
    const result = await client.current?.read(side, nameHex);
    if (!result) return null;
    if (!result.ok) throw EternoError.fromData(result.error);
    return result.value;
  }, []);

  return {
    opened,
    rows,
    comparing,
    error,
    setError,
    compare,
    read,
    ...beside,
  };
}
