/** Every measure by what one has in mind, with a search. */
import { useState } from 'react';
import { Command } from 'cmdk';
import type { Course } from '@zest-bell/core/course';
import { CATALOGUE, MEASURE_FAMILIES, MEASURE_NAMES, type MeasureName } from '@zest-bell/core/measures';
import type { Condition, Leaf } from '@zest-bell/core/conditions';
import { wordFilter } from '../../ui/wordFilter.ts';
import { SaidItemsHere } from '../saying/SaidItems.tsx';
import { conditionsAbout } from './conditionsAbout.ts';
import { FAMILIES, MEASURE_HELP } from './measureWords.ts';

const GROUP =
  '[&_[cmdk-group-heading]]:px-2.5 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:pb-0.5 [&_[cmdk-group-heading]]:text-[13px] [&_[cmdk-group-heading]]:text-ink-3';
const ENTRY = 'cursor-pointer rounded-lg px-2.5 py-1.5 data-[selected=true]:bg-fog';

export function MeasurePicker({
  chosen,
  course,
  onChoose,
  onChooseAbout,
  onSay,
}: {
  readonly chosen?: MeasureName | undefined;
  readonly onChoose: (measure: MeasureName) => void;
  /** If given, items and groups are found by their titles as well. */
  readonly course?: Course;
  readonly onChooseAbout?: (leaf: Leaf) => void;
  /** If given, a whole condition can be typed as well. */
  readonly onSay?: (condition: Condition) => void;
}) {
  const [typed, setTyped] = useState('');
  const about = course && onChooseAbout && typed.trim() !== '' ? conditionsAbout(course, typed) : [];
  return (
    <Command label="What to look at" loop filter={wordFilter} className="min-w-0">
      <Command.Input
        autoFocus
        value={typed}
        onValueChange={setTyped}
        placeholder={
          onSay ? 'Type a condition, or search: away 5 days, late …' : 'Search: absent, late, below the mean …'
        }
        className="field mb-2 w-full"
        aria-label="Search the measures"
      />
      <Command.List className="max-h-[330px] overflow-auto pr-1">
        <Command.Empty className="p-3 text-ink-2">No matches. Try another word.</Command.Empty>
        {course && onSay && (
          <SaidItemsHere
            counts
            typed={typed}
            heading="As you typed it"
            groupClass={GROUP}
            entryClass={ENTRY}
            words={(sentence) => `Use: students who ${sentence}`}
            onUse={onSay}
            onRetype={setTyped}
          />
        )}
        {about.length > 0 && (
          <Command.Group heading="In this course" className={GROUP}>
            {about.map(({ leaf, key, name, words }) => (
              <Command.Item
                key={key}
                value={key}
                keywords={[name, words]}
                onSelect={() => onChooseAbout!(leaf)}
                className={ENTRY}
              >
                <span className="font-semibold">{name}</span>
                <span className="block text-[13px] leading-tight text-ink-2">{words}</span>
              </Command.Item>
            ))}
          </Command.Group>
        )}
        {MEASURE_FAMILIES.map((family) => (
          <Command.Group key={family} heading={FAMILIES[family]} className={GROUP}>
            {MEASURE_NAMES.filter((n) => CATALOGUE[n].family === family).map((n) => (
              <Command.Item
                key={n}
                value={n}
                keywords={[CATALOGUE[n].title, MEASURE_HELP[n].help, MEASURE_HELP[n].also, FAMILIES[family]]}
                onSelect={() => onChoose(n)}
                className={ENTRY}
              >
                <span className="font-semibold">{CATALOGUE[n].title}</span>
                {n === chosen && <span className="text-[13px] text-ink-3"> · chosen</span>}
                <span className="block text-[13px] leading-tight text-ink-2">{MEASURE_HELP[n].help}</span>
              </Command.Item>
            ))}
          </Command.Group>
        ))}
      </Command.List>
    </Command>
  );
}
