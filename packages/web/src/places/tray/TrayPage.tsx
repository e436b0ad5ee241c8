/** Nudges of a course that wait for a decision. */
import { useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { plural } from '@zest-bell/core/time';
import { contract } from '@zest-bell/core/contract';
import { atMoment } from '../../lib/atMoment.ts';
import { ask } from '../../lib/api.ts';
import { useHere } from '../../lib/here.ts';
import { EverywhereSwitch } from '../../parts/common/EverywhereSwitch.tsx';
import { PlacePage } from '../../parts/common/PlacePage.tsx';
import { Button } from '../../ui/Button.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { TrayDesk } from './TrayDesk.tsx';

export function TrayPage() {
  const here = useHere();
  const tray = useQuery({
    ...atMoment(['tray', here.id], here.now),
    queryFn: () => ask(contract.mail.tray, { course: here.id }),
  });
  const [showLater, setShowLater] = useState(false);
  if (tray.isError)
    return (
      <PlacePage place="tray">
        <Failed error={tray.error} retry={() => void tray.refetch()} />
      </PlacePage>
    );
  if (!tray.data)
    return (
      <PlacePage place="tray">
        <Loading what="the Tray" />
      </PlacePage>
    );
  const { lines, later, waiting } = tray.data;
  const shown = lines.filter((l) => (l.later !== null) === showLater);
  return (
    <PlacePage
      place="tray"
      fills
      scope={<EverywhereSwitch here={here} place="tray" />}
      actions={
        later > 0 && (
          <Button onClick={() => setShowLater(!showLater)}>
            {showLater ? 'Show what waits now' : `Show ${plural(later, 'nudge')} put off`}
          </Button>
        )
      }
    >
      {shown.length === 0 ? (
        <Empty title={showLater ? 'Nothing is put off' : 'Nothing is waiting for you'}>
          When a step is set to wait for your OK, when a student has replied, or when a message would leave your
          institution, the nudge waits here. Nothing leaves without your OK.
        </Empty>
      ) : (
        <TrayDesk
          key={String(showLater)}
          here={here}
          lines={shown.map((line) => ({ ...line, course: here.id, code: here.course.code }))}
          all={showLater ? later : waiting - later}
        />
      )}
    </PlacePage>
  );
}
