/** A page of Replay, with the way to the others. */
import type { CourseHere } from '../../lib/here.ts';
import { PlacePage } from '../../parts/common/PlacePage.tsx';
import type { PageProps } from '../../ui/Page.tsx';
import { PageTabs } from '../../ui/PageTabs.tsx';

const TABS = [
  { path: '', name: 'Replay' },
  { path: '/who-it-found', name: 'Who it found' },
  { path: '/early-signs', name: 'Early signs' },
  { path: '/ahead', name: 'Ahead' },
  { path: '/outcomes', name: 'What came of it' },
  { path: '/term', name: 'The term' },
] as const;

export function ReplayTabPage({
  here,
  tab,
  children,
  ...page
}: Omit<PageProps, 'title' | 'part' | 'tabs'> & {
  readonly here: CourseHere;
  readonly tab: (typeof TABS)[number]['path'];
}) {
  return (
    <PlacePage
      place="replay"
      part={TABS.find((t) => t.path === tab)!.name}
      tabs={<PageTabs label="Pages of Replay" base={`/c/${here.id}/replay`} tabs={TABS} />}
      {...page}
    >
      <div className="grid grid-cols-[minmax(0,1fr)] gap-4">{children}</div>
    </PlacePage>
  );
}
