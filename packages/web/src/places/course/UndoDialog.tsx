/** What undoing a change would do, before it does: what goes, and what a later file keeps. */
import { listWords, plural } from '@zest-bell/core/time';
import type { UndoAnswer } from '@zest-bell/core/imports';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';

const sum = (counts: object): number => Object.values(counts as Record<string, number>).reduce((all, n) => all + n, 0);

/** Whether there is something to know before. */
export const asksFirst = ({ goes, stays, unknown }: UndoAnswer): boolean => sum(goes) + sum(stays) + unknown > 0;

/** What an undo would do, a sentence each. */
export function undoWords({ goes, stays, unknown }: UndoAnswer): readonly string[] {
  const counted = (counts: readonly (readonly [number, string, string])[]) =>
    listWords(counts.flatMap(([n, one, many]) => (n > 0 ? [plural(n, one, many)] : [])));
  const go = counted([
    [goes.events, 'event', 'events'],
    [goes.grades, 'grade', 'grades'],
  ]);
  const stay = counted([
    [stays.grades, 'grade', 'grades'],
    [stays.people, 'person', 'people'],
    [stays.items, 'item', 'items'],
  ]);
  return [
    ...(go ? [`${go} ${sum(goes) === 1 ? 'is' : 'are'} taken out of the course.`] : []),
    ...(stay ? [`${stay} ${sum(stays) === 1 ? 'stays' : 'stay'}: a later file says the same.`] : []),
    ...(unknown > 0
      ? [
          `${plural(unknown, 'later file')} came before Zest Bell remembered what a file repeats. What ${unknown === 1 ? 'it' : 'they'} may have repeated cannot be known, and is taken out too.`,
        ]
      : []),
  ];
}

export function UndoDialog(props: {
  readonly title: string;
  readonly ahead: UndoAnswer;
  readonly busy: boolean;
  readonly onClose: () => void;
  readonly onUndo: () => void;
}) {
  return (
    <Dialog
      open
      onClose={props.onClose}
      title="Undo this change"
      note={props.title}
      foot={
        <>
          <Button className="ml-auto" onClick={props.onClose}>
            Keep it
          </Button>
          <Button look="main" busy={props.busy} onClick={props.onUndo}>
            Undo this change
          </Button>
        </>
      }
    >
      <ul className="grid list-disc gap-2 py-5 pr-6 pl-10">
        {undoWords(props.ahead).map((sentence) => (
          <li key={sentence}>{sentence}</li>
        ))}
      </ul>
    </Dialog>
  );
}
