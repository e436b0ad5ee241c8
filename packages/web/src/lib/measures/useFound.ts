import { useEffect, useMemo, useState } from 'react';
import { leavesOf, type Condition } from '@zest-bell/core/conditions';
import type { Instant } from '@zest-bell/core/time';
import type { CourseHere } from '../here.ts';
import { measuresWorker, tableInstant, useMeasures } from './useMeasures.ts';

/** Ids of students who meet a condition; null until that is known. */
export function useFound(here: CourseHere, when: Condition, at: Instant): readonly string[] | null {
  const calls = useMemo(() => leavesOf(when), [when]);
  const of = tableInstant(here, at);
  const { ready } = useMeasures(here, calls, of);
  const [found, setFound] = useState<{ readonly of: object; readonly students: readonly string[] } | null>(null);
  const { key } = of;
  useEffect(() => {
    if (!ready) return;
    let current = true;
    void measuresWorker()
      .matching({ key, at }, when)
      .then((students) => current && students && setFound({ of: when, students }));
    return () => {
      current = false;
    };
  }, [ready, key, at, when]);
  return found?.of === when ? found.students : null;
}
