/** A page of Course, with the way to the others. */
import type { CourseHere } from '../../lib/here.ts';
import { PlacePage } from '../../parts/common/PlacePage.tsx';
import type { PageProps } from '../../ui/Page.tsx';
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
  { path: '/acts', name: 'Who did what' },
] as const;
const FOR_OWNERS = '/acts';

export function CourseTabPage({
  here,
  tab,
  ...page
}: Omit<PageProps, 'title' | 'part' | 'tabs'> & {
  readonly here: CourseHere;
  readonly tab: (typeof TABS)[number]['path'];
}) {
  return (
    <PlacePage
      place="course"
      part={TABS.find((t) => t.path === tab)!.name}
      tabs={
        <PageTabs
          label="Pages of Course"
          base={`/c/${here.id}/course`}
          tabs={TABS.filter((t) => t.path !== FOR_OWNERS || here.may('access.write'))}
        />
      }
      {...page}
    />
  );
}
