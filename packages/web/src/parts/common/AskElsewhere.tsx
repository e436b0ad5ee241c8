/** After a change was saved here: here only, or in the other courses too. */
import { useNavigate } from 'react-router';
import type { SetCard } from '@zest-bell/core/exchange';
import { plural } from '@zest-bell/core/time';
import { setPath } from '../../lib/sets.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';

export function AskElsewhere(props: {
  readonly course: number;
  readonly card: SetCard;
  readonly name: string;
  readonly onClose: () => void;
}) {
  const { course, card, name, onClose } = props;
  const navigate = useNavigate();
  const n = card.courses - 1;
  const others = n === 1 ? 'other course' : plural(n, 'other course');
  return (
    <Dialog
      open
      title={`Change “${name}” in the ${others} too?`}
      onClose={onClose}
      foot={
        <>
          <Button className="ml-auto" onClick={onClose}>
            Here only
          </Button>
          <Button look="main" onClick={() => navigate(setPath(course, card.kind, card.key))}>
            Look at the {others}
          </Button>
        </>
      }
    >
      <p className="px-6 py-5">
        Your change is saved in this course. Next you see, course by course, what would change, what is different there
        already, and whom it would reach. Nothing changes there before you confirm it.
      </p>
    </Dialog>
  );
}
