/** A new course from a sheet: looked at as often as something is decided, and made once. */
import { contract } from '@zest-bell/core/contract';
import type { FromFileAnswer, ImportDecisions } from '@zest-bell/core/imports';
import { ask } from '../../lib/api.ts';

export interface TypedDetails {
  readonly title: string;
  readonly code: string;
  readonly timeZone: string;
  readonly start: string;
  readonly end: string;
}

/** A line of JSON, and behind it the file as it is. */
const sent = (order: object, file: File): Blob => new Blob([`${JSON.stringify(order)}\n`, file]);

export const previewNewCourse = (
  file: File,
  { timeZone, start, end }: TypedDetails,
  decisions: ImportDecisions,
): Promise<FromFileAnswer> =>
  ask(
    contract.intake.lookAtSheet,
    {},
    { upload: sent({ name: file.name, details: { timeZone, start, end }, decisions }, file) },
  );

export const makeFrom = (file: File, details: TypedDetails, decisions: ImportDecisions): Promise<{ id: number }> =>
  ask(contract.intake.beginFromSheet, {}, { upload: sent({ name: file.name, details, decisions }, file) });
