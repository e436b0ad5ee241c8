/**
 * The morning desk: what waits for the instructor, who falls through, who replied and came back, whom Zest Bell nudged, and
 * what the coming days hold.
 */
import { useQuery } from '@tanstack/react-query';
import { dayWords } from '@zest-bell/core/time';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { useHere } from '../../lib/here.ts';
import { EverywhereSwitch } from '../../parts/common/EverywhereSwitch.tsx';
import { PlacePage } from '../../parts/common/PlacePage.tsx';
import { useStanding } from '../../lib/queries.ts';
import { SetUpCard } from '../../parts/setUp/SetUp.tsx';
import { Failed, Loading } from '../../parts/common/States.tsx';
import { Ahead } from './Ahead.tsx';
import { CarriedOver } from './CarriedOver.tsx';
import { FallingThrough } from './FallingThrough.tsx';
import { Hints } from './Hints.tsx';
import { LastWeeks } from './LastWeeks.tsx';
import { Reasons } from './Reasons.tsx';
import { Replies } from './Replies.tsx';
import { Since } from './Since.tsx';
import { useInbox } from '../../lib/useInbox.ts';
import { Waiting } from './Waiting.tsx';

export function TodayPage() {
  const here = useHere();
  const today = useQuery({
    queryKey: ['today', here.id],
    queryFn: () => ask(contract.desk.today, { course: here.id }),
  });
  const standing = useStanding(here.id);
  const inbox = useInbox();
  if (today.isPending || standing.isPending || inbox.isPending)
    return (
      <PlacePage place="today">
        <Loading what="your morning" />
      </PlacePage>
    );
  const error = today.error ?? standing.error ?? inbox.error;
  if (error || !today.data || !standing.data || !inbox.data)
    return (
      <PlacePage place="today">
        <Failed error={error} retry={() => void today.refetch()} />
      </PlacePage>
    );
  return (
    <PlacePage
      place="today"
      lead={`${dayWords(here.now, here.course.timeZone)}, ${here.course.title}`}
      scope={<EverywhereSwitch here={here} place="today" />}
    >
      <div className="grid gap-4 min-[980px]:grid-cols-[minmax(0,1.5fr)_minmax(0,1fr)]">
        <div className="grid content-start gap-4">
          <SetUpCard here={here} />
          <CarriedOver here={here} />
          <LastWeeks here={here} />
          <Waiting here={here} standing={standing.data} today={today.data} inbox={inbox.data} />
          <div id="falling">
            <FallingThrough here={here} />
          </div>
          <Replies inbox={inbox.data} />
          <Since here={here} today={today.data} />
        </div>
        <div className="grid content-start gap-4">
          <Reasons here={here} reasons={today.data.reasons} />
          <Hints here={here} />
          <Ahead here={here} />
        </div>
      </div>
    </PlacePage>
  );
}
