import type { CourseHere } from '../../lib/here.ts';
import { PageTabs } from '../../ui/PageTabs.tsx';

const TABS = [
  { path: '', name: 'Table' },
  { path: '/gradebook', name: 'Gradebook' },
  { path: '/class', name: 'Class overview' },
] as const;

export const LookoutTabs = ({ here }: { readonly here: CourseHere }) => (
  <PageTabs label="Pages of Students" base={`/c/${here.id}/students`} tabs={TABS} />
);
