import type { CourseHere } from '../../lib/here.ts';
import { PageTabs } from '../../ui/PageTabs.tsx';

const TABS = [
  { path: '', name: 'Replay' },
  { path: '/who-it-found', name: 'Who it found' },
  { path: '/early-signs', name: 'Early signs' },
  { path: '/ahead', name: 'Ahead' },
  { path: '/outcomes', name: 'What came of it' },
  { path: '/term', name: 'The term' },
] as const;

export const ReplayTabs = ({ here }: { readonly here: CourseHere }) => (
  <PageTabs label="Pages of Replay" base={`/c/${here.id}/replay`} tabs={TABS} />
);
