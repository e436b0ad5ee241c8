import type { ReactNode } from 'react';
import type { CourseHere } from '../../lib/here.ts';
import { PlaceHead } from '../../parts/common/PlaceHead.tsx';
import { PageTabs } from '../../ui/PageTabs.tsx';

const TABS = [
  { path: '', name: 'Limits and sender' },
  { path: '/people', name: 'People' },
  { path: '/items', name: 'Items' },
  { path: '/calendar', name: 'Calendar' },
  { path: '/data', name: 'Bring data in' },
  { path: '/connections', name: 'Connections' },
  { path: '/changes', name: 'Changes' },
  { path: '/access', name: 'Access' },
] as const;
const FOR_OWNERS = [{ path: '/acts', name: 'Who did what' }] as const;

/** The head of every page of Course, with the way to the others. */
export function CourseTabs({ here, children }: { readonly here: CourseHere; readonly children?: ReactNode }) {
  return (
    <>
      <PlaceHead place="course">{children}</PlaceHead>
      <PageTabs
        lined
        label="Pages of Course"
        base={`/c/${here.id}/course`}
        tabs={here.may('access.write') ? [...TABS, ...FOR_OWNERS] : TABS}
      />
    </>
  );
}
