/** What is known of a student, as a page to hand over. */
import { afterEach, expect, test } from '@jest/globals';
import { cleanup, screen } from '@testing-library/react';
import { Route, Routes } from 'react-router';
import type { StudentData } from '@zest-bell/core/exchange';
import { hereOf } from '../../testing/here.ts';
import { inPage } from '../../testing/inPage.tsx';
import { network } from '../../testing/network.ts';
import { DataPage } from './DataPage.tsx';

afterEach(cleanup);

const NONE = {
  grades: [],
  takenBack: [],
  replies: [],
  answers: [],
  notes: [],
  setAside: [],
  heldBack: [],
  statements: [],
  mail: [],
  changes: [],
  nudges: [],
  activity: [],
};

test('each part has its heading, moments are in words, what is not known is left out, and long parts are cut', async () => {
  const data: StudentData = {
    ...NONE,
    format: 'zest-bell/student-data@1',
    madeAt: '2026-09-14T09:00:00-04:00',
    course: { code: 'NAV 120', title: 'Coastal Navigation' },
    person: { id: 'p1', firstName: 'Asta', email: null, contacts: [{ kind: 'advisor', email: 'b@x.example' }] },
    activity: Array.from({ length: 1002 }, () => ({ at: '2026-09-01T10:00:00-04:00', kind: 'visit', item: null })),
    mail: [{ at: '2026-09-08T09:30:00-04:00', to: 'Asta <asta@x.example>', text: 'Hello\nthere', files: [] }],
    seenBy: ['Ada Lind', 'Bo Quist'],
  };
  network({ 'GET /courses/1/students/p1/data': data });
  inPage(
    <Routes>
      <Route path="c/:course/students/:student/data" element={<DataPage />} />
    </Routes>,
    { here: hereOf(), path: '/c/1/students/p1/data' },
  );
  await screen.findByRole('heading', { name: 'Everything Zest Bell knows about Asta Lind' });
  const page = document.body.textContent;
  expect(page).toContain('NAV 120 Coastal Navigation, as of Mon Sep 14, 9:00 AM');
  expect(screen.getByRole('region', { name: 'Mail' }).textContent).toBe(
    'MailatTue Sep 8, 9:30 AMtoAsta <asta@x.example>textHello\nthere',
  );
  expect(screen.getByRole('region', { name: 'Notes about the student' }).textContent).toContain('None.');
  expect(screen.getByRole('region', { name: 'Activity' }).textContent).toContain('2 more entries in the file.');
  expect(page).toContain('contactskind: advisor\nemail: b@x.example');
  expect(page).toContain('Ada Lind, Bo Quist');
  expect(page).not.toContain('null');
});
