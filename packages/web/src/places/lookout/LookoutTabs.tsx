import type { Here } from '../../lib/here.ts';
import { PageTabs } from '../../ui/PageTabs.tsx';

const TABS = [
  { path: '', name: 'Students' },
  { path: '/gradebook', name: 'Gradebook' },
  { path: '/class', name: 'Class overview' },
] as const;

export const LookoutTabs = ({ here }: { readonly here: Here }) => (
  <PageTabs label="Pages of Lookout" base={`/c/${here.id}/lookout`} tabs={TABS} />
);
