import { EternoError } from '@/core/errors';
import type { ErrorData } from '@/core/errors';

async function put(path: string, bytes: ArrayBuffer): Promise<void> {
  const response = await fetch(path, { method: 'PUT', body: new Blob([bytes]) }).catch((thrown: unknown) => {
    throw new EternoError('io', 'Eterno’s server does not answer.', { cause: thrown });
  });
  if (!response.ok) throw EternoError.fromData(((await response.json()) as { error: ErrorData }).error);
}

/** Sends an image to the vault under its hash; the server hashes it again. @throws {EternoError} what the server found wrong */
export function uploadImage(sha256: string, bytes: ArrayBuffer, origin: Readonly<Record<string, string>>): Promise<void> {
  return put(`/api/images/${sha256}?${new URLSearchParams(origin)}`, bytes);
}

/** Sends a kit to the vault; the server reads all of it before it is kept. @throws {EternoError} `kit-invalid` and what else is wrong */
export function uploadKit(sha256: string, bytes: ArrayBuffer, name: string): Promise<void> {
  return put(`/api/kits/${sha256}?${new URLSearchParams({ name })}`, bytes);
}
