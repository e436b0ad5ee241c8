import { keepPreviousData, useQuery } from '@tanstack/react-query';
import type { Condition, PreviewAnswer, Wording } from '@zest-bell/core';
import { api } from '../app/api.ts';
import type { Here } from '../app/here.ts';

/** A wording, saved or not, as one student would read it now; without a student, as the first of the course. */
export function usePreview(
  here: Here,
  draft: Wording | undefined,
  when: Condition | null,
  student: string | null,
  variant = 0,
) {
  const reader = student ?? here.course.people.find((p) => p.role === 'student' && p.active)?.id ?? null;
  const wording = draft && {
    id: draft.id,
    name: draft.name,
    purpose: draft.purpose,
    subject: draft.subject,
    text: draft.text,
    variants: draft.variants ?? [],
  };
  return useQuery({
    queryKey: ['preview', here.id, JSON.stringify(wording), reader, JSON.stringify(when), variant, here.now],
    queryFn: () =>
      api.post<PreviewAnswer>(`/courses/${here.id}/wordings/preview`, { wording, student: reader, when, variant }),
    enabled: wording !== undefined && reader !== null,
    retry: false,
    placeholderData: keepPreviousData,
  });
}
