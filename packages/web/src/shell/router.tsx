/** The pages and their addresses; each page is loaded when it is first opened. */
import { createBrowserRouter, Navigate, useLocation, useParams, useRouteError } from 'react-router';
import { Failed, Loading } from '../parts/common/States.tsx';
import { Gate } from './Gate.tsx';
import { FirstCourse } from './FirstCourse.tsx';
import { NoPage } from './NoPage.tsx';

function Broken() {
  return <Failed error={useRouteError()} retry={() => window.location.reload()} />;
}

/** Earlier addresses of a course's pages, as bookmarks and mail that was sent have them, and where they are now. */
const MOVED: readonly (readonly [string, string])[] = [
  ['lookout', 'students'],
  ['lookout/everywhere', 'students/everywhere'],
  ['lookout/gradebook', 'students/gradebook'],
  ['lookout/class', 'students/class'],
  ['replay/hindsight', 'replay/who-it-found'],
  ['replay/signs', 'replay/early-signs'],
];

/** Leads an earlier address to the page's present one, with its query. */
function Moved({ to }: { readonly to: string }) {
  const { course } = useParams();
  const { search, hash } = useLocation();
  return <Navigate to={{ pathname: `/c/${course}/${to}`, search, hash }} replace />;
}

export const router = createBrowserRouter([
  {
    path: 'invitation',
    errorElement: <Broken />,
    lazy: async () => ({ Component: (await import('../places/signIn/InvitationPage.tsx')).InvitationPage }),
  },
  {
    path: '/signed-out',
    lazy: async () => ({ Component: (await import('../places/signIn/SignedOutPage.tsx')).SignedOutPage }),
  },
  {
    path: 'password',
    errorElement: <Broken />,
    lazy: async () => ({ Component: (await import('../places/signIn/NewPasswordPage.tsx')).NewPasswordPage }),
  },
  {
    element: <Gate />,
    errorElement: <Broken />,
    hydrateFallbackElement: <Loading what="the page" />,
    children: [
      { index: true, element: <FirstCourse /> },
      {
        path: 'c/:course',
        lazy: async () => ({ Component: (await import('./Shell.tsx')).Shell }),
        children: [
          { index: true, element: <Navigate to="today" replace /> },
          {
            path: 'rules',
            lazy: async () => ({ Component: (await import('../places/rules/RulesPage.tsx')).RulesPage }),
          },
          {
            path: 'rules/everywhere',
            lazy: async () => ({ Component: (await import('../places/rules/EverywherePage.tsx')).EverywherePage }),
          },
          {
            path: 'rules/:rule',
            lazy: async () => ({ Component: (await import('../places/rules/ComposerPage.tsx')).ComposerPage }),
          },
          {
            path: 'rules/:rule/history',
            lazy: async () => ({ Component: (await import('../places/rules/HistoryPage.tsx')).HistoryPage }),
          },
          {
            path: ':kind/:key/courses',
            lazy: async () => ({ Component: (await import('../places/sets/SetPage.tsx')).SetPage }),
          },
          {
            path: 'wording',
            lazy: async () => ({ Component: (await import('../places/wording/WordingPage.tsx')).WordingPage }),
          },
          {
            path: 'today/everywhere',
            lazy: async () => ({ Component: (await import('../places/today/EverywherePage.tsx')).EverywherePage }),
          },
          {
            path: 'today',
            lazy: async () => ({ Component: (await import('../places/today/TodayPage.tsx')).TodayPage }),
          },
          {
            path: 'course',
            lazy: async () => ({ Component: (await import('../places/course/CoursePage.tsx')).CoursePage }),
          },
          {
            path: 'course/people',
            lazy: async () => ({ Component: (await import('../places/course/PeoplePage.tsx')).PeoplePage }),
          },
          {
            path: 'course/items',
            lazy: async () => ({ Component: (await import('../places/course/ItemsPage.tsx')).ItemsPage }),
          },
          {
            path: 'course/calendar',
            lazy: async () => ({ Component: (await import('../places/course/CalendarPage.tsx')).CalendarPage }),
          },
          {
            path: 'course/data',
            lazy: async () => ({ Component: (await import('../places/course/data/DataPage.tsx')).DataPage }),
          },
          {
            path: 'course/connections',
            lazy: async () => ({
              Component: (await import('../places/course/connections/ConnectionsPage.tsx')).ConnectionsPage,
            }),
          },
          {
            path: 'course/changes',
            lazy: async () => ({ Component: (await import('../places/course/ChangesPage.tsx')).ChangesPage }),
          },
          {
            path: 'course/access',
            lazy: async () => ({ Component: (await import('../places/course/access/AccessPage.tsx')).AccessPage }),
          },
          {
            path: 'course/acts',
            lazy: async () => ({ Component: (await import('../places/course/access/ActsPage.tsx')).ActsPage }),
          },
          {
            path: 'merge',
            lazy: async () => ({ Component: (await import('../places/writing/MergePage.tsx')).MergePage }),
          },
          {
            path: 'write',
            lazy: async () => ({ Component: (await import('../places/writing/WritePage.tsx')).WritePage }),
          },
          {
            path: 'carry',
            lazy: async () => ({ Component: (await import('../places/carry/CarryPage.tsx')).CarryPage }),
          },
          {
            path: 'setup',
            lazy: async () => ({ Component: (await import('../places/newCourse/SetUpPage.tsx')).SetUpPage }),
          },
          {
            path: 'students/everywhere',
            lazy: async () => ({ Component: (await import('../places/lookout/EverywherePage.tsx')).EverywherePage }),
          },
          {
            path: 'students',
            lazy: async () => ({ Component: (await import('../places/lookout/LookoutPage.tsx')).LookoutPage }),
          },
          {
            path: 'students/gradebook',
            lazy: async () => ({ Component: (await import('../places/lookout/GradebookPage.tsx')).GradebookPage }),
          },
          {
            path: 'students/class',
            lazy: async () => ({ Component: (await import('../places/lookout/ClassPage.tsx')).ClassPage }),
          },
          {
            path: 'shelf',
            lazy: async () => ({ Component: (await import('../places/shelf/ShelfPage.tsx')).ShelfPage }),
          },
          {
            path: 'tray/everywhere',
            lazy: async () => ({ Component: (await import('../places/tray/EverywherePage.tsx')).EverywherePage }),
          },
          { path: 'tray', lazy: async () => ({ Component: (await import('../places/tray/TrayPage.tsx')).TrayPage }) },
          {
            path: 'log/everywhere',
            lazy: async () => ({ Component: (await import('../places/sendLog/EverywherePage.tsx')).EverywherePage }),
          },
          {
            path: 'log/back',
            lazy: async () => ({ Component: (await import('../places/sendLog/BackPage.tsx')).BackPage }),
          },
          {
            path: 'log',
            lazy: async () => ({ Component: (await import('../places/sendLog/SendLogPage.tsx')).SendLogPage }),
          },
          {
            path: 'students/:student',
            lazy: async () => ({ Component: (await import('../places/students/StudentPage.tsx')).StudentPage }),
          },
          {
            path: 'students/:student/data',
            lazy: async () => ({ Component: (await import('../places/students/DataPage.tsx')).DataPage }),
          },
          {
            path: 'replay',
            lazy: async () => ({ Component: (await import('../places/replay/ReplayPage.tsx')).ReplayPage }),
          },
          {
            path: 'replay/who-it-found',
            lazy: async () => ({ Component: (await import('../places/replay/HindsightPage.tsx')).HindsightPage }),
          },
          {
            path: 'replay/early-signs',
            lazy: async () => ({ Component: (await import('../places/replay/SignsPage.tsx')).SignsPage }),
          },
          {
            path: 'replay/ahead',
            lazy: async () => ({ Component: (await import('../places/replay/AheadPage.tsx')).AheadPage }),
          },
          {
            path: 'replay/terms',
            lazy: async () => ({ Component: (await import('../places/replay/ComparePage.tsx')).ComparePage }),
          },
          {
            path: 'replay/term',
            lazy: async () => ({ Component: (await import('../places/replay/TermPage.tsx')).TermPage }),
          },
          {
            path: 'replay/outcomes',
            lazy: async () => ({ Component: (await import('../places/replay/OutcomesPage.tsx')).OutcomesPage }),
          },
          ...MOVED.map(([path, to]) => ({ path, element: <Moved to={to} /> })),
          { path: '*', element: <NoPage /> },
        ],
      },
      {
        path: 'new',
        lazy: async () => ({ Component: (await import('../places/newCourse/NewCoursePage.tsx')).NewCoursePage }),
      },
      {
        path: 'account',
        lazy: async () => ({ Component: (await import('../places/account/AccountPage.tsx')).AccountPage }),
      },
      { path: 'admin', lazy: async () => ({ Component: (await import('../places/admin/AdminPage.tsx')).AdminPage }) },
      {
        path: 'mailroom',
        lazy: async () => ({ Component: (await import('../places/mailroom/MailroomPage.tsx')).MailroomPage }),
      },
      { path: '*', element: <Navigate to="/" replace /> },
    ],
  },
]);
