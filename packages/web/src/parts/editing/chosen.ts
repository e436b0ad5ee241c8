/** The students who were chosen somewhere to be written to: too many for an address, and gone with the browser’s tab. */
import { create } from 'zustand';
import { createJSONStorage, persist } from 'zustand/middleware';

export interface StudentChoice {
  readonly course: number;
  readonly students: readonly string[];
  /** In words, for the head of the page: "have not submitted Chart plotting lab". */
  readonly who: string;
  /** By which condition they were found, also where only some of those it finds are meant. */
  readonly about: string;
  /** A subject that fits the choice; empty for none. */
  readonly subject: string;
}

interface ChosenStudents {
  readonly chosen: StudentChoice | null;
  readonly choose: (chosen: StudentChoice) => void;
}

export const useChosen = create<ChosenStudents>()(
  persist((set) => ({ chosen: null, choose: (chosen) => set({ chosen }) }), {
    name: 'zest-bell-chosen',
    version: 1,
    storage: createJSONStorage(() => sessionStorage),
  }),
);

/** On a button: "Write to these 7". */
export const writeWords = (n: number): string =>
  n === 0 ? 'Write to students' : `Write to ${n === 1 ? 'this student' : `these ${n}`}`;
