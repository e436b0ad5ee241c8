/** Bringing files to the server: each lies open there, to be looked at before anything changes. */
import { api } from '../app/api.ts';

export const importPath = (course: number, id: number): string => `/courses/${course}/imports/${id}`;

export async function bringFile(course: number, name: string, bytes: Blob): Promise<number> {
  const { id } = await api.upload<{ id: number }>(`/courses/${course}/imports?name=${encodeURIComponent(name)}`, bytes);
  return id;
}
