/** What a OneRoster service tells of one class: everything, or what changed since it last told all. */
import { oneRosterTold, type OneRosterLists } from '@zest-bell/core/connections';
import { HOUR, type Zone } from '@zest-bell/core/time';
import { AppError } from '../../platform/errors/errors.ts';
import { OutgoingTrouble } from '../../platform/http/outgoing.ts';
import type { OneRosterClient } from './client.ts';

/** Clocks differ: from the last good instant less this, in ms. */
const OVERLAP = HOUR;

export async function askOneRoster(
  client: OneRosterClient,
  wanted: string,
  { heardAt, zone }: { readonly heardAt: number | null; readonly zone: Zone },
) {
  const since = heardAt === null ? null : heardAt - OVERLAP;
  const path = `/classes/${encodeURIComponent(wanted)}`;
  await client.one('rostering', path);
  const users = async (from: number | null) => ({
    students: await client.list('rostering', `${path}/students`, 'users', { since: from }),
    teachers: await client.list('rostering', `${path}/teachers`, 'users', { since: from }),
  });
  const lists: OneRosterLists = {
    ...(await users(since)),
    enrollments: await client.list('rostering', '/enrollments', 'enrollments', { since }),
    categories: await client.list('gradebook', '/categories', 'categories', { isOptional: true }),
    lineItems: await client.list('gradebook', `${path}/lineItems`, 'lineItems', { since }),
    results: await client.list('gradebook', `${path}/results`, 'results', { since }),
  };
  await client.list('gradebook', '/scoreScales', 'scoreScales', { isOptional: true });
  const read = oneRosterTold(lists, { wanted, zone });
  // Somebody is newly enrolled with unchanged data of their own: they are only in the whole list.
  if (since === null || read.unknown.size === 0) return read;
  return oneRosterTold({ ...lists, ...(await users(null)) }, { wanted, zone });
}

/** All classes of a service, as it names them. Throws `AppError` with what kept it from telling, at the address it was asked at. */
export async function classesOf(client: OneRosterClient): Promise<unknown[]> {
  try {
    return await client.list('rostering', '/classes', 'classes');
  } catch (error) {
    if (!(error instanceof OutgoingTrouble)) throw error;
    throw new AppError('invalidInput', [
      { path: 'base', code: error.code, message: `It sent nothing: ${error.message}` },
    ]);
  }
}
