/** A typed condition behind Ctrl K: the students who match it, or a new rule for them. */
import { useNavigate } from 'react-router';
import type { CourseHere } from '../lib/here.ts';
import { deskOf, useDesks } from '../parts/table/desk.ts';
import { SaidItems } from '../parts/saying/SaidItems.tsx';

interface SaidInPaletteProps {
  readonly here: CourseHere;
  readonly typed: string;
  readonly onType: (text: string) => void;
  readonly onClose: () => void;
  readonly groupClass: string;
  readonly entryClass: string;
}

export default function SaidInPalette({ here, typed, onType, onClose, groupClass, entryClass }: SaidInPaletteProps) {
  const navigate = useNavigate();
  const { desks, set } = useDesks();
  const shared = { here, typed, groupClass, entryClass, onRetype: onType };
  const go = (path: string) => {
    onClose();
    void navigate(`/c/${here.id}/${path}`);
  };
  return (
    <>
      <SaidItems
        {...shared}
        heading="Students"
        counts
        words={(sentence) => `Students who ${sentence}`}
        onUse={(when) => {
          const desk = deskOf(desks[here.id], here.course);
          set(here.id, { ...desk, view: { ...desk.view, when, logBrushes: [], ruleBrushes: [] } });
          go('students');
        }}
      />
      {here.may('drafts.write') && (
        <SaidItems
          {...shared}
          heading="Rules"
          words={(sentence) => `New rule: students who ${sentence}`}
          onUse={(_, text) => go(`rules?new=${encodeURIComponent(text)}`)}
        />
      )}
    </>
  );
}
