import 'server-only';
import type { QueryInterface } from 'sequelize';
import { DataTypes } from 'sequelize';

const text = { type: DataTypes.TEXT, allowNull: false };
const maybeText = { type: DataTypes.TEXT, allowNull: true };
const number = { type: DataTypes.BIGINT, allowNull: false };
const maybeNumber = { type: DataTypes.BIGINT, allowNull: true };
const key = { ...text, primaryKey: true };
const to = (model: string, column: string) => ({
  ...text,
  references: { model, key: column },
  onDelete: 'CASCADE',
});

export async function up(db: QueryInterface): Promise<void> {
  await db.createTable('handsets', {
    id: key,
    name: text,
    model: text,
    rootPartition: maybeText,
    slotCount: maybeNumber,
    link: text,
    createdAt: number,
  });
  await db.createTable('secrets', { id: key, handsetId: to('handsets', 'id'), name: text, value: text });
  await db.createTable('facts', {
    id: key,
    handsetId: to('handsets', 'id'),
    key: text,
    value: text,
    source: text,
    at: number,
  });
  await db.addIndex('facts', ['handsetId', 'key', 'at']);
  await db.createTable('builds', {
    fingerprint: key,
    device: text,
    product: text,
    buildId: text,
    patchLevel: maybeText,
    publishedAt: number,
  });
  await db.createTable('packages', {
    id: key,
    fileName: text,
    sizeBytes: number,
    report: text,
    openedAt: number,
  });
  await db.createTable('images', {
    sha256: key,
    sizeBytes: number,
    partition: text,
    role: text,
    fingerprint: maybeText,
    patchLevel: maybeText,
    kit: maybeText,
    stockSha256: maybeText,
    proof: maybeText,
    report: text,
    addedAt: number,
  });
  await db.createTable('image_origins', {
    id: key,
    sha256: to('images', 'sha256'),
    kind: text,
    detail: text,
    at: number,
  });
  await db.createTable('slot_contents', {
    id: key,
    handsetId: to('handsets', 'id'),
    slot: text,
    partition: text,
    sha256: maybeText,
    certainty: text,
    reason: text,
    at: number,
  });
  await db.addIndex('slot_contents', ['handsetId', 'slot', 'partition'], { unique: true });
  await db.createTable('kits', {
    sha256: key,
    kitId: text,
    name: text,
    version: text,
    versionCode: number,
    channel: text,
    supports: text,
    fileName: text,
    sizeBytes: number,
    addedAt: number,
  });
  await db.createTable('rounds', {
    id: key,
    handsetId: to('handsets', 'id'),
    kind: text,
    lane: text,
    title: text,
    state: text,
    version: number,
    overrides: text,
    openedAt: number,
    closedAt: maybeNumber,
  });
  await db.createTable('steps', {
    id: key,
    roundId: to('rounds', 'id'),
    position: number,
    key: text,
    state: text,
    startedAt: maybeNumber,
    endedAt: maybeNumber,
    actor: maybeText,
    evidence: text,
  });
  await db.addIndex('steps', ['roundId', 'position'], { unique: true });
  await db.createTable('events', {
    id: { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true },
    at: number,
    handsetId: maybeText,
    roundId: maybeText,
    kind: text,
    data: text,
  });
  await db.addIndex('events', ['handsetId', 'at']);
  await db.createTable('jobs', {
    id: key,
    kind: text,
    title: text,
    roundId: maybeText,
    state: text,
    phase: text,
    doneBytes: number,
    totalBytes: number,
    error: maybeText,
    startedAt: number,
    endedAt: maybeNumber,
  });
}
