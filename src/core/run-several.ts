/**
 * Runs `work` over items with at most `width` under way at once. The first failure is thrown after those
 * under way have come to their end; nothing new is begun.
 */
export async function runSeveral<T>(
  items: readonly T[],
  width: number,
  work: (item: T) => Promise<void>,
): Promise<void> {
  let next = 0;
  let failed = false;
  const lane = async () => {
    while (!failed && next < items.length) {
      const item = items[next++]!;
      try {
        await work(item);
      } catch (thrown) {
        failed = true;
        throw thrown;
      }
    }
  };
  const ends = await Promise.allSettled(
    Array.from({ length: Math.max(1, Math.min(width, items.length)) }, lane),
  );
  const broken = ends.find((end) => end.status === 'rejected');
  if (broken) throw broken.reason;
}
