import 'server-only';
import { formerSecrets, listHandsets, PRIVATE_NAMES, readSecret } from '../repositories/handset-repository';

/** Every private value of a handset, those of before too; for taking them out of what is shown to others. */
export async function privateValuesOf(handsetId: string): Promise<readonly string[]> {
  const values: string[] = [];
  for (const name of PRIVATE_NAMES) values.push((await readSecret(handsetId, name)) ?? '');
  values.push(...(await formerSecrets(handsetId)));
  return values.filter((value) => value !== '');
}

export async function allPrivateValues(): Promise<readonly string[]> {
  const values: string[] = [];
  for (const { id } of await listHandsets()) values.push(...(await privateValuesOf(id)));
  return values;
}
