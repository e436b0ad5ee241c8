/** The Tray of all of one's courses, in one list by urgency: decided with the same keys, and by what one may in each course. */
import { useState } from 'react';
import { useQueries } from '@tanstack/react-query';
import { plural } from '@zest-bell/core/time';
import { byUrgency } from '@zest-bell/core/nudges';
import { contract } from '@zest-bell/core/contract';
import { atMoment } from '../../lib/atMoment.ts';
import { ask } from '../../lib/api.ts';
import { useHere } from '../../lib/here.ts';
import { useCourses } from '../../lib/queries.ts';
import { EverywhereSwitch } from '../../parts/common/EverywhereSwitch.tsx';
import { PlacePage } from '../../parts/common/PlacePage.tsx';
import { Button } from '../../ui/Button.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { TrayDesk } from './TrayDesk.tsx';

export function EverywherePage() {
  const here = useHere();
  const courses = useCourses();
  const open = (courses.data ?? []).filter((c) => !c.isArchived);
  const trays = useQueries({
    queries: open.map((c) => ({
      ...atMoment(['tray', c.id], here.now),
      queryFn: () => ask(contract.mail.tray, { course: c.id }),
    })),
  });
  const [showLater, setShowLater] = useState(false);
  const page = {
    place: 'tray',
    part: 'all your courses',
    scope: <EverywhereSwitch here={here} place="tray" />,
  } as const;
  const error = courses.error ?? trays.find((t) => t.error !== null)?.error ?? null;
  if (error && trays.every((t) => t.data === undefined))
    return (
      <PlacePage {...page}>
        <Failed error={error} retry={() => trays.forEach((t) => void t.refetch())} />
      </PlacePage>
    );
  if (courses.isPending || trays.some((t) => t.isPending))
    return (
      <PlacePage {...page}>
        <Loading what="the Tray of all your courses" />
      </PlacePage>
    );
  const found = open.flatMap((c, i) => {
    const data = trays[i]?.data;
    return data === undefined ? [] : [{ id: c.id, code: c.code, data }];
  });
  const later = found.reduce((sum, { data }) => sum + data.later, 0);
  const waiting = found.reduce((sum, { data }) => sum + data.waiting, 0);
  const lines = found
    .flatMap(({ id, code, data }) =>
      data.lines.map((line) => ({
        ...line,
        course: id,
        code,
        // Two courses may have a rule of one name.
        together: line.together === null ? null : `${id} ${line.together}`,
      })),
    )
    .filter((l) => (l.later !== null) === showLater)
    .sort(byUrgency);
  return (
    <PlacePage
      {...page}
      fills
      actions={
        later > 0 && (
          <Button onClick={() => setShowLater(!showLater)}>
            {showLater ? 'Show what waits now' : `Show ${plural(later, 'nudge')} put off`}
          </Button>
        )
      }
    >
      {error !== null && <Failed error={error} retry={() => trays.forEach((t) => void t.refetch())} />}
      {lines.length === 0 ? (
        <Empty title={showLater ? 'Nothing is put off' : 'Nothing is waiting for you in any course'}>
          Nudges of all your courses that need your OK wait here, the most urgent first.
        </Empty>
      ) : (
        <TrayDesk
          key={String(showLater)}
          here={here}
          lines={lines}
          all={showLater ? later : waiting - later}
          everywhere
        />
      )}
    </PlacePage>
  );
}
