import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { isActiveStudent } from '@zest-bell/core/course';
import type { Condition } from '@zest-bell/core/conditions';
import type { Wording } from '@zest-bell/core/wording';
import { type BodyGiven, contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import type { CourseHere } from '../../lib/here.ts';
import { useSettled } from '../../ui/useSettled.ts';

/** Which of the words, and how they are read. */
export interface PreviewOptions {
  /** The condition of the rule, for the fields that speak of it. */
  readonly when: Condition | null;
  /** Which of the student's texts. */
  readonly variant?: number;
  /** The audience: the student, or a third party as a step names it. */
  readonly reader?: string;
}

/** The parts of a wording that the server reads, saved or not. */
export const bodyOf = (w: Wording): Wording => ({
  id: w.id,
  name: w.name,
  purpose: w.purpose,
  subject: w.subject,
  text: w.text,
  variants: w.variants ?? [],
  copies: w.copies ?? [],
  files: w.files ?? [],
  letter: w.letter ?? null,
});

/** A wording, saved or not, as it would be read about one student now; without a student, about the first of the course. */
export function usePreview(
  here: CourseHere,
  draft: Wording | undefined,
  student: string | null,
  reading: PreviewOptions,
) {
  const about = student ?? here.course.people.find(isActiveStudent)?.id ?? null;
  const { when, variant = 0, reader = 'student' } = reading;
  const wording = draft && bodyOf(draft);
  return useQuery({
    queryKey: ['preview', here.id, JSON.stringify(wording), about, JSON.stringify(when), variant, reader, here.now],
    // A preview that nobody waits for any more takes no line to the server from the newest.
    queryFn: ({ signal }) =>
      ask(
        contract.wording.preview,
        { course: here.id },
        { body: { wording, student: about!, when, variant, reader }, signal },
      ),
    enabled: wording !== undefined && about !== null,
    placeholderData: keepPreviousData,
  });
}

/** What every merge field says of one student now. */
export function useExamples(here: CourseHere, when: Condition | null, student: string) {
  return useQuery({
    queryKey: ['examples', here.id, student, JSON.stringify(when), here.now],
    queryFn: () => ask(contract.wording.examples, { course: here.id }, { body: { student, when } }),
    placeholderData: keepPreviousData,
  });
}

/** The words read for every student, once they have not changed for a moment. */
export function useAwkward(here: CourseHere, draft: Wording, reading: PreviewOptions) {
  const { when, variant = 0, reader = 'student' } = reading;
  const body = JSON.stringify({ wording: bodyOf(draft), when, variant, reader });
  const settled = useSettled(body, 400);
  return useQuery({
    queryKey: ['awkward', here.id, settled, here.now],
    queryFn: ({ signal }) =>
      ask(
        contract.wording.awkward,
        { course: here.id },
        { body: JSON.parse(settled) as BodyGiven<typeof contract.wording.awkward>, signal },
      ),
    placeholderData: keepPreviousData,
  });
}
