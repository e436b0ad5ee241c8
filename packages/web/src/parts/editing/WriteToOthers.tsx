/** From an item to a message to those who have not opened it, practiced it, or turned it in. */
import { useEffect, useMemo } from 'react';
import { useNavigate } from 'react-router';
import { conditionSentence } from '@zest-bell/core/conditions';
import type { Item } from '@zest-bell/core/course';
import { itemCondition, itemSubject } from '@zest-bell/core/lookout';
import { useFound } from '../../lib/measures/useFound.ts';
import type { CourseHere } from '../../lib/here.ts';
import { useAsOf } from '../../lib/termMoment.ts';
import { useChosen } from './chosen.ts';

const QUESTION = { kind: 'notSubmitted' } as const;

/** Looks them up, and opens the message to them. */
export function WriteToOthers({ here, item }: { readonly here: CourseHere; readonly item: Item }) {
  const navigate = useNavigate();
  const at = useAsOf(here);
  const when = useMemo(() => itemCondition(item, QUESTION), [item]);
  const found = useFound(here, when, at);
  useEffect(() => {
    if (found === null) return;
    const who = conditionSentence(when, here.course);
    const subject = itemSubject(item, QUESTION, here.now, here.course.timeZone);
    useChosen.getState().choose({ course: here.id, students: found, who, about: who, subject });
    void navigate(`/c/${here.id}/write`);
  }, [found, when, item, here, navigate]);
  return (
    <p role="status" className="sr-only">
      Looking for the students …
    </p>
  );
}
