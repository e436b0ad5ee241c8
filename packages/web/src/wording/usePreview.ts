import { keepPreviousData, useQuery } from '@tanstack/react-query';
import type { Condition, PreviewAnswer, Wording } from '@zest-bell/core';
import { api } from '../app/api.ts';
import type { Here } from '../app/here.ts';

/** A wording, saved or not, as one student would read it now; without a student, as the first of the course. */
export function usePreview(here: Here, draft: Wording | undefined, when: Condition, student: string | null) {
  const reader = student ?? here.course.people.find((p) => p.role === 'student' && p.active)?.id ?? null;
  const wording = draft && {
    id: draft.id,
    name: draft.name,
    purpose: draft.purpose,
    subject: draft.subject,
    text: draft.text,
  };
  return useQuery({
    queryKey: ['preview', here.id, JSON.stringify(wording), reader, JSON.stringify(when)],
    queryFn: () => api.post<PreviewAnswer>(`/courses/${here.id}/wordings/preview`, { wording, student: reader, when }),
    enabled: wording !== undefined && reader !== null,
    retry: false,
    placeholderData: keepPreviousData,
  });
}
