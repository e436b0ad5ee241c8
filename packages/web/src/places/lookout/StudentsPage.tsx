/** A page of Students, with the way to the others. */
import type { CourseHere } from '../../lib/here.ts';
import { EverywhereSwitch } from '../../parts/common/EverywhereSwitch.tsx';
import { PlacePage } from '../../parts/common/PlacePage.tsx';
import type { PageProps } from '../../ui/Page.tsx';
import { PageTabs } from '../../ui/PageTabs.tsx';

const TABS = [
  { path: '', name: 'Table' },
  { path: '/gradebook', name: 'Gradebook' },
  { path: '/class', name: 'Class overview' },
] as const;

export function StudentsPage({
  here,
  tab,
  ...page
}: Omit<PageProps, 'title' | 'part' | 'tabs' | 'scope'> & {
  readonly here: CourseHere;
  readonly tab: (typeof TABS)[number]['path'];
}) {
  return (
    <PlacePage
      place="students"
      part={TABS.find((t) => t.path === tab)!.name}
      scope={<EverywhereSwitch here={here} place="students" />}
      tabs={<PageTabs label="Pages of Students" base={`/c/${here.id}/students`} tabs={TABS} />}
      {...page}
    />
  );
}
