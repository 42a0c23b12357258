import 'server-only';
import { randomUUID } from 'node:crypto';
import { database, inTransaction } from '../db/connection';
import type { BuildRow, ImageOriginRow, ImageRow, KitRow, PackageRow } from '../db/models';
import { plain, rowsOf } from './rows';

export async function listImages(): Promise<Readonly<ImageRow>[]> {
  const { models } = await database();
  return rowsOf<ImageRow>(models.Image, { order: [['addedAt', 'DESC']] });
}

export async function findImage(sha256: string): Promise<Readonly<ImageRow> | null> {
  const { models } = await database();
  const found = await models.Image.findByPk(sha256);
  return found ? plain<ImageRow>(found) : null;
}

/** Records an image and where it came from together; an image that is there already only gains the origin. */
export async function recordImage(image: ImageRow, origin: Omit<ImageOriginRow, 'id' | 'sha256'>): Promise<void> {
  await inTransaction(async (transaction, models) => {
    if (!(await models.Image.findByPk(image.sha256, { transaction }))) await models.Image.create(image, { transaction });
    const same = await models.ImageOrigin.findOne({ where: { sha256: image.sha256, kind: origin.kind, detail: origin.detail }, transaction });
    if (!same) await models.ImageOrigin.create({ id: randomUUID(), sha256: image.sha256, ...origin }, { transaction });
  });
}

export async function changeRole(sha256: string, role: ImageRow['role']): Promise<void> {
  const { models } = await database();
  await models.Image.update({ role }, { where: { sha256 } });
}

/** Takes the record away; its origins go with it. */
export async function deleteImage(sha256: string): Promise<void> {
  const { models } = await database();
  await models.Image.destroy({ where: { sha256 } });
}

export async function originsOf(sha256: string): Promise<Readonly<ImageOriginRow>[]> {
  const { models } = await database();
  return rowsOf<ImageOriginRow>(models.ImageOrigin, { where: { sha256 }, order: [['at', 'ASC']] });
}

export async function recordKit(kit: KitRow): Promise<void> {
  const { models } = await database();
  if (!(await models.Kit.findByPk(kit.sha256))) await models.Kit.create(kit);
}

export async function listKits(): Promise<Readonly<KitRow>[]> {
  const { models } = await database();
  return rowsOf<KitRow>(models.Kit, { order: [['versionCode', 'DESC']] });
}

export async function findKit(sha256: string): Promise<Readonly<KitRow> | null> {
  const { models } = await database();
  const found = await models.Kit.findByPk(sha256);
  return found ? plain<KitRow>(found) : null;
}

export async function recordPackage(row: Omit<PackageRow, 'id'>): Promise<Readonly<PackageRow>> {
  const { models } = await database();
  const same = await models.Package.findOne({ where: { fileName: row.fileName, sizeBytes: row.sizeBytes } });
  if (!same) return plain<PackageRow>(await models.Package.create({ id: randomUUID(), ...row }));
  await same.update(row);
  return plain<PackageRow>(same);
}

export async function deletePackage(fileName: string, sizeBytes: number): Promise<void> {
  const { models } = await database();
  await models.Package.destroy({ where: { fileName, sizeBytes } });
}

export async function listPackages(): Promise<Readonly<PackageRow>[]> {
  const { models } = await database();
  return rowsOf<PackageRow>(models.Package, { order: [['openedAt', 'DESC']] });
}

export async function listBuilds(): Promise<Readonly<BuildRow>[]> {
  const { models } = await database();
  return rowsOf<BuildRow>(models.Build, { order: [['publishedAt', 'ASC']] });
}

export async function recordBuild(row: BuildRow): Promise<void> {
  const { models } = await database();
  if (!(await models.Build.findByPk(row.fingerprint))) await models.Build.create(row);
}
