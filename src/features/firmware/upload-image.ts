import { EternoError } from '@/core/errors';
import type { ErrorData } from '@/core/errors';

/** Sends an image to the vault under its hash; the server hashes it again. @throws {EternoError} what the server found wrong */
export async function uploadImage(sha256: string, bytes: ArrayBuffer, origin: Readonly<Record<string, string>>): Promise<void> {
  const response = await fetch(`/api/images/${sha256}?${new URLSearchParams(origin)}`, { method: 'PUT', body: new Blob([bytes]) }).catch(
    (thrown: unknown) => {
      throw new EternoError('io', 'Eterno’s server does not answer.', { cause: thrown });
    },
  );
  if (!response.ok) throw EternoError.fromData(((await response.json()) as { error: ErrorData }).error);
}
