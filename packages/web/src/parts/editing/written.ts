/** The last direct message of a course: a rule made right afterwards begins with its text. */
import { create } from 'zustand';
import { createJSONStorage, persist } from 'zustand/middleware';
import type { Variant, Wording } from '@zest-bell/core/wording';

export type WrittenText = Variant & Pick<Wording, 'files' | 'letter'>;

/** What was written, and to students who what; empty where they were found by no condition. */
interface DraftAbout {
  readonly text: WrittenText;
  readonly about: string;
}

interface DraftStore {
  readonly texts: Readonly<Record<number, DraftAbout>>;
  readonly keep: (course: number, written: DraftAbout) => void;
}

export const useWritten = create<DraftStore>()(
  persist(
    (set) => ({
      texts: {},
      keep: (course, written) => set(({ texts }) => ({ texts: { ...texts, [course]: written } })),
    }),
    { name: 'zest-bell-written', version: 1, storage: createJSONStorage(() => sessionStorage) },
  ),
);

/** The text that was last written in a course, where it went to students who were found by the same condition. */
export function lastWritten(course: number, about: string): WrittenText | undefined {
  const written = useWritten.getState().texts[course];
  return written?.about === about ? written.text : undefined;
}
