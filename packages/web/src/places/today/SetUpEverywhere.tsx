/** What is left to set up, course by course. */
import { useQueries } from '@tanstack/react-query';
import { plural } from '@zest-bell/core/time';
import type { InboxCourse } from '@zest-bell/core/exchange';
import { SetUpSteps, setupQuery } from '../../parts/setUp/SetUp.tsx';
import { Card } from './Card.tsx';

export function SetUpEverywhere({ courses }: { readonly courses: readonly InboxCourse[] }) {
  const unready = courses.filter((c) => c.setUpLeft > 0);
  const setups = useQueries({ queries: unready.map((c) => setupQuery(c.course)) });
  if (unready.length === 0) return null;
  return (
    <Card title="Still to be set up" count={unready.length}>
      {unready.map((c, i) => (
        <section key={c.course} aria-label={`Set up ${c.code}`} className="mt-2">
          <h3 className="font-bold" title={c.title}>
            {c.code}: {plural(c.setUpLeft, 'step')} left
          </h3>
          {setups[i]?.data && <SetUpSteps course={c.course} steps={setups[i].data.steps.filter((s) => !s.done)} />}
        </section>
      ))}
    </Card>
  );
}
