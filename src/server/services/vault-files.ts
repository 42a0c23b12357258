import 'server-only';
import { imageOriginSchema } from '@/contracts/inputs';
import { EternoError } from '@/core/errors';
import { findImage, findKit } from '../repositories/image-repository';
import { openProved } from '../vault/vault';
import type { StoredImage } from './image-service';
import { storeImage, storeKit } from './image-service';
import { imageFileName } from './image-view';
import { storeInstall } from './install-service';
import { storeModule } from './module-service';
import { bodyPieces, fileResponse } from './streams';

/**
 * An image on its way out, under a name that says what it is.
 * @throws {EternoError} `not-found`, `bad-hash` where its file was damaged
 */
export async function imageDownload(sha256: string): Promise<Response> {
  const row = await findImage(sha256);
  if (!row) throw new EternoError('not-found', 'This image is not in the vault.');
  return fileResponse(await openProved('images', sha256), imageFileName(row));
}

export async function imageUpload(sha256: string, request: Request): Promise<StoredImage> {
  const query = Object.fromEntries(new URL(request.url).searchParams);
  const origin = await imageOriginSchema.validate(query, { stripUnknown: true });
  return storeImage(sha256, bodyPieces(request), origin);
}

export async function kitDownload(sha256: string): Promise<Response> {
  const row = await findKit(sha256);
  if (!row) throw new EternoError('not-found', 'This kit is not in the vault.');
  return fileResponse(await openProved('kits', sha256), row.fileName);
}

export async function moduleUpload(
  sha256: string,
  request: Request,
): Promise<{ id: string; version: string }> {
  const fileName = new URL(request.url).searchParams.get('name')?.slice(0, 255) ?? 'module.zip';
  const { moduleId, version } = await storeModule(sha256, bodyPieces(request), fileName);
  return { id: moduleId, version };
}

export async function installUpload(
  sha256: string,
  request: Request,
): Promise<{ partitions: readonly string[] }> {
  const fileName = new URL(request.url).searchParams.get('name')?.slice(0, 255) ?? 'package.zip';
  const { images } = await storeInstall(sha256, bodyPieces(request), fileName);
  return { partitions: images.map(({ partition }) => partition) };
}

export async function kitUpload(
  sha256: string,
  request: Request,
): Promise<{ name: string; version: string }> {
  const fileName = new URL(request.url).searchParams.get('name')?.slice(0, 255) ?? 'kit.zip';
  const { name, version } = await storeKit(sha256, bodyPieces(request), fileName);
  return { name, version };
}
