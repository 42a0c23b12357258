import 'server-only';
import { database, inTransaction } from '../db/connection';
import type { LeaseRow } from '../db/models';
import { plain } from './rows';

/** Takes or renews a lease, if nobody else holds one that still counts. */
export async function takeLease(lease: LeaseRow, now: number): Promise<boolean> {
  return inTransaction(async (transaction, models) => {
    const found = await models.Lease.findByPk(lease.handsetId, { transaction });
    const held = found ? plain<LeaseRow>(found) : null;
    if (held && held.holder !== lease.holder && held.until > now) return false;
    await models.Lease.upsert({ ...lease }, { transaction });
    return true;
  });
}

export async function dropLease(handsetId: string, holder: string): Promise<void> {
  const { models } = await database();
  await models.Lease.destroy({ where: { handsetId, holder } });
}

/** Nothing of this process can still be at work when it begins. */
export async function dropLeases(): Promise<void> {
  const { models } = await database();
  await models.Lease.destroy({ where: {} });
}
