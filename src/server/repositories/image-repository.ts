import 'server-only';
import { randomUUID } from 'node:crypto';
import { database, inTransaction } from '../db/connection';
import type { BuildRow, ImageOriginRow, ImageRow, KitRow, PackageRow } from '../db/models';
import type { KeptImage, KeptKit, OpenedPackage } from '@/core/bench/bench';
import type { ImageOrigin } from '../db/decode';
import { decodeImage, decodeKit, decodeOrigin, decodePackage, imageColumns, kitColumns } from '../db/decode';
import { plain, rowsOf } from './rows';

export async function listImages(): Promise<KeptImage[]> {
  const { models } = await database();
  return (await rowsOf<ImageRow>(models.Image, { order: [['addedAt', 'DESC']] })).map(decodeImage);
}

export async function findImage(sha256: string): Promise<KeptImage | null> {
  const { models } = await database();
  const found = await models.Image.findByPk(sha256);
  return found ? decodeImage(plain<ImageRow>(found)) : null;
}

/** Records an image and where it came from together; an image that is there already only gains the origin. */
export async function recordImage(
  image: KeptImage,
  { detail, ...rest }: Omit<ImageOrigin, 'id' | 'sha256'>,
): Promise<void> {
  await inTransaction(async (transaction, models) => {
    if (!(await models.Image.findByPk(image.sha256, { transaction })))
      await models.Image.create(imageColumns(image), { transaction });
    const origin = { ...rest, detail: JSON.stringify(detail) };
    const same = await models.ImageOrigin.findOne({
      where: { sha256: image.sha256, kind: origin.kind, detail: origin.detail },
      transaction,
    });
    if (!same)
      await models.ImageOrigin.create({ id: randomUUID(), sha256: image.sha256, ...origin }, { transaction });
  });
}

/** What is known of an image once more of it can be told; its bytes never change. */
export async function changeImage(
  sha256: string,
  change: Partial<Omit<KeptImage, 'sha256' | 'report' | 'proof'>>,
): Promise<void> {
  const { models } = await database();
  const { judged, ...plainly } = change;
  const columns =
    judged === undefined ? plainly : { ...plainly, judged: judged === null ? null : JSON.stringify(judged) };
  await models.Image.update(columns, { where: { sha256 } });
}

/** Takes the record away; its origins go with it. */
export async function deleteImage(sha256: string): Promise<void> {
  const { models } = await database();
  await models.Image.destroy({ where: { sha256 } });
}

export async function originsOf(sha256: string): Promise<ImageOrigin[]> {
  const { models } = await database();
  return (
    await rowsOf<ImageOriginRow>(models.ImageOrigin, { where: { sha256 }, order: [['at', 'ASC']] })
  ).map(decodeOrigin);
}

/** Of every image, the first first. */
export async function listOrigins(): Promise<ImageOrigin[]> {
  const { models } = await database();
  return (await rowsOf<ImageOriginRow>(models.ImageOrigin, { order: [['at', 'ASC']] })).map(decodeOrigin);
}

export async function recordKit(kit: KeptKit): Promise<void> {
  const { models } = await database();
  if (!(await models.Kit.findByPk(kit.sha256))) await models.Kit.create(kitColumns(kit));
}

export async function listKits(): Promise<KeptKit[]> {
  const { models } = await database();
  return (await rowsOf<KitRow>(models.Kit, { order: [['versionCode', 'DESC']] })).map(decodeKit);
}

export async function findKit(sha256: string): Promise<KeptKit | null> {
  const { models } = await database();
  const found = await models.Kit.findByPk(sha256);
  return found ? decodeKit(plain<KitRow>(found)) : null;
}

export async function recordPackage({ report, ...rest }: Omit<OpenedPackage, 'id'>): Promise<OpenedPackage> {
  const { models } = await database();
  const row = { ...rest, report: JSON.stringify(report) };
  const same = await models.Package.findOne({ where: { fileName: row.fileName, sizeBytes: row.sizeBytes } });
  if (!same)
    return decodePackage(plain<PackageRow>(await models.Package.create({ id: randomUUID(), ...row })));
  await same.update(row);
  return decodePackage(plain<PackageRow>(same));
}

export async function deletePackage(fileName: string, sizeBytes: number): Promise<void> {
  const { models } = await database();
  await models.Package.destroy({ where: { fileName, sizeBytes } });
}

export async function listPackages(): Promise<OpenedPackage[]> {
  const { models } = await database();
  return (await rowsOf<PackageRow>(models.Package, { order: [['openedAt', 'DESC']] })).map(decodePackage);
}

export async function listBuilds(): Promise<Readonly<BuildRow>[]> {
  const { models } = await database();
  return rowsOf<BuildRow>(models.Build, { order: [['publishedAt', 'ASC']] });
}

export async function recordBuild(row: BuildRow): Promise<void> {
  const { models } = await database();
  if (!(await models.Build.findByPk(row.fingerprint))) await models.Build.create(row);
}
