/** How the table of each course is set up in this browser: columns, condition, order, who is ticked. It outlives a reload. */
import { create } from 'zustand';
import { persist } from 'zustand/middleware';
import type { Course } from '@zest-bell/core/course';
import type { Condition } from '@zest-bell/core/conditions';
import { namedSet, NO_VIEW, parseView, type LookoutView } from '@zest-bell/core/lookout';

export interface TableDesk {
  readonly view: LookoutView;
  /** Whether each row has its small chart of activity. */
  readonly activity: boolean;
}

interface Desks {
  readonly desks: Readonly<Record<number, TableDesk>>;
  readonly set: (course: number, desk: TableDesk) => void;
}

export const useDesks = create<Desks>()(
  persist(
    (set) => ({ desks: {}, set: (course, desk) => set(({ desks }) => ({ desks: { ...desks, [course]: desk } })) }),
    { name: 'zest-bell-lookout', version: 1 },
  ),
);

export const firstView = (course: Course): LookoutView => ({ ...NO_VIEW, columns: namedSet('Presence', course) });

/** The desk of a course; what a browser kept of another release and no longer fits begins anew. */
export function deskOf(kept: TableDesk | undefined, course: Course): TableDesk {
  const parsed = kept && parseView(kept.view);
  return parsed?.ok ? { view: parsed.value, activity: kept!.activity } : { view: firstView(course), activity: true };
}

/** Sets the table of a course to one condition; anyone who goes to Lookout then sees whom it finds. */
export function askLookout(here: { readonly id: number; readonly course: Course }, when: Condition): void {
  const { desks, set } = useDesks.getState();
  const desk = deskOf(desks[here.id], here.course);
  set(here.id, { ...desk, view: { ...desk.view, when, logBrushes: [], ruleBrushes: [] } });
}
