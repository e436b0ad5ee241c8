/** Setting a course up on one page, which can be left and come back to: what is done, the door for files, the sender. */
import { Link } from 'react-router';
import { dateWords } from '@zest-bell/core/time';
import { useHere } from '../../lib/here.ts';
import { ConfirmDays } from '../../parts/setUp/ConfirmDays.tsx';
import { FirstTold } from '../../parts/setUp/FirstTold.tsx';
import { DueDates } from '../../parts/setUp/DueDates.tsx';
import { SenderCard } from '../../parts/setUp/SenderCard.tsx';
import { ImportDoor } from '../../parts/files/ImportDoor.tsx';
import { limitsWords } from '../../lib/limits.ts';
import { SetUpCard } from '../../parts/setUp/SetUp.tsx';
import { Page } from '../../ui/Page.tsx';

export function SetUpPage() {
  const here = useHere();
  const { course } = here;
  const link = 'font-semibold text-pine underline underline-offset-4';
  return (
    <Page title={`Set up ${course.title}`}>
      <div className="grid max-w-[1080px] grid-cols-[minmax(0,1fr)] gap-4">
        <div>
          <p className="text-ink-2">
            {dateWords(course.start)} to {dateWords(course.end)}, {course.timeZone.replaceAll('_', ' ')}.{' '}
            <Link className={link} to={`/c/${here.id}/course/calendar`}>
              Change the days or add breaks
            </Link>
          </p>
          <p className="mt-1 text-ink-2">
            {limitsWords(course.settings) || 'No quiet hours, and no limit over all rules.'}{' '}
            <Link className={link} to={`/c/${here.id}/course`}>
              Change these limits
            </Link>
          </p>
        </div>
        <FirstTold here={here} />
        <ConfirmDays here={here} />
        <SetUpCard here={here} always />
        <DueDates here={here} />
        <ImportDoor here={here} />
        <div id="sender">
          <SenderCard key={here.answer.settingsVersion} here={here} />
        </div>
      </div>
    </Page>
  );
}
