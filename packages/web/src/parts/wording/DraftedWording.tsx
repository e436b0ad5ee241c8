/** What somebody drafted beside a wording that a running rule says: looked at, then published or dropped. */
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import { instantWords } from '@zest-bell/core/time';
import type { WordingAnswer } from '@zest-bell/core/exchange';
import type { Wording } from '@zest-bell/core/wording';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import type { CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { useWhy, WhyField } from '../common/WhyField.tsx';

export function DraftedWording(props: {
  readonly here: CourseHere;
  readonly wording: WordingAnswer;
  readonly drafted: NonNullable<WordingAnswer['drafted']>;
  readonly onTake: (wording: Wording) => void;
  readonly onDone: () => void;
}) {
  const { here, wording: w, drafted, onTake, onDone } = props;
  const why = useWhy(here.id, `wording ${w.id}`);
  const publish = () =>
    attempt(async () => {
      await ask(
        contract.wording.publish,
        { course: here.id, wording: w.id },
        { body: { version: w.version, why: why.value } },
      );
      why.drop();
      await refreshAll();
      toast(`Published “${drafted.wording.name}”. The next messages use it.`);
      onDone();
    });
  const drop = () =>
    attempt(async () => {
      await ask(contract.wording.dropDraft, { course: here.id, wording: w.id });
      await refreshAll();
    });
  return (
    <div role="note" className="rounded-xl border border-line bg-sheet p-4">
      <p className="font-semibold">
        {drafted.by} drafted changes to this wording on {instantWords(drafted.at, here.course.timeZone)}. No student
        reads them until somebody publishes them.
      </p>
      {here.may('rules.run') && (
        <div className="mt-2">
          <WhyField why={why.value} onChange={why.set} />
        </div>
      )}
      <div className="mt-2 flex flex-wrap gap-2">
        <Button onClick={() => onTake(drafted.wording)}>Look at their changes</Button>
        <Button needs="rules.run" onClick={() => publish()}>
          Publish their changes
        </Button>
        <Button onClick={() => drop()}>Drop their changes</Button>
      </div>
    </div>
  );
}
