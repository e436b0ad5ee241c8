/** Bringing files to the server: each lies open there, to be looked at before anything changes. */
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';

export async function uploadImport(course: number, name: string, bytes: Blob): Promise<number> {
  const { id } = await ask(contract.intake.bring, { course }, { upload: bytes, query: { name } });
  return id;
}
